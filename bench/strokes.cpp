// Strokes on a ball of 200 000 triangles; a library with the same to do is not at hand, so the limit is that of the design.
#include "Alone.h"
#include "geometry/NearestPlace.h"
#include "operators/deform/HandShapeKernel.h"
#include "scatter/SurfaceStrokes.h"

#include <benchmark/benchmark.h>

using namespace seedloom;

namespace {

constexpr int kFrequency = 100;  // 20 f² triangles

Geometry ballOf() { return runAlone("geodesic_sphere", {{"radius", 1}, {"frequency", kFrequency}}, {}); }

StrokeRule ruleOn(const Geometry& ball, float apart) {
    StrokeRule out;
    for (const Vec3 p : ball.positions()) out.directions.push_back({p.z + 0.3f * p.y, 0.2f * p.x, -p.x});
    out.step = 0.005, out.steps = 100, out.bothWays = false;
    if (apart > 0) out.apart.assign(ball.pointCount(), apart);
    return out;
}

void strokes(benchmark::State& state) {
    const Geometry ball = ballOf(), starts = runAlone("scatter", {{"count", 2000}}, {ball});
    const StrokeRule rule = ruleOn(ball, float(state.range(0)) * 0.001f);
    const NearestPlace nearest(ball, NearestPlace::On::faces);
    std::vector<Walker> walkers;
    for (const Vec3 p : starts.positions()) {
        const Place place = nearest.find(p);
        walkers.push_back({place.part, {double(place.weights[0]), double(place.weights[1]), double(place.weights[2])}, {}});
    }
    for (auto _ : state) {
        const SurfaceWalk surface(ball);
        const auto made = strokesFrom(surface, rule, walkers, RunContext());
        state.counters["strokes"] = double(made.size());
    }
}

void fills(benchmark::State& state) {
    const Geometry ball = ballOf();
    const StrokeRule rule = ruleOn(ball, 0.02f);
    for (auto _ : state) {
        const SurfaceWalk surface(ball);
        const auto made = strokesEverywhere(surface, rule, RunContext());
        state.counters["strokes"] = double(made.size());
    }
}

void operatorAlone(benchmark::State& state) {
    const Geometry ball =
        runAlone("measure", {{"of", "gradient"}, {"attribute", "height"}, {"name", "direction"}}, {runAlone("measure", {{"of", "height"}}, {ballOf()})});
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("surface_strokes", {{"hold_apart", 0.02}, {"step", 0.005}}, {ball}));
}

/// One move of a hand over 100 000 points, on what was kept of the strokes before: 16 ms is the limit.
void shapes(benchmark::State& state, const char* mode) {
    const Geometry ball = ballOf();
    const HandShaped before = readyToShape(ball, {}, 1);
    HandStroke stroke;
    for (int i = 0; i < 20; ++i) {
        const Vec3 n = normalized(Vec3{0.02f * float(i), 0.3f, 1});
        stroke.at.push_back(n), stroke.normal.push_back(n);
    }
    stroke.radius = float(state.range(0)) * 0.01f, stroke.mode = mode;
    for (auto _ : state) {
        HandShaped shaped = before;
        shapeByHand(shaped, {stroke}, RunContext());
        benchmark::DoNotOptimize(shaped.at.data());
    }
}

BENCHMARK_CAPTURE(shapes, grab, "grab")->Arg(10)->Arg(50)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(shapes, push, "push")->Arg(10)->Arg(50)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(shapes, flatten, "flatten")->Arg(10)->Arg(50)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(shapes, pinch, "pinch")->Arg(10)->Arg(50)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(shapes, smooth, "smooth")->Arg(10)->Arg(50)->Unit(benchmark::kMillisecond);
BENCHMARK(strokes)->Name("2000 strokes of 100 steps, mm apart")->Arg(0)->Arg(5)->Unit(benchmark::kMillisecond);
BENCHMARK(fills)->Name("strokes until it is full")->Unit(benchmark::kMillisecond);
BENCHMARK(operatorAlone)->Name("surface_strokes, whole step")->Unit(benchmark::kMillisecond);

}  // namespace
