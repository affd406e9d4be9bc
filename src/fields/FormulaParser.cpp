#include "fields/Formula.h"

#include <fmt/format.h>

#include <charconv>
#include <optional>

namespace seedloom {

namespace {

constexpr std::size_t kLongestText = 64 * 1024;
constexpr int kDeepest = 200;

struct Token {
    enum class Kind { number, word, symbol, end } kind = Kind::end;
    std::string_view text;
    double number = 0;
    int line = 1, column = 1;
};

struct SyntaxError {
    int line, column;
    std::string text;
};

bool isLetter(char c) { return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_'; }
bool isDigit(char c) { return c >= '0' && c <= '9'; }

class Lexer {
public:
    explicit Lexer(std::string_view text) : text_(text) {}

    Token next() {
        skipSpace();
        Token token;
        token.line = line_;
        token.column = column_;
        if (at_ >= text_.size()) return token;
        const char c = text_[at_];
        std::size_t size = 1;
        if (isDigit(c) || (c == '.' && at_ + 1 < text_.size() && isDigit(text_[at_ + 1]))) {
            const auto [end, error] = std::from_chars(text_.data() + at_, text_.data() + text_.size(), token.number);
            if (error != std::errc()) throw SyntaxError{line_, column_, "this number can't be read"};
            size = static_cast<std::size_t>(end - (text_.data() + at_));
            token.kind = Token::Kind::number;
        } else if (isLetter(c)) {
            while (at_ + size < text_.size() && (isLetter(text_[at_ + size]) || isDigit(text_[at_ + size]))) ++size;
            token.kind = Token::Kind::word;
        } else {
            token.kind = Token::Kind::symbol;
            for (std::string_view two : {"<=", ">=", "==", "!=", "&&", "||", "^^"})
                if (text_.substr(at_, 2) == two) size = 2;
            if (size == 1 && std::string_view("+-*/%()<>!?:,.").find(c) == std::string_view::npos)
                throw SyntaxError{line_, column_, fmt::format("'{}' has no meaning in a formula", printable(c))};
        }
        token.text = text_.substr(at_, size);
        at_ += size;
        column_ += static_cast<int>(size);
        return token;
    }

private:
    static std::string printable(char c) { return c >= 32 && c < 127 ? std::string(1, c) : fmt::format("\\x{:02x}", static_cast<unsigned char>(c)); }
    void skipSpace() {
        while (at_ < text_.size()) {
            const char c = text_[at_];
            if (c == '\n')
                ++line_, column_ = 1, ++at_;
            else if (c == ' ' || c == '\t' || c == '\r')
                ++column_, ++at_;
            else
                break;
        }
    }
    std::string_view text_;
    std::size_t at_ = 0;
    int line_ = 1, column_ = 1;
};

using Node = std::unique_ptr<FormulaNode>;

/// Operator precedence as in GLSL, loosest first.
int precedence(std::string_view op) {
    if (op == "||") return 1;
    if (op == "^^") return 2;
    if (op == "&&") return 3;
    if (op == "==" || op == "!=") return 4;
    if (op == "<" || op == ">" || op == "<=" || op == ">=") return 5;
    if (op == "+" || op == "-") return 6;
    if (op == "*" || op == "/" || op == "%") return 7;
    return 0;
}

class Parser {
public:
    explicit Parser(std::string_view text) : lexer_(text), token_(lexer_.next()) {}

    Node whole() {
        if (token_.kind == Token::Kind::end) throw SyntaxError{1, 1, "the formula is empty; write a number or a name"};
        Node node = choice();
        if (token_.kind != Token::Kind::end) fail(fmt::format("'{}' was not expected here", token_.text));
        return node;
    }

private:
    [[noreturn]] void fail(std::string text) const { throw SyntaxError{token_.line, token_.column, std::move(text)}; }
    void advance() { token_ = lexer_.next(); }
    bool is(std::string_view symbol) const { return token_.kind == Token::Kind::symbol && token_.text == symbol; }
    bool accept(std::string_view symbol) {
        if (!is(symbol)) return false;
        advance();
        return true;
    }
    void expect(std::string_view symbol) {
        if (!accept(symbol))
            fail(token_.kind == Token::Kind::end ? fmt::format("'{}' is missing at the end", symbol)
                                                 : fmt::format("'{}' was expected instead of '{}'", symbol, token_.text));
    }
    Node make(FormulaNode::Kind kind, std::string_view text) const {
        auto node = std::make_unique<FormulaNode>();
        node->kind = kind;
        node->text = text;
        node->line = token_.line;
        node->column = token_.column;
        return node;
    }

    struct Depth {
        explicit Depth(Parser& p) : parser(p) {
            if (++parser.depth_ > kDeepest) parser.fail("the formula is nested too deeply");
        }
        ~Depth() { --parser.depth_; }
        Parser& parser;
    };

    /// Hangs `part` under `node`. Chains such as a + b + c are deep trees too: the bound keeps every walk within the stack.
    void hang(Node& node, Node part) const {
        node->depth = std::max(node->depth, part->depth + 1);
        if (node->depth > kDeepest * 3) fail("the formula is too long; split it");
        node->parts.push_back(std::move(part));
    }

    Node choice() {
        const Depth depth(*this);
        Node condition = binary(1);
        if (!is("?")) return condition;
        Node node = make(FormulaNode::Kind::choose, "?");
        advance();
        hang(node, std::move(condition));
        hang(node, choice());
        expect(":");
        hang(node, choice());
        return node;
    }

    Node binary(int least) {
        Node left = unary();
        while (token_.kind == Token::Kind::symbol && precedence(token_.text) >= least) {
            Node node = make(FormulaNode::Kind::binary, token_.text);
            const int level = precedence(token_.text);
            advance();
            hang(node, std::move(left));
            hang(node, binary(level + 1));
            left = std::move(node);
        }
        return left;
    }

    Node unary() {
        const Depth depth(*this);
        if (is("-") || is("+") || is("!")) {
            Node node = make(FormulaNode::Kind::unary, token_.text);
            advance();
            hang(node, unary());
            return node;
        }
        return picked(primary());
    }

    Node picked(Node node) {
        while (is(".")) {
            advance();
            if (token_.kind != Token::Kind::word) fail("a component such as x, y or z was expected after the dot");
            Node pick = make(FormulaNode::Kind::pick, token_.text);
            advance();
            hang(pick, std::move(node));
            node = std::move(pick);
        }
        return node;
    }

    Node primary() {
        if (token_.kind == Token::Kind::number) {
            Node node = make(FormulaNode::Kind::number, token_.text);
            node->number = token_.number;
            advance();
            return node;
        }
        if (accept("(")) {
            Node node = choice();
            expect(")");
            return node;
        }
        if (token_.kind == Token::Kind::word) return word();
        fail(token_.kind == Token::Kind::end ? "the formula ends too early" : fmt::format("'{}' was not expected here", token_.text));
    }

    Node word() {
        Node node = make(FormulaNode::Kind::name, token_.text);
        advance();
        if (node->text == "ctl" && is(".")) {
            advance();
            if (token_.kind != Token::Kind::word) fail("the name of a control was expected after 'ctl.'");
            node->kind = FormulaNode::Kind::control;
            node->text = token_.text;
            advance();
        } else if (accept("(")) {
            node->kind = FormulaNode::Kind::call;
            if (!accept(")")) {
                do hang(node, choice());
                while (accept(","));
                expect(")");
            }
        }
        return node;
    }

    Lexer lexer_;
    Token token_;
    int depth_ = 0;
};

void collect(const FormulaNode& node, FormulaNames& names) {
    if (node.kind == FormulaNode::Kind::control) names.controls.insert(node.text);
    if (node.kind == FormulaNode::Kind::name) {
        if (node.text == "time" || node.text == "frame")
            names.time = true;
        else
            names.attributes.insert(node.text);
    }
    for (const auto& part : node.parts) collect(*part, names);
}

}  // namespace

Result<std::shared_ptr<const FormulaNode>> parseFormula(std::string_view text) {
    if (text.size() > kLongestText) return Error{"formula.syntax", "The formula is longer than 64 KiB. Split it."};
    try {
        return std::shared_ptr<const FormulaNode>(Parser(text).whole());
    } catch (const SyntaxError& error) {
        return Error{"formula.syntax", fmt::format("Formula, line {}, column {}: {}.", error.line, error.column, error.text)};
    }
}

FormulaNames namesIn(const FormulaNode& formula) {
    FormulaNames names;
    collect(formula, names);
    return names;
}

}  // namespace seedloom
