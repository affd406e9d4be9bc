#pragma once
// Faces over rings in one plane, some of which are holes of others.
#include "geometry/Topology.h"
#include "geometry/Vec.h"

#include <vector>

namespace seedloom {

struct FilledFace {
    std::vector<Index> points;  ///< of `positions`
    std::size_t outline = 0;    ///< the ring that it fills
};

/// Rings that run anticlockwise seen against `normal` are outlines, the others holes of the least outline around them (of none: they are
/// left out). An outline without holes gives one face; with holes, triangles: the holes are joined to the outline by bridges, and ears are
/// cut (Eberly, "Triangulation by Ear Clipping", 2002). Faces are wound like the outlines, in their order. Rings must not cross, and have three points
/// at least. Cost: O(points²) for an outline with holes; rings are found in each other in O(log rings) each.
std::vector<FilledFace> fillRings(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal);

}  // namespace seedloom
