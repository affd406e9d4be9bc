#pragma once
// Closed rings in one plane: their areas, and which lie inside of which.
#include "geometry/BoxTree.h"

namespace seedloom {

/// A place in the plane, metres.
struct FlatPoint {
    double x = 0, y = 0;
};

class FlatRings {
public:
    /// Rings of points of `positions`, seen from `normal` (a unit vector).
    FlatRings(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal);
    FlatRings(const FlatRings&) = delete;  // the tree refers to the boxes
    FlatRings& operator=(const FlatRings&) = delete;

    const std::vector<FlatPoint>& ring(std::size_t r) const { return rings_[r]; }
    /// m², negative where the ring runs clockwise.
    double area(std::size_t r) const { return area_[r]; }
    /// The rings that hold the first point of ring `r`, in order; not itself. Cost: O(log rings) and the points of those whose bounds hold it.
    std::vector<std::size_t> around(std::size_t r) const;

private:
    bool holds(std::size_t r, FlatPoint p) const;
    std::vector<std::vector<FlatPoint>> rings_;
    std::vector<double> area_;
    std::vector<Box> boxes_;
    BoxTree tree_;
};

}  // namespace seedloom
