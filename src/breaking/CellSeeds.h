#pragma once
// Where cells have their middle.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// `count` places inside a closed solid. More of them leave the first where they are. `cluster` 0 keeps them apart (of eight places each time the one
/// farthest from all before: Mitchell, "Spectrally Optimal Sampling for Distribution Ray Tracing", SIGGRAPH 1991), 1 gathers them around three places.
/// A solid so thin that chance hardly meets its inside has them on its surface. Cost: O(count).
std::vector<Vec3> cellSeeds(const Geometry& solid, std::size_t count, double seed, double cluster, const RunContext& run);
/// The same on the faces of any surface.
std::vector<Vec3> cellSeedsOn(const Geometry& surface, std::size_t count, double seed, double cluster, const RunContext& run);

}  // namespace seedloom
