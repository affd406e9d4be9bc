#pragma once
// What one step may read, gathered in one place: the key that its result is remembered by is made from it, and it is all that the step is handed.
#include "geometry/Digest.h"
#include "graph/Steps.h"
#include "graph/Surroundings.h"

namespace seedloom {

/// What a step reads of what is around it. Anything else can't reach it, so nothing can be missing in its key.
struct StepReads {
    ControlValues controls;  ///< those that it names; all where it names one that does not exist, as the message tells the nearest
    SurroundingWords words;
    double time = 0, frame = 0, secondsPerFrame = 0;  ///< 0 where it does not read them
    bool frames = false;                              ///< it, or something inside of it, builds on earlier frames, and there are some
    std::map<std::string, KeyedGeometry> plugged, fed;
    std::vector<std::pair<std::string, std::optional<FileStamp>>> files;  ///< full paths, and what state they are in
    Unfinished unfinished;                                                ///< of this step, or of one inside of it
};

StepReads readsOf(const Step& step, const Surroundings& run);

/// The key of `step` with `inputs`, the keys of what feeds it in the order of its ports, each with the number of the output that is used.
/// Files count with their path, size and time, an input that is plugged in around it with its digest.
StepKey keyOf(const Step& step, const StepReads& reads, const Limits& limits, const std::vector<NodeReport>& reports);

}  // namespace seedloom
