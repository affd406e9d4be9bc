#pragma once
#include "geometry/Geometry.h"
#include "geometry/Triangulate.h"

#include <array>

namespace seedloom {

/// How often triangles go around a place, holes or not: 1 inside of a closed surface that is wound outward, 0 outside, and between them near holes. Source:
/// Jacobson, Kavan, Sorkine-Hornung, "Robust inside-outside segmentation using generalized winding numbers", ACM TOG 32(4), 2013; groups of triangles
/// far away count as one: Barill et al., "Fast winding numbers for soups and clouds", ACM TOG 37(4), 2018. To about 0.02. Cost: O(n log n) to build,
/// about O(log n) to ask.
class WindingTree {
public:
    WindingTree(const Geometry& geometry, const Triangles& triangles);
    double at(Vec3 place) const;

private:
    static constexpr std::size_t kLeaf = 8;
    struct Node {
        std::array<double, 3> centre{}, area{};  ///< of the triangles together; the area is a vector
        double radius = 0;
        Index begin = 0, end = 0;  ///< triangles
        Index right = 0;           ///< the second child, behind the first; 0: none
    };
    using Triangle = std::array<Vec3, 3>;

    Index build(std::size_t begin, std::size_t end);

    std::vector<Triangle> triangles_;
    std::vector<Node> nodes_;
};

}  // namespace seedloom
