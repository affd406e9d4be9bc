#pragma once
// Computes the nodes of a loom: each once, independent branches side by side, from the memo where nothing changed.
#include "graph/FrameCache.h"
#include "graph/Loom.h"
#include "graph/Memo.h"
#include "graph/NodeReport.h"
#include "graph/Steps.h"
#include "graph/Surroundings.h"

#include <functional>
#include <set>

namespace seedloom {

struct RebuildRequest {
    std::shared_ptr<const Loom> loom;
    ControlValues controls;
    double time = 0, frame = 0, secondsPerFrame = 1.0 / 24;
    int lastFrame = -1;                ///< up to which NodeReport::frames tells what is kept; below 0: not at all
    std::vector<std::string> targets;  ///< nodes wanted; all where empty
    /// Nodes that are too slow now. Those that are not in the memo give a coarse answer where their operator has one, or they and their followers stay waiting.
    std::set<std::string> deferred;
    Limits limits;
    Assets assets;                            ///< what its asset nodes stand for
    FrameCache* frames = nullptr;             ///< null: frames are kept for this rebuild only
    PlanCache* plans = nullptr;               ///< settings read before, of this document; null: the memo's
    std::string folder;                       ///< that paths of files start from: the document's
    Files files = diskFiles();                ///< where they come from
    std::map<std::string, Geometry> plugged;  ///< what stands for `input_geometry` nodes, by their name
    Unfinished unfinished;                    ///< beside what the loom holds
    Watch watch;                              ///< the container that is looked into
    int threads = 0;                          ///< 0: as many as the machine has
    const std::atomic<bool>* cancel = nullptr;
    /// Called from any thread as nodes start and end; must be quick.
    std::function<void(const std::string& node, const NodeReport& report)> onNode;
};

struct RebuildResult {
    bool cancelled = false;
    bool incomplete = false;                  ///< nodes were deferred, and are still waiting or coarse
    std::string broken;                       ///< why not even the steps could be made (no memory left); empty otherwise
    std::map<std::string, NodeReport> nodes;  ///< the wanted nodes and all they need; those inside of watched containers as container/node
    double ms = 0;

    /// Notices in the loom's order of nodes, with the node's id filled in.
    std::vector<Notice> notices(const Loom& loom) const;
    bool failed() const;
    const Geometry* geometry(const std::string& node) const;
};

/// Never throws: what a step throws is told as its failure. The result depends on loom, control values, time and frame only, not on threads or memo.
RebuildResult rebuild(const RebuildRequest& request, Memo& memo);

}  // namespace seedloom
