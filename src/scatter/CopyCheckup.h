#pragma once
// Soundness of a geometry with copies that are too many to be baked for it.
#include "geometry/Checkup.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// What `checkupOf` would say of the baked geometry, from its own faces and those of the shapes, each looked at once. Points of different copies on the same
/// place count as doubled only where whole copies are. Cost: O(shapes' corners + copies); faces of copies that are stretched unevenly are measured one by one.
Checkup checkupUnbaked(const Geometry& geometry, const RunContext& run);

/// `findingsOf` for the geometry's own elements, and for those of shapes, which are told as the copies that show them. With copies also `overlapping_copies`
/// (one of each pair that stand in each other, by faces, or by boxes where there are more than kMostByFaces) and `doubled_copies` (those on top of an earlier
/// one).
std::vector<Finding> findingsWithCopies(const Geometry& geometry, bool intersections, const RunContext& run);
inline constexpr std::size_t kMostByFaces = 20'000;

/// Connected parts with faces once the copies are baked.
std::uint64_t bakedPieces(const Geometry& geometry);
/// Pairs of faces that cut through each other within the geometry's own faces and within each copy.
std::uint64_t intersectionsUnbaked(const Geometry& geometry);

}  // namespace seedloom
