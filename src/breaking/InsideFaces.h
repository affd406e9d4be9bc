#pragma once
// What faces made by breaking carry beside their shape: a texture's place and a material.
#include "breaking/SolidCells.h"

namespace seedloom {

/// Gives inside faces a corner `uv` in metres: the faces of one wall of one piece lie together, as seen straight on, and nothing of a piece over another.
/// Old faces keep theirs bit for bit (0, 0 where they had none).
void mapInside(SolidPieces& pieces, const Walls& walls, const RunContext& run);

/// Gives inside faces the material of that name, made where the list lacks it; old faces keep theirs, or have none. An empty name gives none. Where the
/// old skin carries a `color`, inside faces take the material's, as nothing of them was ever painted.
void giveInsideMaterial(Geometry& pieces, const std::vector<PieceFace>& faces, const std::string& name);

}  // namespace seedloom
