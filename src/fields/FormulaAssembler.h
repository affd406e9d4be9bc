#pragma once
// Registers and steps of a formula while it is bound. Only the binder and its functions look in here.
#include "fields/FormulaSteps.h"

#include <initializer_list>

namespace seedloom {

/// What is wrong with a formula, thrown while it is bound.
struct BindError {
    std::string code;
    FormulaPlace place;
    std::string text;
    std::string unknown = {};
    std::vector<std::string> near = {};
};

/// A value while it is being settled: its registers and what it stands for.
struct Operand {
    int components = 1;
    std::array<int, 4> at{};
    FormulaKind kind = FormulaKind::number;
    int reg(int c) const { return components == 1 ? at[0] : at[std::size_t(c)]; }
};

/// `text` says what is unknown; the names that are most like it are proposed.
BindError unknownWord(std::string code, FormulaPlace place, const std::string& text, const std::string& word, std::vector<std::string> known);

/// Whether a kind fits where whole numbers are wanted.
bool isWhole(FormulaKind kind);

/// Puts a program together, step by step. What depends on nothing but single values is worked out once.
class FormulaAssembler {
public:
    /// Where in the formula the steps that follow come from.
    void goTo(FormulaPlace place) { place_ = place; }
    FormulaPlace place() const { return place_; }
    static FormulaPlace placeOf(const FormulaNode& node) { return {node.line, node.column}; }
    [[noreturn]] static void fail(const FormulaNode& at, std::string code, std::string text);
    [[noreturn]] void failHere(std::string code, std::string text) const;

    int reg(double value = 0, bool uniform = true);
    int emit(FormulaOp op, int a, int b = -1, int c = -1);
    Operand constant(double value, FormulaKind kind = FormulaKind::number) { return {1, {reg(value)}, kind}; }
    /// Applies `op` to each component; single numbers meet every component of a vector.
    Operand each(const FormulaNode& at, FormulaOp op, std::initializer_list<Operand> in);
    int dot(const Operand& a, const Operand& b, int components);
    /// One value of all components, by `op` from each to the next.
    int joinAll(const Operand& parts, FormulaOp op);
    Operand input(const FormulaInput& from);
    Operand callOf(const FormulaFunction& function, std::vector<int> in);

    void give(std::string name, const Operand& value, FormulaPlace place);
    /// The program; nothing may follow.
    FormulaProgram finish();

private:
    void reuseRegisters();

    FormulaProgram program_;
    std::vector<bool> uniform_;
    FormulaPlace place_{1, 1};
};

}  // namespace seedloom
