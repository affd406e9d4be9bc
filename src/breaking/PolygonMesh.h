#pragma once
// Even triangles over a flat polygon.
#include "geometry/Topology.h"

#include <array>
#include <vector>

namespace seedloom {

struct PolygonMesh {
    std::vector<std::array<double, 2>> inner;     ///< points inside; they are counted on after those of the ring
    std::vector<std::array<Index, 3>> triangles;  ///< anticlockwise
};

/// Points inside stand as in triangles of one side length, `spacing`; those of the ring are all there, and no others are on it. `ring` runs anticlockwise
/// and crosses itself nowhere. Constrained Delaunay triangulation. Library: CGAL. Cost: O(n log n).
PolygonMesh meshPolygon(const std::vector<std::array<double, 2>>& ring, double spacing);

}  // namespace seedloom
