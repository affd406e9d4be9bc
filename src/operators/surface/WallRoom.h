#pragma once
// Makes a wall give way where a surface has no room for it.
#include "geometry/Geometry.h"
#include "parallel/RunContext.h"

namespace seedloom {

/// How far a wall goes from each point of a surface.
struct WallOffsets {
    float outPart;                       ///< of the thickness, in front
    std::vector<Vec3> by;                ///< over the whole thickness, metres
    std::vector<float> outward, inward;  ///< what is left of it on both sides

    WallOffsets(float partInFront, std::vector<Vec3> offsets) : outPart(partInFront), by(std::move(offsets)), outward(by.size(), 1), inward(by.size(), 1) {}
};

struct GaveWay {
    std::size_t thinned = 0;  ///< points at which the wall got thinner
    std::size_t folds = 0;    ///< points at which it crosses itself, or has no area, all the same
};

/// Sets the places of `solid`, whose points are the surface's in front and then behind, so that no face turns over, crosses others or loses its area: offsets
/// go more alike, then get shorter. Faults of the surface itself stay. Cost: about 2 µs a face, thirty times as much where there is no room.
GaveWay makeRoom(const Geometry& surface, WallOffsets& offsets, Geometry& solid, const RunContext& run);

/// The greatest part found of the offsets `by` that fits without giving way anywhere, such that a thickness of `wished` metres comes to two digits; 0 where
/// none of them does. `solid` gets the places of that wall.
double partThatFits(const Geometry& surface, const std::vector<Vec3>& by, double wished, float outPart, Geometry& solid, const RunContext& run);

}  // namespace seedloom
