#pragma once
// Which attributes are directions, and how they turn with what they are on.
#include "geometry/Affine.h"

#include <array>
#include <cstdint>
#include <string_view>

namespace seedloom {

enum class Turns : std::uint8_t { not_at_all, as_normal, as_direction };

inline constexpr std::array<const char*, 4> kTurningNames{"normal", "tangent", "side", "up"};

/// By the attribute's name; the names that turn are kTurningNames.
inline Turns turnsOf(std::string_view name) {
    if (name == "normal") return Turns::as_normal;
    return name == "tangent" || name == "side" || name == "up" ? Turns::as_direction : Turns::not_at_all;
}

/// A unit vector again.
inline Vec3 turned(const Affine& map, Turns turns, Vec3 v) {
    return turns == Turns::as_normal ? map.normal(v) : turns == Turns::as_direction ? normalized(map.vector(v), v) : v;
}

}  // namespace seedloom
