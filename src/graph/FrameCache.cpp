#include "graph/FrameCache.h"

namespace seedloom {

std::optional<KeptFrame> FrameCache::find(const StepKey& key) {
    const std::lock_guard lock(mutex_);
    const auto* place = entries_.find(key.digest);
    if (!place) return {};
    order_.splice(order_.end(), order_, *place);
    return (*place)->frame;
}

bool FrameCache::has(const StepKey& key) const {
    if (disk_ && disk_->has(key.digest)) return true;
    const std::lock_guard lock(mutex_);
    return entries_.find(key.digest) != nullptr;
}

void FrameCache::store(const StepKey& key, KeptFrame frame) {
    HeldParts held = partsOf(*frame.outcome);
    if (frame.state) held.own += frame.state->ownBytes;
    std::list<Entry> one, dead;
    one.push_back({key.digest, std::move(frame), std::move(held)});
    const std::lock_guard lock(mutex_);
    if (!entries_.add(one)) return;
    order_.splice(order_.end(), one);
    // The newest stays whatever it takes: the next frame needs it.
    while (entries_.bytes() > budget_ && order_.size() > 1) entries_.remove(order_.begin(), order_, dead);
}

std::size_t FrameCache::bytes() const {
    const std::lock_guard lock(mutex_);
    return entries_.bytes();
}

std::size_t FrameCache::entries() const {
    const std::lock_guard lock(mutex_);
    return entries_.count();
}

}  // namespace seedloom
