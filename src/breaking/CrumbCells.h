#pragma once
// The bodies of crumbs.
#include "breaking/CrumbSeeds.h"
#include "breaking/Walls.h"

namespace seedloom {

/// Walls around each crumb: between it and its neighbours, and between it and the rest, whose number is that of the crumbs. Each is the cell of its centre
/// among those of its neighbours and of twelve places around it that belong to the rest, so it is convex, and about as large as its radius says. Crumbs
/// that would reach much farther than that are part of the rest. Cost: O(n log n).
FlatWalls crumbCells(const std::vector<Crumb>& crumbs, const Bounds& around, const RunContext& run);

/// The same without some crumbs, which become part of the rest. Walls look to the cell with the larger number, so that those around a crumb look alike.
FlatWalls crumbsLeft(const FlatWalls& cells, const std::vector<std::uint8_t>& gone);

}  // namespace seedloom
