#pragma once
// Points pushed apart until their distances are even.
#include "geometry/NearestPlace.h"
#include "parallel/RunContext.h"

#include <functional>

namespace seedloom {

struct RelaxOptions {
    int rounds = 0;
    /// Puts a moved point back onto what it lies on; nothing where it must stay. Called by several threads.
    std::function<std::optional<Place>(Vec3 moved, const Place& before)> settle;
};

/// Moves each place away from those within its reach (twice the distance at which points of its density would stand evenly), a part of the way each round; all
/// points of a round move at once, so that their order doesn't count. `reach` is in metres, one each.
/// Source: the repulsion of Turk, "Re-tiling Polygonal Surfaces", 1992. Cost: O(points) a round.
void relaxPlaces(std::vector<Place>& places, const std::vector<float>& reach, const RelaxOptions& options, const RunContext& run);

}  // namespace seedloom
