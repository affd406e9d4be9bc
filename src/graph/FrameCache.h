#pragma once
// Frames of steps whose frames follow from each other, under a budget of their own. What was finished stays, also where the rebuild was cancelled.
#include "graph/HeldEntries.h"
#include "graph/Memo.h"
#include "operators/Spec.h"

namespace seedloom {

struct KeptFrame {
    std::shared_ptr<const NodeOutcome> outcome;
    std::shared_ptr<const FrameState> state;  ///< null of a frame that failed
};

/// Thread-safe. What frames share, such as the shapes of copies that only move, counts once. Over the budget the frames that were not used for
/// longest go first.
class FrameCache {
public:
    explicit FrameCache(std::size_t budgetBytes = std::size_t(1) << 30) : budget_(budgetBytes) {}

    std::optional<KeptFrame> find(const StepKey& key);
    bool has(const StepKey& key) const;
    void store(const StepKey& key, KeptFrame frame);
    std::size_t bytes() const;
    std::size_t entries() const;

private:
    struct Entry {
        Digest key;
        KeptFrame frame;
        HeldParts held;
    };
    mutable std::mutex mutex_;
    std::list<Entry> order_;  ///< least recently used first
    HeldEntries<Entry> entries_;
    std::size_t budget_;
};

}  // namespace seedloom
