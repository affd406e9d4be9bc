#pragma once
// Small helpers that several operators build shapes with.
#include "geometry/PartTaker.h"
#include "geometry/Rows.h"

namespace seedloom {

/// One curve through all points in order.
Geometry curveThrough(std::vector<Vec3> positions, bool closed);
/// One face with all points as corners.
Geometry faceThrough(std::vector<Vec3> positions);

/// Every point of the geometry moved from `before` towards `after` by its weight.
std::vector<Vec3> blendPositions(const std::vector<Vec3>& before, std::vector<Vec3> after, const std::vector<float>& weights);

/// Each point mapped by the map of its part; directions turn along, those of corners, faces and curves with their (first) point. Copies stay.
Geometry movedParts(const Geometry& geometry, const std::vector<Index>& partOfPoint, const std::vector<Affine>& maps);

/// The geometry with the copies of another, and what they carry.
Geometry withCopiesOf(const Geometry& from, Geometry geometry);

/// The geometry without its curves, and without the points that only curves use.
Geometry withoutCurves(const Geometry& geometry);

/// A plan that takes all points and curves as they are, and no face yet.
RowPlan planOfPointsAndCurves(const Geometry& geometry);
/// Adds a face as it is. Precondition: the plan has all points in their order.
void addFaceAsItIs(RowPlan& plan, const Geometry& geometry, Index face);
struct RevolveOptions {
    int axis = 1;                               ///< 0 x, 1 y, 2 z
    double angle = 360;                         ///< degrees, (0, 360]
    int sides = 32;                             ///< steps around; at least 3 for a full turn
    double heightScale = 1;                     ///< multiplies the coordinate along the axis
    bool caps = true;                           ///< closes the ends of a partial turn
    bool closeStart = false, closeEnd = false;  ///< adds a flat disc from that open end of the profile to the axis
};

/// Turns every curve of `profiles` about the axis through the origin. Points on the axis (within a millionth of the size) are
/// made once, the seam is shared, faces look outward. Attributes of profile points and curves are carried; directions are turned.
/// `uv` at corners: x around (0–1), y along the profile (0–1). `skippedCaps` counts ends that could not be closed.
Geometry revolve(const Geometry& profiles, const RevolveOptions& options, std::size_t* skippedCaps = nullptr);

}  // namespace seedloom
