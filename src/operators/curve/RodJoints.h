#pragma once
#include "fields/Evaluate.h"
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct JointReport {
    std::size_t crowded = 0;  ///< points at which rods are too thick to be joined; there they end in the open, each closed
};

/// Round rods along `edges`, joined at their points into closed solids: each rod ends in a ring a little before the point, and the rings around a
/// point are joined by their convex hull. Radius by point. After: Srinivasan, Mandal, Akleman, "Solidifying Wireframes", Bridges 2005.
Geometry weldedRods(const Geometry& in, const std::vector<std::array<Index, 2>>& edges, const Field<float>& radius, int sides, const RunContext& run,
                    JointReport* report);

}  // namespace seedloom
