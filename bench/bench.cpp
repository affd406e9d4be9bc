// Speed of the core, beside the limit or library it is measured against. Run by scripts/bench; ratios count, not milliseconds.
#include "fields/Evaluate.h"
#include "fields/Noise.h"
#include "formats/LoomFile.h"
#include "formats/MeshFile.h"
#include "graph/Controls.h"
#include "graph/Edit.h"
#include "graph/Rebuild.h"
#include "geometry/NearestPlace.h"
#include "operators/Catalogue.h"
#include "operators/OperatorCall.h"
#include "operators/SubdivideKernel.h"
#include "surface/SurfaceDistance.h"

#include <benchmark/benchmark.h>
#include <opensubdiv/far/primvarRefiner.h>
#include <opensubdiv/far/topologyDescriptor.h>

using namespace seedloom;

namespace {

Geometry built(const char* op, Json settings) {
    Loom loom;
    Node node;
    node.id = "n";
    node.op = op;
    node.settings = std::move(settings);
    loom.nodes.push_back(std::move(node));
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(std::move(loom));
    Memo memo;
    return *rebuild(request, memo).geometry("n");
}

/// One operator on its own, without graph or memo.
Geometry runAlone(const char* op, const Json& settings, std::vector<Geometry> in) {
    const auto spec = operatorFor(op, settings);
    OperatorInput input;
    input.ports.resize(spec->inputs.size());
    if (!input.ports.empty()) input.ports[0] = std::move(in);
    for (const SettingSpec& s : spec->settings) input.settings.emplace(s.id, *sourceFromJson(settings.contains(s.id) ? settings[s.id] : s.fallback));
    return runOperator(*spec, input, RunContext()).geometry;
}

Geometry gridOf(int cells) { return built("grid", {{"cells", {cells, cells}}}); }

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
            add(strand + std::to_string(i), i % 3 ? "transform" : "noise_displace", i % 3 ? Json{{"move", {0.01, 0, 0}}, {"rotate", {0, 1, 0}}} : Json{{"amount", 0.01}, {"size", 0.5}}, {i, s});
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

void NoiseMillionPointsFourOctaves(benchmark::State& state) {
    std::vector<float> x(1 << 20), y(x.size()), z(x.size()), out(x.size());
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = float(i % 1024) * 0.01f, y[i] = float(i / 1024) * 0.01f;
    NoiseOptions options;
    options.octaves = 4;
    options.size = 0.3;
    for (auto _ : state) noise(x, y, z, options, out);
}
BENCHMARK(NoiseMillionPointsFourOctaves)->Unit(benchmark::kMillisecond);

void FormulaTenMillionFloats(benchmark::State& state) {
    Geometry g = gridOf(3162);
    g.setColumn(Element::point, "m", Column(std::vector<float>(g.pointCount(), 0.5f)));
    FieldContext context;
    context.geometry = &g;
    context.perElement = true;
    for (auto _ : state) benchmark::DoNotOptimize(evaluate(FormulaSource{"m * 0.5"}, context));
}
BENCHMARK(FormulaTenMillionFloats)->Unit(benchmark::kMillisecond);

/// The memory's limit for the line above: one multiplication into a fresh array.
void LimitTenMillionFloats(benchmark::State& state) {
    const std::vector<float> m(3163 * 3163, 0.5f);
    for (auto _ : state) {
        std::vector<float> out(m.size());
        for (std::size_t i = 0; i < m.size(); ++i) out[i] = m[i] * 0.5f;
        benchmark::DoNotOptimize(out.data());
    }
}
BENCHMARK(LimitTenMillionFloats)->Unit(benchmark::kMillisecond);

/// A formula that changes a component of the position, over so many points.
void FormulaLiftsPoints(benchmark::State& state) {
    const Geometry plain = gridOf(int(std::sqrt(double(state.range(0)))));
    Geometry g = plain;
    g.setColumn(Element::point, "mask", Column(std::vector<float>(g.pointCount(), 0.5f)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("formula", {{"text", "position.y += mask * 0.5;"}}, {g}));
    state.SetItemsProcessed(state.iterations() * std::int64_t(g.pointCount()));
}
BENCHMARK(FormulaLiftsPoints)->Arg(100'000)->Arg(1'000'000)->Arg(10'000'000)->Unit(benchmark::kMillisecond);

constexpr const char* kThirtyOperations =
    "made = ((a * b + 0.5) * (a - b) + a * 0.25) * (b * b - a * 0.125 + 1.5) + (a + b * 0.75) * (a * a + b * 2.0 - 0.5) "
    "- (a * 0.3 + b * 0.7) * (a - 0.2) + max(a, b) * min(a + 0.1, b - 0.1) + abs(a - b) * 0.5;";

Geometry twoNumbers(std::size_t count) {
    Geometry g(std::vector<Vec3>(count, Vec3{}));
    std::vector<float> a(count), b(count);
    for (std::size_t i = 0; i < count; ++i) a[i] = float(i % 1000) * 0.001f, b[i] = float(i % 777) * 0.002f;
    g.setColumn(Element::point, "a", Column(std::move(a)));
    g.setColumn(Element::point, "b", Column(std::move(b)));
    return g;
}

void FormulaThirtyOperations(benchmark::State& state) {
    const Geometry g = twoNumbers(std::size_t(state.range(0)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("formula", {{"text", kThirtyOperations}}, {g}));
}
BENCHMARK(FormulaThirtyOperations)->Arg(100'000)->Arg(1'000'000)->Arg(10'000'000)->Unit(benchmark::kMillisecond);

/// The same, as a plain loop that the compiler sees whole.
__attribute__((optimize("O2"), noinline)) void thirtyOperations(const float* pa, const float* pb, float* out, std::size_t n) {
    for (std::size_t i = 0; i < n; ++i) {
        const float a = pa[i], b = pb[i];
        out[i] = ((a * b + 0.5f) * (a - b) + a * 0.25f) * (b * b - a * 0.125f + 1.5f) + (a + b * 0.75f) * (a * a + b * 2.0f - 0.5f) - (a * 0.3f + b * 0.7f) * (a - 0.2f) +
                 std::max(a, b) * std::min(a + 0.1f, b - 0.1f) + std::abs(a - b) * 0.5f;
    }
}
void PlainLoopThirtyOperations(benchmark::State& state) {
    const Geometry g = twoNumbers(std::size_t(state.range(0)));
    for (auto _ : state) {
        std::vector<float> out(g.pointCount());
        thirtyOperations(g.values<float>(Element::point, "a")->data(), g.values<float>(Element::point, "b")->data(), out.data(), out.size());
        benchmark::DoNotOptimize(out.data());
    }
}
BENCHMARK(PlainLoopThirtyOperations)->Arg(100'000)->Arg(1'000'000)->Arg(10'000'000)->Unit(benchmark::kMillisecond);

void BlurTenRounds(benchmark::State& state) {
    Geometry g = gridOf(int(std::sqrt(double(state.range(0)))));
    g.setColumn(Element::point, "mask", Column(std::vector<float>(g.pointCount(), 0.5f)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("blur_attribute", {{"iterations", 10}}, {g}));
}
BENCHMARK(BlurTenRounds)->Arg(100'000)->Arg(1'000'000)->Unit(benchmark::kMillisecond);

Geometry ballOf(std::size_t points) {
    const int rings = int(std::sqrt(double(points) / 2));
    return runAlone("sphere", {{"sides", rings * 2}, {"rings", rings}}, {});
}

void MeasureCurvature(benchmark::State& state) {
    const Geometry g = ballOf(std::size_t(state.range(0)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("measure", {{"of", "curvature"}}, {g}));
}
BENCHMARK(MeasureCurvature)->Arg(100'000)->Arg(500'000)->Unit(benchmark::kMillisecond);

/// 10⁶ points near it to the nearest place on 200 000 triangles. (From the middle of a ball every triangle is as near as any other; no
/// tree helps there.)
void NearestPlaces(benchmark::State& state) {
    const Geometry ball = ballOf(100'000);
    Geometry points = ballOf(1'000'000);
    std::vector<Vec3> at = points.positions();
    for (std::size_t i = 0; i < at.size(); ++i) at[i] = at[i] * (0.9f + float(i % 17) * 0.0125f);
    points.setPositions(std::move(at));
    const NearestPlace places(ball, NearestPlace::On::faces);
    for (auto _ : state) {
        Index start = 0;
        float sum = 0;
        for (Vec3 p : points.positions()) {
            const Place place = places.find(p, start);
            start = place.part;
            sum += place.squaredDistance;
        }
        benchmark::DoNotOptimize(sum);
    }
}
BENCHMARK(NearestPlaces)->Unit(benchmark::kMillisecond);

void DistanceAlongSurface(benchmark::State& state) {
    const Geometry g = ballOf(std::size_t(state.range(0)));
    std::vector<float> start(g.pointCount(), std::numeric_limits<float>::infinity());
    start[0] = 0;
    for (auto _ : state) benchmark::DoNotOptimize(surfaceDistance(g, start, RunContext()));
}
BENCHMARK(DistanceAlongSurface)->Arg(100'000)->Unit(benchmark::kMillisecond);

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

BENCHMARK_MAIN();
