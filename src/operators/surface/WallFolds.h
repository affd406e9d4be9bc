#pragma once
// Where an offset surface folds.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// By point of the surface: whether faces of the wall at it cross others of the same connected part. `wall`: front points and back points, each in the
/// surface's order; front faces, back faces, then any others. Only places where offsets of neighbours differ by more than half their distance, and what is
/// around them, are looked at. Cost: O(corners), and about 3 µs a face that is looked at.
std::vector<std::uint8_t> foldsOf(const Geometry& surface, const Geometry& wall, const RunContext& run);

}  // namespace seedloom
