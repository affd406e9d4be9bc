#pragma once
// Copies turned into real points, faces and curves.
#include "geometry/Geometry.h"

namespace seedloom {

struct ElementCounts {
    std::uint64_t points = 0, corners = 0, faces = 0, triangles = 0, curves = 0;
};
/// What there is once all copies, and copies in copies, are baked. Nothing is allocated; infinity is the largest number.
ElementCounts bakedCounts(const Geometry& geometry);
/// The faces alone, without looking at each of them. Cost: O(copies).
std::uint64_t facesWithCopies(const Geometry& geometry);
/// The largest number of corners or points that is still baked where nobody asked for it: for pictures and check-ups.
inline constexpr std::uint64_t kMostBakedUnasked = 6'000'000;
/// Whether a geometry with copies is small enough to be baked for those.
bool bakesEasily(const Geometry& geometry);

/// The geometry where it has at most so many corners and points once baked, else with every second, third … of its copies, for pictures.
Geometry withFewerCopies(const Geometry& geometry, std::uint64_t most);

/// Copies in real, after the geometry's own elements, in their order. Attributes of a copy go to its faces (to the points of a shape
/// that has no faces) where the shape has none of that name; materials are gathered in one list. Throws std::length_error where the elements can't be numbered
/// with 32 bits. Cost: O(result).
Geometry bakeCopies(const Geometry& geometry);

}  // namespace seedloom
