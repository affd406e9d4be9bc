#pragma once
// What a person chose to vary: some controls, each by values, in steps or by chance, and how many there are to be.
#include "vary/Variations.h"

namespace seedloom {

struct VariedControl {
    enum class How : unsigned char { values, steps, random };
    std::string control;
    How how = How::steps;
    std::vector<Json> values;  ///< How::values; by chance, where there are any, only these are drawn
    double from = 0, to = 1;   ///< of steps, and of numbers by chance
    int steps = 4;             ///< at least 1
    bool operator==(const VariedControl&) const = default;
};

struct VaryPlan {
    bool presets = false;  ///< each preset of the loom, as one more thing that varies
    std::vector<VariedControl> controls;
    bool all = true;         ///< every combination of presets, values and steps; else `count` of them that cover all evenly
    std::size_t count = 24;  ///< also where nothing but chance varies anything
    unsigned seed = 1;
    bool operator==(const VaryPlan&) const = default;

    const VariedControl* of(const std::string& control) const;
    bool empty() const { return !presets && controls.empty(); }
    /// Whether there are combinations to be had: not everything that varies is left to chance.
    bool combines() const;
};

/// As it is proposed for a control: its choices, yes and no, its slider's range, or the value in use.
VariedControl proposedFor(const Loom& loom, const Control& control, VariedControl::How how);
/// The plan that leaves every control that offers a range or choices to chance.
VaryPlan everythingByChance(const Loom& loom);
/// Without what the loom no longer has.
VaryPlan fittedPlan(VaryPlan plan, const Loom& loom);

/// Values along one control. Errors: `control.*`, `vary.axis`, `vary.count`.
Result<VaryAxis> axisOf(const Loom& loom, const VariedControl& varied);
/// How many variations the plan makes, however many that are.
Result<double> plannedCount(const VaryPlan& plan, const Loom& loom);
/// In their order: presets slowest, then the controls as they stand in the plan. Controls that don't vary have the values that the loom has in use. Of
/// combinations those stay that the loom does not allow: their place in a table says so. None where nothing varies. Errors: `vary.count`, those of axisOf().
Result<std::vector<Variation>> variationsOf(const VaryPlan& plan, const Loom& loom);

/// Values as they are typed: "0.2; 0.6; 1" or "oak; pine". Where no semicolon stands, commas part single numbers and choices. Errors: `control.*`.
Result<std::vector<Json>> valuesFromText(const Control& control, const std::string& text);
std::string valuesText(const std::vector<Json>& values);

Json planJson(const VaryPlan& plan);
/// What can't be read is left out.
VaryPlan planFromJson(const Json& json);

}  // namespace seedloom
