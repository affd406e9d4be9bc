#pragma once
// Whether a small change of a surface makes faces cross.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <array>
#include <set>

namespace seedloom {

using PlaceSet = std::set<std::array<float, 3>>;

inline std::array<float, 3> placeKey(Vec3 p) { return {p.x, p.y, p.z}; }

/// Places of the corners of faces that cross others, of faces with a corner at a `changed` place and those that they may meet. Empty: none cross. Cost:
/// O(faces) for their boxes, the rest for those near.
PlaceSet crossingNear(const Geometry& surface, const PlaceSet& changed, const RunContext& run);

}  // namespace seedloom
