#pragma once
// Where an offset surface folds.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// By point of the surface: whether faces of the wall at it cross others of the same connected part, have no area, or are
/// turned over. `wall`: front points and back points,
/// each in the surface's order. Cost: about 1 µs a face.
std::vector<std::uint8_t> foldsOf(const Geometry& surface, const Geometry& wall, const RunContext& run);

}  // namespace seedloom
