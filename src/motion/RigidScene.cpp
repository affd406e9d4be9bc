#include "motion/RigidScene.h"

#include "geometry/Measures.h"
#include "motion/Clumps.h"
#include "motion/Cores.h"
#include "motion/RigidWorld.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace seedloom {

namespace {

constexpr double kLeastSize = 1e-6;    // m
constexpr double kMargin = 0.001;      // of a body's half size
constexpr double kCoreDepth = 0.05;    // the same: how far the core of a hull lies inside of it
constexpr double kStepsASecond = 144;  // at least
constexpr int kMostSubsteps = 60;

/// The shape of a body, and how large it is, in units.
struct Shape {
    std::vector<std::unique_ptr<btCollisionShape>> parts;
    std::unique_ptr<btCompoundShape> together;  ///< of several parts
    std::unique_ptr<RigidFaces> faces;          ///< while it is held
    double half = 0;                            ///< of its least extent
    const btCollisionShape* shape() const { return together ? together.get() : parts.front().get(); }
    const btCollisionShape* heldShape() const { return faces ? faces->shape.get() : shape(); }
};

double leastExtent(const RigidBody& body) {
    double out = std::numeric_limits<double>::max();
    for (const auto& part : body.parts) {
        const Vec3 size = boundsOf(part).size();
        out = std::min(out, double(std::min({size.x, size.y, size.z})));
    }
    return std::max(out, kLeastSize);
}

std::unique_ptr<btCollisionShape> partShape(const std::vector<Vec3>& corners, double half, double unit) {
    std::vector<btVector3> points;
    for (const Vec3 p : corners) points.push_back(btVector3(p.x, p.y, p.z) / btScalar(unit));
    return std::make_unique<CoredHull>(points, btScalar(kMargin * half), btScalar(kCoreDepth * half));
}

Shape madeShape(const RigidBody& body, double unit) {
    Shape out;
    out.half = leastExtent(body) / unit / 2;
    for (const auto& part : body.parts) out.parts.push_back(partShape(part, out.half, unit));
    if (!body.faces.empty()) out.faces = std::make_unique<RigidFaces>(body.faces, unit);
    if (out.parts.size() < 2) return out;
    out.together = std::make_unique<btCompoundShape>(true, int(out.parts.size()));
    for (const auto& part : out.parts) out.together->addChildShape(btTransform::getIdentity(), part.get());
    out.together->setMargin(kMargin * out.half);
    return out;
}

/// A clump as it moves in this frame; each body of one that is held stands by itself.
struct MovingClump {
    Clump clump;
    std::unique_ptr<btCompoundShape> shape;  ///< of several bodies
    std::vector<std::uint32_t> bodyOfPart;   ///< of that shape
    bool held = false;
};

class BulletScene : public RigidScene {
public:
    BulletScene(std::vector<RigidBody> bodies, const std::vector<Triangle3>& ground) : bodies_(std::move(bodies)) {
        std::vector<double> sizes;
        for (const RigidBody& body : bodies_) sizes.push_back(leastExtent(body));
        if (!sizes.empty()) {
            smallest_ = *std::min_element(sizes.begin(), sizes.end());
            std::nth_element(sizes.begin(), sizes.begin() + std::ptrdiff_t(sizes.size() / 2), sizes.end());
            unit_ = sizes[sizes.size() / 2];
        }
        for (const RigidBody& body : bodies_) shapes_.push_back(madeShape(body, unit_));
        ground_ = std::make_unique<RigidGround>(ground, unit_);
    }

    std::size_t count() const override { return bodies_.size(); }
    double halfSize(std::size_t body) const override { return shapes_[body].half * unit_; }

    int substeps(double seconds, double gravity) const override {
        // A hundredth of its size is what the smallest body falls from rest in so long.
        const double wanted = gravity > 0 ? std::sqrt(gravity / (0.02 * smallest_)) : 0;
        return std::clamp(int(std::ceil(seconds * std::max(kStepsASecond, wanted))), 1, kMostSubsteps);
    }

    std::vector<BodyState> advanced(const std::vector<BodyState>& states, const FrameForces& forces, const RunContext& run, std::vector<BodyPress>* presses,
                                    StepLoads* loads) const override;

    std::vector<BodyOverlap> overlaps(const std::vector<BodyState>& states, double part) const override {
        std::vector<Mover> movers;
        for (std::size_t i = 0; i < states.size(); ++i) {
            Mover& mover = movers.emplace_back(Mover{shapes_[i].heldShape(), bodies_[i].mass, shapes_[i].half, bodies_[i].inertia, states[i]});
            mover.still = shapes_[i].faces != nullptr;
        }
        return RigidWorld(movers, *ground_, unit_, FrameForces{}.gravity).overlaps(part);
    }

private:
    std::vector<MovingClump> gathered(const std::vector<BodyState>& states, const FrameForces& forces) const;
    void giveShape(MovingClump& one) const;
    Mover moverOf(const MovingClump& one, const FrameForces& forces) const;
    std::vector<BodyLoad> loadsOf(const std::vector<Press>& presses, const std::vector<MovingClump>& clumps, const RigidWorld& world) const;

    std::vector<RigidBody> bodies_;
    double unit_ = 1, smallest_ = 1;  ///< m
    std::vector<Shape> shapes_;
    std::unique_ptr<RigidGround> ground_;
};

/// Which movers move in this frame. What rests wakes where something lively may come to touch it, in time to be hit.
class Waking {
public:
    Waking(const std::vector<Mover>& movers, double unit, const FrameForces& forces) : unit_(unit), seconds_(forces.seconds) {
        pull_ = lengthOf(forces.gravity) / unit;
        for (const Mover& mover : movers)
            if (!mover.still && !mover.state.asleep && lively(mover)) lively_.insert(reachOf(mover), nullptr);
    }
    bool wakes(const Mover& mover) {
        struct Found : btDbvt::ICollide {
            bool any = false;
            void Process(const btDbvtNode*) override { any = true; }
        } found;
        if (!lively_.empty()) lively_.collideTV(lively_.m_root, boxOf(mover), found);
        return found.any;
    }

private:
    double speed(const Mover& mover) const { return lengthOf(mover.state.velocity) / unit_; }
    double turning(const Mover& mover) const { return lengthOf(mover.state.spin) * mover.half; }
    bool lively(const Mover& mover) const { return std::max(speed(mover), turning(mover)) >= calmSpeed(pull_, mover.half); }
    btDbvtVolume boxOf(const Mover& mover) const {
        btVector3 low, high;
        mover.shape->getAabb(placeOf(mover.state.at, mover.state.turn, unit_), low, high);
        return btDbvtVolume::FromMM(low, high);
    }
    /// All that it may touch within the frame.
    btDbvtVolume reachOf(const Mover& mover) const {
        btDbvtVolume out = boxOf(mover);
        const double away = double(out.Extents().length());
        const btScalar more = btScalar(0.1 * mover.half + pull_ * seconds_ * seconds_ + lengthOf(mover.state.spin) * away * seconds_);
        out.Expand({more, more, more});
        out.SignedExpand(inside(mover.state.velocity, unit_) * btScalar(seconds_));
        return out;
    }

    const double unit_, seconds_;
    double pull_ = 0;
    btDbvt lively_;
};

std::vector<MovingClump> BulletScene::gathered(const std::vector<BodyState>& states, const FrameForces& forces) const {
    std::vector<MovingClump> out;
    for (Clump& clump : clumpsOf(bodies_, states, forces.clump)) {
        const auto& members = clump.members;
        if (forces.held && std::any_of(members.begin(), members.end(), [&](const auto& m) { return (*forces.held)[m.body] != 0; })) {
            for (const Clump::Member& member : members) {
                Clump alone{{{member.body}}, bodies_[member.body].mass, bodies_[member.body].inertia, states[member.body]};
                out.push_back({std::move(alone), nullptr, {}, true});
            }
            continue;
        }
        MovingClump& one = out.emplace_back();
        one.clump = std::move(clump);
        if (one.clump.members.size() > 1) giveShape(one);
    }
    return out;
}

void BulletScene::giveShape(MovingClump& one) const {
    one.shape = std::make_unique<btCompoundShape>(true, int(one.clump.members.size()));
    for (const Clump::Member& member : one.clump.members)
        for (const auto& part : shapes_[member.body].parts) {
            one.shape->addChildShape(placeOf(member.at, member.turn, unit_), part.get());
            one.bodyOfPart.push_back(member.body);
        }
    one.shape->setMargin(shapes_[one.clump.members.front().body].shape()->getMargin());
}

Mover BulletScene::moverOf(const MovingClump& one, const FrameForces& forces) const {
    Mover out{one.shape.get(), one.clump.mass, 0, one.clump.inertia, one.clump.state, 0, 0, one.held};
    double friction = 0, bounce = 0;
    for (const Clump::Member& member : one.clump.members) {
        const double part = bodies_[member.body].mass / one.clump.mass;
        friction += part * double(forces.friction ? (*forces.friction)[member.body] : 0.5f);
        bounce += part * double(forces.bounce ? (*forces.bounce)[member.body] : 0.0f);
        // The largest one: by it a clump rocks and comes to rest.
        out.half = std::max(out.half, shapes_[member.body].half);
        if (!out.shape) out.shape = one.held ? shapes_[member.body].heldShape() : shapes_[member.body].shape();
    }
    out.friction = float(friction), out.bounce = float(bounce);
    return out;
}

/// On each body, at its centre of gravity.
std::vector<BodyLoad> BulletScene::loadsOf(const std::vector<Press>& presses, const std::vector<MovingClump>& clumps, const RigidWorld& world) const {
    std::vector<BodyLoad> out(bodies_.size());
    std::vector<BodyState> now(bodies_.size());
    std::vector<std::uint8_t> known(clumps.size());
    const auto add = [&](int mover, int part, const Triple& at, const Triple& force) {
        if (mover < 0) return;
        const MovingClump& one = clumps[std::size_t(mover)];
        if (!known[std::size_t(mover)]) moveMembers(one.clump, world.stateOf(std::size_t(mover)), now), known[std::size_t(mover)] = 1;
        const bool several = part >= 0 && std::size_t(part) < one.bodyOfPart.size();
        const std::uint32_t body = several ? one.bodyOfPart[std::size_t(part)] : one.clump.members.front().body;
        out[body].force = out[body].force + force;
        out[body].torque = out[body].torque + cross(at - now[body].at, force);
    };
    for (const Press& press : presses) {
        add(press.a, press.partA, press.at, press.force);
        add(press.b, press.partB, press.at, press.force * -1);
    }
    return out;
}

/// Forces between bodies, and impulses of a step between what moves: a clump is known by its first body.
class Pressing {
public:
    /// `factor`: from newtons to impulses.
    Pressing(const std::vector<MovingClump>& clumps, std::size_t bodies, double factor) : clumps_(clumps), factor_(factor), moverOf_(bodies, -1) {
        for (std::size_t i = 0; i < clumps.size(); ++i) moverOf_[clumps[i].clump.members.front().body] = int(i);
    }
    Meetings::Impulses byMovers(const std::vector<BodyPress>& presses) const {
        Meetings::Impulses out;
        for (const BodyPress& press : presses) {
            const int a = moverOf_[press.a], b = press.b == kGroundBody ? -1 : moverOf_[press.b];
            // What became part of a clump presses on nothing by itself.
            if (a >= 0 && (b >= 0 || press.b == kGroundBody)) out[std::minmax(a, b)] = double(press.force) * factor_;
        }
        return out;
    }
    /// `before` stays where neither of the two moved.
    std::vector<BodyPress> byBodies(const Meetings::Impulses& impulses, const std::vector<BodyPress>& before, const std::vector<Mover>& movers) const {
        std::vector<BodyPress> out;
        const auto still = [&](std::uint32_t body) { return body == kGroundBody || (moverOf_[body] >= 0 && movers[std::size_t(moverOf_[body])].still); };
        std::copy_if(before.begin(), before.end(), std::back_inserter(out), [&](const BodyPress& press) { return still(press.a) && still(press.b); });
        for (const auto& [movers, impulse] : impulses) {
            const auto bodyOf = [&](int mover) { return mover < 0 ? kGroundBody : clumps_[std::size_t(mover)].clump.members.front().body; };
            const auto [a, b] = std::minmax({bodyOf(movers.first), bodyOf(movers.second)});
            out.push_back({a, b, float(impulse / factor_)});
        }
        std::sort(out.begin(), out.end(), [](const BodyPress& x, const BodyPress& y) { return std::pair(x.a, x.b) < std::pair(y.a, y.b); });
        return out;
    }

private:
    const std::vector<MovingClump>& clumps_;
    const double factor_;
    std::vector<int> moverOf_;
};

/// Awake, so that it falls when it is let go.
void standStill(BodyState& state) {
    state.velocity = state.spin = {};
    state.calm = 0, state.asleep = false;
}

std::vector<BodyState> BulletScene::advanced(const std::vector<BodyState>& states, const FrameForces& forces, const RunContext& run,
                                             std::vector<BodyPress>* presses, StepLoads* loads) const {
    const std::vector<MovingClump> clumps = gathered(states, forces);
    std::vector<Mover> movers;
    for (const MovingClump& one : clumps) movers.push_back(moverOf(one, forces));
    Waking waking(movers, unit_, forces);
    std::vector<BodyState> out = states;
    bool any = false;
    for (std::size_t i = 0; i < movers.size(); ++i) {
        Mover& mover = movers[i];
        if (mover.still) {
            for (const Clump::Member& member : clumps[i].clump.members) standStill(out[member.body]);
        } else if (mover.state.asleep) {
            mover.still = !waking.wakes(mover);
            mover.state.asleep = false, mover.state.calm = 0;
        }
        any = any || !mover.still;
    }
    if (!any) return out;
    RigidWorld world(movers, *ground_, unit_, forces.gravity);
    const int steps = substeps(forces.seconds, lengthOf(forces.gravity));
    const Pressing pressing(clumps, bodies_.size(), forces.seconds / steps * (1 / unit_));
    if (presses) world.expect(pressing.byMovers(*presses));
    for (int s = 0; s < steps; ++s) {
        run.poll();
        world.step(forces.seconds / steps, s == 0);
        if (loads) loads->push_back(loadsOf(world.presses(forces.seconds / steps), clumps, world));
    }
    world.endFrame(forces.seconds);
    if (presses) *presses = pressing.byBodies(world.impulses(), *presses, movers);
    const std::vector<std::uint8_t> rests = world.resting();
    for (std::size_t i = 0; i < movers.size(); ++i) {
        if (movers[i].still) continue;
        BodyState now = world.stateOf(i);
        if (rests[i]) now.asleep = true, now.velocity = now.spin = {};
        moveMembers(clumps[i].clump, now, out);
    }
    return out;
}

}  // namespace

std::shared_ptr<const RigidScene> RigidScene::make(std::vector<RigidBody> bodies, const std::vector<Triangle3>& ground) {
    return std::make_shared<const BulletScene>(std::move(bodies), ground);
}

}  // namespace seedloom
