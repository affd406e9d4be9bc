#include "graph/Rebuild.h"

#include "graph/OtherFrames.h"
#include "graph/StepRun.h"
#include "parallel/HandOver.h"

#include <tbb/task_arena.h>
#include <tbb/task_group.h>

#include <chrono>

namespace seedloom {

std::string_view stateName(NodeState state) {
    constexpr std::array<std::string_view, 5> names{"waiting", "rebuilding", "fresh", "failed", "skipped"};
    return names[static_cast<std::size_t>(state)];
}

namespace {

/// Made beforehand, as there is no memory left when it is needed.
std::shared_ptr<const NodeOutcome> outcomeWithoutMemory() {
    auto out = std::make_shared<NodeOutcome>();
    out->failed = true;
    out->notices.push_back({NoticeLevel::error, "limit.memory", "There is not enough memory left. Use smaller numbers, or close other programs.", {}, {}});
    return out;
}

/// Runs the steps of the outermost graph as tasks, each as soon as what feeds it is done.
class Rebuilder {
public:
    Rebuilder(const RebuildRequest& request, Memo& memo)
        : request_(request), memo_(memo), plans_(request.plans ? *request.plans : memo.plans()),
          steps_(stepsOf(*request.loom, request.targets, plans_, {}, request.assets)), pending_(steps_.size()), reports_(steps_.size()) {
        run_.controls = &request.controls;
        run_.time = request.time, run_.frame = request.frame;
        run_.limits = request.limits;
        run_.cancel = request.cancel;
        run_.memo = &memo;
        run_.frames = request.frames ? request.frames : &ownFrames_;
        run_.others = &others_;
        run_.secondsPerFrame = request.secondsPerFrame;
        run_.plans = &plans_;
        run_.assets = request.assets;
        run_.watch = request.watch;
        run_.unfinished = request.unfinished;
        if (run_.unfinished.node.empty()) memo.unfinished().clear();
        run_.folder = request.folder;
        run_.files = request.files;
        for (const auto& [name, geometry] : request.plugged) run_.plugged[name] = {geometry, digestOf(geometry)};
        run_.onReport = [this](const std::string& id, const NodeReport& report) { insideReport(id, report); };
    }

    RebuildResult run() {
        const auto start = std::chrono::steady_clock::now();
        // Listed before the first runs: a step whose feeders are already done is launched by them, not here as well.
        std::vector<std::size_t> starts;
        for (std::size_t i = 0; i < steps_.size(); ++i)
            if ((pending_[i] = steps_[i].feeds) == 0) starts.push_back(i);
        tbb::task_arena arena(request_.threads > 0 ? request_.threads : tbb::task_arena::automatic);
        arena.execute([&] {
            const WaitOrder order(this);
            for (std::size_t i : starts) launch(i);
            group_.wait();
        });
        takeOver(this);  // The arena may have run all of it on another thread.
        RebuildResult out;
        out.cancelled = cancelled_;
        out.incomplete = incomplete_;
        out.nodes = std::move(inside_);
        for (std::size_t i = 0; i < steps_.size(); ++i) out.nodes[steps_[i].node->id] = std::move(reports_[i]);
        out.ms = std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - start).count();
        return out;
    }

private:
    /// One node as a task: whatever it reads of its feeders was finished before.
    struct Task {
        Rebuilder* rebuilder;
        std::size_t step;
        SEEDLOOM_UNSEEN void operator()() const {
            const TaskOrder order(rebuilder);
            rebuilder->workAndGoOn(step);
        }
    };
    void launch(std::size_t i) {
        handOver(this);
        group_.run(Task{this, i});
    }
    void workAndGoOn(std::size_t i) {
        work(i);
        for (std::size_t follower : steps_[i].followers)
            if (--pending_[follower] == 0) launch(follower);
    }

    void tell(std::size_t i) const {
        if (request_.onNode) request_.onNode(steps_[i].node->id, reports_[i]);
    }
    void insideReport(const std::string& id, const NodeReport& report) {
        {
            const std::lock_guard lock(mutex_);
            inside_[id] = report;
        }
        if (request_.onNode) request_.onNode(id, report);
    }

    /// Frames of steps with state are kept apart from what the memo holds.
    bool known(const StepKey& key) { return memo_.find(key) || run_.frames->has(key); }

    void work(std::size_t i) {
        const Step& step = steps_[i];
        NodeReport& report = reports_[i];
        if (cancelled_ || (request_.cancel && request_.cancel->load())) {
            cancelled_ = true;
            return;
        }
        for (const auto& port : step.ports)
            for (const Step::Feed& feed : port)
                if (!reports_[feed.step].outcome) return tell(i);
        try {
            const bool late = request_.deferred.count(step.node->id) && !known(report.key = stepKey(step, reports_, run_));
            const bool coarsely = late && hasCoarse(step);
            if (late) incomplete_ = true;
            if (late && !coarsely) return tell(i);
            runStep(
                step, reports_, run_, report, [&] { tell(i); }, coarsely);
            if (report.outcome->coarse) incomplete_ = true;
            if (request_.lastFrame >= 0 && step.spec() && step.spec()->hasState() && !step.node->skipped) {
                report.frames = keptFrames(step, reports_, run_, request_.lastFrame);
                report.keeps = heldFrame(step, run_).frame;
            }
        } catch (const Cancelled&) {
            cancelled_ = true;
            report.state = NodeState::waiting;
        } catch (...) {
            // What is around the step itself failed: there was no memory for its key or for keeping its result.
            report.state = NodeState::failed;
            report.outcome = noMemory_;
        }
        tell(i);
    }

    const RebuildRequest& request_;
    Memo& memo_;
    PlanCache& plans_;
    Surroundings run_;
    std::vector<Step> steps_;
    FrameCache ownFrames_;
    OtherFrames others_{steps_, run_};
    std::vector<std::atomic<int>> pending_;
    std::vector<NodeReport> reports_;
    std::mutex mutex_;
    std::map<std::string, NodeReport> inside_;  ///< of nodes in containers that are looked into
    std::shared_ptr<const NodeOutcome> noMemory_ = outcomeWithoutMemory();
    std::atomic<bool> cancelled_{false}, incomplete_{false};
    tbb::task_group group_;
};

}  // namespace

RebuildResult rebuild(const RebuildRequest& request, Memo& memo) {
    RebuildResult out;
    try {
        return Rebuilder(request, memo).run();
    } catch (const std::bad_alloc&) {
        out.broken = "There is not enough memory.";  // short enough to need none itself
    } catch (const std::exception& error) {
        out.broken = error.what();
    }
    out.nodes.clear();
    return out;
}

std::vector<Notice> RebuildResult::notices(const Loom& loom) const {
    std::vector<Notice> out;
    if (!broken.empty()) out.push_back({NoticeLevel::error, "limit.memory", broken, {}, {}});
    for (const Node& node : loom.nodes) {
        const auto it = nodes.find(node.id);
        if (it != nodes.end() && it->second.outcome)
            for (Notice notice : it->second.outcome->notices) {
                notice.node = node.id;  // The memo may hold the result of a twin.
                out.push_back(std::move(notice));
            }
    }
    return out;
}

bool RebuildResult::failed() const {
    return !broken.empty() || std::any_of(nodes.begin(), nodes.end(), [](const auto& n) { return n.second.state == NodeState::failed; });
}

const Geometry* RebuildResult::geometry(const std::string& node) const {
    const auto it = nodes.find(node);
    return it != nodes.end() && it->second.outcome ? &it->second.outcome->geometry : nullptr;
}

}  // namespace seedloom
