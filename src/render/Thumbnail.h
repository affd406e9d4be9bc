#pragma once
// Small pictures of geometries, drawn without a display.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct Colour {
    std::uint8_t r = 0, g = 0, b = 0, a = 255;
};

struct ThumbnailOptions {
    int width = 96, height = 96;  ///< pixels, 1–2048
    double yaw = 30, pitch = 20;  ///< direction to look from, degrees: around +Y from +Z, and above the ground
    Colour surface{199, 190, 172, 255}, line{35, 43, 54, 255};
};

struct Picture {
    int width = 0, height = 0;
    std::vector<Colour> pixels;  ///< rows from the top; transparent where nothing is
};

/// The geometry (copies baked) framed to the picture, faces lit as clay, curves as lines, points without faces or curves as dots.
/// Parallel projection; four samples a pixel. Same geometry and options, same pixels. Throws Cancelled.
Picture thumbnail(const Geometry& geometry, const ThumbnailOptions& options, const RunContext& run);

}  // namespace seedloom
