#pragma once
// Expressions of the formula language, with GLSL's operators and functions, run over blocks of columns. Settings hold one
// expression; FormulaText.h adds statements. `/` always divides exactly (1/2 is 0.5); true and false count as 1 and 0.
#include "geometry/Result.h"

#include <array>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

namespace seedloom {

/// One node of a parsed formula.
struct FormulaNode {
    enum class Kind : std::uint8_t { number, text, name, control, call, unary, binary, choose, pick };
    Kind kind;
    std::string text;  ///< name, control id, function, operator, the picked components, or a quoted text
    double number = 0;
    int line = 1, column = 1;
    int depth = 1;  ///< levels of nodes, this one included
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

/// What a value stands for. A literal is a number written without a fraction: it becomes whatever meets it.
enum class FormulaKind : std::uint8_t { literal, number, integer, boolean, text };

/// Where a name's values come from when a formula is bound. Texts are numbers in the scope's list of texts.
struct FormulaInput {
    int components = 1;  ///< 1–4
    FormulaKind kind = FormulaKind::number;
    bool uniform = true;
    std::array<double, 4> value{};  ///< where uniform
    /// Fills out[c][0 … n) with rows begin … begin + n of component c; where not uniform.
    std::function<void(std::size_t begin, std::size_t n, float* const* out)> load;
    std::function<void(std::size_t begin, std::size_t n, double* const* out)> loadWide;  ///< the same; exact for whole numbers
};

/// A function that reads more than its numbers: another geometry, a ramp.
struct FormulaFunction {
    int inputs = 1;      ///< numbers that go in, 1–4
    int components = 1;  ///< that come out
    FormulaKind kind = FormulaKind::number;
    /// n rows: in[i] and out[c] are columns. Called from several threads.
    std::function<void(std::size_t n, const double* const* in, double* const* out)> run;
};

/// What names mean: gives nothing for an unknown name, and similar ones for the message.
class FormulaScope {
public:
    virtual ~FormulaScope() = default;
    virtual bool resolveName(const std::string& name, FormulaInput& input) = 0;
    virtual bool resolveControl(const std::string& id, FormulaInput& input) = 0;
    /// Names that a text must not give a value to, beside those of the language.
    virtual bool isFixed(const std::string& name) const = 0;
    virtual std::vector<std::string> knownNames() const = 0;
    virtual std::vector<std::string> knownControls() const = 0;
    /// The number that stands for a text in this scope.
    virtual double numberOfText(const std::string& text) = 0;
    /// `function` is ramp, at, nearest, surface or stat; `geometry` A, B or C; `words` the quoted texts.
    virtual Result<FormulaFunction> resolveFunction(const std::string& function, const std::string& geometry, const std::vector<std::string>& words) = 0;
};

enum class FormulaOp : std::uint8_t;

/// One instruction: registers in, register out.
struct FormulaStep {
    FormulaOp op;
    int to = 0, a = 0, b = 0, c = 0;
    int line = 0, column = 0;
};

struct FormulaPlace {
    int line, column;
};

/// A formula whose names and types are settled, as a list of block instructions.
class FormulaProgram {
public:
    static constexpr std::size_t kBlock = 256;

    /// What the program gives: the value of an expression, or one of these for each attribute that a text assigns.
    struct Output {
        std::string name;
        FormulaKind kind = FormulaKind::number;
        std::vector<int> from;  ///< registers
        FormulaPlace place{};
        bool uniform = true;
        int components() const { return static_cast<int>(from.size()); }
    };
    const std::vector<Output>& outputs() const { return outputs_; }
    int components() const { return outputs_.front().components(); }
    bool uniform() const { return outputs_.front().uniform; }
    /// Whole numbers or texts take part: single precision would not hold them.
    bool wide() const { return wide_; }

    /// The value of the first output of a uniform program.
    std::array<double, 4> evaluate() const;
    /// Rows begin … begin + n of the first output into out[c][0 … n), for any n; safe to call from several threads.
    void evaluate(std::size_t begin, std::size_t n, float* const* out) const;
    /// Calls take(output, first row, rows, columns) for blocks of rows begin … begin + n; Number is float, or double where wide().
    template <class Number>
    void evaluateAll(std::size_t begin, std::size_t n, const std::function<void(std::size_t, std::size_t, std::size_t, const Number* const*)>& take) const;
    /// The first place in the formula where finite numbers give one that is not finite, for this row.
    std::optional<FormulaPlace> placeOfNonFinite(std::size_t row) const;

private:
    friend class FormulaAssembler;
    struct Load {
        std::array<int, 4> to{};
        FormulaInput input;
    };
    struct Call {
        std::vector<int> in, out;
        FormulaFunction function;
    };
    template <class Number> void runSteps(const std::vector<FormulaStep>& steps, Number* registers, std::size_t stride, std::size_t n) const;
    template <class Number> void runStep(const FormulaStep& step, Number* registers, std::size_t stride, std::size_t n) const;
    template <class Number> void runCall(const Call& call, Number* registers, std::size_t stride, std::size_t n) const;
    template <class Number> void loadBlock(std::size_t begin, std::size_t n, Number* registers) const;
    template <class Number> std::vector<Number> startingRegisters() const;

    std::vector<double> constants_;  ///< initial value of each register
    std::vector<Load> loads_;
    std::vector<Call> calls_;
    std::vector<FormulaStep> once_, each_;
    std::vector<Output> outputs_;
    bool wide_ = false;
};

/// Names of all functions, for completion and colouring.
std::vector<std::string> formulaFunctions();

/// Settles names and types. Errors: `formula.unknown_name` (with similar names), `formula.unknown_function`, `formula.type`.
Result<FormulaProgram> bindFormula(const FormulaNode& formula, FormulaScope& scope);

}  // namespace seedloom
