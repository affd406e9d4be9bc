#pragma once
// Where breaks come out at the surface.
#include "geometry/Geometry.h"

namespace seedloom {

struct BreakEdge {
    Index a, b;  ///< points
    Vec3 out;    ///< what the old skin faces beside it; unit
};

/// Edges between faces with the tag `inside` and others. Of several pieces' edges in one place the first.
std::vector<BreakEdge> breakEdges(const Geometry& pieces);

}  // namespace seedloom
