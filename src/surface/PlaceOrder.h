#pragma once
// Lists of places that can be looked up.
#include "geometry/Vec.h"

#include <algorithm>
#include <tuple>
#include <vector>

namespace seedloom {

inline bool inOrder(Vec3 a, Vec3 b) { return std::tie(a.x, a.y, a.z) < std::tie(b.x, b.y, b.z); }

inline void putInOrder(std::vector<Vec3>& places) {
    std::sort(places.begin(), places.end(), inOrder);
    places.erase(std::unique(places.begin(), places.end()), places.end());
}

}  // namespace seedloom
