#pragma once
// Whether a flat chart lies over itself.
#include "geometry/Topology.h"

#include <array>
#include <complex>
#include <vector>

namespace seedloom {

/// Whether the border of flat triangles crosses itself. A disk without mirrored triangles covers no place twice exactly where it does not. Borders that only
/// touch or run along each other (the two sides of a cut through something flat) do not cross. Cost: O(border log border).
bool borderCrosses(const std::vector<std::array<Index, 3>>& triangles, const std::vector<std::complex<double>>& places);

}  // namespace seedloom
