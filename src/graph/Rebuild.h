#pragma once
// Computes the nodes of a loom: each once, independent branches side by side, from the memo where nothing changed.
#include "graph/Loom.h"
#include "graph/Memo.h"

#include <functional>
#include <set>

namespace seedloom {

enum class NodeState : unsigned char { waiting, rebuilding, fresh, failed, skipped };
std::string_view stateName(NodeState state);

struct NodeReport {
    NodeState state = NodeState::waiting;
    std::shared_ptr<const NodeOutcome> outcome;  ///< set when done
    Digest key;
    double ms = 0;          ///< spent now; 0 where it came from the memo
    bool remembered = false;
};

struct RebuildRequest {
    std::shared_ptr<const Loom> loom;
    ControlValues controls;
    double time = 0, frame = 0;
    std::vector<std::string> targets;  ///< nodes wanted; all where empty
    std::set<std::string> deferred;    ///< nodes that are only looked up in the memo, not computed; they and their followers may stay waiting
    Limits limits;
    int threads = 0;                   ///< 0: as many as the machine has
    const std::atomic<bool>* cancel = nullptr;
    /// Called from any thread as nodes start and end; must be quick.
    std::function<void(const std::string& node, const NodeReport& report)> onNode;
};

struct RebuildResult {
    bool cancelled = false;
    bool incomplete = false;                  ///< nodes were deferred and are still waiting
    std::map<std::string, NodeReport> nodes;  ///< the wanted nodes and all they need
    double ms = 0;

    /// Notices in the loom's order of nodes, with the node's id filled in.
    std::vector<Notice> notices(const Loom& loom) const;
    bool failed() const;
    const Geometry* geometry(const std::string& node) const;
};

/// Never throws. The result depends on loom, control values, time and frame only, not on threads or memo.
RebuildResult rebuild(const RebuildRequest& request, Memo& memo);

/// Rings of links, each as the path of node ids that ends where it starts.
std::vector<std::vector<std::string>> linkCycles(const Loom& loom);

}  // namespace seedloom
