// Breaking, beside clipping each cell out of the whole with a library.
#include "Alone.h"
#include "CgalMesh.h"
#include "breaking/BodyCuts.h"
#include "breaking/BreakLines.h"
#include "breaking/CellSeeds.h"
#include "breaking/Crumbled.h"
#include "breaking/CurveWalls.h"
#include "breaking/RoughBreaks.h"
#include "breaking/RoughWalls.h"
#include "breaking/ShellCracks.h"
#include "breaking/VoronoiWalls.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"
#include "operators/Polyhedra.h"
#include "operators/Shapes.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/clip.h>
#include <benchmark/benchmark.h>

using namespace seedloom;

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;

/// A geodesic ball with about that many triangles.
Geometry ballOf(std::int64_t triangles) { return geodesicBall(int(std::lround(std::sqrt(double(triangles) / 20)))); }

void shatter(benchmark::State& state, double roughness) {
    const Geometry ball = ballOf(state.range(0));
    const Bounds bounds = boundsOf(ball.positions());
    for (auto _ : state) {
        const auto seeds = cellSeeds(ball, std::size_t(state.range(1)), 1, 0, RunContext());
        const Walls walls =
            wallFaces(voronoiWalls(seeds, roomOfWalls(bounds, {roughness, 0.4, 1}), {1, 1, 1}, 0, RunContext()), bounds, {roughness, 0.4, 1}, RunContext());
        benchmark::DoNotOptimize(cutBodies(
            ball, walls, [](Vec3) { return Index(0); }, RunContext()));
    }
    state.counters["peak MB"] = peakMegabytes();
}
void shatterLibrary(benchmark::State& state) {
    const Geometry ball = ballOf(state.range(0));
    const Mesh whole = meshOf(ball);
    for (auto _ : state) {
        const auto seeds = cellSeeds(ball, std::size_t(state.range(1)), 1, 0, RunContext());
        const auto neighbours = voronoiNeighbours(seeds, RunContext());
        for (std::size_t i = 0; i < seeds.size(); ++i) {
            Mesh cell = whole;
            for (Index j : neighbours[i]) {
                const Vec3 n = seeds[j] - seeds[i], at = (seeds[i] + seeds[j]) * 0.5f;
                CGAL::Polygon_mesh_processing::clip(cell,
                                                    Kernel::Plane_3(Kernel::Point_3(double(at.x), double(at.y), double(at.z)),
                                                                    Kernel::Vector_3(double(n.x), double(n.y), double(n.z))),
                                                    CGAL::parameters::clip_volume(true));
            }
            benchmark::DoNotOptimize(cell);
        }
    }
    state.counters["peak MB"] = peakMegabytes();
}
BENCHMARK_CAPTURE(shatter, flat, 0.0)->Name("shatter")->Args({20000, 100})->Args({60000, 300})->Args({200000, 1000})->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(shatter, rough, 0.03)->Name("shatter, rough walls")->Args({20000, 100})->Unit(benchmark::kMillisecond);
BENCHMARK(shatterLibrary)->Name("shatter, CGAL clip cell by cell")->Args({20000, 100})->Iterations(1)->Unit(benchmark::kMillisecond);

void crack(benchmark::State& state) {
    const Geometry ball = ballOf(state.range(0));
    const auto seeds = cellSeedsOn(ball, std::size_t(state.range(1)), 1, 0, RunContext());
    const std::vector<float> gap(ball.pointCount(), 0.01f);
    for (auto _ : state) benchmark::DoNotOptimize(crackShell(ball, seeds, ball.positions(), gap, RunContext()));
    state.counters["peak MB"] = peakMegabytes();
}
BENCHMARK(crack)->Name("crack shell")->Args({50000, 100})->Args({200000, 400})->Unit(benchmark::kMillisecond);

void roughCracks(benchmark::State& state) {
    const Geometry ball = ballOf(state.range(0));
    std::vector<Geometry> lines;
    for (int i = 0; i < 6; ++i) {
        const float a = float(i) * 0.55f, c = std::cos(a), s = std::sin(a), off = float(i % 3) * 0.2f - 0.2f;
        lines.push_back(
            curveThrough({{-c * 1.2f - s * off, 1, -s * 1.2f + c * off}, {-s * off, 1, c * off}, {c * 1.2f - s * off, 1, s * 1.2f + c * off}}, false));
    }
    CurveCut cut;
    cut.direction = {0, -1, 0};
    cut.rough = {0.02, 0.4, 1};
    const Geometry all = combine(lines);
    for (auto _ : state) {
        const CurveWalls walls = curveWalls(ball, all, cut, RunContext());
        benchmark::DoNotOptimize(cutBodies(
            ball, walls.walls, [](Vec3) { return Index(0); }, RunContext()));
    }
    state.counters["peak MB"] = peakMegabytes();
}
BENCHMARK(roughCracks)->Name("six rough cracks")->Arg(50000)->Unit(benchmark::kMillisecond);

/// A ball in pieces, as its operator makes them: faces of both sides of a break have the tag.
Geometry brokenBall(std::int64_t triangles, std::size_t count) {
    const Geometry ball = ballOf(triangles);
    const Bounds bounds = boundsOf(ball.positions());
    const Walls walls = wallFaces(voronoiWalls(cellSeeds(ball, count, 1, 0, RunContext()), bounds, {1, 1, 1}, 0, RunContext()), bounds, {}, RunContext());
    return cutBodies(
               ball, walls, [](Vec3) { return Index(0); }, RunContext())
        .geometry;
}

void crumble(benchmark::State& state) {
    const Geometry pieces = brokenBall(state.range(0), 10);
    std::vector<LineStretch> lines;
    const double rate = double(state.range(1));
    for (const BreakEdge& e : breakEdges(pieces)) lines.push_back({pieces.positions()[e.a], pieces.positions()[e.b], e.out, {0.06, 0.06}, {rate, rate}});
    for (auto _ : state) {
        const auto crumbs = crumbsAlong(lines, {0.35, 1}, 1, RunContext());
        benchmark::DoNotOptimize(crumbled(pieces, crumbs, RunContext()));
        state.counters["crumbs"] = double(crumbs.size());
    }
}
BENCHMARK(crumble)->Name("crumble edges")->Args({20000, 4})->Args({20000, 16})->Unit(benchmark::kMillisecond);

void roughen(benchmark::State& state) {
    const Geometry pieces = brokenBall(20000, 20);
    const auto& piece = *pieces.values<std::int32_t>(Element::face, "piece");
    const std::vector<float> amount(pieces.pointCount(), 0.02f);
    for (auto _ : state) {
        const RoughBreaks made = roughenBreaks(pieces, piece, amount, {1, 0.2, 1}, 1.0 / double(state.range(0)), RunContext());
        benchmark::DoNotOptimize(made);
        state.counters["triangles"] = double(made.geometry.faceCount());
    }
}
BENCHMARK(roughen)->Name("roughen breaks")->Arg(20)->Arg(60)->Unit(benchmark::kMillisecond);

}  // namespace
