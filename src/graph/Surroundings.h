#pragma once
// What is around the steps of one graph while it runs.
#include "graph/FrameCache.h"
#include "graph/Memo.h"
#include "graph/NodeReport.h"
#include "operators/OperatorCall.h"

#include <functional>

namespace seedloom {

class OtherFrames;

/// A geometry with a digest of all that went into it.
using KeyedGeometry = std::pair<Geometry, Digest>;

/// One more entry of a list in a node's setting, before it is one of the document: a stroke that a hand still makes.
struct Unfinished {
    std::string node;  ///< with the path of the containers around; empty: none
    std::string setting;
    Json item;
    bool operator==(const Unfinished&) const = default;
};

/// All that is the same for the steps of one graph while it runs.
struct Surroundings {
    const ControlValues* controls = nullptr;
    SurroundingWords words;  ///< given by containers around
    double time = 0, frame = 0, secondsPerFrame = 1.0 / 24;
    Limits limits;
    const std::atomic<bool>* cancel = nullptr;
    Memo* memo = nullptr;
    FrameCache* frames = nullptr;
    OtherFrames* others = nullptr;  ///< null where there are none: inside of containers whose inputs are not the same at all frames
    PlanCache* plans = nullptr;     ///< of the document that is run
    Assets assets;
    std::string path;                                                               ///< of the container, with a slash at its end; empty outside
    Watch watch;                                                                    ///< what is looked into, from here
    std::function<void(const std::string& id, const NodeReport& report)> onReport;  ///< of nodes that are looked at inside
    /// What inner inputs give, by port, with a digest of all that went into it.
    std::map<std::string, KeyedGeometry> fed;
    /// What the user of the asset plugs in, by name.
    std::map<std::string, KeyedGeometry> plugged;
    Unfinished unfinished;
    std::string folder;         ///< that paths of files start from
    Files files = diskFiles();  ///< where they come from
};

}  // namespace seedloom
