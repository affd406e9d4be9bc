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

/// One more operator for as long as this lives: for tests of what no operator of the catalogue does yet. Nothing may be built, and no other thread may
/// ask for operators, while it comes and goes.
class ExtraOperator {
public:
    explicit ExtraOperator(OperatorSpec spec);
    ~ExtraOperator();
    ExtraOperator(const ExtraOperator&) = delete;
    ExtraOperator& operator=(const ExtraOperator&) = delete;
};

}  // namespace seedloom
