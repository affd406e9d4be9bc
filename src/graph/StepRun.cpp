#include "graph/StepRun.h"

#include "geometry/Bake.h"
#include "graph/Container.h"
#include "graph/NodeSpec.h"
#include "graph/OtherFrames.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>

#include <chrono>

namespace seedloom {

namespace {

using Clock = std::chrono::steady_clock;

/// The surroundings with nothing in them that is not in the step's key.
Surroundings narrowed(const Surroundings& run, const StepReads& reads) {
    Surroundings out = run;
    out.controls = &reads.controls;
    out.words = reads.words;
    out.time = reads.time, out.frame = reads.frame, out.secondsPerFrame = reads.secondsPerFrame;
    out.plugged = reads.plugged;
    out.fed = reads.fed;
    out.unfinished = reads.unfinished;
    return out;
}

/// The entry that a hand still makes, for the step that it belongs to.
UnfinishedItem unfinishedOf(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run) {
    if (run.unfinished.node != run.path + step.node->id) return {};
    Surroundings plain = run;
    plain.unfinished = {};
    return {run.unfinished.setting, run.unfinished.item, keyOf(step, readsOf(step, plain), run.limits, reports).digest, &run.memo->unfinished()};
}

OperatorInput inputOf(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run) {
    OperatorInput input;
    for (const auto& port : step.ports) {
        auto& geometries = input.ports.emplace_back();
        for (const Step::Feed& feed : port) geometries.push_back(reports[feed.step].outcome->output(feed.output));
    }
    input.settings = step.plan->settings;
    input.unfinished = unfinishedOf(step, reports, run);
    input.time = run.time, input.frame = run.frame;
    input.controls = *run.controls;
    input.words = run.words;
    input.folder = run.folder;
    input.files = run.files;
    return input;
}

/// What passes through a step that does nothing.
Geometry passedThrough(const Step& step, const std::vector<NodeReport>& reports) {
    if (step.ports.empty() || step.ports[0].empty()) return {};
    const Step::Feed& feed = step.ports[0][0];
    return reports[feed.step].outcome->output(feed.output);
}

/// What is plugged in around the graph for a node that stands for it.
const Geometry* fromAround(const Node& node, const Surroundings& run) {
    const bool inner = node.op == kInnerInput;
    if (!inner && node.op != kInputGeometry) return nullptr;
    const auto& from = inner ? run.fed : run.plugged;
    const auto found = from.find(inner ? innerPortOf(node) : pluggedNameOf(node));
    return found == from.end() ? nullptr : &found->second.first;
}

using Make = std::function<Geometry(OperatorCall&)>;

/// A step that builds on earlier frames, where there are none.
bool hasNoFrames(const Step& step, const Surroundings& run) {
    if (!step.spec()->hasState()) return false;
    const HeldFrame held = heldFrame(step, run);
    return held.frame < 0 && !held.problem;  // what is wrong with it is told where it is read
}

/// `make` stands for the operator's own computation where it is given, `turn` tells a container over frames which one it makes.
NodeOutcome computed(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const StepKey& key, std::atomic<float>* progress,
                     const Make& make = {}, const FrameTurn* turn = nullptr) {
    const Node& node = *step.node;
    const Inside& inside = step.plan->inside;
    NodeOutcome out;
    out.geometry = passedThrough(step, reports);
    // A skipped node is as if it were not there; only what breaks the graph itself is still told.
    if (node.skipped) return out;
    if (!step.spec() || step.broken()) {
        out.failed = true;
    } else if (!inside.problem.empty()) {
        out.failed = true;
        out.notices.push_back({NoticeLevel::error, "asset.unreadable", inside.problem, kAsset, {}});
    } else if (!make && !turn && hasNoFrames(step, run)) {
        out.failed = true;
        out.notices.push_back(
            {NoticeLevel::error,
             "state.inside",
             fmt::format("{} builds on its earlier frames, which there are not here: inside of a container that repeats, or whose inputs move. Put it outside, "
                         "or keep a frame.",
                         step.spec()->label),
             {},
             {}});
    } else if (isContainer(node.op) && inside) {
        out = runContainer(step, inputOf(step, reports, run), run, key, progress, turn);
    } else if (const Geometry* around = fromAround(node, run)) {
        out.geometry = *around;
    } else {
        const RunContext context(run.cancel, run.limits, progress);
        OperatorOutcome made = runOperator(*step.spec(), inputOf(step, reports, run), context, make);
        out = {std::move(made.geometry), std::move(made.others), std::move(made.notices), made.failed};
    }
    out.notices.insert(out.notices.begin(), step.problems.begin(), step.problems.end());
    for (Notice& notice : out.notices)
        if (notice.node.empty()) notice.node = node.id;
    return out;
}

/// An outcome whatever happens: where not even a message can be made for want of memory, one that was made beforehand.
std::shared_ptr<NodeOutcome> outcomeOf(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const StepKey& key,
                                       std::atomic<float>* progress, const Make& make) {
    auto failed = std::make_shared<NodeOutcome>();
    failed->failed = true;
    failed->notices.push_back({NoticeLevel::error, "limit.memory", "There is not enough memory for this step. Use smaller numbers.", {}, step.node->id});
    try {
        auto made = std::make_shared<NodeOutcome>(computed(step, reports, run, key, progress, make));
        made->faces = facesWithCopies(made->geometry);
        return made;
    } catch (const Cancelled&) {
        throw;
    } catch (const std::bad_alloc&) {
        return failed;
    } catch (const std::exception& error) {
        failed->notices.front().code = "operator.internal";
        failed->notices.front().text = fmt::format("Something went wrong inside ({}). Please report it.", error.what());
    }
    return failed;
}

bool fromCoarse(const Step& step, const std::vector<NodeReport>& reports) {
    return std::any_of(step.ports.begin(), step.ports.end(), [&](const auto& port) {
        return std::any_of(port.begin(), port.end(), [&](const Step::Feed& feed) { return reports[feed.step].outcome->coarse; });
    });
}

bool hasFrames(const Step& step, const Surroundings& run) {
    return step.spec() && step.spec()->hasState() && !step.node->skipped && !step.broken() && run.others && run.frames;
}

}  // namespace

/// The parts of a container are not run where its result is known; what is looked at is then found in the memo, step by step.
bool isWatched(const Step& step, const Surroundings& run) {
    return !run.watch.path.empty() && run.watch.path.front() == step.node->id && step.plan->inside && step.spec() && !step.node->skipped && !step.broken();
}

StepKey stepKey(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run) {
    if (hasFrames(step, run)) return run.others->keyAt(step, shownFrame(step, run), reports);
    return keyOf(step, readsOf(step, run), run.limits, reports);
}

NodeOutcome outcomeOfFrame(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const Make& make) {
    NodeOutcome out = computed(step, reports, narrowed(run, readsOf(step, run)), {}, nullptr, make);
    out.coarse = fromCoarse(step, reports);
    return out;
}

NodeOutcome outcomeOfTurn(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const FrameTurn& turn) {
    NodeOutcome out = computed(step, reports, narrowed(run, readsOf(step, run)), {}, nullptr, {}, &turn);
    out.coarse = fromCoarse(step, reports);
    out.faces = facesWithCopies(out.geometry);
    return out;
}

void watchTurn(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const StepKey& key, const FrameTurn& turn) {
    const StepReads reads = readsOf(step, run);
    const Surroundings seen = narrowed(run, reads);
    watchContainer(step, inputOf(step, reports, seen), seen, key, &turn);
}

namespace {

/// What failed for want of memory may work the next time.
bool worthKeeping(const NodeOutcome& outcome) {
    return std::none_of(outcome.notices.begin(), outcome.notices.end(), [](const Notice& n) { return n.code == "limit.memory"; });
}

/// Of the quick answer in the place of what `key` stands for: whatever is made from it has other keys, too.
StepKey coarseKey(const StepKey& key) {
    Digester digester;
    digester.add(key.digest);
    digester.add(std::string_view("coarse"));
    return {digester.finish()};
}

void runPlain(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, NodeReport& report, const std::function<void()>& onStart,
              bool coarsely) {
    const StepReads reads = readsOf(step, run);
    report.key = keyOf(step, reads, run.limits, reports);
    if (coarsely) report.key = coarseKey(report.key);
    report.outcome = run.memo->find(report.key);
    report.remembered = report.outcome != nullptr;
    if (!report.remembered) {
        report.state = NodeState::rebuilding;
        auto progress = std::make_shared<std::atomic<float>>(0.0f);
        report.progress = progress;
        if (onStart) onStart();
        const auto start = Clock::now();
        auto outcome = outcomeOf(step, reports, narrowed(run, reads), report.key, progress.get(), coarsely ? Make(step.spec()->coarse) : Make());
        report.ms = outcome->ms = std::chrono::duration<double, std::milli>(Clock::now() - start).count();
        outcome->coarse = coarsely || fromCoarse(step, reports);
        if (worthKeeping(*outcome)) run.memo->store(report.key, outcome);
        report.outcome = std::move(outcome);
    }
    if (!isWatched(step, run)) return;
    const Surroundings seen = narrowed(run, reads);
    watchContainer(step, inputOf(step, reports, seen), seen, report.key);
}

}  // namespace

namespace {

/// What passes through where it can't be said which frame is wanted.
std::shared_ptr<const NodeOutcome> failedBy(Notice problem, const Step& step, const std::vector<NodeReport>& reports) {
    auto out = std::make_shared<NodeOutcome>();
    out->geometry = passedThrough(step, reports);
    out->faces = facesWithCopies(out->geometry);
    problem.node = step.node->id;
    out->notices.push_back(std::move(problem));
    out->failed = true;
    return out;
}

/// A step that builds on earlier frames, where it has them.
void runWithFrames(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, NodeReport& report,
                   const std::function<void()>& onStart) {
    if (HeldFrame held = heldFrame(step, run); held.problem) {
        report.key = keyOf(step, readsOf(step, run), run.limits, reports);
        report.outcome = failedBy(std::move(*held.problem), step, reports);
    } else {
        runFrames(step, reports, run, report, onStart);
    }
}

}  // namespace

bool hasCoarse(const Step& step) { return step.spec() && step.spec()->coarse && !step.node->skipped && !step.broken(); }

void runStep(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, NodeReport& report, const std::function<void()>& onStart,
             bool coarsely) {
    if (hasFrames(step, run)) runWithFrames(step, reports, run, report, onStart);
    else runPlain(step, reports, run, report, onStart, coarsely);
    report.state = report.outcome->failed ? NodeState::failed : step.node->skipped ? NodeState::skipped : NodeState::fresh;
}

}  // namespace seedloom
