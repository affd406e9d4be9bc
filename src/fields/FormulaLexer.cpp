#include "fields/FormulaLexer.h"

#include <fmt/format.h>

#include <charconv>

namespace seedloom {

namespace {

bool isLetter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
bool isDigit(char c) { return c >= '0' && c <= '9'; }
std::string printable(char c) { return c >= 32 && c < 127 ? std::string(1, c) : fmt::format("\\x{:02x}", static_cast<unsigned char>(c)); }

}  // namespace

void FormulaLexer::step() {
    if (text_[at_] == '\n') ++line_, column_ = 1;
    else ++column_;
    ++at_;
}

bool FormulaLexer::skipComment() {
    const std::string_view rest = text_.substr(at_, 2);
    if (rest == "//") {
        while (at_ < text_.size() && text_[at_] != '\n') step();
        return true;
    }
    if (rest != "/*") return false;
    const int line = line_, column = column_;
    step(), step();
    while (text_.substr(at_, 2) != "*/") {
        if (at_ >= text_.size()) throw FormulaSyntaxError{line, column, "this comment has no end; write */ behind it"};
        step();
    }
    step(), step();
    return true;
}

void FormulaLexer::skipSpace() {
    for (;;) {
        while (at_ < text_.size() && std::string_view(" \t\r\n").find(text_[at_]) != std::string_view::npos) step();
        if (!skipComment()) return;
    }
}

/// A number ends before "..", so that 0..2 is a range.
std::size_t FormulaLexer::numberSize(double& number) const {
    const std::size_t range = text_.find("..", at_);
    const char* const end = text_.data() + (range == std::string_view::npos ? text_.size() : std::max(range, at_));
    const auto [stop, error] = std::from_chars(text_.data() + at_, end, number);
    if (error != std::errc()) throw FormulaSyntaxError{line_, column_, "this number can't be read"};
    return static_cast<std::size_t>(stop - (text_.data() + at_));
}

std::size_t FormulaLexer::symbolSize() const {
    for (std::string_view two : {"<=", ">=", "==", "!=", "&&", "||", "^^", "+=", "-=", "*=", "/=", ".."})
        if (text_.substr(at_, 2) == two) return 2;
    if (std::string_view("+-*/%()<>!?:,.=;").find(text_[at_]) == std::string_view::npos)
        throw FormulaSyntaxError{line_, column_, fmt::format("'{}' has no meaning in a formula", printable(text_[at_]))};
    return 1;
}

FormulaToken FormulaLexer::next() {
    skipSpace();
    FormulaToken token;
    token.line = line_;
    token.column = column_;
    token.at = at_;
    if (at_ >= text_.size()) return token;
    const char c = text_[at_];
    std::size_t size = 1;
    if (isDigit(c) || (c == '.' && at_ + 1 < text_.size() && isDigit(text_[at_ + 1]))) {
        size = numberSize(token.number);
        token.kind = FormulaToken::Kind::number;
    } else if (isLetter(c)) {
        while (at_ + size < text_.size() && (isLetter(text_[at_ + size]) || isDigit(text_[at_ + size]))) ++size;
        token.kind = FormulaToken::Kind::word;
    } else if (c == '"') {
        const std::size_t end = text_.find_first_of("\"\n", at_ + 1);
        if (end == std::string_view::npos || text_[end] == '\n') throw FormulaSyntaxError{line_, column_, "this text has no end; write \" behind it"};
        token.kind = FormulaToken::Kind::text;
        token.text = text_.substr(at_ + 1, end - at_ - 1);
        size = end + 1 - at_;
    } else {
        token.kind = FormulaToken::Kind::symbol;
        size = symbolSize();
    }
    if (token.kind != FormulaToken::Kind::text) token.text = text_.substr(at_, size);
    for (std::size_t i = 0; i < size; ++i) step();
    return token;
}

}  // namespace seedloom
