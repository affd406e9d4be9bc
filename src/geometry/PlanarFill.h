#pragma once
// Faces over rings in one plane, some of which are holes of others.
#include "geometry/Vec.h"

#include <cstdint>
#include <vector>

namespace seedloom {

using Index = std::uint32_t;

/// Rings that run anticlockwise seen against `normal` are outlines, the others holes of the least outline around them (of none: they are
/// left out). An outline without holes gives one face; with holes, triangles: the holes are joined to the outline by bridges, and ears are
/// cut (Eberly, "Triangulation by Ear Clipping", 2002). Faces are rows of the rings' indices into `positions`, wound like the outlines.
/// Rings must not cross. Cost: O(points²) for outlines with holes, else O(points · rings).
std::vector<std::vector<Index>> fillRings(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal);

}  // namespace seedloom
