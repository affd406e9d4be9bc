#pragma once
// Lays a surface flat in charts, for textures.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct UnwrapOptions {
    std::vector<std::uint8_t> seams;   ///< per edge of the topology: 1 where charts end
    std::vector<std::uint8_t> chosen;  ///< per face: 0 leaves the face out
    double mostStretch = 2;            ///< from 1; charts with more are split in two, again and again
};

struct Unwrapped {
    static constexpr Index kNoChart = ~Index{0};
    std::vector<Vec2> places;    ///< per corner, in metres, each chart about its own origin
    std::vector<Index> chartOf;  ///< per face; kNoChart for faces that were left out
    Index charts = 0;            ///< in the order of their first faces
    double stretch = 1;          ///< area-weighted mean over all triangles, as below
};

/// Every chart is cut to a disk and laid flat by least squares conformal maps (Lévy, Petitjean, Ray, Maillot, "Least Squares Conformal Maps for
/// Automatic Texture Atlas Generation", SIGGRAPH 2002), at the size of its area. A triangle's stretch is the ratio of its flat to its true area, or
/// the other way round where that is larger. No triangle is mirrored; charts that would be, that are closed, would lie over themselves, or are stretched too
/// much are split in two along the middle between two far ends. Edges with other than two faces, or between faces of unlike winding, always end a chart. The
/// same for any number of threads. Cost: one sparse factorisation a chart.
Unwrapped unwrap(const Geometry& geometry, const UnwrapOptions& options, const RunContext& run);

}  // namespace seedloom
