#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// The surface without triangles of which one corner lies on the opposite side (hasNoArea), as cuts leave them: the corner becomes one of the face behind that
/// side. Nothing moves; attributes of the new corner are mixed along the side. Where that face has the point already, or faces would cross, the triangle stays.
/// Cost: O(corners), and a look at the faces around what changed.
Geometry withoutFlatTriangles(const Geometry& surface, const RunContext& run);

}  // namespace seedloom
