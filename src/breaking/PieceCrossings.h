#pragma once
// Pieces that cross themselves.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Faces that cross others of the same piece, in order. `piece`: by face; `asked`: by piece, whether to look at it. Cost: about 1 µs a triangle of these.
std::vector<Index> crossingFaces(const Geometry& geometry, const std::vector<std::int32_t>& piece, const std::vector<std::uint8_t>& asked,
                                 const RunContext& run);

}  // namespace seedloom
