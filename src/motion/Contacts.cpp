#include "motion/Contacts.h"

#include <BulletCollision/CollisionShapes/btConvexPolyhedron.h>
#include <BulletCollision/NarrowPhaseCollision/btPolyhedralContactClipping.h>

#include <algorithm>

namespace seedloom {

/// How far two shapes are apart along a direction from b to a, both in the frame of b.
struct Contacts::Apart {
    btVector3 direction;
    btScalar gap;  ///< below 0 where they overlap
    btScalar top;  ///< of b along the direction
    Apart(const btVector3& way, const std::vector<btVector3>& a, const btTransform& aInB, const btVector3* b, std::size_t countB)
        : direction(way.normalized()) {
        const btVector3 inA = direction * aInB.getBasis();
        btScalar least = BT_LARGE_FLOAT, most = -BT_LARGE_FLOAT;
        for (const btVector3& corner : a) least = std::min(least, corner.dot(inA));
        for (std::size_t i = 0; i < countB; ++i) most = std::max(most, b[i].dot(direction));
        gap = least + aInB.getOrigin().dot(direction) - most, top = most;
    }
};

namespace {

template <class See> void forEachFace(const CoredHull& hull, const See& see) {
    const auto& faces = hull.getConvexPolyhedron()->m_faces;
    for (int f = 0; f < faces.size(); ++f) see(btVector3(faces[f].m_plane[0], faces[f].m_plane[1], faces[f].m_plane[2]));
}

}  // namespace

void Contacts::meet(const PlacedHull& a, const PlacedHull& b, const Between& between, btScalar near) {
    const auto& corners = b.shape.corners();
    const btTransform aInB = b.place.inverse() * a.place;
    Apart apart(between.way, a.shape.corners(), aInB, corners.data(), corners.size());
    if (apart.gap > near) return;
    // Along another direction they may be less deep in each other: where slender ones lie side by side, cores look past each other.
    if (apart.gap < 0) {
        const auto look = [&](const btVector3& way) {
            if (const Apart other(way, a.shape.corners(), aInB, corners.data(), corners.size()); other.gap > apart.gap) apart = other;
        };
        forEachFace(a.shape, [&](const btVector3& normal) { look(-(aInB.getBasis() * normal)); });
        forEachFace(b.shape, look);
    }
    const std::size_t before = found_.size();
    btPolyhedralContactClipping::clipHullAgainstHull(b.place.getBasis() * apart.direction, *a.shape.getConvexPolyhedron(), *b.shape.getConvexPolyhedron(),
                                                     a.place, b.place, apart.gap, near, corners_, more_, *this);
    addNearest(before, between, apart, b.place);
}

void Contacts::meet(const PlacedHull& hull, const btVector3* triangle, const btTransform& place, const Between& between, btScalar near) {
    const Apart apart(between.way, hull.shape.corners(), place.inverse() * hull.place, triangle, 3);
    if (apart.gap > near) return;
    const std::size_t before = found_.size();
    corners_.resize(0);
    for (int i = 0; i < 3; ++i) corners_.push_back(place(triangle[i]));
    btPolyhedralContactClipping::clipFaceAgainstHull(place.getBasis() * apart.direction, *hull.shape.getConvexPolyhedron(), hull.place, corners_, more_,
                                                     apart.gap, near, *this);
    addNearest(before, between, apart, place);
}

/// Faces that meet say nothing of edges that cross beside of them: where no contact is as near as the shapes are, the nearest point is one too.
void Contacts::addNearest(std::size_t before, const Between& between, const Apart& apart, const btTransform& placeOfB) {
    // Contacts are nearer by the hair than the shapes: what is farther than those is not the nearest place.
    if (std::any_of(found_.begin() + std::ptrdiff_t(before), found_.end(), [&](const Found& one) { return one.gap <= apart.gap; })) return;
    const btVector3 at = between.onB + apart.direction * (apart.top - between.onB.dot(apart.direction));
    addContactPoint(placeOfB.getBasis() * apart.direction, placeOfB(at), apart.gap);
}

void Contacts::sort() {
    std::stable_sort(found_.begin(), found_.end(), [](const Found& a, const Found& b) { return a.gap > b.gap; });
}

}  // namespace seedloom
