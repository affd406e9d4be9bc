#include "motion/RigidWorld.h"

#include <BulletCollision/NarrowPhaseCollision/btRaycastCallback.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>

namespace seedloom {

namespace {

constexpr double kCalm = 0.12;                  // of the speed at which it would fall over: slower is calm
constexpr double kCalmSeconds = 1;              // for which a body is calm before it rests: what slides on a slope is faster by then
constexpr double kLivelySeconds = 0.25;         // of calm: before, a body keeps those awake that it touches
constexpr double kRockingLoss = 10;             // by which part calm bodies turn less, a second
constexpr int kRounds = 20, kFirstRounds = 30;  // of the solver; the first step of a frame knows only roughly what pressed on what
constexpr double kRestDepth = 0.01;             // of its size: what stands deeper in something is pushed out before it rests
constexpr double kLeastSize = 0.1;              // in units: slivers count as a tenth of the middle body, less is seen by nobody
constexpr double kFastest = 0.5;                // of its half size: what moves farther in a step is swept

/// Coefficients of two bodies together: of the same kind as each, and of the body alone on the ground.
btScalar meanFriction(const btCollisionObject* a, const btCollisionObject* b) {
    if (a->getUserIndex() < 0) return b->getFriction();
    if (b->getUserIndex() < 0) return a->getFriction();
    return std::sqrt(a->getFriction() * b->getFriction());
}

btScalar meanBounce(const btCollisionObject* a, const btCollisionObject* b) {
    if (a->getUserIndex() < 0) return b->getRestitution();
    if (b->getUserIndex() < 0) return a->getRestitution();
    return std::sqrt(a->getRestitution() * b->getRestitution());
}

/// Edges between faces that go on into each other must not catch what slides over them.
bool adjustEdges(btManifoldPoint& point, const btCollisionObjectWrapper* a, int partA, int indexA, const btCollisionObjectWrapper* b, int partB, int indexB) {
    if (b->getCollisionShape()->getShapeType() == TRIANGLE_SHAPE_PROXYTYPE) btAdjustInternalEdgeContacts(point, b, a, partB, indexB);
    else btAdjustInternalEdgeContacts(point, a, b, partA, indexA);
    return true;
}

/// What the library has one of for the whole program.
void prepareLibrary() {
    static std::once_flag once;
    std::call_once(once, [] {
        gCalculateCombinedFrictionCallback = meanFriction;
        gCalculateCombinedRestitutionCallback = meanBounce;
        gContactAddedCallback = adjustEdges;
    });
}

/// What a straight way through triangles meets first.
struct FirstHit : btTriangleRaycastCallback {
    using btTriangleRaycastCallback::btTriangleRaycastCallback;
    btVector3 normal{};
    btScalar reportHit(const btVector3& hitNormal, btScalar fraction, int, int) override {
        normal = hitNormal;
        return fraction;
    }
};

double depthOf(const btPersistentManifold& touching) {
    double out = 0;
    for (int c = 0; c < touching.getNumContacts(); ++c) out = std::max(out, -double(touching.getContactPoint(c).getDistance()));
    return out;
}

void heedEdges(btCollisionObject& body) {
    if (body.getCollisionShape()->getShapeType() == TRIANGLE_MESH_SHAPE_PROXYTYPE)
        body.setCollisionFlags(body.getCollisionFlags() | btCollisionObject::CF_CUSTOM_MATERIAL_CALLBACK);
}

}  // namespace

btTransform placeOf(const Triple& at, const Turn& turn, double unit) {
    return btTransform(btQuaternion(btScalar(turn[0]), btScalar(turn[1]), btScalar(turn[2]), btScalar(turn[3])), inside(at, unit));
}

double calmSpeed(double pull, double half) { return kCalm * std::sqrt(pull * half); }

RigidFaces::RigidFaces(const std::vector<Triangle3>& triangles, double unit) {
    for (const Triangle3& t : triangles) {
        const auto at = [&](Vec3 p) { return btVector3(p.x, p.y, p.z) / btScalar(unit); };
        mesh.addTriangle(at(t[0]), at(t[1]), at(t[2]));
    }
    shape = std::make_unique<btBvhTriangleMeshShape>(&mesh, true);
    shape->setMargin(0);
    btGenerateInternalEdgeInfo(shape.get(), &edges);
}

RigidGround::RigidGround(const std::vector<Triangle3>& triangles, double unit) {
    if (triangles.empty()) floor = std::make_unique<btStaticPlaneShape>(btVector3(0, 1, 0), 0);
    else faces = std::make_unique<RigidFaces>(triangles, unit);
}

RigidWorld::RigidWorld(const std::vector<Mover>& movers, const RigidGround& ground, double unit, const Triple& gravity)
    : unit_(unit), triangles_(ground.faces ? ground.faces->shape.get() : nullptr), configuration_(Meetings::room()), dispatcher_(configuration_),
      world_(&dispatcher_, &broadphase_, &solver_, &configuration_) {
    prepareLibrary();
    configuration_.setPlaneConvexMultipointIterations(4, 4);
    world_.setGravity(inside(gravity, unit_));
    btContactSolverInfo& info = world_.getSolverInfo();
    info.m_numIterations = kRounds;
    info.m_solverMode = SOLVER_SIMD | SOLVER_USE_WARMSTARTING | SOLVER_USE_2_FRICTION_DIRECTIONS;
    info.m_splitImpulse = 1;
    info.m_splitImpulsePenetrationThreshold = 0;
    addGround(ground);
    movers_.reserve(movers.size());
    for (const Mover& mover : movers) add(mover, double(world_.getGravity().length()));
}

/// All pairs at once: the library looks through all of them for each body that goes.
RigidWorld::~RigidWorld() {
    struct All : btOverlapCallback {
        bool processOverlap(btBroadphasePair&) override { return true; }
    } all;
    broadphase_.getOverlappingPairCache()->processAllOverlappingPairs(&all, &dispatcher_);
}

void RigidWorld::addGround(const RigidGround& ground) {
    btCollisionShape* shape = triangles_ ? static_cast<btCollisionShape*>(triangles_) : ground.floor.get();
    ground_ = std::make_unique<btRigidBody>(btRigidBody::btRigidBodyConstructionInfo(0, nullptr, shape));
    ground_->setUserIndex(-1);
    heedEdges(*ground_);
    world_.addRigidBody(ground_.get());
}

void RigidWorld::add(const Mover& mover, double pull) {
    const btVector3 inertia = mover.still ? btVector3(0, 0, 0) : inside(mover.inertia, unit_ * unit_);
    // The library asks for shapes that it might change, and does not.
    auto* shape = const_cast<btCollisionShape*>(mover.shape);
    btRigidBody::btRigidBodyConstructionInfo info(mover.still ? btScalar(0) : btScalar(mover.mass), nullptr, shape, inertia);
    info.m_startWorldTransform = placeOf(mover.state.at, mover.state.turn, unit_);
    info.m_friction = mover.friction, info.m_restitution = mover.bounce;
    Own own{std::make_unique<btRigidBody>(info), mover.half, double(mover.state.calm), calmSpeed(pull, mover.half), info.m_startWorldTransform};
    own.body->setUserIndex(int(movers_.size()));
    heedEdges(*own.body);
    if (!mover.still) {
        own.body->setLinearVelocity(inside(mover.state.velocity, unit_));
        own.body->setAngularVelocity(inside(mover.state.spin, 1));
        own.body->setActivationState(DISABLE_DEACTIVATION);
        own.body->setCcdMotionThreshold(kFastest * mover.half);
        own.body->setCcdSweptSphereRadius(0.4 * mover.half);
    }
    world_.addRigidBody(own.body.get());
    movers_.push_back(std::move(own));
}

void RigidWorld::step(double seconds, bool first) {
    world_.getSolverInfo().m_numIterations = first ? kFirstRounds : kRounds;
    for (Own& own : movers_) own.before = own.body->getWorldTransform().getOrigin();
    world_.stepSimulation(btScalar(seconds), 0);
    for (std::size_t i = 0; i < movers_.size(); ++i) {
        if (movers_[i].body->isStaticObject()) continue;
        hush(movers_[i], seconds);
        if (triangles_) keepAbove(i);
    }
}

BodyState RigidWorld::stateOf(std::size_t mover) const {
    const btRigidBody& body = *movers_[mover].body;
    BodyState out;
    out.at = outside(body.getWorldTransform().getOrigin(), unit_);
    const btQuaternion turn = body.getWorldTransform().getRotation();
    out.turn = {turn.x(), turn.y(), turn.z(), turn.w()};
    out.velocity = outside(body.getLinearVelocity(), unit_);
    out.spin = outside(body.getAngularVelocity(), 1);
    out.calm = float(movers_[mover].calm);
    return out;
}

bool RigidWorld::lively(std::size_t mover) const { return !movers_[mover].body->isStaticObject() && movers_[mover].calm < kLivelySeconds; }

/// The size of the smaller of two movers, in units; below 0 is the ground.
double RigidWorld::smallerOf(int a, int b) const {
    double out = 1e300;
    for (const int mover : {a, b})
        if (mover >= 0) out = std::min(out, std::max(movers_[std::size_t(mover)].half * 2, kLeastSize));
    return out;
}

std::vector<std::uint8_t> RigidWorld::resting() const {
    std::vector<std::uint8_t> out(movers_.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = movers_[i].calm >= kCalmSeconds;
    for (int m = 0; m < dispatcher_.getNumManifolds(); ++m) {
        const btPersistentManifold& touching = *dispatcher_.getManifoldByIndexInternal(m);
        const int a = touching.getBody0()->getUserIndex(), b = touching.getBody1()->getUserIndex();
        if (touching.getNumContacts() == 0) continue;
        if (depthOf(touching) > kRestDepth * smallerOf(a, b)) {
            if (a >= 0) out[std::size_t(a)] = 0;
            if (b >= 0) out[std::size_t(b)] = 0;
        }
        if (a < 0 || b < 0) continue;
        if (lively(std::size_t(a))) out[std::size_t(b)] = 0;
        if (lively(std::size_t(b))) out[std::size_t(a)] = 0;
    }
    return out;
}

std::vector<Press> RigidWorld::presses(double seconds) const {
    std::vector<Press> out;
    for (int m = 0; m < dispatcher_.getNumManifolds(); ++m) {
        const btPersistentManifold& touching = *dispatcher_.getManifoldByIndexInternal(m);
        for (int c = 0; c < touching.getNumContacts(); ++c) {
            const btManifoldPoint& point = touching.getContactPoint(c);
            const btVector3 impulse = point.m_normalWorldOnB * point.m_appliedImpulse + point.m_lateralFrictionDir1 * point.m_appliedImpulseLateral1 +
                                      point.m_lateralFrictionDir2 * point.m_appliedImpulseLateral2;
            if (impulse.isZero()) continue;
            out.push_back({touching.getBody0()->getUserIndex(), touching.getBody1()->getUserIndex(), point.m_index0, point.m_index1,
                           outside(point.getPositionWorldOnA(), unit_), outside(impulse, unit_ / seconds)});
        }
    }
    return out;
}

std::vector<BodyOverlap> RigidWorld::overlaps(double part) {
    world_.performDiscreteCollisionDetection();
    std::map<std::pair<std::uint32_t, std::uint32_t>, double> deepest;
    for (int m = 0; m < dispatcher_.getNumManifolds(); ++m) {
        const btPersistentManifold& touching = *dispatcher_.getManifoldByIndexInternal(m);
        const auto [a, b] = std::minmax({std::uint32_t(touching.getBody0()->getUserIndex()), std::uint32_t(touching.getBody1()->getUserIndex())});
        double& depth = deepest[{a, b}];
        depth = std::max(depth, depthOf(touching));
    }
    std::vector<BodyOverlap> out;
    for (const auto& [pair, depth] : deepest)
        if (depth > part * smallerOf(int(pair.first), int(pair.second))) out.push_back({pair.first, pair.second, depth * unit_});
    std::stable_sort(out.begin(), out.end(), [](const BodyOverlap& x, const BodyOverlap& y) { return x.depth > y.depth; });
    return out;
}

/// Stones that only rock a little come to rest by what they grind off: the library knows of no such loss.
void RigidWorld::hush(Own& own, double seconds) {
    const btVector3 spin = own.body->getAngularVelocity();
    if (std::max(own.body->getLinearVelocity().length(), spin.length() * own.half) < 2 * own.slow)
        own.body->setAngularVelocity(spin * btScalar(std::exp(-kRockingLoss * seconds)));
}

/// By how far it came in the frame: what only trembles is calm.
void RigidWorld::endFrame(double seconds) {
    for (Own& own : movers_) {
        if (own.body->isStaticObject()) continue;
        const btTransform& now = own.body->getWorldTransform();
        const double moved = double((now.getOrigin() - own.start.getOrigin()).length());
        const double turned = double(now.getRotation().angleShortestPath(own.start.getRotation()));
        own.calm = std::max(moved, turned * own.half) < own.slow * seconds ? own.calm + seconds : 0;
    }
}

/// What went through the ground in a step goes back to where it went through, without the part of its motion that led there.
void RigidWorld::keepAbove(std::size_t mover) {
    const Own& own = movers_[mover];
    btTransform place = own.body->getWorldTransform();
    const btVector3 to = place.getOrigin();
    if (to == own.before) return;
    FirstHit hit(own.before, to);
    triangles_->performRaycast(&hit, own.before, to);
    if (hit.m_hitFraction >= 1) return;
    const btVector3 normal = hit.normal.normalized();
    place.setOrigin(own.before.lerp(to, hit.m_hitFraction) + normal * (own.half * 0.5));
    own.body->setWorldTransform(place);
    own.body->setInterpolationWorldTransform(place);
    const btVector3 velocity = own.body->getLinearVelocity();
    own.body->setLinearVelocity(velocity - normal * std::min(velocity.dot(normal), btScalar(0)));
}

}  // namespace seedloom
