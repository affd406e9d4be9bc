#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <optional>

namespace seedloom {

/// Places on the unit ball for the points of a closed surface of triangles that hangs together like a ball, with as few faces folded over as can be: edges
/// are drawn together until four or five points are left, which stand on the ball by hand, then points come back one by one, each to a place from which all of
/// its ring is seen (Praun & Hoppe, "Spherical parametrization and remeshing", SIGGRAPH 2003). Long tubes shrink to places that numbers do not tell apart, and
/// fold there. `rounds` steps even areas out where that folds nothing, and the whole is turned to where the points look from the middle of the shape. Nothing
/// where the surface is open, has handles, or is not of triangles. Cost: about 15 µs a point and 0.1 µs a round. Library: Eigen.
std::optional<std::vector<Vec3>> sphereEmbedding(const Geometry& triangles, int rounds, const RunContext& run);

/// How many faces look inwards from the middle of the points: the folds of a surface around it.
std::size_t foldedFaces(const Geometry& geometry, const std::vector<Vec3>& places, Vec3 middle);

}  // namespace seedloom
