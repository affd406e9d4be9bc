#pragma once
// Results of nodes under the digest of all that went into them, within a memory budget.
#include "geometry/Digest.h"
#include "graph/NodePlan.h"
#include "operators/OperatorCall.h"

#include <memory>
#include <mutex>
#include <unordered_map>

namespace seedloom {

/// What a node gave.
struct NodeOutcome {
    Geometry geometry;
    std::vector<Geometry> others = {};  ///< of the second output and further ones
    std::vector<Notice> notices;
    bool failed = false;
    double ms = 0;  ///< time of the computation
    int parts = 0;  ///< of a container: how many parts or turns it ran

    /// Of an output by its place; empty where there is none.
    const Geometry& output(std::size_t i) const {
        static const Geometry none;
        return i == 0 ? geometry : i <= others.size() ? others[i - 1] : none;
    }
};

/// Thread-safe. When the budget is exceeded the entries that save the least time per byte go first, older ones before newer
/// (GreedyDual-Size: Cao & Irani, USENIX 1997).
class Memo {
public:
    explicit Memo(std::size_t budgetBytes = std::size_t(2) << 30) : budget_(budgetBytes) {}

    std::shared_ptr<const NodeOutcome> find(const Digest& key);
    void store(const Digest& key, std::shared_ptr<const NodeOutcome> outcome);
    std::size_t bytes() const;
    std::size_t entries() const;
    /// Settings of nodes, read already.
    PlanCache& plans() { return plans_; }

private:
    struct Entry {
        std::shared_ptr<const NodeOutcome> outcome;
        std::size_t bytes;
        double worth;
    };
    double worthOf(const Entry& entry) const { return floor_ + (entry.outcome->ms + 0.01) / double(entry.bytes + 4096); }
    void evict();

    PlanCache plans_;
    mutable std::mutex mutex_;
    std::unordered_map<Digest, Entry, DigestHash> entries_;
    std::size_t budget_, bytes_ = 0;
    double floor_ = 0;
};

}  // namespace seedloom
