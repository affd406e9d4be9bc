#pragma once
// Volume, centre of gravity and second moments of solids, from which rigid bodies get their mass and inertia.
#include "geometry/Affine.h"

#include <array>
#include <span>
#include <vector>

namespace seedloom {

using Triangle3 = std::array<Vec3, 3>;

struct SolidMoments {
    double volume = 0;                              ///< m³, signed: positive where triangles are wound anticlockwise seen from outside
    std::array<double, 3> centre{};                 ///< of gravity; m
    std::array<std::array<double, 3>, 3> second{};  ///< ∫ (x − centre)(x − centre)ᵀ dV; m⁵
};

/// Of a closed surface. Method: signed tetrahedra about the first corner (Blow & Binstock, 2004).
SolidMoments momentsOf(std::span<const Triangle3> surface);
/// Of the same solid under an affine map.
SolidMoments mapped(const SolidMoments& moments, const Affine& map);

/// Axes about which a body of density 1 turns by itself, right-handed, and its moments of inertia about them, m⁵, the least first.
struct InertiaAxes {
    std::array<std::array<double, 3>, 3> axis{};  ///< unit vectors
    std::array<double, 3> moment{};
};
InertiaAxes inertiaAxesOf(const SolidMoments& moments);

}  // namespace seedloom
