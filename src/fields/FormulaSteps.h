#pragma once
// The instructions that a bound formula consists of. Only the binder and the program look in here.
#include "fields/Formula.h"

namespace seedloom {

enum class FormulaOp : std::uint8_t {
    add, sub, mul, div, mod, neg, lnot, land, lor, lxor, less, lessEqual, equal, select,
    min, max, pow, atan2, step, sin, cos, tan, asin, acos, atan, sinh, cosh, tanh, asinh, acosh, atanh, exp, log, exp2, log2, sqrt, inversesqrt,
    abs, sign, floor, ceil, trunc, round, roundEven, fract, isnan, isinf, noise, random,
    call  ///< `a` is the number of the call
};

}  // namespace seedloom
