#pragma once
// A tree of boxes that finds overlapping ones.
#include "geometry/Geometry.h"
#include "geometry/Triangulate.h"

#include <functional>

namespace seedloom {

struct Box {
    Vec3 low, high;
    bool meets(const Box& other) const {
        return low.x <= other.high.x && other.low.x <= high.x && low.y <= other.high.y && other.low.y <= high.y && low.z <= other.high.z &&
               other.low.z <= high.z;
    }
    void add(const Box& other) {
        for (int c = 0; c < 3; ++c) low[c] = std::min(low[c], other.low[c]), high[c] = std::max(high[c], other.high[c]);
    }
};

/// The boxes of triangles, in their order.
std::vector<Box> boxesOf(const Geometry& geometry, const Triangles& triangles);

/// Boxes in the order of a curve through space, two by two in a tree. Cost: O(n log n) to build, about O(n + pairs) to ask.
class BoxTree {
public:
    /// The boxes with these numbers.
    BoxTree(const std::vector<Box>& boxes, std::vector<Index> numbers);

    bool empty() const { return order_.empty(); }
    const Box& bounds() const { return nodes_.front(); }
    /// Every pair of overlapping boxes, one of each tree, in an order that depends on nothing but the boxes.
    static void pairs(const BoxTree& a, const BoxTree& b, const std::function<void(Index, Index)>& take);
    /// Boxes that meet `box`.
    void meeting(const Box& box, const std::function<void(Index)>& take) const;

private:
    static constexpr std::size_t kLeaf = 4;
    std::size_t leaves() const { return (nodes_.size() + 1) / 2; }
    bool leaf(std::size_t node) const { return node + 1 >= leaves(); }
    std::pair<std::size_t, std::size_t> range(std::size_t node) const;

    const std::vector<Box>& boxes_;
    std::vector<Index> order_;
    std::vector<Box> nodes_;  ///< a full tree: children of i at 2i + 1 and 2i + 2
};

}  // namespace seedloom
