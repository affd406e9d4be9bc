#pragma once
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct EvenRemeshOptions {
    std::vector<float> edgeLength;   ///< by point of the surface, metres, above 0
    std::vector<std::uint8_t> held;  ///< by point; those with 1 stay, with the edges between them; empty: none
    int rounds = 3;
    double keepOverDegrees = 180;  ///< edges that turn by more than this are kept as lines
};

struct EvenlyRemeshed {
    enum class Crossing : std::uint8_t {
        none,      ///< no faces of one piece cross
        asBefore,  ///< some do, as some of the surface's own did
        notMended  ///< some would, so this is the surface as it came
    };
    Geometry surface;
    Crossing crossing = Crossing::none;
};

/// Even triangles over a surface of triangles without edges of three or more faces: edges are split, joined and turned until they are about as long as
/// asked for, points relaxed sideways and put back onto the surface. Kept lines and open edges are only divided along themselves. Faces stay connected
/// as they were: closed stays closed, and the number of holes and handles is kept. After: Botsch & Kobbelt, "A Remeshing Approach to
/// Multiresolution Modeling", SGP 2004. Attributes are those of the nearest place. Cost: about 5 µs a triangle and round.
/// Where triangles of that length cross others, as in a thin part, the length is halved around, then the surface stays as it is there.
EvenlyRemeshed evenRemesh(const Geometry& triangles, const EvenRemeshOptions& options, const RunContext& run);

}  // namespace seedloom
