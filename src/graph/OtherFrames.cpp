#include "graph/OtherFrames.h"

#include "geometry/Bake.h"
#include "graph/Container.h"
#include "graph/StepRun.h"
#include "operators/OperatorCall.h"

#include <chrono>

namespace seedloom {

namespace {

/// Far more than anybody waits for.
constexpr int kMostFrames = 1'000'000;

int frameOf(double frame) { return std::isfinite(frame) ? int(std::clamp(std::floor(frame), 0.0, double(kMostFrames))) : 0; }

StepKey chained(const StepKey& before, const StepKey& own) {
    Digester digester;
    digester.add(before.digest);
    digester.add(own.digest);
    return {digester.finish()};
}

}  // namespace

Surroundings OtherFrames::at(int frame) const {
    Surroundings out = run_;
    out.frame = frame;
    out.time = frame * run_.secondsPerFrame;
    out.watch = {};
    return out;
}

/// All that feeds a step, each after what feeds it.
std::vector<std::size_t> OtherFrames::upstream(const Step& step) const {
    std::vector<std::uint8_t> needed(steps_.size());
    std::vector<const Step*> open{&step};
    while (!open.empty()) {
        const Step* at = open.back();
        open.pop_back();
        for (const auto& port : at->ports)
            for (const Step::Feed& feed : port)
                if (!std::exchange(needed[feed.step], std::uint8_t(1))) open.push_back(&steps_[feed.step]);
    }
    std::vector<std::size_t> out;
    for (std::size_t i : runningOrder(steps_))
        if (needed[i]) out.push_back(i);
    return out;
}

std::vector<NodeReport> OtherFrames::keysOfFeeds(const Step& step, int frame, const std::vector<NodeReport>& reports) {
    std::vector<NodeReport> out(steps_.size());
    const Surroundings run = at(frame);
    for (std::size_t i : upstream(step)) {
        const Step& feeder = steps_[i];
        const bool state = feeder.spec() && feeder.spec()->hasState() && !feeder.node->skipped;
        out[i].key = state ? keyAt(feeder, shownFrame(feeder, run), reports) : keyOf(feeder, readsOf(feeder, run), run.limits, out);
    }
    return out;
}

StepKey OtherFrames::keyAt(const Step& step, int frame, const std::vector<NodeReport>& reports) {
    std::vector<StepKey> chain;
    {
        const std::lock_guard lock(mutex_);
        chain = chains_[&step];
    }
    if (frame < int(chain.size())) return chain[std::size_t(frame)];
    // Which of its frames is the result makes none of them another.
    Step plain = step;
    if (step.plan->frames) plain.plan = step.plan->frames;
    while (int(chain.size()) <= frame) {
        const int next = int(chain.size());
        const Surroundings run = at(next);
        const StepKey own = keyOf(plain, readsOf(plain, run), run.limits, step.timedFeeds ? keysOfFeeds(step, next, reports) : reports);
        chain.push_back(chain.empty() ? own : chained(chain.back(), own));
    }
    const StepKey out = chain.back();
    const std::lock_guard lock(mutex_);
    if (chains_[&step].size() < chain.size()) chains_[&step] = std::move(chain);
    return out;
}

std::vector<NodeReport> OtherFrames::feedsAt(const Step& step, int frame, const std::vector<NodeReport>& reports) {
    std::vector<NodeReport> out(steps_.size());
    if (!step.timedFeeds) {
        // Only what is done: others may be written to just now.
        for (const auto& port : step.ports)
            for (const Step::Feed& feed : port) out[feed.step] = reports[feed.step];
        return out;
    }
    const Surroundings run = at(frame);
    for (std::size_t i : upstream(step)) {
        if (run.cancel && run.cancel->load(std::memory_order_relaxed)) throw Cancelled{};
        runStep(steps_[i], out, run, out[i], {});
    }
    return out;
}

namespace {

FrameTurn turnAt(const Step& step, int frame, const Geometry* before, const std::vector<NodeReport>& reports, const Surroundings& run) {
    return {frame, before, frame > 0 ? run.others->keyAt(step, frame - 1, reports).digest : Digest{}};
}

/// One frame after the other, from the last that is kept.
class FrameRun {
public:
    FrameRun(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, NodeReport& report)
        : step_(step), reports_(reports), run_(run), report_(report), last_(shownFrame(step, run)) {}

    KeptFrame run(const std::function<void()>& onStart) {
        if (auto kept = run_.frames->find(report_.key)) {
            report_.remembered = true;
            return std::move(*kept);
        }
        report_.state = NodeState::rebuilding;
        auto progress = std::make_shared<std::atomic<float>>(0.0f);
        report_.progress = progress;
        if (onStart) onStart();
        int frame = last_;
        std::optional<KeptFrame> before = fromDisk(frame);
        while (frame > 0 && !before)
            if (before = run_.frames->find(keyAt(--frame)); !before) before = fromDisk(frame);
        const int first = before ? frame + 1 : 0;
        KeptFrame at = before ? *before : KeptFrame{};
        for (frame = first; frame <= last_; ++frame) {
            progress->store(float(frame - first) / float(last_ - first + 1), std::memory_order_relaxed);
            at = next(frame, at);
            keep(frame, at);
        }
        return at;
    }

private:
    StepKey keyAt(int frame) const { return run_.others->keyAt(step_, frame, reports_); }
    FrameStore* disk() const { return step_.spec()->save ? run_.frames->disk() : nullptr; }

    void keep(int frame, const KeptFrame& made) const {
        run_.frames->store(keyAt(frame), made);
        if (frame > 0 && made.state && disk()) disk()->store(keyAt(frame).digest, step_.spec()->save(*made.state));
    }
    /// Frame 0 holds what the others share; it is computed where it is needed.
    std::optional<KeptFrame> fromDisk(int frame) {
        if (frame == 0 || !disk()) return {};
        const StepKey key = keyAt(frame);
        const auto bytes = disk()->load(key.digest);
        if (!bytes) return {};
        std::optional<KeptFrame> first = run_.frames->find(keyAt(0));
        if (!first) keep(0, first.emplace(next(0, {})));
        if (!first->state) return {};
        auto state = step_.spec()->restore(*first->state, *bytes);
        if (!state) {
            disk()->drop(key.digest);
            return {};
        }
        auto outcome = std::make_shared<NodeOutcome>();
        outcome->geometry = state->geometry;
        const KeptFrame out{std::move(outcome), std::make_shared<const FrameState>(std::move(*state))};
        run_.frames->store(key, out);
        return out;
    }

    /// A frame that failed passes its input through, and so do all that would follow from it.
    KeptFrame next(int frame, const KeptFrame& before) const {
        const auto start = std::chrono::steady_clock::now();
        std::shared_ptr<const FrameState> state;
        const auto make = [&](OperatorCall& call) {
            const OperatorSpec& spec = *step_.spec();
            state = std::make_shared<const FrameState>(frame == 0 ? spec.start(call) : spec.advance(call, *before.state));
            return state->geometry;  // none where frames are made only when they are seen
        };
        const bool follows = frame == 0 || before.state;
        NodeOutcome made = follows && step_.spec()->overFrames ? inside(frame, before, state)
                         : follows ? outcomeOfFrame(step_, run_.others->feedsAt(step_, frame, reports_), run_.others->at(frame), make)
                                   : *before.outcome;
        made.ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
        if (made.failed) state = nullptr;
        return {std::make_shared<const NodeOutcome>(std::move(made)), std::move(state)};
    }

    NodeOutcome inside(int frame, const KeptFrame& before, std::shared_ptr<const FrameState>& state) const {
        const FrameTurn turn = turnAt(step_, frame, before.state ? &before.state->geometry : nullptr, reports_, run_);
        NodeOutcome out = outcomeOfTurn(step_, run_.others->feedsAt(step_, frame, reports_), run_.others->at(frame), turn);
        state = std::make_shared<const FrameState>(FrameState{out.geometry, nullptr, 0});
        return out;
    }

    const Step& step_;
    const std::vector<NodeReport>& reports_;
    const Surroundings& run_;
    NodeReport& report_;
    const int last_;
};

}  // namespace

namespace {

/// What the frame looks like, with all that was told when it was computed.
std::shared_ptr<const NodeOutcome> shown(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const KeptFrame& frame) {
    const int number = shownFrame(step, run);
    const auto make = [&](OperatorCall& call) { return step.spec()->show(call, *frame.state); };
    NodeOutcome made = outcomeOfFrame(step, run.others->feedsAt(step, number, reports), run.others->at(number), make);
    auto out = std::make_shared<NodeOutcome>(std::move(made));
    for (const Notice& told : frame.outcome->notices)
        if (std::none_of(out->notices.begin(), out->notices.end(), [&](const Notice& n) { return n.code == told.code && n.text == told.text; }))
            out->notices.push_back(told);
    out->ms = frame.outcome->ms;
    out->faces = facesWithCopies(out->geometry);
    return out;
}

}  // namespace

/// Looks into the container while it makes the frame that is shown.
static void watchFrames(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, const StepKey& key) {
    const int frame = shownFrame(step, run);
    const auto before = frame > 0 ? run.frames->find(run.others->keyAt(step, frame - 1, reports)) : std::nullopt;
    const Geometry* made = before && before->state ? &before->state->geometry : nullptr;
    Surroundings around = run.others->at(frame);
    around.watch = run.watch;
    watchTurn(step, run.others->feedsAt(step, frame, reports), around, key, turnAt(step, frame, made, reports, run));
}

HeldFrame heldFrame(const Step& step, const Surroundings& run) {
    const OperatorSpec& spec = *step.spec();
    if (spec.frameSetting.empty()) return {};
    OperatorInput input;
    input.settings = step.plan->settings;
    input.time = run.time, input.frame = run.frame;
    input.controls = *run.controls;
    input.words = run.words;
    try {
        return {OperatorCall(spec, input, RunContext()).integer(spec.frameSetting), {}};
    } catch (const OperatorFailure& failure) {
        return {-1, failure.notice};
    }
}

int shownFrame(const Step& step, const Surroundings& run) {
    const int held = heldFrame(step, run).frame;
    return held >= 0 ? std::min(held, kMostFrames) : frameOf(run.frame);
}

void runFrames(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, NodeReport& report, const std::function<void()>& onStart) {
    report.key = run.others->keyAt(step, shownFrame(step, run), reports);
    const bool seen = step.spec()->show != nullptr;
    if (seen) report.outcome = run.memo->find(report.key);
    if (seen && report.outcome) {
        report.remembered = true;
        return;
    }
    const auto start = std::chrono::steady_clock::now();
    const KeptFrame frame = FrameRun(step, reports, run, report).run(onStart);
    report.outcome = frame.outcome;
    if (seen && frame.state) {
        report.outcome = shown(step, reports, run, frame);
        run.memo->store(report.key, report.outcome);
    }
    if (!report.remembered) report.ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
    if (step.spec()->overFrames && isWatched(step, run)) watchFrames(step, reports, run, report.key);
}

std::vector<std::uint8_t> keptFrames(const Step& step, const std::vector<NodeReport>& reports, const Surroundings& run, int last) {
    std::vector<std::uint8_t> out;
    for (int frame = 0; frame <= std::min(last, kMostFrames); ++frame) out.push_back(run.frames->has(run.others->keyAt(step, frame, reports)));
    return out;
}

}  // namespace seedloom
