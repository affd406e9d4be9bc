#pragma once
// Walls through lines that were drawn on a solid.
#include "breaking/RoughWalls.h"

namespace seedloom {

struct CurveCut {
    Vec3 direction{};    ///< into the solid; 0, 0, 0: against the surface where the line lies
    double depth = 0;    ///< metres from the line; 0: all the way through
    bool extend = true;  ///< draw open lines on until they leave the solid
    Roughness rough;
};

struct CurveWalls {
    Walls walls;                   ///< `wall`: the number of the curve; corner attribute `uv`: metres along and down
    Geometry extended;             ///< lines as they cut, with what was drawn on; curve tag `drawn_on` on that
    std::vector<Index> pointless;  ///< curves of no length
};

/// One wall a curve, ruled along the curve's own direction: the given one, or the mean of what the surface faces, turned inwards. A closed line around the
/// solid, whose surface faces all ways, is filled towards its middle instead. Walls of different curves may cross; a curve that crosses itself has one
/// group a stretch. `solid`: closed. Throws LimitExceeded.
CurveWalls curveWalls(const Geometry& solid, const Geometry& curves, const CurveCut& cut, const RunContext& run);

}  // namespace seedloom
