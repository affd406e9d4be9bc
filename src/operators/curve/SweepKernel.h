#pragma once
#include "fields/Evaluate.h"
#include "geometry/Geometry.h"

namespace seedloom {

/// A profile as places across the path: x to the side, y up.
struct SweepProfile {
    std::vector<Vec2> places;
    std::vector<Index> points;  ///< of the profile's geometry; empty for profiles made here
    bool closed = false;
    Index curve = 0;
};

/// The curves of a profile seen in their own plane: drawn upright (x, y) or lying on the ground (x to the side, −z up). Closed ones run
/// anticlockwise seen along the path.
std::vector<SweepProfile> profilesOf(const Geometry& geometry);
/// A circle of diameter 1 with that many sides, its first corner at the side.
SweepProfile roundProfile(int sides);
/// A straight line of length 1 across, with that many parts.
SweepProfile ribbonProfile(int columns);

struct SweepOptions {
    Vec3 up{0, 1, 0};
    Field<float> scale, twist;  ///< by point of the path; degrees
    bool caps = true, edgesOnly = false;
    bool level = false;  ///< up leans to `up` at every point instead of at the first only
};

/// Carries profiles along every curve of `path`. At corners the profile stands in the plane that halves the angle and is stretched there, so that
/// straight parts keep their width. Closed profiles give tubes that face outwards, closed by `caps`; open ones strips whose upper side is the one to
/// `up`. Attributes of the path's points go to all points around, those of the profile to those along; where both have one, the path's. `uv`: x around
/// or across, y along (0–1). Tags `side` and `cap`.
Geometry sweep(const Geometry& path, const Geometry& profileGeometry, const std::vector<SweepProfile>& profiles, const SweepOptions& options);

}  // namespace seedloom
