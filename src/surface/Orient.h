#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Which faces have to be turned over so that neighbours run against each other along their edges: closed parts then look outwards, open ones where
/// most of their area looked before. `oneSided` tells of a part where no winding is consistent. Cost: O(corners).
std::vector<std::uint8_t> facesToTurn(const Geometry& geometry, const RunContext& run, bool* oneSided = nullptr);

}  // namespace seedloom
