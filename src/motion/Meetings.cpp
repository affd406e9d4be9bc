#include "motion/Meetings.h"

#include "motion/Contacts.h"
#include "parallel/Loops.h"

#include <BulletCollision/BroadphaseCollision/btCollisionAlgorithm.h>
#include <BulletCollision/BroadphaseCollision/btOverlappingPairCache.h>
#include <BulletCollision/CollisionDispatch/btCollisionObjectWrapper.h>
#include <BulletCollision/CollisionDispatch/btConvexConcaveCollisionAlgorithm.h>
#include <BulletCollision/CollisionDispatch/btConvexConvexAlgorithm.h>
#include <BulletCollision/CollisionShapes/btConcaveShape.h>
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
constexpr std::size_t kDeepest = 40, kSpread = 24;  // of many triangles, those that are asked for contacts
constexpr btScalar kHardly = 0.03;                  // of the distance at which contacts begin

/// The corner of a hull that lies farthest in a direction.
btVector3 farthest(const PlacedHull& hull, const btVector3& direction) {
    return hull.place(hull.shape.localGetSupportingVertexWithoutMargin(direction * hull.place.getBasis()));
}

/// The largest distance between a hull and a triangle that a few directions show, or one over `reach`. They may be farther apart than that.
btScalar seenGap(const PlacedHull& hull, btVector3 from, const btVector3* triangle, btScalar reach) {
    btScalar out = -BT_LARGE_FLOAT;
    for (int look = 0; look < kLooks; ++look) {
        const btVector3 nearest = nearestInTriangle(triangle, from), axis = from - nearest;
        const btScalar length2 = axis.length2();
        if (length2 <= 0) break;
        // No point of the triangle lies farther along the axis than the nearest one.
        const btVector3 corner = farthest(hull, -axis);
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

/// One triangle of those that a body has.
struct TriangleWrap {
    btTriangleShape shape;
    Wrap wrap;
    TriangleWrap(const Wrap& ground, const btVector3* corner, int part, int index)
        : shape(corner[0], corner[1], corner[2]), wrap(&ground, &shape, ground.getCollisionObject(), ground.getWorldTransform(), part, index) {
        shape.setMargin(ground.getCollisionShape()->getMargin());
    }
};

/// A hull over triangles that never move, as it stands in one step.
class TriangleByTriangle : public btTriangleCallback {
public:
    TriangleByTriangle(btDispatcher& dispatcher, const Wrap& hull, const Wrap& ground, const btDispatcherInfo& info, btManifoldResult& result,
                       btConvexPenetrationDepthSolver& depth)
        : dispatcher_(dispatcher), hull_(hull), ground_(ground), info_(info), result_(result), depth_(depth),
          shape_(*static_cast<const CoredHull*>(hull.getCollisionShape())), inGround_(ground.getWorldTransform().inverse() * hull.getWorldTransform()) {
        const btScalar margin = ground.getCollisionShape()->getMargin();
        reach_ = shape_.getMargin() + margin + result.getPersistentManifold()->getContactBreakingThreshold();
        shape_.getAabb(inGround_, low_, high_);
        low_ -= btVector3(margin, margin, margin), high_ += btVector3(margin, margin, margin);
        middle_ = (low_ + high_) * btScalar(0.5);
    }
    void run() {
        static_cast<const btConcaveShape*>(ground_.getCollisionShape())->processAllTriangles(this, low_, high_);
        thin();
        for (std::size_t i = 0; i < near_.size(); ++i) meet(i);
        contacts_.tell([&](const Contacts::Found& one) { tell(one); });
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

    void meet(std::size_t i) {
        const btVector3* corner = near_[i].corner;
        const btTransform& place = ground_.getWorldTransform();
        NearestCorners nearest;
        Between between;
        switch (nearnessOf(shape_.core(), inGround_, corner, 3, reach_ + shape_.deepest(), nearest, between)) {
            case Nearness::apart: return;
            case Nearness::near:
                contacts_.begin(i, shape_.getMargin());
                return contacts_.meet({shape_, hull_.getWorldTransform()}, corner, place, between,
                                      result_.getPersistentManifold()->getContactBreakingThreshold());
            case Nearness::overlapping: contacts_.begin(i, 0), asTheLibrary(near_[i]);
        }
    }

    void asTheLibrary(const Near& near) {
        const TriangleWrap one(ground_, near.corner, near.part, near.index);
        const btCollisionAlgorithmConstructionInfo info(&dispatcher_, 0);
        btConvexConvexAlgorithm(result_.getPersistentManifold(), info, &hull_, &one.wrap, &depth_, 0, 4).processCollision(&hull_, &one.wrap, info_, &contacts_);
    }

    /// The result must know which of the two is the triangle: its edges are looked up by number.
    void tell(const Contacts::Found& contact) {
        const Near& near = near_[contact.part];
        const TriangleWrap one(ground_, near.corner, near.part, near.index);
        const bool second = result_.getBody0Internal() != ground_.getCollisionObject();
        const Wrap* whole = second ? result_.getBody1Wrap() : result_.getBody0Wrap();
        if (second) result_.setBody1Wrap(&one.wrap), result_.setShapeIdentifiersB(near.part, near.index);
        else result_.setBody0Wrap(&one.wrap), result_.setShapeIdentifiersA(near.part, near.index);
        result_.addContactPoint(contact.normal, contact.at, contact.gap);
        if (second) result_.setBody1Wrap(whole);
        else result_.setBody0Wrap(whole);
    }

    btDispatcher& dispatcher_;
    const Wrap &hull_, &ground_;
    const btDispatcherInfo& info_;
    btManifoldResult& result_;
    btConvexPenetrationDepthSolver& depth_;
    const CoredHull& shape_;
    const btTransform inGround_;
    btVector3 middle_, low_, high_;
    btScalar reach_ = 0;
    std::vector<Near> near_;
    Contacts contacts_;
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
class HullOnHull : public btActivatingCollisionAlgorithm {
public:
    HullOnHull(const btCollisionAlgorithmConstructionInfo& info, const Wrap* a, const Wrap* b, btConvexPenetrationDepthSolver& depth)
        : btActivatingCollisionAlgorithm(info, a, b), depth_(depth), touching_(info.m_manifold) {}
    ~HullOnHull() override {
        if (owns_) m_dispatcher->releaseManifold(touching_);
    }

    void processCollision(const Wrap* a, const Wrap* b, const btDispatcherInfo& info, btManifoldResult* result) override {
        const bool contacts = touching_ && touching_->getNumContacts() > 0;
        const btScalar near = nearOf(*a, *b);
        if (contacts && !last_.due(*a, *b, near)) return refresh(*result);
        const auto& first = *static_cast<const CoredHull*>(a->getCollisionShape());
        const auto& second = *static_cast<const CoredHull*>(b->getCollisionShape());
        const btTransform firstInSecond = b->getWorldTransform().inverse() * a->getWorldTransform();
        const btScalar reach = near + first.deepest() + second.deepest();
        Between between;
        const Nearness nearness = nearnessOf(first.core(), firstInSecond, second.core().data(), second.core().size(), reach, nearest_, between);
        if (nearness == Nearness::apart) return contacts ? refresh(*result) : void();
        if (!touching_) touching_ = m_dispatcher->getNewManifold(a->getCollisionObject(), b->getCollisionObject()), owns_ = true;
        result->setPersistentManifold(touching_);
        if (nearness == Nearness::overlapping) {
            contacts_.begin(0, 0);
            btConvexConvexAlgorithm(touching_, btCollisionAlgorithmConstructionInfo(m_dispatcher, 0), a, b, &depth_, 0, 4)
                .processCollision(a, b, info, &contacts_);
        } else {
            contacts_.begin(0, std::min(first.getMargin(), second.getMargin()));
            contacts_.meet({first, a->getWorldTransform()}, {second, b->getWorldTransform()}, between, near);
        }
        contacts_.tell([&](const Contacts::Found& one) { result->addContactPoint(one.normal, one.at, one.gap); });
        refresh(*result);
    }
    btScalar calculateTimeOfImpact(btCollisionObject*, btCollisionObject*, const btDispatcherInfo&, btManifoldResult*) override { return 1; }
    void getAllContactManifolds(btManifoldArray& all) override {
        if (owns_) all.push_back(touching_);
    }

private:
    /// Whoever lent the contacts out refreshes them himself.
    void refresh(btManifoldResult& result) const {
        if (!owns_) return;
        result.setPersistentManifold(touching_);
        result.refreshContactPoints();
    }

    btConvexPenetrationDepthSolver& depth_;
    btPersistentManifold* touching_ = nullptr;
    bool owns_ = false;
    NearestCorners nearest_;
    LastLook last_;
    Contacts contacts_;
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
    if (!expected_.empty()) shareOut();
}

namespace {

std::pair<int, int> bodiesOf(const btPersistentManifold& touching) {
    return std::minmax({touching.getBody0()->getUserIndex(), touching.getBody1()->getUserIndex()});
}

}  // namespace

/// Evenly: where each of their contacts was is not remembered.
void Meetings::shareOut() {
    std::map<std::pair<int, int>, int> contacts;
    for (int m = 0; m < m_manifoldsPtr.size(); ++m) contacts[bodiesOf(*m_manifoldsPtr[m])] += m_manifoldsPtr[m]->getNumContacts();
    for (int m = 0; m < m_manifoldsPtr.size(); ++m) {
        const auto bodies = bodiesOf(*m_manifoldsPtr[m]);
        const auto expected = expected_.find(bodies);
        if (expected == expected_.end()) continue;
        for (int c = 0; c < m_manifoldsPtr[m]->getNumContacts(); ++c)
            m_manifoldsPtr[m]->getContactPoint(c).m_appliedImpulse = btScalar(expected->second / contacts[bodies]);
    }
    expected_.clear();
}

Meetings::Impulses Meetings::impulses() const {
    Impulses out;
    for (int m = 0; m < m_manifoldsPtr.size(); ++m) {
        double sum = 0;
        for (int c = 0; c < m_manifoldsPtr[m]->getNumContacts(); ++c) sum += double(m_manifoldsPtr[m]->getContactPoint(c).m_appliedImpulse);
        if (sum > 0) out[bodiesOf(*m_manifoldsPtr[m])] += sum;
    }
    return out;
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
