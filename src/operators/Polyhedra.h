#pragma once
// Regular solids by their points, and closed shapes made of such.
#include "geometry/Geometry.h"

namespace seedloom {

/// tetrahedron, cube, octahedron, dodecahedron, icosahedron, truncated icosahedron, cuboctahedron, truncated octahedron,
/// icosidodecahedron, rhombicuboctahedron.
inline constexpr std::array<const char*, 10> kSolids{"tetrahedron",       "cube",
                                                     "octahedron",        "dodecahedron",
                                                     "icosahedron",       "truncated icosahedron",
                                                     "cuboctahedron",     "truncated octahedron",
                                                     "icosidodecahedron", "rhombicuboctahedron"};

/// The solid of kSolids with all points on the unit ball, faces outward; each is made once. Number below kSolids.size().
const Geometry& unitSolid(std::size_t number);

/// The convex hull of few points (O(n⁴)), with faces of more than three corners kept whole.
Geometry smallHull(const std::vector<Vec3>& points);

/// The faces of an icosahedron divided into frequency² triangles each, all points on the unit ball.
Geometry geodesicBall(int frequency);

/// One face for each point of a closed surface of triangles about the origin, each in the plane that touches the ball of that radius
/// there: neighbouring faces meet in exact edges. Every point must lie on the ball.
Geometry touchingPanels(const Geometry& triangles, double radius);

}  // namespace seedloom
