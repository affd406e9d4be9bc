#pragma once
#include "geometry/Vec.h"

#include <cstdint>
#include <vector>

namespace seedloom {

/// Rings of places from a border to one place in its middle: on a ball where the border lies on one, else bulging towards `apex`.
struct CornerPatch {
    std::vector<std::vector<Vec3>> rings;  ///< inside the border, each as long as it
    Vec3 middle;
};
CornerPatch cornerPatch(const std::vector<Vec3>& border, Vec3 apex, int rings);

}  // namespace seedloom
