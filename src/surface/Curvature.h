#pragma once
// How a surface bends, and how a value on it changes from place to place.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Principal curvatures at a point in 1/m: positive where the surface bends away from its normal, as on the outside of a ball.
struct Curvature {
    float largest = 0, smallest = 0;  ///< largest is the greater of the two, with its sign
    float mean() const { return (largest + smallest) / 2; }
    float gaussian() const { return largest * smallest; }
};

/// At every point, from the change of the point normals over its triangles. Source: Rusinkiewicz, "Estimating Curvatures and Their
/// Derivatives on Triangle Meshes", 3DPVT 2004, with the corner areas of Meyer et al., 2003. 0 at points without faces.
/// Cost: O(corners).
std::vector<Curvature> curvatureOf(const Geometry& geometry, const RunContext& run);

/// At every point the direction along the surface in which it bends most (`largest`), or least, with its sign; source as above. The length is how much more
/// the surface bends one way than the other, in 1/m: 0 where both are equal, as on a ball. Which of both opposite directions is left open; the same every time.
std::vector<Vec3> principalDirectionsOf(const Geometry& geometry, bool largest, const RunContext& run);

/// The gradient along the surface of a number at points, per metre: exact for linear fields on flat triangles, averaged by area
/// at each point. (0, 0, 0) at points without faces.
std::vector<Vec3> gradientOf(const Geometry& geometry, const std::vector<float>& values, const RunContext& run);

}  // namespace seedloom
