#pragma once
// The places of a scene that decide how it must be framed.
#include "geometry/Geometry.h"

namespace seedloom {

/// Places that lie farthest out, one for each of some directions, copies included: whatever direction it is seen from, they span the whole but for a few
/// hundredths. Empty where nothing has a finite place.
std::vector<Vec3> extremesOf(const Geometry& geometry);

}  // namespace seedloom
