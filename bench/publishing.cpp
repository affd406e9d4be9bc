// Shelves of packs; variations; the check of an asset beside as many single builds, each with nothing kept.
#include "files/FileIo.h"
#include "formats/Shelf.h"
#include "publish/FitCheck.h"
#include "publish/Publish.h"
#include "vary/VaryFacts.h"
#include "vary/VaryRun.h"

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

/// Ten thousand rows: looking through them by a formula, and putting them in an order.
std::vector<VaryRow> manyRows() {
    std::vector<VaryRow> out(10'000);
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i].faces = i * 7919 % 10'007, out[i].size = {1, double(i % 100), 1};
        out[i].values = {{"height", 0.001 * double(i)}, {"sides", 12}, {"wall", 0.02}, {"wear", 0.5}, {"seed", i}, {"kind", "oak"}};
    }
    return out;
}

void RowsMeet(benchmark::State& state) {
    const auto rows = manyRows();
    for (auto _ : state)
        for (const VaryRow& row : rows) benchmark::DoNotOptimize(*rowMeets("faces < 5000 && height > 0.5", row));
}
BENCHMARK(RowsMeet)->Unit(benchmark::kMillisecond);

void RowsOrdered(benchmark::State& state) {
    const auto rows = manyRows();
    std::vector<const VaryRow*> all;
    for (const VaryRow& row : rows) all.push_back(&row);
    for (auto _ : state) benchmark::DoNotOptimize(orderedBy("faces", true, all).size());
}
BENCHMARK(RowsOrdered)->Unit(benchmark::kMillisecond);

/// A hundred variations of the boardwalk without files, beside a hundred single builds.
void VaryBoardwalk(benchmark::State& state) {
    const FitSubject subject = *fitSubjectFrom(SEEDLOOM_DEMO "/dune-boardwalk.loom");
    const auto all = *variationsByChance(*subject.loom, 100, 1);
    const auto place = std::filesystem::temp_directory_path() / "seedloom-bench-vary";
    for (auto _ : state) {
        std::filesystem::remove_all(place);
        VaryOptions options;
        options.jobs = int(state.range(0)), options.ending.clear(), options.pictures = false;
        benchmark::DoNotOptimize(vary(subject, all, 1, *VaryFolder::open(place), options).made);
    }
    std::filesystem::remove_all(place);
}
BENCHMARK(VaryBoardwalk)->Arg(1)->Arg(2)->Unit(benchmark::kMillisecond)->UseRealTime();

void SingleBoardwalks(benchmark::State& state) {
    const FitSubject subject = *fitSubjectFrom(SEEDLOOM_DEMO "/dune-boardwalk.loom");
    const auto all = *variationsByChance(*subject.loom, 100, 1);
    for (auto _ : state)
        for (const Variation& one : all) {
            RebuildRequest request = subject.request(*controlValues(*subject.loom, {{}, one.given}));
            Memo memo;
            benchmark::DoNotOptimize(rebuild(request, memo).ms);
        }
}
BENCHMARK(SingleBoardwalks)->Unit(benchmark::kMillisecond)->UseRealTime();

/// A shelf of so many packs, and nothing else, in a folder that goes with the program.
const std::filesystem::path& shelfOf(int count) {
    static const auto folder = [count] {
        const auto made = std::filesystem::temp_directory_path() / "seedloom-bench-shelf";
        std::filesystem::remove_all(made);
        std::filesystem::create_directories(made);
        const auto subject = fitSubjectFrom(SEEDLOOM_DEMO "/mooring-bollard.loom");
        for (int i = 0; i < count; ++i) {
            FitSubject one = *subject;
            Loom loom = *subject->loom;
            loom.name += " " + std::to_string(i);
            one.loom = std::make_shared<const Loom>(std::move(loom));
            static const std::string bytes = *publishedPack(one);
            if (writeFileAtomically(made / ("bollard-" + std::to_string(i) + kPackEnding), bytes)) std::abort();
        }
        return made;
    }();
    return folder;
}

/// From a click until the pictures in view can be drawn; the aim is 300 ms.
void OpenShelf(benchmark::State& state) {
    constexpr std::size_t kInView = 8;
    const auto& folder = shelfOf(int(state.range(0)));
    for (auto _ : state) {
        const auto files = filesOnShelf(folder);
        std::vector<ShelfAsset> assets;
        for (const auto& file : *files) assets.push_back(shelfAsset(file));
        benchmark::DoNotOptimize(versionsOf(assets).size());
        for (std::size_t i = 0; i < kInView; ++i) benchmark::DoNotOptimize(shelfPicture(assets[i].file).size());
    }
}
BENCHMARK(OpenShelf)->Arg(500)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
