#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

struct LooseParts {
    std::vector<std::uint8_t> small;  ///< by face: belongs to a part that is smaller
    std::size_t parts = 0;            ///< how many such parts there are
};

/// What hangs together by points and is smaller than `share` (0–1) of the largest part, by the diagonals of their bounds. Cost: O(corners).
LooseParts looseParts(const Geometry& geometry, double share);

}  // namespace seedloom
