#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

/// How many pairs of triangles cross or overlap elsewhere than in common points and edges. Points at the same place count as common;
/// triangles without area are left out. Exact predicates (CGAL Polygon Mesh Processing). Cost: about 3 µs a triangle when nothing crosses.
/// With `faces`, the numbers of all faces involved, in order, are returned through it.
std::size_t selfIntersections(const Geometry& geometry, std::vector<Index>* faces = nullptr);

}  // namespace seedloom
