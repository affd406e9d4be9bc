// The check of an asset beside as many single builds, each with nothing kept.
#include "publish/FitCheck.h"

#include <benchmark/benchmark.h>

using namespace seedloom;

namespace {

const char* const kDemos[] = {"mooring-bollard", "fish-crate", "roof-shingle", "shingled-turret", "harbour-sign", "net-floats"};

FitSubject demo(benchmark::State& state) {
    const std::string name = kDemos[state.range(0)];
    state.SetLabel(name);
    return *fitSubjectFrom(SEEDLOOM_DEMO "/" + name + ".loom");
}

std::vector<Trial> trials(const FitSubject& subject) { return trialsOf(*subject.loom, {.middles = true, .pairs = true, .random = 10}); }

void FitCheckOfDemo(benchmark::State& state) {
    const FitSubject subject = demo(state);
    const auto all = trials(subject);
    for (auto _ : state) benchmark::DoNotOptimize(checkFit(subject, all).size());
    state.counters["settings"] = double(all.size());
}
BENCHMARK(FitCheckOfDemo)->DenseRange(0, std::size(kDemos) - 1)->Unit(benchmark::kMillisecond)->UseRealTime();

void SingleBuildsOfDemo(benchmark::State& state) {
    const FitSubject subject = demo(state);
    const auto all = trials(subject);
    for (auto _ : state)
        for (const Trial& trial : all) benchmark::DoNotOptimize(judge(subject, trial).faults.size());
    state.counters["settings"] = double(all.size());
}
BENCHMARK(SingleBuildsOfDemo)->DenseRange(0, std::size(kDemos) - 1)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
