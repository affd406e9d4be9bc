#pragma once
// Cuts the text of a formula into numbers, words, quoted texts and symbols.
#include <string>
#include <string_view>

namespace seedloom {

/// What is wrong with a formula's text, and where (from 1).
struct FormulaSyntaxError {
    int line, column;
    std::string text;
};

struct FormulaToken {
    enum class Kind { number, word, text, symbol, end } kind = Kind::end;
    std::string_view text;  ///< of a quoted text: without its quotes
    double number = 0;
    std::size_t at = 0;  ///< byte in the formula
    int line = 1, column = 1;
};

/// Comments run from // to the end of the line, or from /* to */. Throws FormulaSyntaxError.
class FormulaLexer {
public:
    explicit FormulaLexer(std::string_view text) : text_(text) {}
    FormulaToken next();

private:
    void skipSpace();
    bool skipComment();
    void step();
    std::size_t numberSize(double& number) const;
    std::size_t symbolSize() const;

    std::string_view text_;
    std::size_t at_ = 0;
    int line_ = 1, column_ = 1;
};

}  // namespace seedloom
