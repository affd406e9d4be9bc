#pragma once
// Values between two presets.
#include "graph/Controls.h"

namespace seedloom {

/// A value of the control's type at `part` of the way from `from` (0) to `to` (1): numbers, vectors, colours and ramps lie between, whole numbers are
/// rounded, all others change over at a half. Held inside the control's range.
Json blendedValue(const Control& control, const Json& from, const Json& to, double part);

/// Values at `part` of the way from one preset to the other. Controls that neither of them sets are left out; for one that only one of them sets the other
/// has its default. Errors: those of controlValues(), where a preset can't be used.
Result<ControlValues> blendedValues(const Loom& loom, const Preset& from, const Preset& to, double part);

}  // namespace seedloom
