#pragma once
// One frame of the library: its world is made anew from the states of what moves, so that nothing else has an influence.
#include "motion/ContactSolver.h"
#include "motion/Meetings.h"
#include "motion/RigidScene.h"

#include <BulletCollision/CollisionDispatch/btInternalEdgeUtility.h>
#include <btBulletDynamicsCommon.h>

namespace seedloom {

// Lengths inside are in units of the middle body's size: the library's own thresholds are made for bodies of about 1.
inline btVector3 inside(const Triple& v, double unit) { return {btScalar(v[0] / unit), btScalar(v[1] / unit), btScalar(v[2] / unit)}; }
inline Triple outside(const btVector3& v, double unit) { return {double(v.x()) * unit, double(v.y()) * unit, double(v.z()) * unit}; }
btTransform placeOf(const Triple& at, const Turn& turn, double unit);

/// Slower than this is calm: against how fast a body of that half size falls over by itself.
double calmSpeed(double pull, double half);

/// Triangles that do not move.
struct RigidFaces {
    RigidFaces(const std::vector<Triangle3>& triangles, double unit);
    btTriangleMesh mesh;
    btTriangleInfoMap edges;
    std::unique_ptr<btBvhTriangleMeshShape> shape;
};

/// What never moves: triangles, or a level floor at y = 0.
struct RigidGround {
    RigidGround(const std::vector<Triangle3>& triangles, double unit);
    std::unique_ptr<RigidFaces> faces;
    std::unique_ptr<btStaticPlaneShape> floor;
};

/// What moves as one in a frame.
struct Mover {
    const btCollisionShape* shape = nullptr;
    double mass = 1, half = 1;  ///< kg; half of its least extent, in units
    Triple inertia{};           ///< kg m²
    BodyState state;
    float friction = 0.5f, bounce = 0;
    bool still = false;  ///< stands like the ground; only then its shape may be made of faces
};

/// A contact that pressed in a step.
struct Press {
    int a = 0, b = 0;          ///< movers; below 0 the ground
    int partA = 0, partB = 0;  ///< which part of their shapes
    Triple at{}, force{};      ///< m, and N on a
};

class RigidWorld {
public:
    /// Shapes and ground must outlive it.
    RigidWorld(const std::vector<Mover>& movers, const RigidGround& ground, double unit, const Triple& gravity);

    ~RigidWorld();

    /// What pressed on what before, in impulses of a step, by movers; below 0 the ground. To be told before the first step.
    void expect(Meetings::Impulses impulses) { dispatcher_.expect(std::move(impulses)); }
    /// What pressed on what in the step before.
    Meetings::Impulses impulses() const { return dispatcher_.impulses(); }
    /// The first step of a frame takes more rounds.
    void step(double seconds, bool first);
    /// After all steps, which took so many seconds together.
    void endFrame(double seconds);
    /// Of one that is not still.
    BodyState stateOf(std::size_t mover) const;
    /// Those that have been calm for long enough, among others that are calm too.
    std::vector<std::uint8_t> resting() const;
    /// What pressed in the step before, which took so many seconds.
    std::vector<Press> presses(double seconds) const;
    /// By movers.
    std::vector<BodyOverlap> overlaps(double part);

private:
    struct Own {
        std::unique_ptr<btRigidBody> body;
        double half = 1, calm = 0, slow = 0;  ///< seconds for which it was slow, and below which speed it is that
        btTransform start;                    ///< of the frame
        btVector3 before{0, 0, 0};            ///< of the step
    };
    static void hush(Own& own, double seconds);
    bool lively(std::size_t mover) const;
    double smallerOf(int a, int b) const;
    void addGround(const RigidGround& ground);
    void add(const Mover& mover, double pull);
    void keepAbove(std::size_t mover);

    const double unit_;
    btBvhTriangleMeshShape* triangles_ = nullptr;  ///< of the ground
    std::unique_ptr<btRigidBody> ground_;
    std::vector<Own> movers_;
    btDefaultCollisionConfiguration configuration_;
    Meetings dispatcher_;
    btDbvtBroadphase broadphase_;
    ContactSolver solver_;
    btDiscreteDynamicsWorld world_;  ///< last: it takes bodies out of the broad phase when it goes
};

}  // namespace seedloom
