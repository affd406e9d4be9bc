// Speed of making, changing and measuring attributes, at three sizes and on one and two threads.
#include "Alone.h"

#include "fields/Noise.h"
#include "geometry/NearestPlace.h"
#include "surface/SurfaceDistance.h"

#include <benchmark/benchmark.h>
#include <tbb/global_control.h>

using namespace seedloom;

namespace {

/// As many threads as the second number of the measurement says.
class Threads {
public:
    explicit Threads(const benchmark::State& state) : control_(tbb::global_control::max_allowed_parallelism, std::size_t(state.range(1))) {}

private:
    tbb::global_control control_;
};

#define SCALED(NAME) \
    BENCHMARK(NAME)->ArgsProduct({{100'000, 1'000'000, 10'000'000}, {1, 2}})->ArgNames({"elements", "threads"})->UseRealTime()->Unit(benchmark::kMillisecond)

/// The kernel alone, on one thread.
void NoiseFourOctaves(benchmark::State& state, NoiseKind kind) {
    std::vector<float> x(1 << 20), y(x.size()), z(x.size()), out(x.size());
    for (std::size_t i = 0; i < x.size(); ++i) x[i] = float(i % 1024) * 0.01f, y[i] = float(i / 1024) * 0.01f;
    NoiseOptions options;
    options.octaves = 4;
    options.size = 0.3;
    options.kind = kind;
    for (auto _ : state) noise(x, y, z, options, out);
}
BENCHMARK_CAPTURE(NoiseFourOctaves, gradient, NoiseKind::gradient)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(NoiseFourOctaves, value, NoiseKind::value)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(NoiseFourOctaves, cells, NoiseKind::cells)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(NoiseFourOctaves, cellEdge, NoiseKind::cellEdge)->Unit(benchmark::kMillisecond);

/// Displaced points: 4 octaves, the direction of each point's normal.
void NoiseDisplacement(benchmark::State& state) {
    const Threads threads(state);
    const Geometry g = gridOf(int(std::sqrt(double(state.range(0)))));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("noise_displace", {{"octaves", 4}, {"along", "axis mask"}}, {g}));
}
SCALED(NoiseDisplacement);

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
    const Threads threads(state);
    const Geometry plain = gridOf(int(std::sqrt(double(state.range(0)))));
    Geometry g = plain;
    g.setColumn(Element::point, "mask", Column(std::vector<float>(g.pointCount(), 0.5f)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("formula", {{"text", "position.y += mask * 0.5;"}}, {g}));
    state.SetItemsProcessed(state.iterations() * std::int64_t(g.pointCount()));
}
SCALED(FormulaLiftsPoints);

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
    const Threads threads(state);
    const Geometry g = twoNumbers(std::size_t(state.range(0)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("formula", {{"text", kThirtyOperations}}, {g}));
}
SCALED(FormulaThirtyOperations);

/// The same, as a plain loop that the compiler sees whole.
__attribute__((optimize("O2"), noinline)) void thirtyOperations(const float* pa, const float* pb, float* out, std::size_t n) {
    for (std::size_t i = 0; i < n; ++i) {
        const float a = pa[i], b = pb[i];
        out[i] = ((a * b + 0.5f) * (a - b) + a * 0.25f) * (b * b - a * 0.125f + 1.5f) + (a + b * 0.75f) * (a * a + b * 2.0f - 0.5f) -
                 (a * 0.3f + b * 0.7f) * (a - 0.2f) + std::max(a, b) * std::min(a + 0.1f, b - 0.1f) + std::abs(a - b) * 0.5f;
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
    const Threads threads(state);
    Geometry g = gridOf(int(std::sqrt(double(state.range(0)))));
    g.setColumn(Element::point, "mask", Column(std::vector<float>(g.pointCount(), 0.5f)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("blur_attribute", {{"iterations", 10}}, {g}));
}
SCALED(BlurTenRounds);

void MeasureCurvature(benchmark::State& state) {
    const Threads threads(state);
    const Geometry g = ballOf(std::size_t(state.range(0)));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("measure", {{"of", "curvature"}}, {g}));
}
BENCHMARK(MeasureCurvature)
    ->ArgsProduct({{100'000, 500'000, 1'000'000}, {1, 2}})
    ->ArgNames({"elements", "threads"})
    ->UseRealTime()
    ->Unit(benchmark::kMillisecond);

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
    const Threads threads(state);
    const Geometry g = ballOf(std::size_t(state.range(0)));
    std::vector<float> start(g.pointCount(), std::numeric_limits<float>::infinity());
    start[0] = 0;
    for (auto _ : state) benchmark::DoNotOptimize(surfaceDistance(g, start, RunContext()));
}
BENCHMARK(DistanceAlongSurface)->ArgsProduct({{100'000, 1'000'000}, {1, 2}})->ArgNames({"elements", "threads"})->UseRealTime()->Unit(benchmark::kMillisecond);

}  // namespace
