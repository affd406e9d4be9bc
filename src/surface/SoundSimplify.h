#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct SoundSimplifyOptions {
    std::size_t target = 0;  ///< triangles
    double error = 0;        ///< the surface may move by this much, metres; 0: by any
    bool holdOpenEdges = false;
};

/// Triangles without attributes over points; `corners`: three points each.
Geometry trianglesOver(const std::vector<Vec3>& positions, const std::vector<Index>& corners);

/// Corner points of fewer triangles over the same points, by quadric errors (Garland & Heckbert, SIGGRAPH 1997; library: meshoptimizer). Where that
/// would make an edge of more than two faces, a point where parts only touch, a face without area or faces of one piece that cross, and the surface had
/// none, it is done edge by edge (EdgeCollapse); and where faces still cross, in steps, each of which leaves what it would harm as it was. So more triangles
/// than wanted may be left. Cost: that of the library and a look at what comes out (1 µs a triangle); ten times as much where there is such a place.
std::vector<Index> simplifiedSoundly(const Geometry& triangles, const SoundSimplifyOptions& options, const RunContext& run);

}  // namespace seedloom
