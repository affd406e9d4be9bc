#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Places that are as near to `wanted` as they can be without faces that cross, for a closed surface whose own faces do not. Where they would cross, points
/// go back half way, a quarter, and at last stay where they are, with more and more of those around. Cost: a look at all faces (1 µs
/// each), a few where they would cross.
std::vector<Vec3> movedWithoutCrossing(const Geometry& surface, const std::vector<Vec3>& wanted, const RunContext& run);

}  // namespace seedloom
