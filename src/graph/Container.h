#pragma once
// Runs what is inside of containers.
#include "graph/StepRun.h"
#include "operators/OperatorCall.h"

namespace seedloom {

/// Which frame a container over frames makes, and what the frame before has made.
struct FrameTurn {
    int frame = 0;
    const Geometry* before = nullptr;  ///< null at frame 0
    Digest key;                        ///< of the frame before
};

/// each_piece: every part through the inner graph, side by side; repeat: one turn after the other; nest: once; time_step: one frame from the one before,
/// or, without a `turn`, all frames up to the one that is kept, with the inputs as they are now. Settings of the container's own (the
/// controls of its graph) are read with what is around it and go in as controls. Errors of inner steps are told with the part they come from; what
/// failed inside lets its input through, and the container counts as failed. Throws Cancelled.
NodeOutcome runContainer(const Step& step, const OperatorInput& input, const Surroundings& run, const StepKey& key, std::atomic<float>* progress,
                         const FrameTurn* turn = nullptr);

/// Runs the part of a container that is watched once more, mostly from the memo, and reports its nodes.
void watchContainer(const Step& step, const OperatorInput& input, const Surroundings& run, const StepKey& key, const FrameTurn* turn = nullptr);

}  // namespace seedloom
