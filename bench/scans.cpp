// A scan of 10⁶ triangles, from its file to a clean even mesh of 100 000: what "Make it clean" makes of it. Limit: 6 s.
#include "graph/Controls.h"
#include "graph/Fixes.h"
#include "graph/Importing.h"
#include "graph/Rebuild.h"
#include "meshes/MeshFile.h"
#include "support/Scan.h"

#include <benchmark/benchmark.h>

#include <filesystem>

using namespace seedloom;

namespace {

RebuildResult builtOf(const Loom& loom) {
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(loom);
    request.controls = *controlValues(loom);
    Memo memo;
    return rebuild(request, memo);
}

void scanToCleanMesh(benchmark::State& state) {
    const auto path = std::filesystem::temp_directory_path() / "seedloom-bench-scan.stl";
    if (writeMesh(test::DirtyScan{.triangles = 1'000'000}.make(), path)) return state.SkipWithError("the scan can't be written");
    const Loom loom = loomImporting({{path.string(), ImportedAs::mesh}});
    NoticeFix cleaning;
    for (const Notice& notice : builtOf(loom).notices(loom))
        for (const NoticeFix& fix : notice.fixes)
            if (cleaning.label.empty() && fix.kind == NoticeFix::Kind::clean) cleaning = fix;
    std::string made;
    const Loom clean = *applied(loom, fixed(loom, {}, loom.nodes.front().id, cleaning, &made));
    for (auto _ : state) {
        const RebuildResult result = builtOf(clean);
        state.counters["faces"] = double(result.geometry(made)->faceCount());
        for (const auto& [id, report] : result.nodes) state.counters[id] = report.ms;
    }
    std::filesystem::remove(path);
}

BENCHMARK(scanToCleanMesh)->Name("scan of 10^6 triangles to a clean mesh")->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace
