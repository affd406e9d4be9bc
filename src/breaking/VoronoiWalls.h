#pragma once
// Cells around seeds.
#include "breaking/Walls.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Walls between the cells of those places that are nearer to one seed than to all others, as far as they reach into `around`. `stretch` (over 0) makes
/// distances along an axis count as shorter, and so the cells longer. Seeds at one place count as the first of them. A `gap` in metres keeps the cells
/// apart: each wall then stands twice, half the gap to each side, and cells too small for it are gone. Method: dual of the Delaunay triangulation with
/// exact predicates; with a gap the intersection of half spaces, whose planes are those of the neighbours. Library: CGAL. Cost: O(n log n) for seeds in
/// general position.
FlatWalls voronoiWalls(const std::vector<Vec3>& seeds, const Bounds& around, Vec3 stretch, double gap, const RunContext& run);

/// The seed in whose cell a place lies; kNoCell where it lies in the gap. Cost: O(seeds).
Index cellHolding(Vec3 place, const std::vector<Vec3>& seeds, Vec3 stretch, double gap);

/// The seeds whose cells may touch each seed's, in order; those of a seed at the place of an earlier one are empty.
std::vector<std::vector<Index>> voronoiNeighbours(const std::vector<Vec3>& seeds, const RunContext& run);

}  // namespace seedloom
