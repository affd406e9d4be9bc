#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

/// Of the size: a distance that nobody sees, and more than what counts as doubled.
inline constexpr double kPointsApart = 4e-6;

/// A surface in which parts that only touch in a point have one each, drawn back into their part by about `distance`, metres: less than a quarter of the
/// edges there. Points whose edges are too short for that, or whose part is flat around them, stay as they are. `made` gets the new places.
Geometry pointsApart(const Geometry& surface, double distance, std::vector<Vec3>& made);

}  // namespace seedloom
