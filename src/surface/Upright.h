#pragma once
#include "geometry/Geometry.h"

#include <optional>
#include <span>

namespace seedloom {

/// An axis with a sense, as which way is up.
struct SignedAxis {
    int axis = 1;  ///< 0 x, 1 y, 2 z
    bool positive = true;
    bool operator==(const SignedAxis&) const = default;
};

/// Turns that axis onto +Y.
Affine turnUpright(SignedAxis up);

/// Which of the six ways along the axes is up, if a model stands on its flattest side: that of which most touches a plane laid against it, holes in it
/// included. Faces that are `leftOut` (by face; empty: none) don't count. +Y where it is about as good as any; nothing where no side is flat. Cost: O(corners).
std::optional<SignedAxis> guessedUp(const Geometry& geometry, std::span<const std::uint8_t> leftOut = {});

}  // namespace seedloom
