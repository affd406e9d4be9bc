#pragma once
// Convex shapes as they meet: each with a core a little inside of it. Where bodies touch, their cores are apart, so the direction between them is found by the
// quick search for nearest points, and a step begins where the one before has ended.
#include <BulletCollision/CollisionShapes/btConvexHullShape.h>

#include <vector>

namespace seedloom {

/// A hull with its faces, and its core.
class CoredHull : public btConvexHullShape {
public:
    /// `depth`: how far the core lies inside, from each face. At sharp corners it may be less.
    CoredHull(const std::vector<btVector3>& corners, btScalar margin, btScalar depth);
    const std::vector<btVector3>& corners() const { return corners_; }
    /// One point for each corner.
    const std::vector<btVector3>& core() const { return core_; }
    /// How far a corner of the core lies from its own at most: shapes whose cores are farther apart than theirs together don't touch.
    btScalar deepest() const { return deepest_; }

private:
    btScalar deepest_ = 0;
    std::vector<btVector3> corners_, core_;
};

/// Corners by which two shapes were nearest; what the next search begins with.
struct NearestCorners {
    int count = 0;
    int a[4]{}, b[4]{};
};

/// The nearest points of two shapes: the way from b to a, and the one on b; in the frame of b.
struct Between {
    btVector3 way, onB;
};

enum class Nearness : unsigned char { apart, near, overlapping };

/// Whether points `a`, placed by `aInB`, and points `b`, each as their hull, are farther apart than `reach`. `between`: where they are
/// near. Method: Gilbert, Johnson and Keerthi 1988, distance of the simplex by regions (Ericson 2004).
Nearness nearnessOf(const std::vector<btVector3>& a, const btTransform& aInB, const btVector3* b, std::size_t countB, btScalar reach, NearestCorners& nearest,
                    Between& between);

/// Of a triangle, to a point. Method: regions of the point's projection (Ericson 2004).
btVector3 nearestInTriangle(const btVector3* triangle, const btVector3& point);

}  // namespace seedloom
