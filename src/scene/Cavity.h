#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

/// How far the surface bends at each corner of its faces, −1 (a crevice) to 1 (an edge), for shading: the mean curvature of its point by neighbours (own: mean
/// of the slopes towards them against the point's normal), in parts of the size of the whole, evened out once. Large faces have less of it, as it would
/// spread over all of them.
std::vector<float> cavityOf(const Geometry& geometry);

}  // namespace seedloom
