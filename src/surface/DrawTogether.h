#pragma once
// Closed surfaces whose points came so near to each other that they are one.
#include "geometry/Geometry.h"

#include <optional>

namespace seedloom {

/// Edges of other than two faces.
std::size_t oddEdges(const Geometry& geometry);

/// The surface with points within `distance` metres joined, those whose `joins` is not 0; nothing where there are none. Faces that lose their corners go, and
/// so do pairs of faces with the same points that look away from each other, so that a closed surface stays closed.
std::optional<Geometry> drawnTogether(const Geometry& geometry, double distance, const std::vector<std::uint8_t>& joins);

}  // namespace seedloom
