#pragma once
// Running one step of a graph: from the memo, by its operator, or, for a container, by what is inside.
#include "graph/StepKey.h"

namespace seedloom {

/// What the step's result is, or would be, remembered by. Precondition: all feeders have a report.
StepKey stepKey(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run);

/// Whether there is a quick answer for the step.
bool hasCoarse(const Step& step);

/// Fills the report; `onStart` is called before a computation. Whatever a step throws becomes a notice of it, but Cancelled, which is passed on.
/// `coarsely`: by the quick answer, which it must have; that is remembered by a key of its own.
void runStep(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, NodeReport& report, const std::function<void()>& onStart,
             bool coarsely = false);

struct FrameTurn;

/// One frame of a container over frames.
NodeOutcome outcomeOfTurn(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const FrameTurn& turn);
/// Whether somebody looks into the step.
bool isWatched(const Step& step, const Surroundings& run);
/// Reports what is inside of it while it makes a frame.
void watchTurn(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const StepKey& key, const FrameTurn& turn);

/// What `make` gives as the outcome of the step, called as an operator is; notices and failures as in any other step.
NodeOutcome outcomeOfFrame(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run,
                           const std::function<Geometry(OperatorCall&)>& make);

}  // namespace seedloom
