#pragma once
// Solids of several bodies cut into pieces along walls.
#include "breaking/SolidCells.h"

namespace seedloom {

/// Each body of the solid (see bodiesOf) cut by itself, along the walls that reach it: bodies may touch, as pieces do that were broken before, or reach into
/// each other. Pieces come body by body.
SolidPieces cutBodies(const Geometry& solid, const Walls& walls, const std::function<Index(Vec3)>& cellAt, const RunContext& run);

}  // namespace seedloom
