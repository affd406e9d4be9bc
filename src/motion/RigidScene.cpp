#include "motion/RigidScene.h"

#include "geometry/Measures.h"
#include "motion/Meetings.h"

#include <BulletCollision/CollisionDispatch/btInternalEdgeUtility.h>
#include <BulletCollision/NarrowPhaseCollision/btRaycastCallback.h>
#include <btBulletDynamicsCommon.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <mutex>
#include <optional>

namespace seedloom {

namespace {

// Lengths inside are in units of the middle body's size: the library's own thresholds are made for bodies of about 1.
constexpr double kLeastSize = 1e-6;      // m
constexpr double kMargin = 0.001;        // of a body's half size
constexpr double kCalm = 0.12;           // of the speed at which it would fall over: slower is calm
constexpr double kCalmSeconds = 1;       // for which a body is calm before it rests: what slides on a slope is faster by then
constexpr double kLivelySeconds = 0.25;  // of calm: before, a body keeps those awake that it touches
constexpr double kRockingLoss = 10;      // by which part calm bodies turn less, a second
constexpr double kStepsASecond = 240;    // at least
constexpr int kMostSubsteps = 60;
constexpr int kRounds = 15, kFirstRounds = 60;  // of the solver; the first step of a frame knows nothing of what pressed on what
constexpr double kFastest = 0.5;                // of its half size: what moves farther in a step is swept

btVector3 inside(const Triple& v, double unit) { return {btScalar(v[0] / unit), btScalar(v[1] / unit), btScalar(v[2] / unit)}; }
Triple outside(const btVector3& v, double unit) { return {double(v.x()) * unit, double(v.y()) * unit, double(v.z()) * unit}; }

btTransform placeOf(const BodyState& state, double unit) {
    const auto& q = state.turn;
    return btTransform(btQuaternion(btScalar(q[0]), btScalar(q[1]), btScalar(q[2]), btScalar(q[3])), inside(state.at, unit));
}

/// Slower than this is calm: against how fast a body of that half size falls over by itself.
double calmSpeed(double pull, double half) { return kCalm * std::sqrt(pull * half); }

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

/// The shape of a body, and how large it is, in units.
struct Shape {
    std::vector<std::unique_ptr<btCollisionShape>> parts;
    std::unique_ptr<btCompoundShape> together;  ///< of several parts
    double half = 0;                            ///< of its least extent
    btCollisionShape* shape() const { return together ? together.get() : parts.front().get(); }
};

double leastExtent(const RigidBody& body) {
    double out = std::numeric_limits<double>::max();
    for (const auto& part : body.parts) {
        const Vec3 size = boundsOf(part).size();
        out = std::min(out, double(std::min({size.x, size.y, size.z})));
    }
    return std::max(out, kLeastSize);
}

std::unique_ptr<btCollisionShape> partShape(const std::vector<Vec3>& corners, double margin, double unit) {
    auto out = std::make_unique<btConvexHullShape>();
    for (const Vec3 p : corners) out->addPoint(btVector3(p.x, p.y, p.z) / btScalar(unit), false);
    out->setMargin(btScalar(margin));
    out->recalcLocalAabb();
    // Faces meet as faces, with all their contacts at once: nothing has to be known of the steps before.
    out->initializePolyhedralFeatures();
    return out;
}

Shape madeShape(const RigidBody& body, double unit) {
    Shape out;
    out.half = leastExtent(body) / unit / 2;
    for (const auto& part : body.parts) out.parts.push_back(partShape(part, kMargin * out.half, unit));
    if (out.parts.size() < 2) return out;
    out.together = std::make_unique<btCompoundShape>(true, int(out.parts.size()));
    for (const auto& part : out.parts) out.together->addChildShape(btTransform::getIdentity(), part.get());
    out.together->setMargin(kMargin * out.half);
    return out;
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

class BulletScene : public RigidScene {
public:
    BulletScene(std::vector<RigidBody> bodies, const std::vector<Triangle3>& ground) : bodies_(std::move(bodies)) {
        prepareLibrary();
        std::vector<double> sizes;
        for (const RigidBody& body : bodies_) sizes.push_back(leastExtent(body));
        if (!sizes.empty()) {
            smallest_ = *std::min_element(sizes.begin(), sizes.end());
            std::nth_element(sizes.begin(), sizes.begin() + std::ptrdiff_t(sizes.size() / 2), sizes.end());
            unit_ = sizes[sizes.size() / 2];
        }
        for (const RigidBody& body : bodies_) shapes_.push_back(madeShape(body, unit_));
        makeGround(ground);
    }

    std::size_t count() const override { return bodies_.size(); }
    double halfSize(std::size_t body) const override { return shapes_[body].half * unit_; }
    double unit() const { return unit_; }
    const btCollisionShape& shapeOf(std::size_t body) const { return *shapes_[body].shape(); }

    int substeps(double seconds, double gravity) const override {
        // A hundredth of its size is what the smallest body falls from rest in so long.
        const double wanted = gravity > 0 ? std::sqrt(gravity / (0.02 * smallest_)) : 0;
        return std::clamp(int(std::ceil(seconds * std::max(kStepsASecond, wanted))), 1, kMostSubsteps);
    }

    std::vector<BodyState> advanced(const std::vector<BodyState>& states, const FrameForces& forces, const RunContext& run) const override;
    std::vector<BodyOverlap> overlaps(const std::vector<BodyState>& states, double part) const override;

private:
    void makeGround(const std::vector<Triangle3>& ground) {
        if (ground.empty()) {
            groundShape_ = std::make_unique<btStaticPlaneShape>(btVector3(0, 1, 0), 0);
            return;
        }
        groundMesh_ = std::make_unique<btTriangleMesh>();
        for (const Triangle3& t : ground) {
            const auto at = [&](Vec3 p) { return btVector3(p.x, p.y, p.z) / btScalar(unit_); };
            groundMesh_->addTriangle(at(t[0]), at(t[1]), at(t[2]));
        }
        auto mesh = std::make_unique<btBvhTriangleMeshShape>(groundMesh_.get(), true);
        mesh->setMargin(0);
        edges_ = std::make_unique<btTriangleInfoMap>();
        btGenerateInternalEdgeInfo(mesh.get(), edges_.get());
        groundTriangles_ = mesh.get();
        groundShape_ = std::move(mesh);
    }

    friend class BulletWorld;
    std::vector<RigidBody> bodies_;
    double unit_ = 1, smallest_ = 1;  ///< m
    std::vector<Shape> shapes_;
    std::unique_ptr<btTriangleMesh> groundMesh_;
    std::unique_ptr<btTriangleInfoMap> edges_;
    std::unique_ptr<btCollisionShape> groundShape_;
    btBvhTriangleMeshShape* groundTriangles_ = nullptr;
};

/// One frame's world: made anew from the states, so that nothing else has an influence.
class BulletWorld {
public:
    /// Bodies that are `still` stand like the ground.
    BulletWorld(const BulletScene& scene, const std::vector<BodyState>& states, const FrameForces& forces, const std::vector<std::uint8_t>& still)
        : scene_(scene), unit_(scene.unit_), configuration_(Meetings::room()), dispatcher_(configuration_),
          world_(&dispatcher_, &broadphase_, &solver_, &configuration_) {
        configuration_.setPlaneConvexMultipointIterations(4, 4);
        world_.setGravity(inside(forces.gravity, unit_));
        btContactSolverInfo& info = world_.getSolverInfo();
        info.m_numIterations = kRounds;
        info.m_solverMode = SOLVER_SIMD | SOLVER_USE_WARMSTARTING | SOLVER_USE_2_FRICTION_DIRECTIONS;
        info.m_splitImpulse = 1;
        info.m_splitImpulsePenetrationThreshold = 0;
        addGround();
        const double pull = double(world_.getGravity().length());
        for (std::size_t i = 0; i < states.size(); ++i) addBody(i, states[i], forces, still[i] != 0, pull);
    }
    void step(double seconds, bool first) {
        world_.getSolverInfo().m_numIterations = first ? kFirstRounds : kRounds;
        before_.resize(bodies_.size());
        if (scene_.groundTriangles_)
            for (std::size_t i = 0; i < bodies_.size(); ++i) before_[i] = bodies_[i]->getWorldTransform().getOrigin();
        world_.stepSimulation(btScalar(seconds), 0);
        for (std::size_t i = 0; i < bodies_.size(); ++i) calm(i, seconds);
        if (scene_.groundTriangles_)
            for (std::size_t i = 0; i < bodies_.size(); ++i) keepAbove(i);
    }

    /// Of a body that is not still.
    BodyState stateOf(std::size_t i) const {
        const btRigidBody& body = *bodies_[i];
        BodyState out;
        out.at = outside(body.getWorldTransform().getOrigin(), unit_);
        const btQuaternion turn = body.getWorldTransform().getRotation();
        out.turn = {turn.x(), turn.y(), turn.z(), turn.w()};
        out.velocity = outside(body.getLinearVelocity(), unit_);
        out.spin = outside(body.getAngularVelocity(), 1);
        out.calm = float(calm_[i]);
        return out;
    }

    /// Bodies that have been calm for long enough, among others that are calm too.
    std::vector<std::uint8_t> resting() {
        std::vector<std::uint8_t> out(bodies_.size());
        for (std::size_t i = 0; i < out.size(); ++i) out[i] = calm_[i] >= kCalmSeconds;
        for (int m = 0; m < dispatcher_.getNumManifolds(); ++m) {
            const btPersistentManifold& touching = *dispatcher_.getManifoldByIndexInternal(m);
            const int a = touching.getBody0()->getUserIndex(), b = touching.getBody1()->getUserIndex();
            if (touching.getNumContacts() == 0 || a < 0 || b < 0) continue;
            if (lively(std::size_t(a))) out[std::size_t(b)] = 0;
            if (lively(std::size_t(b))) out[std::size_t(a)] = 0;
        }
        return out;
    }

    std::vector<BodyOverlap> overlaps(double part) {
        world_.performDiscreteCollisionDetection();
        std::map<std::pair<std::uint32_t, std::uint32_t>, double> deepest;
        for (int m = 0; m < dispatcher_.getNumManifolds(); ++m) {
            const btPersistentManifold& touching = *dispatcher_.getManifoldByIndexInternal(m);
            auto a = std::uint32_t(touching.getBody0()->getUserIndex()), b = std::uint32_t(touching.getBody1()->getUserIndex());
            if (a > b) std::swap(a, b);
            for (int c = 0; c < touching.getNumContacts(); ++c) {
                double& depth = deepest[{a, b}];
                depth = std::max(depth, -double(touching.getContactPoint(c).getDistance()) * unit_);
            }
        }
        std::vector<BodyOverlap> out;
        for (const auto& [pair, depth] : deepest) {
            const auto sizeOf = [&](std::uint32_t body) { return body == kGroundBody ? 1e300 : scene_.halfSize(body) * 2; };
            if (depth > part * std::min(sizeOf(pair.first), sizeOf(pair.second))) out.push_back({pair.first, pair.second, depth});
        }
        std::stable_sort(out.begin(), out.end(), [](const BodyOverlap& x, const BodyOverlap& y) { return x.depth > y.depth; });
        return out;
    }

private:
    bool lively(std::size_t i) const { return !bodies_[i]->isStaticObject() && calm_[i] < kLivelySeconds; }

    void addGround() {
        btRigidBody::btRigidBodyConstructionInfo info(0, nullptr, scene_.groundShape_.get());
        ground_ = std::make_unique<btRigidBody>(info);
        ground_->setUserIndex(-1);
        if (scene_.groundTriangles_) ground_->setCollisionFlags(ground_->getCollisionFlags() | btCollisionObject::CF_CUSTOM_MATERIAL_CALLBACK);
        world_.addRigidBody(ground_.get());
    }

    void addBody(std::size_t i, const BodyState& state, const FrameForces& forces, bool still, double pull) {
        const RigidBody& own = scene_.bodies_[i];
        const Shape& shape = scene_.shapes_[i];
        const btVector3 inertia = still ? btVector3(0, 0, 0) : inside(own.inertia, unit_ * unit_);
        btRigidBody::btRigidBodyConstructionInfo info(still ? btScalar(0) : btScalar(own.mass), nullptr, shape.shape(), inertia);
        info.m_startWorldTransform = placeOf(state, unit_);
        info.m_friction = forces.friction ? (*forces.friction)[i] : 0.5;
        info.m_restitution = forces.bounce ? (*forces.bounce)[i] : 0;
        auto body = std::make_unique<btRigidBody>(info);
        body->setUserIndex(int(i));
        if (!still) {
            body->setLinearVelocity(inside(state.velocity, unit_));
            body->setAngularVelocity(inside(state.spin, 1));
            body->setActivationState(DISABLE_DEACTIVATION);
            body->setCcdMotionThreshold(kFastest * shape.half);
            body->setCcdSweptSphereRadius(0.4 * shape.half);
        }
        world_.addRigidBody(body.get());
        bodies_.push_back(std::move(body));
        calm_.push_back(double(state.calm));
        slow_.push_back(calmSpeed(pull, shape.half));
    }

    /// Stones that only rock a little come to rest by what they grind off: the library knows of no such loss.
    void calm(std::size_t i, double seconds) {
        btRigidBody& body = *bodies_[i];
        if (body.isStaticObject()) return;
        const double half = scene_.shapes_[i].half;
        const double speed = std::max(double(body.getLinearVelocity().length()), double(body.getAngularVelocity().length()) * half) / slow_[i];
        calm_[i] = speed < 1 ? calm_[i] + seconds : 0;
        if (speed < 2) body.setAngularVelocity(body.getAngularVelocity() * btScalar(std::exp(-kRockingLoss * seconds)));
    }

    /// What went through the ground in a step goes back to where it went through, without the part of its motion that led there.
    void keepAbove(std::size_t i) {
        btRigidBody& body = *bodies_[i];
        if (body.isStaticObject()) return;
        const btVector3 to = body.getWorldTransform().getOrigin();
        if (to == before_[i]) return;
        FirstHit hit(before_[i], to);
        scene_.groundTriangles_->performRaycast(&hit, before_[i], to);
        if (hit.m_hitFraction >= 1) return;
        btTransform place = body.getWorldTransform();
        const btVector3 normal = hit.normal.normalized();
        place.setOrigin(before_[i].lerp(to, hit.m_hitFraction) + normal * (scene_.shapes_[i].half * 0.5));
        body.setWorldTransform(place);
        body.setInterpolationWorldTransform(place);
        const btVector3 velocity = body.getLinearVelocity();
        body.setLinearVelocity(velocity - normal * std::min(velocity.dot(normal), btScalar(0)));
    }

    const BulletScene& scene_;
    const double unit_;
    std::unique_ptr<btRigidBody> ground_;
    std::vector<std::unique_ptr<btRigidBody>> bodies_;
    std::vector<btVector3> before_;
    std::vector<double> calm_, slow_;  ///< seconds for which a body was slow, and below which speed it is that
    btDefaultCollisionConfiguration configuration_;
    Meetings dispatcher_;
    btDbvtBroadphase broadphase_;
    btSequentialImpulseConstraintSolver solver_;
    btDiscreteDynamicsWorld world_;  ///< last: it takes bodies out of the broad phase when it goes
};

double lengthOf(const Triple& v) { return std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]); }

/// Which bodies move in this frame. What rests wakes where something lively may come to touch it, in time to be hit.
class Waking {
public:
    Waking(const BulletScene& scene, const std::vector<BodyState>& states, const FrameForces& forces) : scene_(scene), states_(states), forces_(forces) {
        pull_ = lengthOf(forces.gravity);
        for (std::size_t i = 0; i < states.size(); ++i)
            if (!held(i) && !states[i].asleep && lively(i)) lively_.insert(reachOf(i), nullptr);
    }
    bool held(std::size_t i) const { return forces_.held && (*forces_.held)[i]; }
    bool still(std::size_t i) { return held(i) || (states_[i].asleep && !touched(i)); }

private:
    bool lively(std::size_t i) const {
        const double half = scene_.halfSize(i), slow = calmSpeed(pull_, half);
        return lengthOf(states_[i].velocity) >= slow || lengthOf(states_[i].spin) * half >= slow;
    }
    btDbvtVolume boxOf(std::size_t i) const {
        btVector3 low, high;
        scene_.shapeOf(i).getAabb(placeOf(states_[i], scene_.unit()), low, high);
        return btDbvtVolume::FromMM(low, high);
    }
    /// All that it may touch within the frame.
    btDbvtVolume reachOf(std::size_t i) const {
        btDbvtVolume out = boxOf(i);
        const double half = scene_.halfSize(i), fall = pull_ * forces_.seconds * forces_.seconds;
        const btScalar more = btScalar((0.1 * half + fall + lengthOf(states_[i].spin) * half * forces_.seconds) / scene_.unit());
        out.Expand({more, more, more});
        out.SignedExpand(inside(states_[i].velocity, scene_.unit()) * btScalar(forces_.seconds));
        return out;
    }
    bool touched(std::size_t i) {
        struct Found : btDbvt::ICollide {
            bool any = false;
            void Process(const btDbvtNode*) override { any = true; }
        } found;
        if (!lively_.empty()) lively_.collideTV(lively_.m_root, boxOf(i), found);
        return found.any;
    }

    const BulletScene& scene_;
    const std::vector<BodyState>& states_;
    const FrameForces& forces_;
    double pull_ = 0;
    btDbvt lively_;
};

/// Awake, so that it falls when it is let go.
BodyState heldStill(BodyState state) {
    state.velocity = state.spin = {};
    state.calm = 0, state.asleep = false;
    return state;
}

std::vector<BodyState> BulletScene::advanced(const std::vector<BodyState>& states, const FrameForces& forces, const RunContext& run) const {
    Waking waking(*this, states, forces);
    std::vector<std::uint8_t> still(states.size());
    for (std::size_t i = 0; i < states.size(); ++i) still[i] = waking.still(i);
    std::vector<BodyState> out = states;
    for (std::size_t i = 0; i < states.size(); ++i) {
        if (waking.held(i)) out[i] = heldStill(states[i]);
        else if (states[i].asleep && !still[i]) out[i].asleep = false, out[i].calm = 0;
    }
    if (std::all_of(still.begin(), still.end(), [](std::uint8_t one) { return one != 0; })) return out;
    BulletWorld world(*this, out, forces, still);
    const int steps = substeps(forces.seconds, lengthOf(forces.gravity));
    for (int s = 0; s < steps; ++s) {
        run.poll();
        world.step(forces.seconds / steps, s == 0);
    }
    const std::vector<std::uint8_t> rests = world.resting();
    for (std::size_t i = 0; i < states.size(); ++i) {
        if (still[i]) continue;
        out[i] = world.stateOf(i);
        if (!rests[i]) continue;
        out[i].asleep = true;
        out[i].velocity = out[i].spin = {};
    }
    return out;
}

std::vector<BodyOverlap> BulletScene::overlaps(const std::vector<BodyState>& states, double part) const {
    return BulletWorld(*this, states, {}, std::vector<std::uint8_t>(states.size())).overlaps(part);
}

}  // namespace

std::shared_ptr<const RigidScene> RigidScene::make(std::vector<RigidBody> bodies, const std::vector<Triangle3>& ground) {
    return std::make_shared<const BulletScene>(std::move(bodies), ground);
}

}  // namespace seedloom
