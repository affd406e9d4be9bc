#pragma once
// Lines on a surface that follow a field of directions.
#include "parallel/RunContext.h"
#include "surface/SurfaceWalk.h"

namespace seedloom {

struct StrokeRule {
    std::vector<Vec3> directions;  ///< by point; either sign means the same. A stroke ends where none is
    double step = 0.01;            ///< metres
    int steps = 100;               ///< at most, to each side
    bool bothWays = true;
    double stopUnder = 0;   ///< ends where directions are shorter
    double straighten = 0;  ///< 0–1: how much of its heading it keeps against the field
    std::vector<float>
        apart;  ///< by point, metres: it ends before it comes nearer to another one or to itself, and where it turns in a smaller circle; 0 never. Empty: never
    bool otherSide = true;  ///< whether what lies on the other side of a thin wall is near, too
    double shortest = 0;    ///< metres; those that are shorter are left out
};

struct Stroke {
    std::vector<Walker> way;  ///< each a step on from the one before, heading along the stroke; at a border the last step is shorter
    Index start = 0;          ///< number of the place that it began at
};

/// One stroke from each place, in their order; earlier ones keep later ones away. Steps by the midpoint rule, directions mixed over each triangle and turned
/// to the way that it comes. The same for any number of threads. Cost: O(steps).
std::vector<Stroke> strokesFrom(const SurfaceWalk& surface, const StrokeRule& rule, const std::vector<Walker>& starts, const RunContext& run);

/// About how many points strokesEverywhere makes at most.
double pointsToFill(const SurfaceWalk& surface, const StrokeRule& rule);

/// Strokes until there is no room: each begins beside one that is there, where the directions are longest first. `apart` must be over 0 at some point.
/// Method: Jobard and Lefer, "Creating Evenly-Spaced Streamlines of Arbitrary Density", 1997.
std::vector<Stroke> strokesEverywhere(const SurfaceWalk& surface, const StrokeRule& rule, const RunContext& run);

}  // namespace seedloom
