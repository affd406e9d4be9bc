#pragma once
// Where a surface that was made is not sound, for those who make it anew with less.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// Faces that cross others of their piece, and those without area, in order.
std::vector<Index> faultyFaces(const Geometry& geometry, const RunContext& run);

/// For each place how far it is from the nearest corner of the faces, squared, metres². There must be a face.
std::vector<float> squaredDistancesTo(const Geometry& geometry, const std::vector<Index>& faces, const std::vector<Vec3>& places);

}  // namespace seedloom
