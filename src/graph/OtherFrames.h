#pragma once
// Steps of the outermost graph at other frames than the one that is rebuilt: what steps with state need of the frames before.
//
// The key of frame n of a step with state is made from that of frame n − 1 and from what the step reads at frame n: a setting that changes half-way
// leaves the frames before it as they are.
#include "graph/StepKey.h"

namespace seedloom {

class OtherFrames {
public:
    /// Steps and surroundings must outlive this.
    OtherFrames(const std::vector<Step>& steps, const Surroundings& run) : steps_(steps), run_(run) {}

    /// The key of a step with state at a frame from 0 on. `reports` are those of the frame that is rebuilt; what feeds the step is done. Thread-safe.
    StepKey keyAt(const Step& step, int frame, const std::vector<NodeReport>& reports);
    /// Reports of what feeds the step at a frame; computed where the memo has not got them. Throws Cancelled.
    std::vector<NodeReport> feedsAt(const Step& step, int frame, const std::vector<NodeReport>& reports);
    /// What is around the steps at a frame.
    Surroundings at(int frame) const;

private:
    std::vector<NodeReport> keysOfFeeds(const Step& step, int frame, const std::vector<NodeReport>& reports);
    std::vector<std::size_t> upstream(const Step& step) const;

    const std::vector<Step>& steps_;
    const Surroundings& run_;
    std::mutex mutex_;
    std::map<const Step*, std::vector<StepKey>> chains_;
};

/// The frame that a step with state keeps as its result; below 0 where it follows the frame all around, or `problem` says why that can't be read.
struct HeldFrame {
    int frame = -1;
    std::optional<Notice> problem;
};
HeldFrame heldFrame(const Step& step, const Surroundings& run);
/// The frame that it shows.
int shownFrame(const Step& step, const Surroundings& run);

/// The frame of a step with state that is shown; computed from the last one that is kept, and every frame on the way is kept. Fills the report as runStep
/// does. Throws Cancelled; what was finished by then stays.
void runFrames(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, NodeReport& report, const std::function<void()>& onStart);

/// For each frame up to `last` whether it is kept.
std::vector<std::uint8_t> keptFrames(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, int last);

}  // namespace seedloom
