#pragma once
// Colours that a geometry is shown in where nothing else is asked for.
#include "geometry/Geometry.h"

#include <optional>

namespace seedloom {

/// A colour for each face by its material; nothing where faces have none. A number below 0 has the colour `without`.
std::optional<std::vector<Vec3>> materialColours(const Geometry& geometry, Element element, Vec3 without);
/// A colour for each corner: `color` where there is one, else the material's; nothing where there is neither.
std::optional<std::vector<Vec3>> shownColours(const Geometry& geometry, Vec3 without);

}  // namespace seedloom
