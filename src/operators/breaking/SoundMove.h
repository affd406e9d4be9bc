#pragma once
// Parts that are moved and turned as wholes, without meeting themselves by it.
#include "geometry/Affine.h"
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <functional>

namespace seedloom {

/// Each part (of points, 0 to parts − 1) mapped by mapOf(part, 1). Places are rounded anew by that, and faces of a part that lie within some millionths of each
/// other can cross then: such a part is mapped by mapOf(part, ease) with an ease a little below 1, down to 7/8, until none does that did not before. `mapOf`
/// must be quick, the same every time and safe to call from several threads. Cost: that of looking for crossings, about 1 µs a triangle.
Geometry movedSoundly(const Geometry& in, const std::vector<Index>& partOfPoint, std::size_t parts,
                      const std::function<Affine(std::size_t part, float ease)>& mapOf, const RunContext& run);

}  // namespace seedloom
