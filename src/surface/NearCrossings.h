#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Faces that cross others of their piece, in order, of a closed surface that was made from one without any by moving points no farther than about `reach`,
/// metres. Looks closely only where within a few times that the surface turns by more than a right angle: elsewhere it is a height above a plane, which crosses
/// nothing. So it costs a small part of crossingsOf where shapes are large.
std::vector<Index> nearCrossings(const Geometry& surface, const std::vector<Index>& pieceOfPoint, float reach, const RunContext& run);

}  // namespace seedloom
