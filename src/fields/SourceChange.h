#pragma once
// Turns a source into another kind of source that gives the same values, or as near to them as the kind allows.
#include "fields/Source.h"

#include <functional>

namespace seedloom {

/// What the present source gives, and what is there for another one to read.
struct SourceSurroundings {
    int components = 1;
    std::array<double, 4> least{}, mean{}, most{};  ///< of the present values, by component
    Json fallback;                                  ///< the setting's default
    double seed = 0;                                ///< of new random numbers; another for each setting, or a random size and a random turn would go together
    std::vector<std::string> attributes, controls;
    /// The least and the greatest value of an attribute or formula; nothing where it cannot be told.
    std::function<std::optional<std::array<double, 2>>(const std::string& over)> rangeOf;
};

/// - fixed: the mean; formula: the same values (noise keeps its first octave and range, not its seed);
/// - ramp: over the same attribute or formula; over `along`, else height, where the value is one for all, and then level;
/// - attribute: the same values where the source is a straight ramp or a formula of one attribute; else one that runs to the same greatest value;
/// - noise and random: over the range of the values; about the value, by half of it, where that is one for all.
/// Writes a setting as in a loom. `kind` as sourceKind(); another word gives the fixed value.
Json changedSource(const Source& from, std::string_view kind, const SourceSurroundings& around);

/// A ramp as an expression of `t` that runs from 0 to 1; smooth stretches ease in and out at each knot.
std::string rampAsFormula(const Ramp& ramp, const std::string& t);

}  // namespace seedloom
