#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

struct Chain {
    std::vector<Index> points;
    bool closed = false;
};

/// Strings of single stretches (pairs of points) joined end to end. They end where more or fewer than two stretches meet; rings close. Order and
/// direction follow the list. Cost: O(stretches).
std::vector<Chain> chainsOf(const std::vector<std::array<Index, 2>>& stretches, std::size_t points);

}  // namespace seedloom
