#pragma once
// The values that a loom's controls have: defaults, values in use, a preset, values given from outside.
#include "fields/Evaluate.h"
#include "geometry/Result.h"
#include "graph/Loom.h"

#include <optional>
#include <utility>

namespace seedloom {

/// What a control can be: number, integer, boolean, choice, text, vec2, vec3, color ([r, g, b], as picked), ramp ({"knots": …}), file (a path).
const std::vector<std::string>& controlTypes();
/// Where its slider runs: from `low` or `min` to `high` or `max`; nothing where an end is missing or they are no range.
std::optional<std::pair<double, double>> sliderRange(const Control& control);

/// Whether `value` is of the control's type and inside its range; the error (codes `control.type`, `control.range`) says what is allowed.
Result<Json> checkedControlValue(const Control& control, const Json& value);

/// What comes nearest to `value` among those that the control takes: held inside its range, and of its type as far as that says the same. A control's
/// first choice, 0, white or a straight ramp where nothing of it can be kept.
Json fittedValue(const Control& control, const Json& value);

/// A value as typed on a command line: a number, true or false, a word, or x,y,z.
Result<Json> controlValueFromText(const Control& control, const std::string& text);

struct ControlChoice {
    std::string preset;   ///< empty: none
    ControlValues given;  ///< wins over everything
};

/// All controls with their values. Defaults written as formulas are computed from the other controls; a ring of them is an error
/// with its path (code `control.cycle`). Errors: `control.unknown`, `control.preset`, `control.type`, `control.range`, `control.not_allowed`, `formula.*`.
Result<ControlValues> controlValues(const Loom& loom, const ControlChoice& choice = {});

/// Whether a condition (shownWhen, allowedWhen) holds for these values. Errors: `formula.*`, and `control.condition` for what is no single number.
/// `words` can be read by their plain names.
Result<bool> conditionHolds(const std::string& condition, const ControlValues& values, const SurroundingWords& words = {});
/// Whether whoever uses the loom sees the control. One whose condition can't be computed is seen.
bool controlShown(const Control& control, const ControlValues& values);

/// `wanted`, as far as it is allowed: a number or vector goes from the value in use only as far as all conditions hold, other values stay as they are
/// where one does not. Where the values in use are not allowed themselves, `wanted` is.
Json allowedValue(const Loom& loom, const std::string& control, const Json& wanted);

}  // namespace seedloom
