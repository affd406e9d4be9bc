#pragma once
// Which triangles of different solids may meet.
#include "geometry/SelfIntersections.h"

namespace seedloom {

/// Triangles of different parts whose boxes meet, each pair once. `part`, by triangle. Cost: O(n), and O(n log n) where parts' boxes meet.
TrianglePairs partPairs(const Geometry& geometry, const Triangles& triangles, const std::vector<Index>& part, const RunContext& run);

}  // namespace seedloom
