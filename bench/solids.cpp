// Booleans, remeshing and extrusion, beside the libraries that do the same.
#include "Alone.h"
#include "CgalMesh.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"
#include "operators/Polyhedra.h"
#include "surface/Boolean.h"
#include "surface/SoundSimplify.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/corefinement.h>
#include <CGAL/Polygon_mesh_processing/remesh.h>
#include <benchmark/benchmark.h>
#include <meshoptimizer.h>

using namespace seedloom;

namespace {

Geometry ball(int frequency, Vec3 at) { return transformed(geodesicBall(frequency), Affine{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, at}); }

std::vector<Geometry> drills() {
    std::vector<Geometry> out;
    for (int i = 0; i < 16; ++i)
        out.push_back(runAlone("transform", {{"move", {-1.5 + i % 4, -0.5, -1.5 + i / 4}}},
                               {runAlone("cylinder", {{"radius_bottom", 0.2}, {"radius_top", 0.2}, {"height", 1}, {"sides", 24}}, {})}));
    return out;
}

/// Frequency of a geodesic ball with about that many triangles.
int frequencyFor(std::int64_t triangles) { return int(std::lround(std::sqrt(double(triangles) / 20))); }

void twoBalls(benchmark::State& state) {
    const Geometry a = ball(frequencyFor(state.range(0)), {}), b = ball(frequencyFor(state.range(0)), {0.7f, 0.2f, 0.1f});
    for (auto _ : state) benchmark::DoNotOptimize(combineSolids({a}, {b}, BooleanForm::subtract, RunContext()));
}
void twoBallsLibrary(benchmark::State& state) {
    const Mesh a = meshOf(ball(frequencyFor(state.range(0)), {})), b = meshOf(ball(frequencyFor(state.range(0)), {0.7f, 0.2f, 0.1f}));
    for (auto _ : state) {
        Mesh one = a, two = b, out;
        CGAL::Polygon_mesh_processing::corefine_and_compute_difference(one, two, out);
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(twoBalls)->Name("boolean/two balls")->Arg(8000)->Arg(80000)->Arg(320000)->Unit(benchmark::kMillisecond);
BENCHMARK(twoBallsLibrary)->Name("boolean/two balls, CGAL")->Arg(8000)->Arg(80000)->Arg(320000)->Unit(benchmark::kMillisecond);

void slab(benchmark::State& state) {
    const Geometry base = runAlone("box", {{"size", {4, 0.4, 4}}, {"anchor", "middle"}}, {});
    const auto cutters = drills();
    for (auto _ : state) benchmark::DoNotOptimize(combineSolids({base}, cutters, BooleanForm::subtract, RunContext()));
}
void slabLibrary(benchmark::State& state) {
    const Mesh base = meshOf(runAlone("box", {{"size", {4, 0.4, 4}}, {"anchor", "middle"}}, {}));
    std::vector<Mesh> cutters;
    for (const Geometry& g : drills()) cutters.push_back(meshOf(g));
    for (auto _ : state) {
        Mesh out = base;
        for (Mesh cutter : cutters) CGAL::Polygon_mesh_processing::corefine_and_compute_difference(out, cutter, out);
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(slab)->Name("boolean/slab minus 16")->Unit(benchmark::kMillisecond);
BENCHMARK(slabLibrary)->Name("boolean/slab minus 16, CGAL one by one")->Unit(benchmark::kMillisecond);

void remesh(benchmark::State& state) {
    const Geometry in = ball(frequencyFor(state.range(0)), {});
    const double edge = 2.4 / frequencyFor(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("remesh", {{"edge_length", edge}, {"iterations", 3}}, {in}));
    state.SetComplexityN(state.range(0));
}
void remeshLibrary(benchmark::State& state) {
    const Mesh in = meshOf(ball(frequencyFor(state.range(0)), {}));
    const double edge = 2.4 / frequencyFor(state.range(0));
    for (auto _ : state) {
        Mesh out = in;
        CGAL::Polygon_mesh_processing::isotropic_remeshing(faces(out), edge, out, CGAL::parameters::number_of_iterations(3));
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(remesh)->Name("remesh/ball")->Arg(10000)->Arg(40000)->Arg(160000)->Complexity()->Unit(benchmark::kMillisecond);
BENCHMARK(remeshLibrary)->Name("remesh/ball, CGAL")->Arg(10000)->Arg(40000)->Arg(160000)->Unit(benchmark::kMillisecond);

void simplify(benchmark::State& state) {
    const Geometry in = ball(frequencyFor(state.range(0)), {});
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("simplify", {{"target", state.range(0) / 10}}, {in}));
    state.SetComplexityN(state.range(0));
}
void simplifySoundly(benchmark::State& state) {
    const Geometry in = ball(frequencyFor(state.range(0)), {});
    for (auto _ : state) benchmark::DoNotOptimize(simplifiedSoundly(in, {std::size_t(state.range(0) / 10), 0, false}, RunContext()));
    state.SetComplexityN(state.range(0));
}
void simplifyLibrary(benchmark::State& state) {
    const Geometry in = ball(frequencyFor(state.range(0)), {});
    std::vector<Index> out(in.cornerCount());
    for (auto _ : state)
        benchmark::DoNotOptimize(meshopt_simplify(out.data(), in.topology().cornerPoint().data(), in.cornerCount(), &in.positions()[0].x, in.pointCount(),
                                                  sizeof(Vec3), in.cornerCount() / 10, 1, 0, nullptr));
}
BENCHMARK(simplify)->Name("simplify/ball to a tenth")->Arg(10000)->Arg(40000)->Arg(160000)->Complexity()->Unit(benchmark::kMillisecond);
BENCHMARK(simplifySoundly)->Name("simplify/ball to a tenth, edge by edge")->Arg(10000)->Arg(40000)->Arg(160000)->Complexity()->Unit(benchmark::kMillisecond);
BENCHMARK(simplifyLibrary)->Name("simplify/ball to a tenth, meshoptimizer")->Arg(10000)->Arg(40000)->Arg(160000)->Unit(benchmark::kMillisecond);

}  // namespace
