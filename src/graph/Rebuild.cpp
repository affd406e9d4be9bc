#include "graph/Rebuild.h"

#include "operators/Catalogue.h"
#include "parallel/HandOver.h"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <tbb/task_arena.h>
#include <tbb/task_group.h>

#include <chrono>
#include <set>
#include <unordered_map>
#include <unordered_set>

namespace seedloom {

std::string_view stateName(NodeState state) {
    constexpr std::array<std::string_view, 5> names{"waiting", "rebuilding", "fresh", "failed", "skipped"};
    return names[static_cast<std::size_t>(state)];
}

std::vector<std::vector<std::string>> linkCycles(const Loom& loom) {
    std::unordered_map<std::string, std::vector<std::string>> next;
    for (const Link& link : loom.links) next[link.from].push_back(link.to);
    std::unordered_map<std::string, int> mark;  // 1 on the path, 2 done
    std::vector<std::vector<std::string>> out;
    // An explicit stack: a chain of a hundred thousand nodes must not overflow the call stack.
    for (const Node& start : loom.nodes) {
        std::vector<std::pair<std::string, std::size_t>> path;
        if (mark[start.id] == 0) path.push_back({start.id, 0}), mark[start.id] = 1;
        while (!path.empty()) {
            auto& [id, at] = path.back();
            const auto& followers = next[id];
            if (at == followers.size()) {
                mark[id] = 2;
                path.pop_back();
                continue;
            }
            const std::string to = followers[at++];
            if (mark[to] == 1) {
                std::vector<std::string> ring;
                const auto from = std::find_if(path.begin(), path.end(), [&](const auto& p) { return p.first == to; });
                for (auto it = from; it != path.end(); ++it) ring.push_back(it->first);
                ring.push_back(to);
                out.push_back(std::move(ring));
            } else if (mark[to] == 0) {
                mark[to] = 1;
                path.push_back({to, 0});
            }
        }
    }
    return out;
}

namespace {

using Clock = std::chrono::steady_clock;

double msSince(Clock::time_point start) { return std::chrono::duration<double, std::milli>(Clock::now() - start).count(); }

/// A node with everything about it that does not depend on its inputs' results.
struct Step {
    const Node* node = nullptr;
    const OperatorSpec* spec = nullptr;
    std::shared_ptr<const NodePlan> plan;
    struct Feed {
        std::size_t step, output;
    };
    std::vector<std::vector<Feed>> ports;         ///< what feeds each port
    std::vector<std::size_t> followers;
    std::vector<Notice> problems;                 ///< found before running
    std::atomic<int> pending{0};
};

Notice problem(NoticeLevel level, std::string code, std::string text) { return {level, std::move(code), std::move(text), {}, {}}; }

class Rebuilder {
public:
    Rebuilder(const RebuildRequest& request, Memo& memo) : request_(request), memo_(memo) {}

    RebuildResult run() {
        const auto start = Clock::now();
        collect();
        // Listed before the first runs: a step whose feeders are already done is launched by them, not here as well.
        std::vector<std::size_t> starts;
        for (std::size_t i = 0; i < steps_.size(); ++i)
            if (steps_[i].pending == 0) starts.push_back(i);
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
        for (std::size_t i = 0; i < steps_.size(); ++i) out.nodes[steps_[i].node->id] = std::move(reports_[i]);
        out.ms = msSince(start);
        return out;
    }

private:
    /// Lists the wanted nodes and all that feed them, and joins them up. Nodes of a ring fail with its path, and its links are cut.
    void collect() {
        const Loom& loom = *request_.loom;
        std::unordered_map<std::string_view, const Node*> known;
        for (const Node& node : loom.nodes) known.emplace(node.id, &node);
        std::unordered_multimap<std::string_view, const Link*> into;
        for (const Link& link : loom.links) into.emplace(link.to, &link);
        std::unordered_set<std::string_view> wanted;
        std::vector<std::string_view> open(request_.targets.begin(), request_.targets.end());
        if (open.empty())
            for (const Node& node : loom.nodes) open.push_back(node.id);
        while (!open.empty()) {
            const std::string_view id = open.back();
            open.pop_back();
            if (!known.count(id) || !wanted.insert(id).second) continue;
            for (auto [it, end] = into.equal_range(id); it != end; ++it) open.push_back(it->second->from);
        }
        steps_ = std::vector<Step>(wanted.size());
        reports_.resize(wanted.size());
        std::size_t next = 0;
        for (const Node& node : loom.nodes) {
            if (!wanted.count(node.id) || known.at(node.id) != &node) continue;
            Step& step = steps_[next];
            step.node = &node;
            number_[node.id] = next++;
            step.plan = memo_.plans().of(node);
            step.spec = step.plan->spec.get();
            step.ports.resize(step.spec ? step.spec->inputs.size() : 1);
            step.problems = step.plan->problems;
        }
        markRings(loom);
        for (const Link& link : loom.links) join(link);
    }

    void markRings(const Loom& loom) {
        for (const auto& ring : linkCycles(loom)) {
            for (std::size_t i = 0; i + 1 < ring.size(); ++i) {
                inRing_.insert({ring[i], ring[i + 1]});
                if (const auto it = number_.find(ring[i]); it != number_.end())
                    steps_[it->second].problems.push_back(problem(
                        NoticeLevel::error, "graph.cycle", fmt::format("The links run in a ring: {}. Take one of them out.", fmt::join(ring, " → "))));
            }
        }
    }

    void join(const Link& link) {
        const auto from = number_.find(link.from), to = number_.find(link.to);
        if (to == number_.end() || inRing_.count({link.from, link.to})) return;
        Step& step = steps_[to->second];
        if (from == number_.end()) {
            step.problems.push_back(problem(NoticeLevel::error, "link.from", fmt::format("A link comes from '{}', which does not exist. Remove the link.", link.from)));
            return;
        }
        std::size_t port = 0;
        if (step.spec && !link.in.empty()) {
            while (port < step.spec->inputs.size() && step.spec->inputs[port].id != link.in) ++port;
        }
        if (port >= step.ports.size()) {
            step.problems.push_back(problem(NoticeLevel::error, "link.port", fmt::format("There is no input '{}' to plug '{}' into.", link.in.empty() ? "in" : link.in, link.from)));
            return;
        }
        if (step.spec && !step.spec->inputs[port].many && !step.ports[port].empty()) {
            step.problems.push_back(problem(NoticeLevel::warning, "link.surplus", fmt::format("Only one link fits into {}; the one from '{}' is not used.", step.spec->inputs[port].label, link.from)));
            return;
        }
        const OperatorSpec* feeding = steps_[from->second].spec;
        const auto output = feeding ? feeding->outputIndex(link.out) : std::optional<std::size_t>(0);
        if (!output) {
            step.problems.push_back(problem(NoticeLevel::error, "link.output", fmt::format("{} has no output '{}'. Link another one.", feeding->label, link.out)));
            return;
        }
        step.ports[port].push_back({from->second, *output});
        steps_[from->second].followers.push_back(to->second);
        ++step.pending;
    }

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
            if (--steps_[follower].pending == 0) launch(follower);
    }

    void tell(std::size_t i) const {
        if (request_.onNode) request_.onNode(steps_[i].node->id, reports_[i]);
    }

    Digest keyOf(const Step& step) const {
        Digester digester;
        digester.add(step.plan->digest);
        digester.add(std::uint64_t(step.node->skipped));
        digester.add(request_.limits.elements);
        for (const std::string& id : step.plan->usedControls) {
            const auto it = request_.controls.find(id);
            digester.add(std::string_view(id));
            digester.add(std::string_view(it == request_.controls.end() ? "?" : it->second.dump(-1, ' ', false, Json::error_handler_t::replace)));
        }
        if (step.plan->usesTime) digester.add(&request_.time, sizeof request_.time), digester.add(&request_.frame, sizeof request_.frame);
        for (const Notice& notice : step.problems) digester.add(std::string_view(notice.text));
        for (const auto& port : step.ports) {
            digester.add(std::uint64_t(port.size()));
            for (const Step::Feed& feed : port) {
                digester.add(reports_[feed.step].key);
                digester.add(std::uint64_t(feed.output));
            }
        }
        return digester.finish();
    }

    void work(std::size_t i) {
        Step& step = steps_[i];
        NodeReport& report = reports_[i];
        if (cancelled_ || (request_.cancel && request_.cancel->load())) {
            cancelled_ = true;
            return;
        }
        for (const auto& port : step.ports)
            for (const Step::Feed& feed : port)
                if (!reports_[feed.step].outcome) return tell(i);
        report.key = keyOf(step);
        report.outcome = memo_.find(report.key);
        report.remembered = report.outcome != nullptr;
        if (!report.remembered && request_.deferred.count(step.node->id)) {
            incomplete_ = true;
            return tell(i);
        }
        if (!report.remembered) {
            report.state = NodeState::rebuilding;
            tell(i);
            const auto start = Clock::now();
            try {
                auto outcome = std::make_shared<NodeOutcome>(compute(step));
                report.ms = outcome->ms = msSince(start);
                memo_.store(report.key, outcome);
                report.outcome = std::move(outcome);
            } catch (const Cancelled&) {
                cancelled_ = true;
                report.state = NodeState::waiting;
                return tell(i);
            }
        }
        report.state = report.outcome->failed ? NodeState::failed : step.node->skipped ? NodeState::skipped : NodeState::fresh;
        tell(i);
    }

    NodeOutcome compute(const Step& step) const {
        OperatorInput input;
        for (const auto& port : step.ports) {
            auto& geometries = input.ports.emplace_back();
            for (const Step::Feed& feed : port) geometries.push_back(reports_[feed.step].outcome->output(feed.output));
        }
        const Geometry passed = input.ports.empty() || input.ports[0].empty() ? Geometry() : input.ports[0][0];
        NodeOutcome out{passed, {}, {}, false, 0};
        if (!step.node->skipped && step.spec && !hasError(step.problems)) {
            input.settings = step.plan->settings;
            input.time = request_.time;
            input.frame = request_.frame;
            input.controls = request_.controls;
            const RunContext run(request_.cancel, request_.limits);
            OperatorOutcome made = runOperator(*step.spec, input, run);
            out = {std::move(made.geometry), std::move(made.others), std::move(made.notices), made.failed, 0};
        } else if (!step.node->skipped) {
            out.failed = true;
        }
        // A skipped node is as if it were not there; only what breaks the graph itself is still told.
        if (!step.node->skipped) out.notices.insert(out.notices.begin(), step.problems.begin(), step.problems.end());
        for (Notice& notice : out.notices) notice.node = step.node->id;
        return out;
    }
    static bool hasError(const std::vector<Notice>& notices) {
        return std::any_of(notices.begin(), notices.end(), [](const Notice& n) { return n.level == NoticeLevel::error; });
    }

    const RebuildRequest& request_;
    Memo& memo_;
    std::vector<Step> steps_;
    std::vector<NodeReport> reports_;
    std::unordered_map<std::string_view, std::size_t> number_;
    std::set<std::pair<std::string, std::string>> inRing_;
    std::atomic<bool> cancelled_{false}, incomplete_{false};
    tbb::task_group group_;
};

}  // namespace

RebuildResult rebuild(const RebuildRequest& request, Memo& memo) { return Rebuilder(request, memo).run(); }

std::vector<Notice> RebuildResult::notices(const Loom& loom) const {
    std::vector<Notice> out;
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
    return std::any_of(nodes.begin(), nodes.end(), [](const auto& n) { return n.second.state == NodeState::failed; });
}

const Geometry* RebuildResult::geometry(const std::string& node) const {
    const auto it = nodes.find(node);
    return it != nodes.end() && it->second.outcome ? &it->second.outcome->geometry : nullptr;
}

}  // namespace seedloom
