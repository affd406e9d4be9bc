#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Where open parts look: where most of their area looked before, or out of the hollow that they enclose, if they enclose one.
enum class OpenParts : std::uint8_t { asMostDid, outOfHollow };

/// Which faces have to be turned over so that neighbours run against each other along their edges: closed parts then look outwards, and open ones as
/// `open` says. `oneSided` tells of a part where no winding is consistent. Cost: O(corners).
std::vector<std::uint8_t> facesToTurn(const Geometry& geometry, const RunContext& run, bool* oneSided = nullptr, OpenParts open = OpenParts::asMostDid);

}  // namespace seedloom
