#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// How far each point is along faces, edges and curves from the nearest start, in metres; infinite where no way leads there.
/// `start` holds a distance for points from which it is counted, infinite for all others. Straight across triangles, by unfolding
/// each onto the plane of the one before (Novotni & Klein, "Computing Geodesic Distances on Triangular Meshes", WSCG 2002): exact on
/// flat surfaces around one point, within about 1 % elsewhere. Cost: O(points · log points).
std::vector<float> surfaceDistance(const Geometry& geometry, std::vector<float> start, const RunContext& run);

}  // namespace seedloom
