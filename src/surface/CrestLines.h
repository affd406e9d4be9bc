#pragma once
// Where a surface bends most: lines along its ridges and valleys.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <array>

namespace seedloom {

struct CrestLines {
    /// On an edge of a triangle, `t` of the way from a to b.
    struct Point {
        Index a, b;
        float t, curvature;  ///< 1/m, over 0
    };
    std::vector<Point> points;
    std::vector<std::array<Index, 2>> stretches;  ///< pairs of points, across triangles
};

/// Ridges, or valleys, of a surface: places at which the largest curvature (of a valley: the smallest, turned over) is largest in its own direction, and
/// larger than the other one. Curvatures are evened out over neighbours so often before. Method: zeros of the curvature's derivative in its direction, along
/// edges, joined over triangles, as in Yoshizawa, Belyaev and Seidel, "Fast and Robust Detection of Crest Lines on Meshes", 2005; derivatives by the gradient
/// over faces. Throws Cancelled.
CrestLines crestLines(const Geometry& surface, bool valleys, int evened, const RunContext& run);

}  // namespace seedloom
