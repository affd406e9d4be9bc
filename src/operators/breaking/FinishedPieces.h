#pragma once
// What every operator that cuts a solid does with the pieces.
#include "breaking/SolidCells.h"
#include "operators/OperatorCall.h"

namespace seedloom {

SettingSpec insideMaterialSetting();

/// Gives inside faces their texture places and the material of `inside_material`, takes over the input's copies, and tells where the pieces do not add up to
/// the `solid`, as they must where no room is left between them (`filling`).
Geometry finishedPieces(OperatorCall& call, const Geometry& solid, SolidPieces pieces, const Walls& walls, bool filling);

}  // namespace seedloom
