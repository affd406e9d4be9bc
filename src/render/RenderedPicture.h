#pragma once
// Pictures of a model with light and shadow, traced without a display.
#include "render/Thumbnail.h"

#include "geometry/Result.h"

#include <filesystem>
#include <optional>

namespace seedloom {

struct RenderOptions {
    int width = 960, height = 720;  ///< pixels, 1–8192
    int samples = 16;               ///< rays a pixel; each also looks for the light and for the sky
    double yaw = 32, pitch = 20;    ///< direction to look from, degrees: around +Y from +Z, and above the ground
    bool ground = true;             ///< a floor below the model that catches its shadow
};

/// The geometry (copies baked) as seen by a camera that frames it: colours of the attribute `color` or clay, a key light with soft shadow, and light from
/// the sky where that can be seen. Curves are drawn as thin tubes, loose points as small balls. Same geometry and options, same pixels, for any number
/// of threads. Throws Cancelled. Rays: Embree.
Picture renderedPicture(const Geometry& geometry, const RenderOptions& options, const RunContext& run);

/// Writes PNG, atomically. Error `file.write`.
std::optional<Error> writePng(const Picture& picture, const std::filesystem::path& path);

}  // namespace seedloom
