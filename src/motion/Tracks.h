#pragma once
// Where numbered things were at several moments, and the ways that they made.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

#include <memory>

namespace seedloom {

/// Numbers of things, each once, and where they are, m.
struct Moment {
    int frame = 0;
    std::shared_ptr<const std::vector<std::int64_t>> ids;
    std::vector<Vec3> places;
};
using Moments = std::vector<std::shared_ptr<const Moment>>;

/// One open curve for each thing through its places in the order of the moments, in the order in which they came up. Something that is missing at a moment,
/// or is nowhere (not finite) then, goes on in a further curve; standing still (within a hundred-thousandth of the whole) adds no point, and what never moved
/// has no curve. Points get `along` (0–1 by length) and `age` (frames from then to `now`), curves `id`. Throws LimitExceeded and Cancelled.
Geometry tracksOf(const Moments& moments, int now, const RunContext& run);

}  // namespace seedloom
