#pragma once
// The formula language of settings: one expression with GLSL's operators and functions, run over blocks of columns.
// Numbers are all of one kind (1/2 is 0.5); true and false count as 1 and 0.
#include "geometry/Result.h"

#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace seedloom {

/// One node of a parsed formula.
struct FormulaNode {
    enum class Kind : std::uint8_t { number, name, control, call, unary, binary, choose, pick };
    Kind kind;
    std::string text;    ///< name, control id, function, operator, or the picked components
    double number = 0;
    int line = 1, column = 1;
    int depth = 1;       ///< levels of nodes, this one included
    std::vector<std::unique_ptr<FormulaNode>> parts;
};

/// Reads a formula. Errors (code `formula.syntax`) name line and column, both from 1.
/// Nesting deeper than 200 and texts over 64 KiB are errors.
Result<std::shared_ptr<const FormulaNode>> parseFormula(std::string_view text);

/// Names that a formula reads.
struct FormulaNames {
    std::set<std::string> attributes, controls;
    bool time = false;  ///< reads `time` or `frame`
};
FormulaNames namesIn(const FormulaNode& formula);

/// Where a name's values come from when a formula is bound.
struct FormulaInput {
    int components = 1;                                        ///< 1–4
    bool uniform = true;
    std::array<double, 4> value{};                             ///< where uniform
    /// Fills out[c][0 … n) with rows begin … begin + n of component c; where not uniform.
    std::function<void(std::size_t begin, std::size_t n, float* const* out)> load;
};

/// What names mean: returns nothing for an unknown name, with similar ones for the message.
class FormulaScope {
public:
    virtual ~FormulaScope() = default;
    virtual bool resolveName(const std::string& name, FormulaInput& input) = 0;
    virtual bool resolveControl(const std::string& id, FormulaInput& input) = 0;
    virtual std::vector<std::string> knownNames() const = 0;
    virtual std::vector<std::string> knownControls() const = 0;
};

/// A formula whose names and types are settled, as a list of block instructions.
class FormulaProgram {
public:
    enum class Op : std::uint8_t;
    struct Step {
        Op op;
        int to, a = 0, b = 0, c = 0;
    };

    int components() const { return static_cast<int>(result_.size()); }
    bool uniform() const { return uniform_; }
    /// The value of a uniform program.
    std::array<double, 4> evaluate() const;
    /// Rows begin … begin + n into out[c][0 … n), for any n; safe to call from several threads.
    void evaluate(std::size_t begin, std::size_t n, float* const* out) const;

private:
    friend class FormulaBinder;
    template <class Number> void runSteps(const std::vector<Step>& steps, Number* registers, std::size_t stride, std::size_t n) const;

    struct Load {
        std::array<int, 4> to;
        FormulaInput input;
    };
    std::vector<double> constants_;  ///< initial value of each register
    std::vector<Load> loads_;
    std::vector<Step> once_, each_;
    std::vector<int> result_;
    bool uniform_ = true;
};

/// Settles names and types. Errors: `formula.unknown_name` (with similar names), `formula.unknown_function`, `formula.type`.
Result<FormulaProgram> bindFormula(const FormulaNode& formula, FormulaScope& scope);

}  // namespace seedloom
