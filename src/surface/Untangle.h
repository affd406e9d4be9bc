#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Places that are as near to `wanted` as they can be without faces that cross, for a closed surface whose own faces do not. Where they would cross, points
/// go back half way, a quarter, and at last stay where they are, with more and more of those around. `cell`: places differ from the surface's own by about
/// this, metres; faces are looked at closely only where within a few of them the surface turns by more than a right angle. Cost: about one look at all faces,
/// where little turns so much.
std::vector<Vec3> movedWithoutCrossing(const Geometry& surface, const std::vector<Vec3>& wanted, float cell, const RunContext& run);

}  // namespace seedloom
