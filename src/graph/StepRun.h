#pragma once
// Running one step of a graph: from the memo, by its operator, or, for a container, by what is inside.
#include "graph/NodeReport.h"
#include "graph/Steps.h"

#include <functional>

namespace seedloom {

/// All that is the same for the steps of one graph while it runs.
struct RunSurroundings {
    const ControlValues* controls = nullptr;
    SurroundingWords words;  ///< given by containers around
    double time = 0, frame = 0;
    Limits limits;
    const std::atomic<bool>* cancel = nullptr;
    Memo* memo = nullptr;
    std::string path;                                                               ///< of the container, with a slash at its end; empty outside
    Watch watch;                                                                    ///< what is looked into, from here
    std::function<void(const std::string& id, const NodeReport& report)> onReport;  ///< of nodes that are looked at inside
    /// What inner inputs give, by port, with a digest of all that went into it.
    std::map<std::string, std::pair<Geometry, Digest>> fed;
    /// What the user of the asset plugs in, by name.
    std::map<std::string, std::pair<Geometry, Digest>> plugged;
    std::string folder;  ///< that paths of files start from
};

/// The memo's key: everything that goes into the result. Precondition: all feeders have a report.
Digest stepKey(const Step& step, const std::vector<NodeReport>& reports, const RunSurroundings& run);

/// Fills the report; `onStart` is called before a computation. Throws Cancelled.
void runStep(const Step& step, const std::vector<NodeReport>& reports, const RunSurroundings& run, NodeReport& report, const std::function<void()>& onStart);

}  // namespace seedloom
