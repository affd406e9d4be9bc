#pragma once
// Convex shapes as they meet: each with a core a little inside of it. Where bodies touch, their cores are apart, so the direction between them is found by the
// quick search for nearest points, and a step begins where the one before has ended.
#include <BulletCollision/CollisionShapes/btConvexHullShape.h>

#include <vector>

namespace seedloom {

/// A hull with its faces, and its core.
class CoredHull : public btConvexHullShape {
public:
    /// `depth`: how far the core lies inside, from each face. It may be less at sharp corners.
    CoredHull(const std::vector<btVector3>& corners, btScalar margin, btScalar depth);
    const std::vector<btVector3>& corners() const { return corners_; }
    /// One point for each corner.
    const std::vector<btVector3>& core() const { return core_; }
    btScalar coreDepth() const { return depth_; }

private:
    const btScalar depth_;
    std::vector<btVector3> corners_, core_;
};

/// Corners by which two shapes were nearest; what the next search begins with.
struct NearestCorners {
    int count = 0;
    int a[4]{}, b[4]{};
};

enum class Nearness : unsigned char { apart, near, overlapping };

/// Whether points `a`, placed by `aInB`, and points `b`, each as their hull, are farther apart than `reach`. `between`: from b to a, between the nearest
/// points, or, where they are apart, a direction that shows it. Method: Gilbert, Johnson and Keerthi 1988, distance of the simplex by regions (Ericson 2004).
Nearness nearnessOf(const std::vector<btVector3>& a, const btTransform& aInB, const btVector3* b, std::size_t countB, btScalar reach, NearestCorners& nearest,
                    btVector3& between);

/// Of a triangle, to a point. Method: regions of the point's projection (Ericson 2004).
btVector3 nearestInTriangle(const btVector3* triangle, const btVector3& point);

}  // namespace seedloom
