#pragma once
// A graph made ready to run: its nodes in order with what feeds each, all that does not depend on results. Made once, run many times: a container
// runs its steps for every part.
#include "graph/Memo.h"
#include "graph/NodePlan.h"

#include <set>

namespace seedloom {

/// A node with everything about it that does not depend on its inputs' results.
struct Step {
    const Node* node = nullptr;
    std::shared_ptr<const NodePlan> plan;
    struct Feed {
        std::size_t step, output;
    };
    std::vector<std::vector<Feed>> ports;  ///< what feeds each port
    std::vector<std::size_t> followers;
    std::vector<Notice> problems;  ///< found before running
    bool timedFeeds = false;       ///< whether what comes in differs from frame to frame
    int feeds = 0;                 ///< how many links come in
    const OperatorSpec* spec() const { return plan->spec.get(); }
    bool broken() const;  ///< has a problem that keeps it from running
};

/// The wanted nodes (all where `targets` is empty) and all that feed them, in the loom's order. Nodes of a ring fail with its path, and its links
/// are cut. The loom must outlive the steps.
std::vector<Step> stepsOf(const Loom& loom, const std::vector<std::string>& targets, PlanCache& plans, const std::string& path, const Assets& assets);

/// Each step after all that feed it.
std::vector<std::size_t> runningOrder(const std::vector<Step>& steps);

/// Rings of links, each as the path of node ids that ends where it starts.
std::vector<std::vector<std::string>> linkCycles(const Loom& loom);

}  // namespace seedloom
