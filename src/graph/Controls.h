#pragma once
// The values that a loom's controls have: defaults, values in use, a preset, values given from outside.
#include "fields/Evaluate.h"
#include "geometry/Result.h"
#include "graph/Loom.h"

namespace seedloom {

/// Whether `value` is of the control's type and inside its range; the error (codes `control.type`, `control.range`) says what is allowed.
Result<Json> checkedControlValue(const Control& control, const Json& value);

/// A value as typed on a command line: a number, true or false, a word, or x,y,z.
Result<Json> controlValueFromText(const Control& control, const std::string& text);

struct ControlChoice {
    std::string preset;   ///< empty: none
    ControlValues given;  ///< wins over everything
};

/// All controls with their values. Defaults written as formulas are computed from the other controls; a ring of them is an error
/// with its path (code `control.cycle`). Errors: `control.unknown`, `control.preset`, `control.type`, `control.range`, `formula.*`.
Result<ControlValues> controlValues(const Loom& loom, const ControlChoice& choice = {});

}  // namespace seedloom
