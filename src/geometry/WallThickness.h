#pragma once
#include "geometry/Geometry.h"

#include <optional>

namespace seedloom {

struct WallThickness {
    double least = 0, mean = 0;  ///< metres
    Index thinnestFace = 0;
    std::size_t samples = 0;
};

/// How far it is from the middle of each triangle straight inwards to the other side. With more than `mostSamples` triangles, evenly chosen
/// ones are measured. Nothing where the geometry is not closed or no ray meets a wall.
/// Method: rays against an Embree scene. Cost: O(faces · log faces) to build, then O(log faces) a sample.
std::optional<WallThickness> wallThickness(const Geometry& geometry, std::size_t mostSamples = 20000);

}  // namespace seedloom
