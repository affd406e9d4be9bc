#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// The surface without edges shorter than `shortest` (metres), as cuts leave them where they pass close by a corner: their ends are made one, faces of which
/// nothing is left go. Ends that are `old` (by point) stay where they are, and edges between two such stay. An edge stays as well where the surface would
/// pinch, a face turn over or leave its plane, or faces cross. Attributes of the corners and points that stay are kept bit for bit. Which edges may be drawn
/// together: Dey, Edelsbrunner, Guha, Nekhayev, "Topology Preserving Edge Contraction", 1999. Cost: O(corners), and a look at the faces around what changed.
Geometry withoutShortEdges(const Geometry& surface, double shortest, const std::vector<std::uint8_t>& old, const RunContext& run);

}  // namespace seedloom
