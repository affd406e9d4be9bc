#pragma once
// How far the places of broken faces may move.
#include "breaking/BreakMesh.h"
#include "breaking/RoughWalls.h"

namespace seedloom {

/// Old faces beside broken ones, with the places that are on their outline now.
struct SkinRing {
    Index face;
    std::vector<Vec3> corners;  ///< of points of the skin; of places where they are before they move
    std::vector<Index> places;  ///< by corner; kNoPlace for points of the skin
};
std::vector<SkinRing> skinRings(const Geometry& pieces, const BreakMesh& mesh);

/// Where places of the mesh go, before it is asked whether there is room: moved by noise of `amount` (m, by place), along the old skin on it, and the less
/// towards it the nearer they are.
std::vector<Vec3> wantedMoves(const Geometry& pieces, const BreakMesh& mesh, const std::vector<SkinRing>& rings, const std::vector<float>& amount,
                              const Roughness& rough, const RunContext& run);

/// Places that would turn a face over or make a side of it much shorter, or let an outline cross itself, if all moved as told. By place.
std::vector<std::uint8_t> tooFar(const BreakMesh& mesh, const std::vector<SkinRing>& skin, const std::vector<Vec3>& moves, const RunContext& run);

}  // namespace seedloom
