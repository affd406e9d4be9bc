// Points and copies from a thousand to a million, with the memory that the result holds. Beside them darts thrown at the same surface with the same spacing,
// kept apart by a tree of nanoflann that grows with them.
#include "Alone.h"
#include "geometry/Bake.h"
#include "geometry/Triangulate.h"
#include "meshes/MeshFile.h"
#include "operators/Polyhedra.h"
#include "scatter/CopyOverlap.h"

#include <benchmark/benchmark.h>
#include <nanoflann.hpp>

#include <random>

using namespace seedloom;

namespace {

Geometry ground() { return runAlone("grid", {{"size", {10, 10}}, {"cells", {100, 100}}}, {}); }
Geometry box() { return runAlone("box", {{"size", {0.01, 0.01, 0.01}}}, {}); }

Geometry runPorts(const char* op, const Json& settings, std::vector<std::vector<Geometry>> ports) {
    const auto spec = operatorFor(op, settings);
    OperatorInput input;
    input.ports = std::move(ports);
    const auto sources = std::make_shared<SettingSources>();
    for (const SettingSpec& s : spec->settings) sources->emplace(s.id, *sourceFromJson(settings.contains(s.id) ? settings[s.id] : s.fallback));
    input.settings = sources;
    return runOperator(*spec, input, RunContext()).geometry;
}
Geometry points(std::int64_t count) { return runAlone("scatter", {{"count", count}}, {ground()}); }
Geometry copies(std::int64_t count) { return runPorts("place_copies", {{"turn", {{"random", {{"range", {0, 360}}}}}}}, {{points(count)}, {box()}}); }

void tellMemory(benchmark::State& state, const Geometry& result) {
    state.counters["MB"] = double(result.byteSize()) / 1e6;
    state.counters["made"] = double(std::max(result.pointCount(), result.copyCount()));
}

void scatterBy(benchmark::State& state, const Json& settings) {
    const Geometry in = ground();
    Geometry out;
    for (auto _ : state) out = runAlone("scatter", settings, {in});
    tellMemory(state, out);
}
/// A spacing that leaves room for about so many points on the ground.
double spacingFor(std::int64_t count) { return std::sqrt(0.65 * 100 / double(count)); }

void scatterCount(benchmark::State& state) { scatterBy(state, {{"count", state.range(0)}}); }
void scatterDensity(benchmark::State& state) {
    scatterBy(state, {{"mode", "density"}, {"density", {{"formula", "noise(position) > 0.0 ? " + std::to_string(state.range(0) / 50) + ".0 : 0.0"}}}});
}
void scatterSpacing(benchmark::State& state) { scatterBy(state, {{"mode", "spacing"}, {"spacing", spacingFor(state.range(0))}}); }
void scatterRelaxed(benchmark::State& state) { scatterBy(state, {{"count", state.range(0)}, {"relax", 10}}); }
void scatterInVolume(benchmark::State& state) {
    const Geometry in = geodesicBall(40);
    Geometry out;
    for (auto _ : state) out = runAlone("scatter", {{"count", state.range(0)}, {"in", "volume"}}, {in});
    tellMemory(state, out);
}

struct Darts {
    std::vector<Vec3> at;
    std::size_t kdtree_get_point_count() const { return at.size(); }
    float kdtree_get_pt(std::size_t i, std::size_t c) const { return at[i][int(c)]; }
    template <class Box> bool kdtree_get_bbox(Box&) const { return false; }
};

/// Until as many darts in a row missed as ours leave out, too: a round of twice what fits that adds less than 0.6 %.
void dartsNanoflann(benchmark::State& state) {
    const Geometry in = ground();
    const Triangles triangles = triangulate(in);
    const double spacing = spacingFor(state.range(0));
    const auto round = std::size_t(2 * 0.7 * 100 / (spacing * spacing));
    std::size_t made = 0;
    for (auto _ : state) {
        Darts darts;
        using Tree = nanoflann::KDTreeSingleIndexDynamicAdaptor<nanoflann::L2_Simple_Adaptor<float, Darts>, Darts, 3>;
        Tree tree(3, darts, nanoflann::KDTreeSingleIndexAdaptorParams(16));
        std::mt19937 random(1);
        std::uniform_real_distribution<float> unit(0, 1);
        for (int r = 0; r < 16; ++r) {
            const std::size_t before = darts.at.size();
            for (std::size_t i = 0; i < round; ++i) {
                const std::size_t t = random() % triangles.count();
                const auto corner = [&](std::size_t k) { return in.positions()[in.topology().cornerPoint()[triangles.corners[t * 3 + k]]]; };
                const float s = std::sqrt(unit(random)), v = unit(random);
                const Vec3 p = corner(0) * (1 - s) + corner(1) * (s * (1 - v)) + corner(2) * (s * v);
                std::size_t nearest = 0;
                float far = std::numeric_limits<float>::max();
                nanoflann::KNNResultSet<float> found(1);
                found.init(&nearest, &far);
                if (!darts.at.empty()) tree.findNeighbors(found, &p.x, nanoflann::SearchParams());
                if (far < float(spacing * spacing)) continue;
                darts.at.push_back(p);
                tree.addPoints(darts.at.size() - 1, darts.at.size() - 1);
            }
            if (double(darts.at.size() - before) < 0.006 * double(darts.at.size())) break;
        }
        made = darts.at.size();
    }
    state.counters["made"] = double(made);
}

void placeCopies(benchmark::State& state) {
    const Geometry at = points(state.range(0)), shape = box();
    Geometry out;
    for (auto _ : state) out = runPorts("place_copies", {{"turn", {{"random", {{"range", {0, 360}}}}}}}, {{at}, {shape}});
    tellMemory(state, out);
}
void bakeAll(benchmark::State& state) {
    const Geometry in = copies(state.range(0));
    Geometry out;
    for (auto _ : state) out = bakeCopies(in);
    tellMemory(state, out);
}
void overlapsByBounds(benchmark::State& state) {
    const Geometry in = copies(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(overlapsOf(in, OverlapBy::bounds, RunContext()));
}
void overlapsByFaces(benchmark::State& state) {
    const Geometry in = copies(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(overlapsOf(in, OverlapBy::meshes, RunContext()));
}
void thinByDistance(benchmark::State& state) {
    const Geometry in = points(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("thin_out", {{"distance", spacingFor(state.range(0))}}, {in}));
}
void restOn(benchmark::State& state) {
    const Geometry in = runAlone("transform", {{"move", {0, 1, 0}}}, {copies(state.range(0))}),
                   hills = runAlone("noise_displace", {{"amount", 0.3}}, {ground()});
    for (auto _ : state) benchmark::DoNotOptimize(runPorts("rest_on", {{"lean", 1}}, {{in}, {hills}}));
}
void writeInstances(benchmark::State& state) {
    const Geometry in = copies(state.range(0));
    std::size_t bytes = 0;
    for (auto _ : state) bytes = glbToBytes(in).size();
    state.counters["MB"] = double(bytes) / 1e6;
}

#define SEEDLOOM_SIZES(most) ->RangeMultiplier(10)->Range(1000, most)->Unit(benchmark::kMillisecond)->UseRealTime()
BENCHMARK(scatterCount) SEEDLOOM_SIZES(1000000);
BENCHMARK(scatterDensity) SEEDLOOM_SIZES(1000000);
BENCHMARK(scatterSpacing) SEEDLOOM_SIZES(1000000);
BENCHMARK(dartsNanoflann) SEEDLOOM_SIZES(100000);
BENCHMARK(scatterRelaxed) SEEDLOOM_SIZES(100000);
BENCHMARK(scatterInVolume) SEEDLOOM_SIZES(100000);
BENCHMARK(placeCopies) SEEDLOOM_SIZES(1000000);
BENCHMARK(bakeAll) SEEDLOOM_SIZES(1000000);
BENCHMARK(overlapsByBounds) SEEDLOOM_SIZES(1000000);
BENCHMARK(overlapsByFaces) SEEDLOOM_SIZES(100000);
BENCHMARK(thinByDistance) SEEDLOOM_SIZES(1000000);
BENCHMARK(restOn) SEEDLOOM_SIZES(10000);
BENCHMARK(writeInstances) SEEDLOOM_SIZES(1000000);

}  // namespace
