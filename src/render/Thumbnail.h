#pragma once
// Small pictures of scenes, drawn without a display.
#include "parallel/RunContext.h"
#include "render/Picture.h"
#include "scene/DrawScene.h"

namespace seedloom {

struct ThumbnailOptions {
    int width = 96, height = 96;   ///< pixels, 1–2048
    double yaw = 30, pitch = 20;   ///< direction to look from, as the camera's
    Colour line{35, 43, 54, 255};  ///< of curves and dots
};

/// The scene framed to the picture: faces lit, curves as lines, points that stand alone as dots. Parallel projection; four samples a pixel. Of very many
/// copies only so many are drawn as such a picture can show. Same scene and options, same pixels. Throws Cancelled.
Picture thumbnail(const DrawScene& scene, const ThumbnailOptions& options, const RunContext& run);
/// The same of a geometry as it looks by itself.
Picture thumbnail(const Geometry& geometry, const ThumbnailOptions& options, const RunContext& run);

}  // namespace seedloom
