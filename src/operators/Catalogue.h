#pragma once
// The list of all operators.
#include "operators/Spec.h"

namespace seedloom {

/// In the order in which people are shown them: by family, then by use.
const std::vector<OperatorSpec>& catalogue();
/// nullptr for an unknown id.
const OperatorSpec* findOperator(std::string_view id);

}  // namespace seedloom
