#pragma once
// The functions of formulas that work on numbers and vectors alone, as GLSL has them.
#include "fields/FormulaAssembler.h"

namespace seedloom {

/// The value of a function for `in`, the bound values in its brackets. Throws BindError where there is none of that name, or it takes other values.
Operand callFormulaFunction(FormulaAssembler& steps, const FormulaNode& call, std::vector<Operand> in);

}  // namespace seedloom
