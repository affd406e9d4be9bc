#include "graph/Container.h"

#include "geometry/Measures.h"
#include "graph/Controls.h"
#include "graph/NodeSpec.h"
#include "graph/OtherFrames.h"
#include "operators/flow/Containers.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

#include <filesystem>

namespace seedloom {

namespace {

constexpr std::size_t kMostNotices = 20;

Numbers word(double value) { return {.components = 1, .uniform = true, .value = {value}}; }
Numbers word(Vec3 v) { return {.components = 3, .uniform = true, .value = {double(v.x), double(v.y), double(v.z)}}; }

/// The notices of one run through the inner graph; those that several parts give are told once.
struct Findings {
    std::vector<Notice> notices;
    bool failed = false;
};

/// Whether what is inside can be asked for at other frames: what comes in must be the same at all of them.
bool hasFramesInside(const Step& step, const Surroundings& outer) {
    const bool once = step.node->op == kNest || step.node->op == kAsset || step.node->op == kEachPiece;
    return outer.others && once && !step.timedFeeds && !step.plan->timedSettings;
}

class ContainerRun {
public:
    ContainerRun(const Step& step, const OperatorInput& input, const Surroundings& outer, const StepKey& key, const FrameTurn* turn,
                 std::atomic<float>* progress = nullptr)
        : turn_(turn), framesInside_(hasFramesInside(step, outer)), node_(*step.node), spec_(*step.spec()), input_(input), outer_(outer), key_(key),
          context_(outer.cancel, outer.limits, progress), call_(spec_, input, context_), inside_(step.plan->inside), inner_(*inside_.loom),
          steps_(stepsOf(inner_, {}, *outer.plans, outer.path + node_.id + "/", inside_.assets)), order_(runningOrder(steps_)), controls_(*outer.controls) {
        for (std::size_t i = 0; i < steps_.size(); ++i)
            if (steps_[i].node->id == inner_.output) result_ = i;
        if (asset_) controls_.clear();
        readOwnSettings();
        if (asset_) completeControls();
    }

    NodeOutcome run() {
        NodeOutcome out;
        try {
            if (!result_) call_.fail("container.output", "There is no output inside. Open it, and add an Output.");
            if (node_.op == kEachPiece) eachPiece(out);
            else if (node_.op == kRepeat) repeat(out);
            else if (node_.op == kTimeStep) timeStep(out);
            else out.geometry = once(out);
            collect(out);
        } catch (OperatorFailure& failure) {
            out = {call_.in(), {}, {failure.notice}, true};
        } catch (const LimitExceeded& limit) {
            out = {call_.in(), {}, {{NoticeLevel::error, "limit.elements", fmt::format("{}: {}.", spec_.label, limit.what()), {}, {}}}, true};
        } catch (const std::bad_alloc&) {
            out = {call_.in(),
                   {},
                   {{NoticeLevel::error, "limit.memory", fmt::format("{}: there is not enough memory for this. Use smaller numbers.", spec_.label), {}, {}}},
                   true};
        }
        return out;
    }

    /// One part, with reports for its nodes.
    void watch() {
        try {
            const int wanted = outer_.watch.parts.empty() ? 0 : std::max(outer_.watch.parts.front(), 0);
            Findings findings;
            if (node_.op == kEachPiece) {
                const Parts parts = partsOf(call_);
                if (parts.parts.empty()) return;
                const std::size_t i = std::min(std::size_t(wanted), parts.parts.size() - 1);
                through(partRun(parts.parts[i], i, parts.parts.size()), findings, true);
            } else if (node_.op == kRepeat) {
                // Without an output nothing goes from turn to turn.
                const int times = call_.integer("times"), last = result_ ? std::min(wanted, times - 1) : 0;
                KeyedGeometry at{call_.in(), key_.digest};
                for (int turn = 0; turn <= last; ++turn) at = through(turnRun(at, turn, times), findings, turn == last);
            } else if (node_.op == kTimeStep) {
                watchFrame(findings);
            } else {
                through(nestRun(), findings, true);
            }
        } catch (const OperatorFailure&) {
            // Told by the container itself.
        } catch (const LimitExceeded&) {
        } catch (const std::bad_alloc&) {}
    }

private:
    /// Each setting of the container's own as one value, under the name of the inner control.
    void readOwnSettings() {
        for (const Control& control : inner_.controls) {
            const auto source = input_.settings->find(control.id);
            // What is not written is the asset's own affair: its default may be a formula over its other controls.
            if (source == input_.settings->end() || (asset_ && !node_.settings.contains(control.id))) continue;
            try {
                if (const auto* plain = std::get_if<FixedSource>(&source->second)) {
                    controls_[control.id] = plain->value;
                } else if (const auto* outside = std::get_if<ControlSource>(&source->second); outside && outer_.controls->count(outside->control)) {
                    controls_[control.id] = outer_.controls->at(outside->control);
                } else {
                    const Numbers value = evaluate(source->second, call_.fieldsOf(call_.in(), Element::model));
                    Json json = value.value[0];
                    if (value.components > 1) json = Json(std::vector<double>(value.value.begin(), value.value.begin() + value.components));
                    controls_[control.id] = std::move(json);
                }
            } catch (const FieldError& error) {
                ownProblems_.push_back({NoticeLevel::error, error.code(), fmt::format("{}: {}", control.label, error.what()), control.id, {}});
            }
        }
    }

    /// The asset's controls as if its loom were built by itself with the values that this node gives.
    void completeControls() {
        ControlChoice choice;
        for (const auto& [id, value] : controls_) {
            const Control& control = *inner_.control(id);
            // Numbers come out of formulas as such, whatever they stand for.
            Json given = value;
            if (control.type == "integer" && value.is_number_float() && value.get<double>() == std::round(value.get<double>()))
                given = std::int64_t(value.get<double>());
            if (control.type == "boolean" && value.is_number()) given = value.get<double>() != 0;
            const auto checked = checkedControlValue(control, given);
            if (checked) choice.given[id] = *checked;
            else ownProblems_.push_back({NoticeLevel::error, checked.error().code, checked.error().text, id, {}});
        }
        auto values = controlValues(inner_, choice);
        if (values) controls_ = std::move(*values);
        else ownProblems_.push_back({NoticeLevel::error, values.error().code, values.error().text, {}, {}});
    }

    /// An asset sees nothing of what is around it but what is plugged in.
    Surroundings runAsset() const {
        Surroundings run;
        const std::filesystem::path file = assetFileOf(node_.settings);
        if (!inside_.files) run.folder = (file.is_relative() ? std::filesystem::path(outer_.folder) / file : file).parent_path().string();
        for (std::size_t p = 0; p < spec_.inputs.size(); ++p)
            if (p < input_.ports.size() && !input_.ports[p].empty())
                run.plugged[spec_.inputs[p].id] = {input_.ports[p].front(), digestOf(input_.ports[p].front())};
        return run;
    }
    Surroundings runContained() const {
        Surroundings run;
        run.words = outer_.words;
        run.folder = outer_.folder;
        run.plugged = outer_.plugged;
        for (std::size_t p = 0; p < spec_.inputs.size(); ++p)
            if (p < input_.ports.size() && !input_.ports[p].empty()) run.fed[spec_.inputs[p].id] = {input_.ports[p].front(), digestOf(input_.ports[p].front())};
        return run;
    }
    Surroundings runInside() const {
        Surroundings run = asset_ ? runAsset() : runContained();
        run.controls = &controls_;
        run.files = inside_.files ? inside_.files : outer_.files;
        run.time = outer_.time, run.frame = outer_.frame, run.secondsPerFrame = outer_.secondsPerFrame;
        run.limits = outer_.limits;
        run.unfinished = outer_.unfinished;
        run.cancel = outer_.cancel;
        run.memo = outer_.memo;
        run.frames = outer_.frames;
        run.plans = outer_.plans;
        run.assets = inside_.assets;
        run.path = outer_.path + node_.id + "/";
        return run;
    }
    Surroundings partRun(const Geometry& part, std::size_t number, std::size_t count) const {
        Surroundings run = base();
        const Bounds bounds = boundsOf(part);
        run.words["number"] = word(double(number));
        run.words["parts"] = word(double(count));
        run.words["centre"] = word(bounds.centre());
        run.words["size"] = word(bounds.size());
        // By contents: a part that stayed the same is not computed again, even where others changed.
        run.fed["in"] = {part, digestOf(part)};
        return run;
    }
    Surroundings turnRun(KeyedGeometry at, int turn, int times) const {
        Surroundings run = base();
        run.words["turn"] = word(double(turn));
        run.words["times"] = word(double(times));
        run.fed["in"] = std::move(at);
        return run;
    }
    /// A part of the way from one frame to the next; `part` of `parts`, from 1.
    Surroundings frameRun(KeyedGeometry at, int frame, int part, int parts) const {
        Surroundings run = base();
        run.frame = part == parts ? frame : frame - 1 + double(part) / parts;
        run.time = run.frame * outer_.secondsPerFrame;
        run.words["step"] = word(outer_.secondsPerFrame / parts);
        run.fed["in"] = std::move(at);
        return run;
    }
    Surroundings nestRun() const { return base(); }
    const Surroundings& base() const {
        if (!base_) base_ = std::make_unique<Surroundings>(runInside());
        return *base_;
    }

    /// Runs all steps in order; gives the result and its key, or nothing where there is no output inside. Watched nodes are reported.
    KeyedGeometry through(Surroundings run, Findings& findings, bool watched) const {
        OtherFrames others(steps_, run);
        if (framesInside_) run.others = &others;
        if (watched) {
            run.onReport = outer_.onReport;
            if (outer_.watch.path.size() > 1) {
                run.watch.path.assign(outer_.watch.path.begin() + 1, outer_.watch.path.end());
                if (outer_.watch.parts.size() > 1) run.watch.parts.assign(outer_.watch.parts.begin() + 1, outer_.watch.parts.end());
            }
        }
        std::vector<NodeReport> reports(steps_.size());
        if (watched) {
            const auto words = std::make_shared<const SurroundingWords>(run.words);
            for (NodeReport& report : reports) report.words = words;
        }
        for (std::size_t i : order_) {
            if (outer_.cancel && outer_.cancel->load(std::memory_order_relaxed)) throw Cancelled{};
            runStep(steps_[i], reports, run, reports[i], {});
            if (watched && outer_.onReport) outer_.onReport(run.path + steps_[i].node->id, reports[i]);
            findings.failed |= reports[i].outcome->failed;
            for (const Notice& notice : reports[i].outcome->notices)
                if (notice.level != NoticeLevel::info && findings.notices.size() < kMostNotices) findings.notices.push_back(notice);
        }
        if (!result_) return {};
        return {reports[*result_].outcome->geometry, reports[*result_].key.digest};
    }

    void eachPiece(NodeOutcome& out) {
        const Parts parts = partsOf(call_);
        out.parts = int(parts.parts.size());
        base();  // made before threads ask for it
        std::vector<Geometry> done(parts.parts.size());
        findings_.resize(parts.parts.size());
        std::atomic<std::size_t> finished{0};
        const auto one = [&](std::size_t i) {
            done[i] = through(partRun(parts.parts[i], i, parts.parts.size()), findings_[i], false).first;
            context_.setProgress(float(++finished) / float(parts.parts.size()));
        };
        forEach(parts.parts.size(), context_, one, chunkFor(parts.parts.size()));
        out.geometry = joinedParts(call_, std::move(done), parts.rest);
    }
    /// Few parts one by one, many in batches; the split changes no result, as each part is on its own.
    static std::size_t chunkFor(std::size_t parts) { return std::clamp<std::size_t>(parts / 64, 1, 64); }

    void repeat(NodeOutcome& out) {
        const int times = call_.integer("times");
        out.parts = times;
        findings_.resize(std::size_t(times));
        KeyedGeometry at{call_.in(), key_.digest};
        // A turn that failed has passed on what it got: further ones would only fail alike.
        for (int turn = 0; turn < times && (turn == 0 || !findings_[std::size_t(turn) - 1].failed); ++turn)
            at = through(turnRun(std::move(at), turn, times), findings_[std::size_t(turn)], false), context_.setProgress(float(turn + 1) / float(times));
        out.geometry = std::move(at.first);
    }
    /// One frame from the one before.
    KeyedGeometry nextFrame(KeyedGeometry at, int frame, int parts, Findings& findings, bool watched) const {
        for (int part = 1; part <= parts && !findings.failed; ++part) {
            at = through(frameRun(std::move(at), frame, part, parts), findings, watched && part == parts);
            context_.setProgress(float(part) / float(parts));
        }
        return at;
    }
    void timeStep(NodeOutcome& out) {
        const int start = call_.integer("start"), parts = call_.integer("substeps");
        if (turn_) {
            findings_.resize(1);
            out.geometry =
                turn_->frame <= start || !turn_->before ? call_.in() : nextFrame({*turn_->before, turn_->key}, turn_->frame, parts, findings_[0], false).first;
            return;
        }
        KeyedGeometry at{call_.in(), key_.digest};
        const int last = call_.integer("at_frame");
        for (int frame = start + 1; frame <= last && (findings_.empty() || !findings_.back().failed); ++frame) {
            findings_.emplace_back();
            at = nextFrame(std::move(at), frame, parts, findings_.back(), false);
        }
        out.geometry = std::move(at.first);
    }
    /// How the frame that is shown was made; before the first one that is, how that will be.
    void watchFrame(Findings& findings) const {
        const int start = call_.integer("start"), parts = call_.integer("substeps");
        const bool made = turn_ && turn_->frame > start && turn_->before;
        KeyedGeometry before = made ? KeyedGeometry{*turn_->before, turn_->key} : KeyedGeometry{call_.in(), key_.digest};
        nextFrame(std::move(before), made ? turn_->frame : start + 1, parts, findings, true);
    }
    Geometry once(NodeOutcome& out) {
        out.parts = 1;
        findings_.resize(1);
        return through(nestRun(), findings_[0], false).first;
    }

    void collect(NodeOutcome& out) const {
        struct Told {
            std::size_t first, times;
        };
        std::vector<std::pair<Notice, Told>> all;
        for (std::size_t i = 0; i < findings_.size(); ++i) {
            out.failed |= findings_[i].failed;
            for (const Notice& notice : findings_[i].notices) {
                const auto same =
                    std::find_if(all.begin(), all.end(), [&](const auto& t) { return t.first.code == notice.code && t.first.node == notice.node; });
                if (same != all.end()) ++same->second.times;
                else if (all.size() < kMostNotices) all.push_back({notice, {i, 1}});
            }
        }
        out.notices = call_.takeNotices();
        out.notices.insert(out.notices.end(), ownProblems_.begin(), ownProblems_.end());
        out.failed |= !ownProblems_.empty();
        tellOtherVersion(out);
        const char* what = node_.op == kRepeat ? "turn" : node_.op == kTimeStep ? "step" : "part";
        for (auto& [notice, told] : all) {
            const Node* inner = inner_.node(notice.node);
            const std::string name = inner ? displayName(*inner) : notice.node;
            // The name of the step stands before its text, unless the text begins with it.
            const bool named = notice.text.rfind(name, 0) == 0;
            std::string where = findings_.size() > 1
                                  ? fmt::format(" (in {} {}{})", what, told.first, told.times > 1 ? fmt::format(" and {} more", told.times - 1) : std::string())
                                  : std::string();
            out.notices.push_back({notice.level, notice.code, fmt::format("{}{}{}", named ? "" : name + ": ", notice.text, where), {}, {}});
        }
    }

    /// Where this loom was saved with another version of the asset than the file holds now.
    void tellOtherVersion(NodeOutcome& out) const {
        const auto noted = node_.extra.find(kAsset);
        if (!asset_ || noted == node_.extra.end() || !noted->is_object()) return;
        const Json known = noted->value("version", Json()), now = inner_.extra.value("version", Json());
        if (!known.is_string() || known == now) return;
        out.notices.push_back({NoticeLevel::info,
                               "asset.version",
                               fmt::format("'{}' is now version {}; this loom was saved with {}.", inner_.name,
                                           now.is_string() ? now.get<std::string>() : "unnamed", known.get<std::string>()),
                               kAsset,
                               {}});
    }

    const FrameTurn* turn_;
    const bool framesInside_;
    const Node& node_;
    const OperatorSpec& spec_;
    const OperatorInput& input_;
    const Surroundings& outer_;
    StepKey key_;
    RunContext context_;
    mutable OperatorCall call_;
    const Inside& inside_;
    const Loom& inner_;
    const bool asset_ = node_.op == kAsset;
    std::vector<Step> steps_;
    std::vector<std::size_t> order_;
    std::optional<std::size_t> result_;
    ControlValues controls_;
    std::vector<Notice> ownProblems_;
    std::vector<Findings> findings_;
    mutable std::unique_ptr<Surroundings> base_;
};

}  // namespace

NodeOutcome runContainer(const Step& step, const OperatorInput& input, const Surroundings& run, const StepKey& key, std::atomic<float>* progress,
                         const FrameTurn* turn) {
    return ContainerRun(step, input, run, key, turn, progress).run();
}

void watchContainer(const Step& step, const OperatorInput& input, const Surroundings& run, const StepKey& key, const FrameTurn* turn) {
    ContainerRun container(step, input, run, key, turn);
    container.watch();
}

}  // namespace seedloom
