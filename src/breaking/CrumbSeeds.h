#pragma once
// Where the crumbs along a line lie.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <array>

namespace seedloom {

/// A straight part of a line that crumbles.
struct LineStretch {
    Vec3 from, to;
    Vec3 out;                     ///< what the surface faces there; unit
    std::array<double, 2> width;  ///< metres to each side of the line that crumbs reach, at both ends
    std::array<double, 2> rate;   ///< crumbs a metre, at both ends
};

struct Crumb {
    Vec3 centre;
    double radius;  ///< metres
};

/// Crumbs along lines, none nearer to another than their sizes allow. `sizes`: the least and the largest radius, part of the width; small ones are more
/// frequent. Each stretch draws from numbers of its own, by its place: more crumbs leave those that are there, as far as there is room, and other stretches
/// do not matter. A crumb lies on the line, so that both sides get a part of it, or so far beside it that it is whole. Throws LimitExceeded.
std::vector<Crumb> crumbsAlong(const std::vector<LineStretch>& lines, std::array<double, 2> sizes, double seed, const RunContext& run);

}  // namespace seedloom
