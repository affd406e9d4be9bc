#pragma once
// Where an offset surface folds.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// A surface and its wall: each point has one in front and one behind, numbered on by the surface's points.
struct Wall {
    Geometry solid;
};

/// By point of the surface: whether faces of the wall at it cross others of the same connected part. Only places where offsets differ by more than half
/// the distance between neighbours, and what is around them, are looked at. Cost: O(points), and about 3 µs a face that is looked at.
std::vector<std::uint8_t> foldsOf(const Wall& wall, const RunContext& run);

}  // namespace seedloom
