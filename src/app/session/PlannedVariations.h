#pragma once
// What a plan makes of a loom, with the words by which each variation is found again.
#include "vary/VaryPlan.h"

#include <unordered_map>

namespace seedloom::app {

/// One text for equal variations, and no other.
std::string textOf(const Variation& variation);

struct PlannedVariation {
    Variation variation;
    std::string text;  ///< textOf()
};

struct PlannedVariations {
    std::vector<PlannedVariation> all;
    std::unordered_map<std::string_view, std::size_t> places;  ///< in `all`, by text; the first where there are equal ones
    std::string problem;                                       ///< why there are none; empty where nothing is wrong

    PlannedVariations() = default;
    PlannedVariations(const VaryPlan& plan, const Loom& loom);
    /// The places name texts of `all`.
    PlannedVariations(const PlannedVariations&) = delete;
    PlannedVariations& operator=(const PlannedVariations&) = delete;
};

}  // namespace seedloom::app
