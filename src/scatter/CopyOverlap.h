#pragma once
// Which copies stand in each other, and which lie on top of each other.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

struct CopyPair {
    Index first, second;  ///< first < second
    bool operator==(const CopyPair&) const = default;
};

/// What of copies must not meet: their boxes, turned as they are, or the faces themselves.
enum class OverlapBy : std::uint8_t { bounds, meshes };

struct CopyOverlaps {
    std::size_t near = 0;         ///< pairs whose boxes along the axes meet
    std::vector<CopyPair> pairs;  ///< in rising order; of doubled copies only the first of each place is looked at
    std::vector<Index> doubled;   ///< copies of the same shape in the same place as an earlier one
    std::vector<Index> doubleOf;  ///< that earlier one
    bool cut = false;             ///< more than `most` pairs are near each other; then there are no pairs, and who they are is not known
};
inline constexpr std::size_t kMostOverlapPairs = 2'000'000;

/// Copies that only touch do not overlap: what reaches into each other by less than a ten-thousandth of the smaller one's size is no overlap. `gap` metres
/// more between boxes are asked for. One that lies wholly inside another overlaps it. Copies of shapes without points meet nothing.
/// Boxes: separating axes (Gottschalk et al., "OBBTree", 1996). Cost: O(n log n + pairs · triangles that are near).
CopyOverlaps overlapsOf(const Geometry& geometry, OverlapBy by, const RunContext& run, float gap = 0, std::size_t most = kMostOverlapPairs);

/// Copies of the same shape in the same place (within a hundred-thousandth of its size) as an earlier one, and that one. Cost: O(n).
void doubledCopies(const Geometry& geometry, std::vector<Index>& doubled, std::vector<Index>& doubleOf);

}  // namespace seedloom
