#pragma once
// How one geometry became another: which points moved and how far, what was added, what was removed.
#include "geometry/Geometry.h"

namespace seedloom {

/// What told the points apart.
enum class MatchedBy : std::uint8_t {
    number,  ///< the same faces and curves over as many points: point n is point n
    id,      ///< both carry a whole-number attribute `id` on points, different for each
    place,   ///< points that stayed where they are, bit for bit; of several at one place each once, in their order
};

/// For elements without a counterpart.
inline constexpr Index kNoRow = ~Index{0};

struct Difference {
    MatchedBy matchedBy = MatchedBy::number;
    std::vector<Index> was, wasFace;       ///< for points and faces of `after` the row in `before`, or kNoRow
    std::vector<float> moved;              ///< metres, one a point of `after`; 0 for added ones
    std::vector<std::uint8_t> added;       ///< 1 for points of `after` that `before` lacks
    std::vector<Index> removed;            ///< points of `before` that `after` lacks
    std::vector<std::uint8_t> addedFaces;  ///< 1 for faces of `after` over other points than any face of `before`
    std::vector<Index> removedFaces;
    float farthest = 0;  ///< greatest finite value of `moved`
    std::size_t movedCount = 0, addedCount = 0, addedFaceCount = 0;
};

/// Copies are not looked into: bake them first. Cost: O(points + corners), by hashing.
Difference differenceOf(const Geometry& before, const Geometry& after);

}  // namespace seedloom
