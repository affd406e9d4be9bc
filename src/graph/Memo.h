#pragma once
// Results of nodes under the digest of all that went into them, within a memory budget.
#include "geometry/Digest.h"
#include "graph/HeldEntries.h"
#include "graph/NodePlan.h"
#include "operators/UnfinishedWork.h"

#include <array>
#include <list>
#include <memory>
#include <mutex>
#include <unordered_map>

namespace seedloom {

/// What a step's result is remembered by: a digest of all that it read (graph/StepKey makes it).
struct StepKey {
    Digest digest;
    bool operator==(const StepKey&) const = default;
};

/// Thread-safe. What entries share counts once, and every entry counts at least what it takes itself. When the budget is exceeded the entries that save
/// the least time per byte go first, older ones before newer (GreedyDual-Size: Cao & Irani, USENIX 1997). Entries are kept in rows of about the same
/// worth, each in the order of its last use, so finding the one to drop looks at one entry a row, however many there are.
class Memo {
public:
    explicit Memo(std::size_t budgetBytes = std::size_t(2) << 30) : budget_(budgetBytes) {}

    std::shared_ptr<const NodeOutcome> find(const StepKey& key);
    void store(const StepKey& key, std::shared_ptr<const NodeOutcome> outcome);
    /// Drops what does not fit any more.
    void setBudget(std::size_t bytes);
    std::size_t bytes() const;
    std::size_t entries() const;
    /// Settings of nodes, read already, for whoever keeps none of their own.
    PlanCache& plans() { return plans_; }
    /// What a hand is about to add to.
    UnfinishedWork& unfinished() { return unfinished_; }

private:
    static constexpr int kRows = 40;  ///< each twice the worth of the one before
    struct Entry {
        Digest key;
        std::shared_ptr<const NodeOutcome> outcome;
        double worth;  ///< by its last use
        int row;
        HeldParts held;
    };
    using Row = std::list<Entry>;
    void touch(Row::iterator entry);
    void evict(Row& dead);

    PlanCache plans_;
    UnfinishedWork unfinished_;
    mutable std::mutex mutex_;
    std::array<Row, kRows> rows_;  ///< least recently used first
    HeldEntries<Entry> entries_;
    std::size_t budget_;
    double floor_ = 0;  ///< worth of what was dropped last
};

}  // namespace seedloom
