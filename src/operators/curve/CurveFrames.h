#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

/// Three unit vectors at right angles at each point of a curve, and the place along it; side is tangent × up.
struct CurveFrames {
    std::vector<Vec3> tangent, side, up;  ///< by place in the curve
    std::vector<float> along;             ///< 0–1
    double length = 0;                    ///< metres
};

/// Directions without twist. `up` at the first point leans towards `hint`; on closed curves the directions meet at the seam. Source: Wang, Jüttler,
/// Zheng, Liu, "Computation of Rotation Minimizing Frames", ACM TOG 27(1), 2008 (double reflection).
CurveFrames framesOf(const Geometry& geometry, std::size_t curve, Vec3 hint);

/// The geometry with `along` on its points, computed where there is none.
Geometry withAlong(const Geometry& geometry);

}  // namespace seedloom
