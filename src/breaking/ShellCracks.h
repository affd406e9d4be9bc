#pragma once
// A thin surface cracked into fragments.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <vector>

namespace seedloom {

struct ShellCracks {
    Geometry geometry;  ///< fragments with points of their own, one after the other; face number `piece`, point tag `crack` on the new borders
    std::vector<Index> cellOfPiece;
};

/// Cuts faces along the borders between the cells of those places that are nearer to one seed than to others. `warp`, by point, is where the cells are
/// looked up instead of the point's own place: bumps in it make borders uneven. `gap`, by point, is the room between fragments in metres, measured along
/// the surface. Borders of neighbours without a gap have the same places to the bit. A border that passes within a fiftieth of an edge's length of a
/// point goes through it; one that meets itself in a point gets a place for each side, four millionths of the size apart. Attributes are mixed on cut
/// edges; faces that are not cut stay bit for bit. Fragments are what hangs together in a cell, numbered by cell, then by their first face. Method: own:
/// on each triangle the differences of squared distances to two seeds are linear, so that cells are cut out of it by half planes whose ends on edges
/// depend on the edge alone. Cost: O(n log n). Sizes: `warp` and `gap` have one value a point.
ShellCracks crackShell(const Geometry& surface, const std::vector<Vec3>& seeds, const std::vector<Vec3>& warp, const std::vector<float>& gap,
                       const RunContext& run);

}  // namespace seedloom
