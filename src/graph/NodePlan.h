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
    std::shared_ptr<const OperatorSpec> spec;  ///< with the settings that the node declares itself; nullptr for an unknown operator
    Json written;                              ///< the settings that it was made from
    InnerGraph graph;                          ///< the inner graph that it was made from
    std::map<std::string, Source> settings;    ///< complete: defaults filled in
    std::vector<Notice> problems;              ///< settings that can't be read or do not exist
    bool usesTime = false;
    std::set<std::string> usedControls;
    std::set<std::string> usedNames;  ///< names that formulas and sources read: attributes, or words of a container
    std::set<std::string> usedFiles;  ///< paths from the loom's folder on, those inside included
    Digest digest;                    ///< of operator, version, settings, and all that is inside
};

/// A value as it would be written.
void addJson(Digester& digester, const Json& value);

/// Plans by node id and path of the container; thread-safe.
class PlanCache {
public:
    /// `path` is that of the container around, with a slash at its end.
    std::shared_ptr<const NodePlan> of(const Node& node, const std::string& path = {});

private:
    static constexpr std::size_t kMost = 50000;
    std::mutex mutex_;
    std::map<std::string, std::shared_ptr<const NodePlan>> plans_;
};

}  // namespace seedloom
