#pragma once
// What each control of a loom does: what it reaches, how much of the model it changes, what that costs, and where it is safe.
#include "publish/FitCheck.h"

namespace seedloom {

struct ControlEffect {
    std::string control;
    std::vector<std::string> nodes;  ///< whose results change over its range, in the loom's order
    double changed = 0;              ///< the largest share of the model's points that are elsewhere than at the defaults; 1 where there are others at all
    double ms = 0;                   ///< the most that a change of it costs to rebuild
    int tried = 0, failed = 0;       ///< values that were tried; those at which the loom is not fit
    std::optional<std::pair<double, double>> safe;  ///< of a number that fails at some values: the range around its default in which none of those tried does
    bool nothing() const { return tried > 1 && nodes.empty(); }
};

/// Each control by itself, at some values from end to end, the others at their defaults. Those of a document that fails at its defaults have no safe range.
/// Empty where it was cancelled.
std::vector<ControlEffect> controlEffects(const FitSubject& subject, const FitOptions& options = {});

}  // namespace seedloom
