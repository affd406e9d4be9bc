#pragma once
// Pictures of a model with light and shadow, traced without a display.
#include "geometry/Measures.h"
#include "parallel/RunContext.h"
#include "render/Picture.h"
#include "scene/DrawScene.h"

namespace seedloom {

struct RenderOptions {
    int width = 960, height = 720;       ///< pixels, 1–8192
    int samples = 16;                    ///< rays a pixel; each also looks for the light and for the sky
    double yaw = 32, pitch = 20;         ///< direction to look from, as the camera's
    std::optional<Bounds> framing = {};  ///< what the camera frames; missing: the scene itself
    bool ground = true;                  ///< a floor below the model that catches its shadow
};

/// The scene as seen by a camera that frames it: in its own colours, with a key light with soft shadow, and light from the sky where that can be seen. Curves
/// are drawn as thin rods, points that stand alone as small balls. Same scene and options, same pixels, for any number of threads. Throws Cancelled. Rays:
/// Embree.
Picture renderedPicture(const std::shared_ptr<const DrawScene>& scene, const RenderOptions& options, const RunContext& run);
/// The same of a geometry as it looks by itself.
Picture renderedPicture(const Geometry& geometry, const RenderOptions& options, const RunContext& run);

}  // namespace seedloom
