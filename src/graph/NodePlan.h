#pragma once
// What can be said of a node without its inputs: its settings read, what they depend on, and a digest of it all. Kept from one rebuild to
// the next, because in a large graph reading settings anew would take longer than everything else.
#include "geometry/Digest.h"
#include "graph/Loom.h"
#include "operators/Notice.h"
#include "operators/Spec.h"

#include <memory>
#include <mutex>
#include <set>

namespace seedloom {

struct NodePlan {
    std::string op;
    std::shared_ptr<const OperatorSpec> spec;   ///< with the settings that the node declares itself; nullptr for an unknown operator
    Json written;                               ///< the settings that it was made from
    std::map<std::string, Source> settings;     ///< complete: defaults filled in
    std::vector<Notice> problems;               ///< settings that can't be read or do not exist
    bool usesTime = false;
    std::set<std::string> usedControls;
    Digest digest;                              ///< of operator, version, settings
};

NodePlan planOf(const Node& node);

/// Plans by node id; thread-safe.
class PlanCache {
public:
    std::shared_ptr<const NodePlan> of(const Node& node);

private:
    static constexpr std::size_t kMost = 50000;
    std::mutex mutex_;
    std::map<std::string, std::shared_ptr<const NodePlan>> plans_;
};

}  // namespace seedloom
