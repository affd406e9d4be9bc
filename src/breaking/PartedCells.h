#pragma once
// Whether walls part what they should.
#include "breaking/SolidCells.h"
#include "breaking/Walls.h"

namespace seedloom {

/// How many pieces lie in several cells: a wall between these has a hole. Told by the walls around a piece, each of which knows the cell on either side;
/// what is under a hundredth of the area around the piece is rounding at a short edge.
std::size_t piecesOfSeveralCells(const SolidPieces& pieces, const Walls& walls);

}  // namespace seedloom
