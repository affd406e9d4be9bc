#pragma once
// Faces that two pieces have in common.
#include "geometry/Geometry.h"

namespace seedloom {

/// By face, whether exactly one other has its corners at the same places, bit for bit, whichever side they are seen from.
std::vector<std::uint8_t> haveTwins(const Geometry& geometry);

}  // namespace seedloom
