#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct EvenRemeshOptions {
    std::vector<float> edgeLength;  ///< by point of the surface, metres, above 0
    int rounds = 3;
    double keepOverDegrees = 180;  ///< edges that turn by more than this are kept as lines
};

/// Even triangles over a surface of triangles without edges of three or more faces: edges are split, joined and turned until they are about as long as
/// asked for, points relaxed sideways and put back onto the surface. Kept lines and open edges are only divided along themselves. Faces stay connected
/// as they were: closed stays closed, and the number of holes and handles is kept. After: Botsch & Kobbelt, "A Remeshing Approach to
/// Multiresolution Modeling", SGP 2004. Attributes are those of the nearest place. Cost: about 5 µs a triangle and round.
Geometry evenRemesh(const Geometry& triangles, const EvenRemeshOptions& options, const RunContext& run);

}  // namespace seedloom
