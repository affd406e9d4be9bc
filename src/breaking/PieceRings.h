#pragma once
// Faces of one piece before they are written.
#include "breaking/PatchSides.h"

#include <deque>

namespace seedloom {

struct PieceRing {
    Index source;  ///< a face of what was arranged
    bool inside;   ///< made by a wall
    bool turned;
    std::vector<RingCorner> corners;
    std::vector<Index> panels;  ///< of the side from each corner to the next
};

/// Rounding leaves some triangles without a height: they go, and the face beyond their longest side gets their third corner. Walls alike on both sides. New
/// corners point into lists that are added to `together`.
void absorbFlat(std::vector<PieceRing>& rings, const ArrangedFaces& arranged, std::deque<std::vector<KeptPiece>>& together);

/// For each corner of the rings, in a row, the first one of those that stand on one point: around it faces go on into each other.
std::vector<Index> fansOf(const std::vector<PieceRing>& rings, const PatchSides& sides);

}  // namespace seedloom
