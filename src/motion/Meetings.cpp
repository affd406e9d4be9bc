#include "motion/Meetings.h"

#include "parallel/Loops.h"

#include <BulletCollision/BroadphaseCollision/btCollisionAlgorithm.h>
#include <BulletCollision/BroadphaseCollision/btOverlappingPairCache.h>
#include <BulletCollision/CollisionDispatch/btCollisionObjectWrapper.h>
#include <BulletCollision/CollisionDispatch/btConvexConcaveCollisionAlgorithm.h>
#include <BulletCollision/CollisionDispatch/btConvexConvexAlgorithm.h>
#include <BulletCollision/CollisionShapes/btConcaveShape.h>
#include <BulletCollision/CollisionShapes/btConvexHullShape.h>
#include <BulletCollision/CollisionShapes/btTriangleShape.h>
#include <BulletCollision/NarrowPhaseCollision/btGjkEpaPenetrationDepthSolver.h>

#include <algorithm>
#include <cmath>
#include <numeric>
#include <vector>

namespace seedloom {

namespace {

constexpr int kLooks = 3;  // directions that are tried before the library is asked
constexpr std::size_t kPairsAtOnce = 64;
constexpr std::size_t kDeepest = 10, kSpread = 14;  // of many triangles, those that are asked for contacts
constexpr btScalar kHardly = 0.03;                  // of the distance at which contacts begin

/// A hull where it stands.
struct PlacedHull {
    const btConvexHullShape& shape;
    const btTransform& place;
    /// Its corner that lies farthest in a direction.
    btVector3 farthest(const btVector3& direction) const { return place(shape.localGetSupportingVertexWithoutMargin(direction * place.getBasis())); }
};

/// Of a triangle, to a point. Method: regions of the point's projection (Ericson 2004).
btVector3 nearestOf(const btVector3* t, const btVector3& p) {
    const btVector3 ab = t[1] - t[0], ac = t[2] - t[0], ap = p - t[0];
    const btScalar d1 = ab.dot(ap), d2 = ac.dot(ap);
    if (d1 <= 0 && d2 <= 0) return t[0];
    const btVector3 bp = p - t[1];
    const btScalar d3 = ab.dot(bp), d4 = ac.dot(bp);
    if (d3 >= 0 && d4 <= d3) return t[1];
    const btScalar vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return t[0] + ab * (d1 / (d1 - d3));
    const btVector3 cp = p - t[2];
    const btScalar d5 = ab.dot(cp), d6 = ac.dot(cp);
    if (d6 >= 0 && d5 <= d6) return t[2];
    const btScalar vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return t[0] + ac * (d2 / (d2 - d6));
    const btScalar va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return t[1] + (t[2] - t[1]) * ((d4 - d3) / (d4 - d3 + d5 - d6));
    const btScalar all = va + vb + vc;
    return all > 0 ? t[0] + ab * (vb / all) + ac * (vc / all) : t[0];
}

/// The largest distance between a hull and a triangle that a few directions show, or one over `reach`. They may be farther apart than that.
btScalar seenGap(const PlacedHull& hull, btVector3 from, const btVector3* triangle, btScalar reach) {
    btScalar out = -BT_LARGE_FLOAT;
    for (int look = 0; look < kLooks; ++look) {
        const btVector3 nearest = nearestOf(triangle, from), axis = from - nearest;
        const btScalar length2 = axis.length2();
        if (length2 <= 0) break;
        // No point of the triangle lies farther along the axis than the nearest one.
        const btVector3 corner = hull.farthest(-axis);
        out = std::max(out, (corner - nearest).dot(axis) / std::sqrt(length2));
        if (out > reach || corner == from) break;
        from = corner;
    }
    return out;
}

using Wrap = btCollisionObjectWrapper;

/// How a hull stood to another shape when they were last looked at. While that hardly changes, their contacts only move along with them.
class LastLook {
public:
    /// Whether a look is due; it is taken as done then. `near`: from where on they have contacts.
    bool due(const Wrap& hull, const Wrap& other, btScalar near) {
        const btTransform now = other.getWorldTransform().inverse() * hull.getWorldTransform();
        if (known_) {
            btScalar turned = 0;
            for (int row = 0; row < 3; ++row) turned += (now.getBasis()[row] - at_.getBasis()[row]).length2();
            const btScalar moved = (now.getOrigin() - at_.getOrigin()).length() + std::sqrt(turned) * hull.getCollisionShape()->getAngularMotionDisc();
            if (moved < kHardly * near) return false;
        }
        known_ = true, at_ = now;
        return true;
    }

private:
    bool known_ = false;
    btTransform at_;
};

btScalar nearOf(const Wrap& a, const Wrap& b) {
    return std::min(a.getCollisionShape()->getContactBreakingThreshold(gContactBreakingThreshold),
                    b.getCollisionShape()->getContactBreakingThreshold(gContactBreakingThreshold));
}

/// A hull over triangles that never move, as it stands in one step.
class TriangleByTriangle : public btTriangleCallback {
public:
    TriangleByTriangle(btDispatcher& dispatcher, const Wrap& hull, const Wrap& ground, const btDispatcherInfo& info, btManifoldResult& result,
                       btConvexPenetrationDepthSolver& depth)
        : dispatcher_(dispatcher), hull_(hull), ground_(ground), info_(info), result_(result), depth_(depth),
          shape_(*static_cast<const btConvexHullShape*>(hull.getCollisionShape())), inGround_(ground.getWorldTransform().inverse() * hull.getWorldTransform()) {
        const btScalar margin = ground.getCollisionShape()->getMargin();
        reach_ = shape_.getMargin() + margin + result.getPersistentManifold()->getContactBreakingThreshold();
        shape_.getAabb(inGround_, low_, high_);
        low_ -= btVector3(margin, margin, margin), high_ += btVector3(margin, margin, margin);
        middle_ = (low_ + high_) * btScalar(0.5);
    }
    void run() {
        static_cast<const btConcaveShape*>(ground_.getCollisionShape())->processAllTriangles(this, low_, high_);
        thin();
        for (const Near& one : near_) meet(one);
    }

    void processTriangle(btVector3* triangle, int part, int index) override {
        if (!TestTriangleAgainstAabb2(triangle, low_, high_)) return;
        const btScalar gap = seenGap({shape_, inGround_}, middle_, triangle, reach_);
        if (gap <= reach_) near_.push_back({{triangle[0], triangle[1], triangle[2]}, part, index, gap});
    }

private:
    struct Near {
        btVector3 corner[3];
        int part, index;
        btScalar gap;
    };

    /// Only a few contacts are kept: where many triangles are near, those that look deepest, and some spread over all of them, will do.
    void thin() {
        if (near_.size() <= kDeepest + kSpread) return;
        // Triangles come in an order that follows space.
        std::stable_sort(near_.begin(), near_.end(), [](const Near& a, const Near& b) { return a.index < b.index; });
        std::vector<std::size_t> deepest(near_.size());
        std::iota(deepest.begin(), deepest.end(), std::size_t(0));
        std::stable_sort(deepest.begin(), deepest.end(), [&](std::size_t a, std::size_t b) { return near_[a].gap < near_[b].gap; });
        std::vector<std::uint8_t> taken(near_.size());
        for (std::size_t i = 0; i < kDeepest; ++i) taken[deepest[i]] = 1;
        for (std::size_t i = 0; i < kSpread; ++i) taken[i * near_.size() / kSpread] = 1;
        std::size_t at = 0;
        std::erase_if(near_, [&](const Near&) { return !taken[at++]; });
    }

    void meet(const Near& near) {
        const auto [part, index] = std::pair(near.part, near.index);
        btTriangleShape shape(near.corner[0], near.corner[1], near.corner[2]);
        shape.setMargin(ground_.getCollisionShape()->getMargin());
        const Wrap one(&ground_, &shape, ground_.getCollisionObject(), ground_.getWorldTransform(), part, index);
        // The result must know which of the two is the triangle: its edges are looked up by number.
        const bool second = result_.getBody0Internal() != ground_.getCollisionObject();
        const Wrap* whole = second ? result_.getBody1Wrap() : result_.getBody0Wrap();
        if (second) result_.setBody1Wrap(&one), result_.setShapeIdentifiersB(part, index);
        else result_.setBody0Wrap(&one), result_.setShapeIdentifiersA(part, index);
        const btCollisionAlgorithmConstructionInfo info(&dispatcher_, 0);
        btConvexConvexAlgorithm(result_.getPersistentManifold(), info, &hull_, &one, &depth_, 0, 4).processCollision(&hull_, &one, info_, &result_);
        if (second) result_.setBody1Wrap(whole);
        else result_.setBody0Wrap(whole);
    }

    btDispatcher& dispatcher_;
    const Wrap &hull_, &ground_;
    const btDispatcherInfo& info_;
    btManifoldResult& result_;
    btConvexPenetrationDepthSolver& depth_;
    const btConvexHullShape& shape_;
    const btTransform inGround_;
    btVector3 middle_, low_, high_;
    btScalar reach_ = 0;
    std::vector<Near> near_;
};

class HullOnGround : public btActivatingCollisionAlgorithm {
public:
    HullOnGround(const btCollisionAlgorithmConstructionInfo& info, const Wrap* a, const Wrap* b, bool swapped, btConvexPenetrationDepthSolver& depth)
        : btActivatingCollisionAlgorithm(info, a, b), swapped_(swapped), depth_(depth) {
        touching_ = m_dispatcher->getNewManifold((swapped ? b : a)->getCollisionObject(), (swapped ? a : b)->getCollisionObject());
    }
    ~HullOnGround() override { m_dispatcher->releaseManifold(touching_); }

    void processCollision(const Wrap* a, const Wrap* b, const btDispatcherInfo& info, btManifoldResult* result) override {
        result->setPersistentManifold(touching_);
        const Wrap &hull = swapped_ ? *b : *a, &ground = swapped_ ? *a : *b;
        if (last_.due(hull, ground, touching_->getContactBreakingThreshold())) TriangleByTriangle(*m_dispatcher, hull, ground, info, *result, depth_).run();
        result->refreshContactPoints();
    }
    btScalar calculateTimeOfImpact(btCollisionObject*, btCollisionObject*, const btDispatcherInfo&, btManifoldResult*) override { return 1; }
    void getAllContactManifolds(btManifoldArray& all) override { all.push_back(touching_); }

private:
    const bool swapped_;
    btConvexPenetrationDepthSolver& depth_;
    btPersistentManifold* touching_ = nullptr;
    LastLook last_;
};

/// Two hulls.
class HullOnHull : public btConvexConvexAlgorithm {
public:
    HullOnHull(const btCollisionAlgorithmConstructionInfo& info, const Wrap* a, const Wrap* b, btConvexPenetrationDepthSolver& depth)
        : btConvexConvexAlgorithm(info.m_manifold, info, a, b, &depth, 0, 4) {}
    void processCollision(const Wrap* a, const Wrap* b, const btDispatcherInfo& info, btManifoldResult* result) override {
        // The library only lends it out, but it is made for this meeting and nothing else.
        btPersistentManifold* touching = const_cast<btPersistentManifold*>(getManifold());
        const bool contacts = touching && touching->getNumContacts() > 0;
        const btScalar near = nearOf(*a, *b);
        if (contacts && !last_.due(*a, *b, near)) {
            result->setPersistentManifold(touching);
            result->refreshContactPoints();
        } else if (contacts || !seenApart(*a, *b, near)) {
            btConvexConvexAlgorithm::processCollision(a, b, info, result);
        }
    }

private:
    /// The direction that showed it last is tried first.
    bool seenApart(const Wrap& a, const Wrap& b, btScalar near) {
        const PlacedHull first{*static_cast<const btConvexHullShape*>(a.getCollisionShape()), a.getWorldTransform()};
        const PlacedHull second{*static_cast<const btConvexHullShape*>(b.getCollisionShape()), b.getWorldTransform()};
        const btScalar reach = first.shape.getMargin() + second.shape.getMargin() + near;
        btVector3 axis = axis_.fuzzyZero() ? first.place.getOrigin() - second.place.getOrigin() : axis_;
        for (int look = 0; look < kLooks; ++look) {
            const btScalar length2 = axis.length2();
            if (length2 <= 0) break;
            const btVector3 between = first.farthest(-axis) - second.farthest(axis);
            const btScalar gap = between.dot(axis);
            if (gap > 0 && gap * gap > reach * reach * length2) {
                axis_ = axis;
                return true;
            }
            axis = between;
        }
        axis_.setZero();
        return false;
    }
    btVector3 axis_{0, 0, 0};
    LastLook last_;
};

template <class Made> struct Maker : btCollisionAlgorithmCreateFunc {
    Made made;
    explicit Maker(Made make) : made(make) {}
    btCollisionAlgorithm* CreateCollisionAlgorithm(btCollisionAlgorithmConstructionInfo& info, const Wrap* a, const Wrap* b) override {
        return made(info, a, b);
    }
};

template <class Meeting, class... Args> btCollisionAlgorithm* newIn(const btCollisionAlgorithmConstructionInfo& info, Args&&... args) {
    return new (info.m_dispatcher1->allocateCollisionAlgorithm(sizeof(Meeting))) Meeting(info, std::forward<Args>(args)...);
}

}  // namespace

struct Meetings::Makers {
    btGjkEpaPenetrationDepthSolver depth;
    std::vector<std::unique_ptr<btCollisionAlgorithmCreateFunc>> all;
    template <class Made> btCollisionAlgorithmCreateFunc* add(Made made) { return all.emplace_back(std::make_unique<Maker<Made>>(made)).get(); }
};

btDefaultCollisionConstructionInfo Meetings::room() {
    btDefaultCollisionConstructionInfo out;
    out.m_customCollisionAlgorithmMaxElementSize = int(std::max(sizeof(HullOnGround), sizeof(HullOnHull)));
    return out;
}

Meetings::Meetings(btCollisionConfiguration& configuration) : btCollisionDispatcher(&configuration), makers_(std::make_unique<Makers>()) {
    using Info = const btCollisionAlgorithmConstructionInfo&;
    Makers& makers = *makers_;
    registerCollisionCreateFunc(CONVEX_HULL_SHAPE_PROXYTYPE, CONVEX_HULL_SHAPE_PROXYTYPE,
                                makers.add([&makers](Info info, const Wrap* a, const Wrap* b) { return newIn<HullOnHull>(info, a, b, makers.depth); }));
    for (const bool swapped : {false, true}) {
        const auto made =
            makers.add([&makers, swapped](Info info, const Wrap* a, const Wrap* b) { return newIn<HullOnGround>(info, a, b, swapped, makers.depth); });
        if (swapped) registerCollisionCreateFunc(TRIANGLE_MESH_SHAPE_PROXYTYPE, CONVEX_HULL_SHAPE_PROXYTYPE, made);
        else registerCollisionCreateFunc(CONVEX_HULL_SHAPE_PROXYTYPE, TRIANGLE_MESH_SHAPE_PROXYTYPE, made);
    }
}

Meetings::~Meetings() = default;

void Meetings::dispatchAllCollisionPairs(btOverlappingPairCache* pairs, const btDispatcherInfo& info, btDispatcher*) {
    btBroadphasePairArray& all = pairs->getOverlappingPairArray();
    const auto meet = [&](std::size_t i) { defaultNearCallback(all[int(i)], *this, info); };
    // Not to be stopped from within the library: between two steps is soon enough.
    forEach(std::size_t(all.size()), RunContext(), meet, kPairsAtOnce);
    if (changed_) putInOrder();
}

/// By bodies; several of the same two are made by one thread, one after the other, and stay so.
void Meetings::putInOrder() {
    changed_ = false;
    if (m_manifoldsPtr.size() == 0) return;
    const auto key = [](const btPersistentManifold* m) { return std::pair(m->getBody0()->getUserIndex(), m->getBody1()->getUserIndex()); };
    std::stable_sort(&m_manifoldsPtr[0], &m_manifoldsPtr[0] + m_manifoldsPtr.size(), [&](const auto* a, const auto* b) { return key(a) < key(b); });
    for (int m = 0; m < m_manifoldsPtr.size(); ++m) m_manifoldsPtr[m]->m_index1a = m;
}

btPersistentManifold* Meetings::getNewManifold(const btCollisionObject* a, const btCollisionObject* b) {
    const std::lock_guard lock(pools_);
    changed_ = true;
    return btCollisionDispatcher::getNewManifold(a, b);
}

void Meetings::releaseManifold(btPersistentManifold* touching) {
    const std::lock_guard lock(pools_);
    changed_ = true;
    btCollisionDispatcher::releaseManifold(touching);
}

void* Meetings::allocateCollisionAlgorithm(int size) {
    const std::lock_guard lock(pools_);
    return btCollisionDispatcher::allocateCollisionAlgorithm(size);
}

void Meetings::freeCollisionAlgorithm(void* meeting) {
    const std::lock_guard lock(pools_);
    btCollisionDispatcher::freeCollisionAlgorithm(meeting);
}

}  // namespace seedloom
