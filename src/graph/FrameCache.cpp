#include "graph/FrameCache.h"

namespace seedloom {

std::optional<KeptFrame> FrameCache::find(const StepKey& key) {
    const std::lock_guard lock(mutex_);
    const auto it = entries_.find(key.digest);
    if (it == entries_.end()) return {};
    order_.splice(order_.end(), order_, it->second);
    return it->second->frame;
}

bool FrameCache::has(const StepKey& key) const {
    const std::lock_guard lock(mutex_);
    return entries_.count(key.digest) > 0;
}

void FrameCache::store(const StepKey& key, KeptFrame frame) {
    HeldParts held = partsOf(*frame.outcome);
    if (frame.state) held.own += frame.state->ownBytes;
    std::list<Entry> one, dead;
    one.push_back({key.digest, std::move(frame), std::move(held)});
    const std::lock_guard lock(mutex_);
    if (entries_.count(key.digest)) return;
    bytes_.add(one.front().held);
    try {
        entries_.emplace(key.digest, one.begin());
    } catch (...) {
        bytes_.remove(one.front().held);
        throw;
    }
    order_.splice(order_.end(), one);
    // The newest stays whatever it takes: the next frame needs it.
    while (bytes_.bytes() > budget_ && order_.size() > 1) {
        bytes_.remove(order_.front().held);
        entries_.erase(order_.front().key);
        dead.splice(dead.end(), order_, order_.begin());
    }
}

std::size_t FrameCache::bytes() const {
    const std::lock_guard lock(mutex_);
    return bytes_.bytes();
}

std::size_t FrameCache::entries() const {
    const std::lock_guard lock(mutex_);
    return entries_.size();
}

}  // namespace seedloom
