#include "vary/VaryQueue.h"

#include <algorithm>

namespace seedloom {

void VaryQueue::fill(const std::vector<std::size_t>& waiting) {
    const std::lock_guard lock(mutex_);
    waiting_ = {waiting.begin(), waiting.end()};
}

void VaryQueue::look(std::vector<std::size_t> seen) {
    const std::lock_guard lock(mutex_);
    seen_ = std::move(seen);
}

std::optional<std::size_t> VaryQueue::take() {
    const std::lock_guard lock(mutex_);
    if (waiting_.empty()) return {};
    for (const std::size_t one : seen_)
        if (waiting_.erase(one) > 0) return one;
    const std::size_t first = seen_.empty() ? 0 : *std::min_element(seen_.begin(), seen_.end());
    const std::size_t last = seen_.empty() ? 0 : *std::max_element(seen_.begin(), seen_.end());
    auto next = waiting_.lower_bound(first);
    if (next == waiting_.end()) --next;
    else if (next != waiting_.begin()) {
        // What lies behind is looked at sooner than what lies as far before.
        const auto before = std::prev(next);
        const std::size_t ahead = *next > last ? *next - last : 0;
        if (first - *before < ahead) next = before;
    }
    const std::size_t out = *next;
    waiting_.erase(next);
    return out;
}

}  // namespace seedloom
