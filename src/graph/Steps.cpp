#include "graph/Steps.h"

#include "operators/flow/Containers.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <unordered_map>
#include <unordered_set>

namespace seedloom {

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

Notice problem(NoticeLevel level, std::string code, std::string text) { return {level, std::move(code), std::move(text), {}, {}}; }

class StepBuilder {
public:
    StepBuilder(const Loom& loom, PlanCache& plans, const std::string& path, const Assets& assets) : loom_(loom), plans_(plans), path_(path), assets_(assets) {}

    std::vector<Step> build(const std::vector<std::string>& targets) {
        std::unordered_map<std::string_view, const Node*> known;
        for (const Node& node : loom_.nodes) known.emplace(node.id, &node);
        const auto wanted = wantedNodes(targets, known);
        steps_.reserve(wanted.size());
        for (const Node& node : loom_.nodes) {
            if (!wanted.count(node.id) || known.at(node.id) != &node) continue;
            number_[node.id] = steps_.size();
            Step& step = steps_.emplace_back();
            step.node = &node;
            step.plan = plans_.of(node, path_, assets_);
            step.ports.resize(step.spec() ? step.spec()->inputs.size() : 1);
            step.problems = step.plan->problems;
        }
        markRings();
        for (const Link& link : loom_.links) join(link);
        for (std::size_t i : runningOrder(steps_))
            for (std::size_t follower : steps_[i].followers) steps_[follower].timedFeeds |= steps_[i].timedFeeds || steps_[i].plan->uses.time;
        return std::move(steps_);
    }

private:
    std::unordered_set<std::string_view> wantedNodes(const std::vector<std::string>& targets,
                                                     const std::unordered_map<std::string_view, const Node*>& known) const {
        std::unordered_multimap<std::string_view, const Link*> into;
        for (const Link& link : loom_.links) into.emplace(link.to, &link);
        std::unordered_set<std::string_view> wanted;
        std::vector<std::string_view> open(targets.begin(), targets.end());
        if (open.empty())
            for (const Node& node : loom_.nodes) open.push_back(node.id);
        while (!open.empty()) {
            const std::string_view id = open.back();
            open.pop_back();
            if (!known.count(id) || !wanted.insert(id).second) continue;
            for (auto [it, end] = into.equal_range(id); it != end; ++it) open.push_back(it->second->from);
        }
        return wanted;
    }

    void markRings() {
        for (const auto& ring : linkCycles(loom_)) {
            for (std::size_t i = 0; i + 1 < ring.size(); ++i) {
                inRing_.insert({ring[i], ring[i + 1]});
                if (const auto it = number_.find(ring[i]); it != number_.end())
                    steps_[it->second].problems.push_back(
                        problem(NoticeLevel::error, "graph.cycle", fmt::format("The links run in a ring: {}. Take one of them out.", fmt::join(ring, " → "))));
            }
        }
    }

    void join(const Link& link) {
        const auto from = number_.find(link.from), to = number_.find(link.to);
        if (to == number_.end() || inRing_.count({link.from, link.to})) return;
        Step& step = steps_[to->second];
        const auto refuse = [&](NoticeLevel level, const char* code, std::string text) { step.problems.push_back(problem(level, code, std::move(text))); };
        if (from == number_.end())
            return refuse(NoticeLevel::error, "link.from", fmt::format("A link comes from '{}', which does not exist. Remove the link.", link.from));
        const OperatorSpec* spec = step.spec();
        std::size_t port = 0;
        if (spec && !link.in.empty())
            while (port < spec->inputs.size() && spec->inputs[port].id != link.in) ++port;
        // Nobody knows the inputs of an asset that can't be read; that it can't is told by itself.
        if (port >= step.ports.size() && step.node->op == kAsset && !step.plan->inside) return;
        if (port >= step.ports.size())
            return refuse(NoticeLevel::error, "link.port",
                          fmt::format("There is no input '{}' to plug '{}' into.", link.in.empty() ? "in" : link.in, link.from));
        if (spec && !spec->inputs[port].many && !step.ports[port].empty())
            return refuse(NoticeLevel::warning, "link.surplus",
                          fmt::format("Only one link fits into {}; the one from '{}' is not used.", spec->inputs[port].label, link.from));
        const OperatorSpec* feeding = steps_[from->second].spec();
        const auto output = feeding ? feeding->outputIndex(link.out) : std::optional<std::size_t>(0);
        if (!output) return refuse(NoticeLevel::error, "link.output", fmt::format("{} has no output '{}'. Link another one.", feeding->label, link.out));
        step.ports[port].push_back({from->second, *output});
        steps_[from->second].followers.push_back(to->second);
        ++step.feeds;
    }

    const Loom& loom_;
    PlanCache& plans_;
    const std::string& path_;
    const Assets& assets_;
    std::vector<Step> steps_;
    std::unordered_map<std::string_view, std::size_t> number_;
    std::set<std::pair<std::string, std::string>> inRing_;
};

}  // namespace

bool Step::broken() const {
    return std::any_of(problems.begin(), problems.end(), [](const Notice& n) { return n.level == NoticeLevel::error; });
}

std::vector<Step> stepsOf(const Loom& loom, const std::vector<std::string>& targets, PlanCache& plans, const std::string& path, const Assets& assets) {
    return StepBuilder(loom, plans, path, assets).build(targets);
}

std::vector<std::size_t> runningOrder(const std::vector<Step>& steps) {
    std::vector<int> pending(steps.size());
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < steps.size(); ++i)
        if ((pending[i] = steps[i].feeds) == 0) out.push_back(i);
    for (std::size_t at = 0; at < out.size(); ++at)
        for (std::size_t follower : steps[out[at]].followers)
            if (--pending[follower] == 0) out.push_back(follower);
    return out;
}

}  // namespace seedloom
