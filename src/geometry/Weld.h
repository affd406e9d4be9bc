#pragma once
// Joins points that lie on top of each other.
#include "geometry/Geometry.h"

namespace seedloom {

struct WeldResult {
    Geometry geometry;
    std::size_t joinedPoints = 0;
    std::size_t removedFaces = 0;  ///< faces that collapsed to under three different points
};

/// For every point the first point (in order) within `distance` metres that stands for it; itself where none is.
/// Points whose `joins` is 0 stay alone; an empty `joins` means all. Cost: O(points) for evenly spread points.
std::vector<Index> nearestEarlier(std::span<const Vec3> positions, double distance, std::span<const std::uint8_t> joins = {});

/// How many points lie within `distance` of an earlier one.
std::size_t countDoubled(std::span<const Vec3> positions, double distance);

/// Joined points keep the first one's position and attributes; corners keep theirs. Faces that collapse are removed,
/// repeated corners dropped; points that were loose before stay.
WeldResult weld(const Geometry& geometry, double distance, std::span<const std::uint8_t> joins = {});

}  // namespace seedloom
