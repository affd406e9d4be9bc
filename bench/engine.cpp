// What it costs to look results up and to run steps that do next to nothing: the overhead of memo and engine for graphs of 1 000 and 10 000 small nodes,
// beside a plain map under a mutex.
#include "engine/Engine.h"
#include "graph/Edit.h"

#include <benchmark/benchmark.h>

using namespace seedloom;

namespace {

std::shared_ptr<const NodeOutcome> smallOutcome() {
    auto out = std::make_shared<NodeOutcome>();
    out->geometry = Geometry(std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}});
    out->ms = 0.01;
    return out;
}

StepKey keyOf(std::uint64_t i) { return {Digest{i * 0x9E3779B97F4A7C15ull, i}}; }

/// A strand of points that are moved on and on.
Loom strandOf(int count) {
    Loom loom;
    for (int i = 0; i < count; ++i) {
        Node node;
        node.id = "n" + std::to_string(i);
        node.op = i == 0 ? "point_list" : "transform";
        if (i > 0) node.settings = {{"move", {0.0, 0.001, 0.0}}};
        node.cell = {i, 0};
        loom.nodes.push_back(std::move(node));
        if (i > 0) loom.links.push_back({"n" + std::to_string(i - 1), "", "n" + std::to_string(i), "", Json::object()});
    }
    return loom;
}

void MemoFind(benchmark::State& state) {
    Memo memo;
    const auto outcome = smallOutcome();
    for (std::int64_t i = 0; i < state.range(0); ++i) memo.store(keyOf(std::uint64_t(i)), outcome);
    std::uint64_t at = 0;
    for (auto _ : state) benchmark::DoNotOptimize(memo.find(keyOf(at++ % std::uint64_t(state.range(0)))));
}
BENCHMARK(MemoFind)->Arg(1000)->Arg(10000);

void PlainMapFind(benchmark::State& state) {
    std::mutex mutex;
    std::unordered_map<Digest, std::shared_ptr<const NodeOutcome>, DigestHash> map;
    const auto outcome = smallOutcome();
    for (std::int64_t i = 0; i < state.range(0); ++i) map.emplace(keyOf(std::uint64_t(i)).digest, outcome);
    std::uint64_t at = 0;
    for (auto _ : state) {
        const std::lock_guard lock(mutex);
        benchmark::DoNotOptimize(map.find(keyOf(at++ % std::uint64_t(state.range(0))).digest)->second);
    }
}
BENCHMARK(PlainMapFind)->Arg(1000)->Arg(10000);

/// Over the budget: each entry that comes pushes one out.
void MemoStoreOverBudget(benchmark::State& state) {
    const auto outcome = smallOutcome();
    std::size_t one = 0;
    {
        Memo probe;
        probe.store(keyOf(1), smallOutcome());
        one = probe.bytes();
    }
    Memo memo(one * std::size_t(state.range(0)));
    std::uint64_t at = 0;
    for (std::int64_t i = 0; i < state.range(0); ++i) memo.store(keyOf(at++), smallOutcome());
    for (auto _ : state) memo.store(keyOf(at++), smallOutcome());
    state.counters["entries"] = double(memo.entries());
}
BENCHMARK(MemoStoreOverBudget)->Arg(1000)->Arg(10000);

/// All in the memo: what a step costs that only makes its key and finds its result.
void EngineAllRemembered(benchmark::State& state) {
    Engine engine;
    PlanCache plans;
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(strandOf(int(state.range(0))));
    request.plans = &plans;
    engine.build(request);
    for (auto _ : state) benchmark::DoNotOptimize(engine.build(request).nodes.size());
    state.counters["per_node"] = benchmark::Counter(double(state.range(0)), benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(EngineAllRemembered)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond);

/// Every node computed anew, each next to nothing.
void EngineAllComputed(benchmark::State& state) {
    Engine engine;
    PlanCache plans;
    Loom loom = strandOf(int(state.range(0)));
    double value = 0;
    for (auto _ : state) {
        loom = *applied(loom, setSetting(loom, "n1", "move", {0.0, value += 0.001, 0.0}));
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        request.plans = &plans;
        benchmark::DoNotOptimize(engine.build(request).nodes.size());
    }
    state.counters["per_node"] = benchmark::Counter(double(state.range(0)), benchmark::Counter::kIsIterationInvariantRate | benchmark::Counter::kInvert);
}
BENCHMARK(EngineAllComputed)->Arg(1000)->Arg(10000)->Unit(benchmark::kMillisecond);

}  // namespace
