#include "graph/Memo.h"

namespace seedloom {

std::shared_ptr<const NodeOutcome> Memo::find(const Digest& key) {
    const std::lock_guard lock(mutex_);
    const auto it = entries_.find(key);
    if (it == entries_.end()) return nullptr;
    it->second.worth = worthOf(it->second);
    return it->second.outcome;
}

void Memo::store(const Digest& key, std::shared_ptr<const NodeOutcome> outcome) {
    std::size_t bytes = outcome->geometry.byteSize();
    for (const Geometry& other : outcome->others) bytes += other.byteSize();
    const std::lock_guard lock(mutex_);
    if (bytes > budget_) return;
    Entry entry{std::move(outcome), bytes, 0};
    entry.worth = worthOf(entry);
    if (!entries_.try_emplace(key, entry).second) return;
    bytes_ += bytes;
    evict();
}

void Memo::evict() {
    while (bytes_ > budget_) {
        auto least = entries_.begin();
        for (auto it = entries_.begin(); it != entries_.end(); ++it)
            if (it->second.worth < least->second.worth) least = it;
        floor_ = least->second.worth;
        bytes_ -= least->second.bytes;
        entries_.erase(least);
    }
}

std::size_t Memo::bytes() const {
    const std::lock_guard lock(mutex_);
    return bytes_;
}

std::size_t Memo::entries() const {
    const std::lock_guard lock(mutex_);
    return entries_.size();
}

}  // namespace seedloom
