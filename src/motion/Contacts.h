#pragma once
// Where two shapes touch, from the direction between their cores.
#include "motion/Cores.h"

#include <BulletCollision/CollisionDispatch/btManifoldResult.h>
#include <LinearMath/btAlignedObjectArray.h>

#include <vector>

namespace seedloom {

/// A hull where it stands.
struct PlacedHull {
    const CoredHull& shape;
    const btTransform& place;
};

/// Contacts of two bodies as they are found. Of those that lie close to each other the library keeps the one that it was told last, so the deepest is told
/// last.
class Contacts : public btManifoldResult {
public:
    struct Found {
        btVector3 normal, at;  ///< from the second to the first, and on the second; in the world
        btScalar gap;          ///< below 0 where they overlap
        std::size_t part;
    };
    void addContactPoint(const btVector3& normal, const btVector3& at, btScalar gap) override { found_.push_back({normal, at, gap - hair_, part_}); }
    /// What comes is of this part, and as if shapes were so much larger than they are: what rests on each other must not cross.
    void begin(std::size_t part, btScalar hair) { part_ = part, hair_ = hair; }

    /// All contacts of two hulls whose cores are `between` from each other, if the hulls are nearer than `near`.
    void meet(const PlacedHull& a, const PlacedHull& b, const Between& between, btScalar near);
    /// The same of a hull and a triangle in the frame of `place`.
    void meet(const PlacedHull& hull, const btVector3* triangle, const btTransform& place, const Between& between, btScalar near);

    /// `tell` is called with each of them.
    template <class Tell> void tell(const Tell& tellOne) {
        sort();
        for (const Found& one : found_) tellOne(one);
        found_.clear();
    }

private:
    struct Apart;
    void addNearest(std::size_t before, const Between& between, const Apart& apart, const btTransform& placeOfB);
    void sort();

    std::vector<Found> found_;
    std::size_t part_ = 0;
    btScalar hair_ = 0;
    btAlignedObjectArray<btVector3> corners_, more_;  ///< room for clipping
};

}  // namespace seedloom
