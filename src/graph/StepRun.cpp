#include "graph/StepRun.h"

#include "graph/Container.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <chrono>
#include <filesystem>

namespace seedloom {

namespace {

using Clock = std::chrono::steady_clock;

void addNumbers(Digester& digester, const Numbers& numbers) {
    digester.add(std::uint64_t(numbers.components));
    digester.add(numbers.value.data(), sizeof(double) * std::size_t(numbers.components));
}

/// A file that was changed is another input: this covers every file that the step, or what is inside of it, reads.
void addFileStamps(Digester& digester, const Step& step, const RunSurroundings& run) {
    for (const std::string& file : step.plan->usedFiles) {
        std::filesystem::path path = file;
        if (path.is_relative() && !run.folder.empty()) path = std::filesystem::path(run.folder) / path;
        std::error_code missing;
        const auto time = std::filesystem::last_write_time(path, missing);
        digester.add(std::string_view(run.folder));
        digester.add(std::uint64_t(missing ? 0 : time.time_since_epoch().count()));
        digester.add(std::uint64_t(missing ? 0 : std::filesystem::file_size(path, missing)));
    }
}

OperatorInput inputOf(const Step& step, const std::vector<NodeReport>& reports, const RunSurroundings& run) {
    OperatorInput input;
    for (const auto& port : step.ports) {
        auto& geometries = input.ports.emplace_back();
        for (const Step::Feed& feed : port) geometries.push_back(reports[feed.step].outcome->output(feed.output));
    }
    input.settings = step.plan->settings;
    input.time = run.time, input.frame = run.frame;
    input.controls = *run.controls;
    input.words = run.words;
    input.folder = run.folder;
    return input;
}

NodeOutcome computed(const Step& step, const std::vector<NodeReport>& reports, const RunSurroundings& run, const Digest& key) {
    const Node& node = *step.node;
    NodeOutcome out;
    if (!step.ports.empty() && !step.ports[0].empty()) out.geometry = reports[step.ports[0][0].step].outcome->output(step.ports[0][0].output);
    // A skipped node is as if it were not there; only what breaks the graph itself is still told.
    if (node.skipped) return out;
    if (!step.spec() || step.broken()) {
        out.failed = true;
    } else if (!node.graph.problem().empty()) {
        out.failed = true;
        out.notices.push_back({NoticeLevel::error, "asset.unreadable", node.graph.problem(), kAsset, {}});
    } else if (isContainer(node.op) && node.graph) {
        out = runContainer(step, inputOf(step, reports, run), run, key);
    } else if (const auto fed = node.op == kInnerInput ? run.fed.find(innerPortOf(node)) : run.fed.end(); fed != run.fed.end()) {
        out.geometry = fed->second.first;
    } else if (const auto plugged = node.op == kInputGeometry ? run.plugged.find(pluggedNameOf(node)) : run.plugged.end(); plugged != run.plugged.end()) {
        out.geometry = plugged->second.first;
    } else {
        const RunContext context(run.cancel, run.limits);
        OperatorOutcome made = runOperator(*step.spec(), inputOf(step, reports, run), context);
        out = {std::move(made.geometry), std::move(made.others), std::move(made.notices), made.failed};
    }
    out.notices.insert(out.notices.begin(), step.problems.begin(), step.problems.end());
    for (Notice& notice : out.notices)
        if (notice.node.empty()) notice.node = node.id;
    return out;
}

}  // namespace

Digest stepKey(const Step& step, const std::vector<NodeReport>& reports, const RunSurroundings& run) {
    const NodePlan& plan = *step.plan;
    Digester digester;
    digester.add(plan.digest);
    digester.add(std::uint64_t(step.node->skipped));
    digester.add(run.limits.elements);
    for (const std::string& id : plan.usedControls) {
        const auto it = run.controls->find(id);
        digester.add(std::string_view(id));
        if (it == run.controls->end()) digester.add(std::string_view("?"));
        else addJson(digester, it->second);
    }
    for (const auto& [word, value] : run.words)
        if (plan.usedNames.count(word)) digester.add(std::string_view(word)), addNumbers(digester, value);
    if (plan.usesTime) digester.add(&run.time, sizeof run.time), digester.add(&run.frame, sizeof run.frame);
    for (const Notice& notice : step.problems) digester.add(std::string_view(notice.text));
    for (const auto& port : step.ports) {
        digester.add(std::uint64_t(port.size()));
        for (const Step::Feed& feed : port) {
            digester.add(reports[feed.step].key);
            digester.add(std::uint64_t(feed.output));
        }
    }
    if (step.spec()) addFileStamps(digester, step, run);
    if (step.node->op == kInputGeometry)
        if (const auto plugged = run.plugged.find(pluggedNameOf(*step.node)); plugged != run.plugged.end()) digester.add(plugged->second.second);
    if (step.node->op == kInnerInput)
        if (const auto fed = run.fed.find(innerPortOf(*step.node)); fed != run.fed.end()) digester.add(fed->second.second);
    return digester.finish();
}

void runStep(const Step& step, const std::vector<NodeReport>& reports, const RunSurroundings& run, NodeReport& report, const std::function<void()>& onStart) {
    report.key = stepKey(step, reports, run);
    report.outcome = run.memo->find(report.key);
    report.remembered = report.outcome != nullptr;
    if (!report.remembered) {
        report.state = NodeState::rebuilding;
        if (onStart) onStart();
        const auto start = Clock::now();
        auto outcome = std::make_shared<NodeOutcome>(computed(step, reports, run, report.key));
        report.ms = outcome->ms = std::chrono::duration<double, std::milli>(Clock::now() - start).count();
        run.memo->store(report.key, outcome);
        report.outcome = std::move(outcome);
    }
    // The parts of a container are not run where its result is known; what is looked at is then found in the memo, step by step.
    if (!run.watch.path.empty() && run.watch.path.front() == step.node->id && step.node->graph && step.spec() && !step.node->skipped && !step.broken())
        watchContainer(step, inputOf(step, reports, run), run, report.key);
    report.state = report.outcome->failed ? NodeState::failed : step.node->skipped ? NodeState::skipped : NodeState::fresh;
}

}  // namespace seedloom
