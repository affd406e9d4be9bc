#pragma once
// Leaves out points of triangles without ever drawing the surface together to a pinch.
#include "surface/TriangleMesh.h"

#include "parallel/RunContext.h"

namespace seedloom {

struct SimplifyLimits {
    std::size_t target = 0;  ///< triangles wanted
    double error = 0;        ///< metres that the surface may move by; 0 is no limit
    bool holdOpenEdges = false;
};

/// Corners of the triangles that are left, three each, as points of the source. Closed and manifold stays closed and manifold, so fewer than the
/// target may not be reached. Quadric errors: Garland, Heckbert, "Surface Simplification Using Quadric Error Metrics", SIGGRAPH 1997; which edges
/// may be drawn together: Dey, Edelsbrunner, Guha, Nekhayev, "Topology Preserving Edge Contraction", 1999. O(n log n), about 5 µs a triangle.
std::vector<Index> collapsedSoundly(TriangleMesh mesh, const SimplifyLimits& limits, const RunContext& run);

}  // namespace seedloom
