// Bodies that fall, beside the library by itself with the same bodies: one world that goes on from step to step, with the library's own settings.
#include "fields/Random.h"
#include "geometry/EvenDirections.h"
#include "motion/RigidScene.h"

#include <benchmark/benchmark.h>
#include <btBulletDynamicsCommon.h>

using namespace seedloom;

namespace {

constexpr int kStepsAFrame = 10;
constexpr std::size_t kCorners = 24;
constexpr double kFrame = 1.0 / 24;

struct Heap {
    std::vector<RigidBody> bodies;
    std::vector<BodyState> states;
    std::vector<Triangle3> ground;
};

/// Stones of about 0.8 m in layers over the ground.
Heap heapOf(int count, bool uneven) {
    Heap out;
    const int side = int(std::ceil(std::sqrt(count / 4.0)));

    for (int i = 0; i < count; ++i) {
        RigidBody& body = out.bodies.emplace_back();
        auto& corners = body.parts.emplace_back();
        for (std::size_t c = 0; c < kCorners; ++c) {
            const Vec3 d = evenDirection(c, kCorners);
            corners.push_back(d * (0.4f + 0.06f * float(randomOf(double(c), double(i)))));
        }
        body.mass = 600, body.inertia = {40, 40, 40};
        const int layer = i / (side * side), cell = i % (side * side);
        out.states.push_back({{1.0 * (cell % side) + 0.07 * layer, 1.2 + 1.05 * layer, 1.0 * (cell / side) + 0.05 * layer}});
    }
    if (!uneven) return out;
    const int cells = 80;
    const float width = float(side) * 2 / cells;
    const auto at = [&](int x, int z) {
        const float px = (float(x) - cells / 4.0f) * width, pz = (float(z) - cells / 4.0f) * width;
        return Vec3{px, 0.25f * std::sin(px * 1.3f) * std::cos(pz * 0.9f), pz};
    };
    for (int x = 0; x < cells; ++x)
        for (int z = 0; z < cells; ++z) {
            out.ground.push_back({at(x, z), at(x, z + 1), at(x + 1, z + 1)});
            out.ground.push_back({at(x, z), at(x + 1, z + 1), at(x + 1, z)});
        }
    return out;
}

void settles(benchmark::State& state) {
    const Heap heap = heapOf(int(state.range(0)), state.range(2) != 0);
    const auto scene = RigidScene::make(heap.bodies, heap.ground);
    for (auto _ : state) {
        std::vector<BodyState> states = heap.states;
        FrameForces forces;
        forces.seconds = kFrame;
        std::vector<BodyPress> presses;
        for (int f = 0; f < int(state.range(1)); ++f) states = scene->advanced(states, forces, RunContext(), &presses);
        benchmark::DoNotOptimize(states);
        state.counters["asleep"] = double(std::count_if(states.begin(), states.end(), [](const BodyState& s) { return s.asleep; }));
    }
}

void settlesLibrary(benchmark::State& state) {
    const Heap heap = heapOf(int(state.range(0)), state.range(2) != 0);
    for (auto _ : state) {
        btDefaultCollisionConfiguration configuration;
        btCollisionDispatcher dispatcher(&configuration);
        btDbvtBroadphase broadphase;
        btSequentialImpulseConstraintSolver solver;
        btDiscreteDynamicsWorld world(&dispatcher, &broadphase, &solver, &configuration);
        world.setGravity({0, -9.81, 0});
        btTriangleMesh mesh;
        for (const Triangle3& t : heap.ground) {
            const auto at = [](Vec3 p) { return btVector3(p.x, p.y, p.z); };
            mesh.addTriangle(at(t[0]), at(t[1]), at(t[2]));
        }
        std::unique_ptr<btCollisionShape> groundShape;
        if (heap.ground.empty()) groundShape = std::make_unique<btStaticPlaneShape>(btVector3(0, 1, 0), 0);
        else groundShape = std::make_unique<btBvhTriangleMeshShape>(&mesh, true);
        btRigidBody ground(btRigidBody::btRigidBodyConstructionInfo(0, nullptr, groundShape.get()));
        world.addRigidBody(&ground);
        std::vector<std::unique_ptr<btConvexHullShape>> shapes;
        std::vector<std::unique_ptr<btRigidBody>> bodies;
        for (std::size_t i = 0; i < heap.bodies.size(); ++i) {
            const RigidBody& own = heap.bodies[i];
            auto& shape = shapes.emplace_back(std::make_unique<btConvexHullShape>());
            for (const Vec3 p : own.parts[0]) shape->addPoint(btVector3(p.x, p.y, p.z), false);
            shape->recalcLocalAabb();
            btRigidBody::btRigidBodyConstructionInfo info(own.mass, nullptr, shape.get(), btVector3(own.inertia[0], own.inertia[1], own.inertia[2]));
            info.m_startWorldTransform.setIdentity();
            info.m_startWorldTransform.setOrigin(btVector3(heap.states[i].at[0], heap.states[i].at[1], heap.states[i].at[2]));
            world.addRigidBody(bodies.emplace_back(std::make_unique<btRigidBody>(info)).get());
        }
        for (int s = 0; s < int(state.range(1)) * kStepsAFrame; ++s) world.stepSimulation(kFrame / kStepsAFrame, 0);
        state.counters["asleep"] = double(std::count_if(bodies.begin(), bodies.end(), [](const auto& b) { return !b->isActive(); }));
    }
}

BENCHMARK(settles)->Name("settle bodies frames uneven")->Args({200, 24, 0})->Args({200, 24, 1})->Args({1000, 120, 1})->Unit(benchmark::kMillisecond);
BENCHMARK(settlesLibrary)->Name("settle, library alone")->Args({200, 24, 0})->Args({200, 24, 1})->Args({1000, 120, 1})->Unit(benchmark::kMillisecond);

}  // namespace
