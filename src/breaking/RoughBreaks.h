#pragma once
// Broken faces made uneven.
#include "breaking/RoughWalls.h"

namespace seedloom {

struct RoughBreaks {
    Geometry geometry;
    std::size_t crossing = 0;  ///< faces that cross others of their piece nevertheless, as they may where the pieces did so before
    std::size_t held = 0;      ///< places of broken faces that moved less than they should, since there was no room
};

/// Inside faces cut into triangles with sides of `detail` metres and moved by noise: `amount`, by point, is how far at most (m); `piece`, by face, from 0
/// without gaps; `rough.size` how far from one bump to the next. Places at the same place are one, so that both sides of a break stay the same surface to the
/// bit; those on the old skin move along it only, and others the less out of it the nearer they are. Where faces would turn over or cross others of their
/// piece, places move less. Faces of the old skin get corners where the broken faces beside them did, and are the same otherwise. Precondition: closed pieces;
/// `rough.size` ≥ leastNoiseSize of the amounts. Throws LimitExceeded.
RoughBreaks roughenBreaks(const Geometry& pieces, const std::vector<std::int32_t>& piece, const std::vector<float>& amount, const Roughness& rough,
                          double detail, const RunContext& run);

}  // namespace seedloom
