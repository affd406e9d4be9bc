// OpenVDB and OpenMesh at the work that an operator of ours does as well.
#include "Alone.h"
#include "operators/Polyhedra.h"

#include <benchmark/benchmark.h>
#include <openvdb/openvdb.h>
#include <openvdb/tools/MeshToVolume.h>
#include <openvdb/tools/VolumeToMesh.h>
#include <OpenMesh/Core/Mesh/TriMesh_ArrayKernelT.hh>
#include <OpenMesh/Tools/Decimater/DecimaterT.hh>
#include <OpenMesh/Tools/Decimater/ModQuadricT.hh>
#include <OpenMesh/Tools/Subdivider/Uniform/LoopT.hh>

using namespace seedloom;

namespace {

using Mesh = OpenMesh::TriMesh_ArrayKernelT<>;

Geometry ball(std::int64_t triangles) { return geodesicBall(int(std::lround(std::sqrt(double(triangles) / 20)))); }

Mesh meshOf(const Geometry& g) {
    Mesh out;
    for (Vec3 p : g.positions()) out.add_vertex({p.x, p.y, p.z});
    for (std::size_t f = 0; f < g.faceCount(); ++f) {
        const auto points = g.topology().face(f);
        out.add_face(Mesh::VertexHandle(int(points[0])), Mesh::VertexHandle(int(points[1])), Mesh::VertexHandle(int(points[2])));
    }
    return out;
}

void loopOurs(benchmark::State& state) {
    const Geometry in = ball(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("subdivide", {{"form", "loop"}, {"levels", 1}}, {in}));
}
void loopOpenMesh(benchmark::State& state) {
    const Mesh in = meshOf(ball(state.range(0)));
    for (auto _ : state) {
        Mesh out = in;
        OpenMesh::Subdivider::Uniform::LoopT<Mesh> loop;
        loop.attach(out);
        loop(1);
        loop.detach();
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(loopOurs)->Name("library/Loop, one level")->Arg(10'000)->Arg(40'000)->Arg(160'000)->Unit(benchmark::kMillisecond);
BENCHMARK(loopOpenMesh)->Name("library/Loop, one level, OpenMesh")->Arg(10'000)->Arg(40'000)->Arg(160'000)->Unit(benchmark::kMillisecond);

void decimateOurs(benchmark::State& state) {
    const Geometry in = ball(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("simplify", {{"target", state.range(0) / 10}}, {in}));
}
void decimateOpenMesh(benchmark::State& state) {
    const Mesh in = meshOf(ball(state.range(0)));
    for (auto _ : state) {
        Mesh out = in;
        OpenMesh::Decimater::DecimaterT<Mesh> decimater(out);
        OpenMesh::Decimater::ModQuadricT<Mesh>::Handle quadric;
        decimater.add(quadric);
        decimater.module(quadric).unset_max_err();
        decimater.initialize();
        decimater.decimate_to_faces(0, std::size_t(state.range(0) / 10));
        out.garbage_collection();
        benchmark::DoNotOptimize(out);
    }
}
BENCHMARK(decimateOurs)->Name("library/simplify to a tenth")->Arg(10'000)->Arg(40'000)->Arg(160'000)->Unit(benchmark::kMillisecond);
BENCHMARK(decimateOpenMesh)->Name("library/simplify to a tenth, OpenMesh")->Arg(10'000)->Arg(40'000)->Arg(160'000)->Unit(benchmark::kMillisecond);

/// Cells along the longest side of a ball of 2 m.
double voxelOf(const benchmark::State& state) { return 2.0 / double(state.range(0)); }

void voxelsOurs(benchmark::State& state) {
    const Geometry in = ball(200'000);
    for (auto _ : state) benchmark::DoNotOptimize(runAlone("voxel_remesh", {{"voxel", voxelOf(state)}}, {in}));
}
void voxelsOpenVdb(benchmark::State& state) {
    openvdb::initialize();
    const Geometry in = ball(200'000);
    const auto transform = openvdb::math::Transform::createLinearTransform(voxelOf(state));
    std::vector<openvdb::Vec3s> points;
    std::vector<openvdb::Vec3I> triangles;
    for (Vec3 p : in.positions()) points.emplace_back(p.x, p.y, p.z);
    for (std::size_t f = 0; f < in.faceCount(); ++f) triangles.emplace_back(in.topology().face(f)[0], in.topology().face(f)[1], in.topology().face(f)[2]);
    for (auto _ : state) {
        const auto grid = openvdb::tools::meshToLevelSet<openvdb::FloatGrid>(*transform, points, triangles);
        std::vector<openvdb::Vec3s> outPoints;
        std::vector<openvdb::Vec4I> quads;
        openvdb::tools::volumeToMesh(*grid, outPoints, quads);
        benchmark::DoNotOptimize(quads.data());
    }
}
BENCHMARK(voxelsOurs)->Name("library/voxel remesh")->Arg(64)->Arg(128)->Arg(256)->UseRealTime()->Unit(benchmark::kMillisecond);
BENCHMARK(voxelsOpenVdb)->Name("library/voxel remesh, OpenVDB")->Arg(64)->Arg(128)->Arg(256)->UseRealTime()->Unit(benchmark::kMillisecond);

}  // namespace
