#pragma once
// Frames of steps whose frames follow from each other, under a budget of their own. What was finished stays, also where the rebuild was cancelled.
#include "graph/FrameStore.h"
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
    /// `disk`: where those that can be written are kept as well; null: nowhere.
    explicit FrameCache(std::size_t budgetBytes = std::size_t(1) << 30, std::unique_ptr<FrameStore> disk = nullptr)
        : budget_(budgetBytes), disk_(std::move(disk)) {}

    std::optional<KeptFrame> find(const StepKey& key);
    /// In memory or on disk.
    bool has(const StepKey& key) const;
    FrameStore* disk() const { return disk_.get(); }
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
    const std::unique_ptr<FrameStore> disk_;
};

}  // namespace seedloom
