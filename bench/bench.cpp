// Speed of the core, beside the limit or library it is measured against. Run by scripts/bench; ratios count, not milliseconds.
#include "Alone.h"
#include "Operators.h"

#include "formats/LoomFile.h"
#include "graph/Controls.h"
#include "graph/Edit.h"
#include "graph/Rebuild.h"
#include "meshes/MeshFile.h"
#include "surface/Subdivide.h"

#include <benchmark/benchmark.h>
#include <opensubdiv/far/primvarRefiner.h>
#include <opensubdiv/far/topologyDescriptor.h>

using namespace seedloom;

namespace {

/// The bollard after a change of one control, everything else remembered.
void bollardControl(benchmark::State& state, const char* control, double low, double high) {
    auto loom = std::make_shared<const Loom>(*readLoom(SEEDLOOM_DEMO "/mooring-bollard.loom"));
    Memo memo;
    double value = low;
    std::size_t faces = 0;
    for (auto _ : state) {
        value = value + (high - low) / 97 > high ? low : value + (high - low) / 97;
        RebuildRequest request;
        request.loom = loom;
        request.controls = *controlValues(*loom, {"", {{"detail", 3}, {"sides", 48}, {control, value}}});
        faces = rebuild(request, memo).geometry("out")->faceCount();
    }
    state.counters["faces"] = double(faces);
}
/// A thousand nodes, in ten strands that meet; the change is at the end, or at the start of one strand, or is taken back.
Loom thousandNodes() {
    Loom loom;
    const auto add = [&](std::string id, const char* op, Json settings, Cell cell) {
        Node node;
        node.id = std::move(id);
        node.op = op;
        node.settings = std::move(settings);
        node.cell = cell;
        loom.nodes.push_back(std::move(node));
    };
    for (int s = 0; s < 10; ++s) {
        const std::string strand = "s" + std::to_string(s) + "_";
        add(strand + "0", "box", {{"cells", {2, 2, 2}}}, {0, s});
        for (int i = 1; i < 99; ++i) {
            add(strand + std::to_string(i), i % 3 ? "transform" : "noise_displace",
                i % 3 ? Json{{"move", {0.01, 0, 0}}, {"rotate", {0, 1, 0}}} : Json{{"amount", 0.01}, {"size", 0.5}}, {i, s});
            loom.links.push_back({strand + std::to_string(i - 1), "", strand + std::to_string(i), "", Json::object()});
        }
        loom.links.push_back({strand + "98", "", "all", "", Json::object()});
    }
    add("all", "merge", Json::object(), {99, 0});
    add("last", "transform", {{"move", {0.0, 0.1, 0.0}}}, {100, 0});
    add("output", "output", Json::object(), {101, 0});
    loom.links.push_back({"all", "", "last", "", Json::object()});
    loom.links.push_back({"last", "", "output", "", Json::object()});
    loom.output = "output";
    return loom;
}

void thousandNodesAfter(benchmark::State& state, const char* node) {
    Loom loom = thousandNodes();
    Memo memo;
    double value = 0;
    for (auto _ : state) {
        loom = *applied(loom, setSetting(loom, node, "move", {0.0, value += 0.001, 0.0}));
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        benchmark::DoNotOptimize(rebuild(request, memo).geometry("output"));
    }
    state.counters["nodes"] = double(loom.nodes.size());
}
void ThousandNodesChangeAtTheEnd(benchmark::State& state) { thousandNodesAfter(state, "last"); }
void ThousandNodesChangeAtTheStart(benchmark::State& state) { thousandNodesAfter(state, "s3_1"); }
void ThousandNodesUndo(benchmark::State& state) {
    const Loom before = thousandNodes(), after = *applied(before, setSetting(before, "s3_1", "move", {0.0, 0.5, 0.0}));
    Memo memo;
    bool flip = false;
    for (auto _ : state) {
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>((flip = !flip) ? before : after);
        benchmark::DoNotOptimize(rebuild(request, memo).geometry("output"));
    }
}
BENCHMARK(ThousandNodesChangeAtTheEnd)->Unit(benchmark::kMillisecond);
BENCHMARK(ThousandNodesChangeAtTheStart)->Unit(benchmark::kMillisecond);
BENCHMARK(ThousandNodesUndo)->Unit(benchmark::kMillisecond);

void BollardHeight(benchmark::State& state) { bollardControl(state, "height", 0.5, 1.5); }
void BollardWear(benchmark::State& state) { bollardControl(state, "wear", 0.1, 1.0); }
BENCHMARK(BollardHeight)->Unit(benchmark::kMillisecond);
BENCHMARK(BollardWear)->Unit(benchmark::kMillisecond);

void Subdivide400kQuads(benchmark::State& state) {
    const Geometry g = gridOf(158);
    SubdivideOptions options;
    options.levels = 2;
    const RunContext run;
    for (auto _ : state) benchmark::DoNotOptimize(subdivide(g, options, run).pointCount());
}
BENCHMARK(Subdivide400kQuads)->Unit(benchmark::kMillisecond);

/// The library alone: topology made anew each time, positions only.
void OpenSubdiv400kQuads(benchmark::State& state) {
    namespace far = OpenSubdiv::Far;
    struct Place {
        Vec3 v;
        void Clear(void* = nullptr) { v = {}; }
        void AddWithWeight(const Place& o, float w) { v += o.v * w; }
    };
    const Geometry g = gridOf(158);
    for (auto _ : state) {
        std::vector<int> sizes(g.faceCount(), 4), indices(g.topology().cornerPoint().begin(), g.topology().cornerPoint().end());
        far::TopologyDescriptor d;
        d.numVertices = int(g.pointCount());
        d.numFaces = int(g.faceCount());
        d.numVertsPerFace = sizes.data();
        d.vertIndicesPerFace = indices.data();
        using Factory = far::TopologyRefinerFactory<far::TopologyDescriptor>;
        std::unique_ptr<far::TopologyRefiner> refiner(Factory::Create(d, Factory::Options(OpenSubdiv::Sdc::SCHEME_CATMARK, {})));
        refiner->RefineUniform(far::TopologyRefiner::UniformOptions(2));
        std::vector<Place> from(g.pointCount());
        for (std::size_t i = 0; i < from.size(); ++i) from[i].v = g.positions()[i];
        for (int level = 1; level <= 2; ++level) {
            std::vector<Place> to(std::size_t(refiner->GetLevel(level).GetNumVertices()));
            far::PrimvarRefiner(*refiner).Interpolate(level, from, to);
            from = std::move(to);
        }
        benchmark::DoNotOptimize(from.data());
    }
}
BENCHMARK(OpenSubdiv400kQuads)->Unit(benchmark::kMillisecond);

void ReadStlMillionTriangles(benchmark::State& state) {
    const std::string bytes = stlToBytes(gridOf(707));
    for (auto _ : state) benchmark::DoNotOptimize(stlFromBytes(bytes));
}
BENCHMARK(ReadStlMillionTriangles)->Unit(benchmark::kMillisecond);

void ReadObj500kTriangles(benchmark::State& state) {
    const std::string bytes = objToBytes(gridOf(500));
    for (auto _ : state) benchmark::DoNotOptimize(objFromBytes(bytes));
}
BENCHMARK(ReadObj500kTriangles)->Unit(benchmark::kMillisecond);

}  // namespace

int main(int argc, char** argv) {
    benchmark::Initialize(&argc, argv);
    if (benchmark::ReportUnrecognizedArguments(argc, argv)) return 1;
    registerOperators();  // not before the program's own lists are there
    benchmark::RunSpecifiedBenchmarks();
    benchmark::Shutdown();
    return 0;
}
