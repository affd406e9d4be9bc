#pragma once
// A whole text in the formula language: statements that run for every element and write attributes.
#include "fields/Formula.h"

namespace seedloom {

/// `dial strength = 0.5 in 0..2;` — a setting that the text declares.
struct FormulaDial {
    std::string name;
    double fallback = 0;
    bool isSwitch = false;                       ///< declared with true or false
    std::optional<std::array<double, 2>> range;  ///< where its slider runs
};

/// `let x = …;`, `mask = …;` or `position.y += …;`
struct FormulaStatement {
    std::string target;
    std::string components;  ///< picked ones such as y or xz; empty: the whole value
    char combine = 0;        ///< + - * / of the assignment; 0 for a plain one
    bool local = false;      ///< a let
    std::unique_ptr<FormulaNode> value;
    FormulaPlace place{};
};

struct FormulaText {
    std::vector<FormulaDial> dials;
    std::vector<std::string> ramps;  ///< names of ramp("name", …), each a setting
    std::vector<FormulaStatement> statements;
};

/// Reads statements, each ended by a semicolon (the last one need not be). Errors (`formula.syntax`) name the place.
Result<std::shared_ptr<const FormulaText>> parseFormulaText(std::string_view text);

/// What the statements read from outside: neither locals nor dials.
FormulaNames namesIn(const FormulaText& text);

/// Settles names and types. Every assigned attribute becomes an output, in the order of first assignment. Beside the errors of
/// bindFormula: `formula.assign` for what can't be assigned.
Result<FormulaProgram> bindFormulaText(const FormulaText& text, FormulaScope& scope);

}  // namespace seedloom
