#pragma once
// Directions that cover a sphere evenly.
#include "geometry/Vec.h"

#include <cmath>
#include <cstddef>

namespace seedloom {

/// The i-th of `count` unit directions, from pole (+Y) to pole along a spiral of golden angles; `turned` is by how many of them the spiral begins later.
inline Vec3 evenDirection(std::size_t i, std::size_t count, std::size_t turned = 0) {
    const double y = 1 - 2 * (double(i) + 0.5) / double(count), r = std::sqrt(1 - y * y), turn = double(i + turned) * kPi * (3 - std::sqrt(5.0));
    return {float(r * std::cos(turn)), float(y), float(r * std::sin(turn))};
}

}  // namespace seedloom
