#pragma once
// The list of all operators.
#include "operators/Spec.h"

#include <memory>

namespace seedloom {

/// In the order in which people are shown them: by family, then by use.
const std::vector<OperatorSpec>& catalogue();
/// nullptr for an unknown id.
const OperatorSpec* findOperator(std::string_view id);
/// The declaration with the settings that a node adds by what is written in it; nullptr for an unknown id.
std::shared_ptr<const OperatorSpec> operatorFor(std::string_view id, const Json& written);

}  // namespace seedloom
