#pragma once
// A tree of boxes that finds overlapping ones.
#include "geometry/Geometry.h"
#include "geometry/Triangulate.h"

#include <functional>

namespace seedloom {

struct Box {
    Vec3 low, high;
    bool meets(const Box& other) const {
        // No branches: which comparison fails can't be foreseen.
        return bool(int(low.x <= other.high.x) & int(other.low.x <= high.x) & int(low.y <= other.high.y) & int(other.low.y <= high.y) &
                    int(low.z <= other.high.z) & int(other.low.z <= high.z));
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
    /// All of them.
    explicit BoxTree(const std::vector<Box>& boxes);

    bool empty() const { return order_.empty(); }
    const Box& bounds() const { return nodes_.front(); }
    /// Every pair of overlapping boxes, one of each tree, in an order that depends on nothing but the boxes.
    static void pairs(const BoxTree& a, const BoxTree& b, const std::function<void(Index, Index)>& take);
    /// Two parts of the tree that meet, or one and itself.
    struct Branches {
        std::size_t a, b;
    };
    /// Parts in which all pairs of this tree's boxes are, each once: to be asked one by one. As many whatever the number of threads.
    std::vector<Branches> branches() const;
    /// Every pair of overlapping boxes in them.
    void pairsIn(Branches branches, const std::function<void(Index, Index)>& take) const;
    /// Boxes that meet `box`.
    void meeting(const Box& box, const std::function<void(Index)>& take) const;

private:
    static constexpr std::size_t kLeaf = 8;
    static constexpr std::size_t kManyBranches = 1000;
    void step(Branches at, std::vector<Branches>& out) const;
    bool leaf(std::size_t node) const { return 2 * node + 1 >= nodes_.size(); }
    std::pair<std::size_t, std::size_t> range(std::size_t node) const {
        const std::size_t i = node + 1 - (std::size_t(1) << levels_);
        return {(i * order_.size()) >> levels_, ((i + 1) * order_.size()) >> levels_};
    }

    int levels_ = 0;
    std::vector<Index> order_;
    std::vector<Box> sorted_;  ///< the boxes in that order
    std::vector<Box> nodes_;   ///< a full tree: children of i at 2i + 1 and 2i + 2
};

}  // namespace seedloom
