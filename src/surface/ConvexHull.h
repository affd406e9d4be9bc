#pragma once
#include "geometry/Geometry.h"

#include <array>

namespace seedloom {

/// Triangles of the convex hull, as numbers of the points that span it, wound anticlockwise seen from outside. Empty where all points lie in one
/// plane. Exact predicates; points in the plane of a triangle may be left out. Flat sides of more than three corners are fans from their lowest number, so
/// that the same points always give the same triangles. Cost: O(n log n). Library: CGAL.
std::vector<std::array<Index, 3>> convexHull(const std::vector<Vec3>& points);

}  // namespace seedloom
