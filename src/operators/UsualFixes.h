#pragma once
// What helps with the notices that many operators have in common.
#include "operators/OperatorCall.h"

namespace seedloom {

/// Changes that help with an error for which its operator knows none: at the least one that shows what comes in, where anything does.
std::vector<NoticeFix> usualFixes(const OperatorSpec& spec, const OperatorInput& input, const Notice& notice);

/// For an input into which nothing is plugged: something to plug in.
NoticeFix missingInputFix(const OperatorSpec& spec, const OperatorInput& input, std::size_t port);

}  // namespace seedloom
