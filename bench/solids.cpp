// Booleans, remeshing and extrusion, beside the libraries that do the same.
#include "Alone.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"
#include "operators/Polyhedra.h"
#include "operators/surface/BooleanKernel.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/corefinement.h>
#include <CGAL/Surface_mesh.h>
#include <benchmark/benchmark.h>

using namespace seedloom;

namespace {

using Mesh = CGAL::Surface_mesh<CGAL::Exact_predicates_inexact_constructions_kernel::Point_3>;

Mesh meshOf(const Geometry& g) {
    Mesh out;
    for (Vec3 p : g.positions()) out.add_vertex({double(p.x), double(p.y), double(p.z)});
    const Triangles t = triangulate(g);
    const auto at = [&](std::size_t k) { return Mesh::Vertex_index(g.topology().cornerPoint()[t.corners[k]]); };
    for (std::size_t i = 0; i < t.count(); ++i) out.add_face(at(3 * i), at(3 * i + 1), at(3 * i + 2));
    return out;
}

Geometry ball(int frequency, Vec3 at) { return transformed(geodesicBall(frequency), Affine{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, at}); }

std::vector<Geometry> drills() {
    std::vector<Geometry> out;
    for (int i = 0; i < 16; ++i)
        out.push_back(runAlone("transform", {{"move", {-1.5 + i % 4, -0.5, -1.5 + i / 4}}}, {runAlone("cylinder", {{"radius_bottom", 0.2}, {"radius_top", 0.2}, {"height", 1}, {"sides", 24}}, {})}));
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

}  // namespace
