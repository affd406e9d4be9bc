#pragma once
// What every operator that cuts a solid does with the pieces.
#include "breaking/BodyCuts.h"
#include "operators/OperatorCall.h"

namespace seedloom {

SettingSpec insideMaterialSetting();

/// Gives inside faces their texture places and the material of `inside_material`, takes over the input's copies, and fails where the pieces do not make up
/// what was cut, as they must where no room is left between them (`filling`).
Geometry finishedPieces(OperatorCall& call, SolidPieces pieces, const Walls& walls, bool filling);

}  // namespace seedloom
