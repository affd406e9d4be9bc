#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

/// Long thin faces that look 15 to 60° another way than the smooth surface beyond both of their long sides, in order: smooth shading shows them as streaks.
/// Cuts leave such where they pass close by an edge. Thin: an area under a fiftieth of the longest side's square. Cost: O(corners).
std::vector<Index> shadingBreaks(const Geometry& geometry);

}  // namespace seedloom
