#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <optional>

namespace seedloom {

/// Places on the unit ball for the points of a closed surface of triangles that hangs together like a ball, so that no face is folded over: the surface
/// without one point is laid flat (each point in the middle of its neighbours; Tutte, "How to draw a graph", 1963, has no folds), then put onto the ball
/// from its pole (Haker et al., "Conformal surface parameterization for texture mapping", IEEE TVCG 6(2), 2000), evened out by `rounds` steps in which
/// points go towards the middle of their neighbours where that folds nothing, and turned to where the points look from the middle of the shape.
/// Nothing where the surface is open, has handles, or is not of triangles. Cost: a sparse solution of size n, about 0.5 s for 10⁵ points. Library: Eigen.
std::optional<std::vector<Vec3>> sphereEmbedding(const Geometry& triangles, int rounds, const RunContext& run);

/// How many faces look inwards from the middle of the points: the folds of a surface around it.
std::size_t foldedFaces(const Geometry& geometry, const std::vector<Vec3>& places, Vec3 middle);

}  // namespace seedloom
