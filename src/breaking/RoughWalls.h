#pragma once
// Walls as faces: flat, or fine and uneven.
#include "breaking/Walls.h"
#include "parallel/RunContext.h"

#include <cstdint>

namespace seedloom {

struct Roughness {
    double amount = 0;  ///< metres that places move at most in each direction; 0: the walls stay flat
    double size = 1;    ///< metres from one bump to the next
    std::uint32_t seed = 0;
};

/// The size of bumps from which on walls so rough can't be pushed through each other.
double leastNoiseSize(double amount);

/// Places moved by the noise, each coordinate by at most `amount`. Bit-equal wherever a place is asked for.
std::vector<Vec3> unevenPlaces(const std::vector<Vec3>& at, const Roughness& rough);

/// As far as flat walls are needed where uneven ones are to part what is in `box`: they wander into it from beside.
Bounds roomOfWalls(const Bounds& box, const Roughness& rough);

/// Faces of the walls as far as they lie in `box`, and a little around it. Uneven ones are triangles of a quarter of the bumps' size; all places are
/// moved by one field of noise, so that what walls have in common stays so. Preconditions: the walls are all that there are in roomOfWalls(box, rough); `size`
/// ≥ leastNoiseSize(amount). Throws LimitExceeded.
Walls wallFaces(const FlatWalls& flat, const Bounds& box, const Roughness& rough, const RunContext& run);

}  // namespace seedloom
