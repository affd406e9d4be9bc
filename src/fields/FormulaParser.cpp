#include "fields/FormulaLexer.h"
#include "fields/FormulaText.h"

#include <fmt/format.h>

#include <optional>

namespace seedloom {

namespace {

constexpr std::size_t kLongestText = 64 * 1024;
constexpr int kDeepest = 200;

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

    FormulaText statements() {
        FormulaText out;
        while (accept(";")) {}
        while (token_.kind != FormulaToken::Kind::end) {
            statement(out);
            if (token_.kind != FormulaToken::Kind::end) expect(";");
            while (accept(";")) {}
        }
        out.ramps = std::move(ramps_);
        return out;
    }

    Node whole() {
        if (token_.kind == FormulaToken::Kind::end) throw FormulaSyntaxError{1, 1, "the formula is empty; write a number or a name"};
        Node node = choice();
        if (token_.kind != FormulaToken::Kind::end) fail(fmt::format("'{}' was not expected here", token_.text));
        return node;
    }

private:
    [[noreturn]] void fail(std::string text) const { throw FormulaSyntaxError{token_.line, token_.column, std::move(text)}; }
    void advance() { token_ = lexer_.next(); }
    bool is(std::string_view symbol) const { return token_.kind == FormulaToken::Kind::symbol && token_.text == symbol; }
    bool accept(std::string_view symbol) {
        if (!is(symbol)) return false;
        advance();
        return true;
    }
    void expect(std::string_view symbol) {
        if (!accept(symbol))
            fail(token_.kind == FormulaToken::Kind::end ? fmt::format("'{}' is missing at the end", symbol)
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

    bool isWord(std::string_view word) const { return token_.kind == FormulaToken::Kind::word && token_.text == word; }
    std::string name(const char* what) {
        if (token_.kind != FormulaToken::Kind::word) fail(fmt::format("{} was expected", what));
        std::string out(token_.text);
        advance();
        return out;
    }
    void statement(FormulaText& out) {
        if (isWord("dial")) return dial(out);
        FormulaStatement made;
        made.local = isWord("let");
        if (made.local) advance();
        made.place = {token_.line, token_.column};
        made.target = name(made.local ? "a name for the value" : "the name of an attribute, let, or dial");
        if (!made.local && accept(".")) made.components = name("a component such as x, y or z");
        const std::string_view symbol = token_.kind == FormulaToken::Kind::symbol ? token_.text : std::string_view();
        const bool combines = symbol.size() == 2 && symbol[1] == '=' && std::string_view("+-*/").find(symbol[0]) != std::string_view::npos;
        if (combines && !made.local) made.combine = symbol[0], advance();
        else expect("=");
        made.value = choice();
        out.statements.push_back(std::move(made));
    }
    double plainNumber() {
        const bool negative = accept("-");
        if (token_.kind != FormulaToken::Kind::number) fail("a plain number was expected");
        const double value = token_.number;
        advance();
        return negative ? -value : value;
    }
    void dial(FormulaText& out) {
        advance();
        FormulaDial made;
        const FormulaToken at = token_;
        made.name = name("a name for the dial");
        for (const FormulaDial& other : out.dials)
            if (other.name == made.name) throw FormulaSyntaxError{at.line, at.column, fmt::format("there is a dial '{}' already", made.name)};
        expect("=");
        made.isSwitch = isWord("true") || isWord("false");
        if (made.isSwitch) {
            made.fallback = isWord("true");
            advance();
        } else {
            made.fallback = plainNumber();
            if (isWord("in")) made.range = dialRange();
        }
        out.dials.push_back(std::move(made));
    }
    std::array<double, 2> dialRange() {
        advance();
        const FormulaToken at = token_;
        const double low = plainNumber();
        expect("..");
        const double high = plainNumber();
        if (!(low < high)) throw FormulaSyntaxError{at.line, at.column, "a range runs from a smaller to a larger number, as in 0..2"};
        return {low, high};
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
        while (token_.kind == FormulaToken::Kind::symbol && precedence(token_.text) >= least) {
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
            if (token_.kind != FormulaToken::Kind::word) fail("a component such as x, y or z was expected after the dot");
            Node pick = make(FormulaNode::Kind::pick, token_.text);
            advance();
            hang(pick, std::move(node));
            node = std::move(pick);
        }
        return node;
    }

    Node primary() {
        if (token_.kind == FormulaToken::Kind::number) {
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
        if (token_.kind == FormulaToken::Kind::text) {
            Node node = make(FormulaNode::Kind::text, token_.text);
            advance();
            return node;
        }
        if (token_.kind == FormulaToken::Kind::word) return word();
        fail(token_.kind == FormulaToken::Kind::end ? "the formula ends too early" : fmt::format("'{}' was not expected here", token_.text));
    }

    Node word() {
        Node node = make(FormulaNode::Kind::name, token_.text);
        advance();
        if (node->text == "ctl" && is(".")) {
            advance();
            if (token_.kind != FormulaToken::Kind::word) fail("the name of a control was expected after 'ctl.'");
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
            noteRamp(*node);
        }
        return node;
    }
    void noteRamp(const FormulaNode& call) {
        if (call.text != "ramp" || call.parts.empty() || call.parts[0]->kind != FormulaNode::Kind::text) return;
        const std::string& ramp = call.parts[0]->text;
        if (std::find(ramps_.begin(), ramps_.end(), ramp) == ramps_.end()) ramps_.push_back(ramp);
    }

    FormulaLexer lexer_;
    FormulaToken token_;
    std::vector<std::string> ramps_;
    int depth_ = 0;
};

void collect(const FormulaNode& node, FormulaNames& names) {
    if (node.kind == FormulaNode::Kind::control) names.controls.insert(node.text);
    if (node.kind == FormulaNode::Kind::name) {
        if (node.text == "time" || node.text == "frame") names.time = true;
        else names.attributes.insert(node.text);
    }
    for (const auto& part : node.parts) collect(*part, names);
}

template <class Out, class Read> Result<std::shared_ptr<const Out>> parsed(std::string_view text, Read&& read) {
    if (text.size() > kLongestText) return Error{"formula.syntax", "The formula is longer than 64 KiB. Split it."};
    try {
        return read();
    } catch (const FormulaSyntaxError& error) {
        return Error{"formula.syntax", fmt::format("Formula, line {}, column {}: {}.", error.line, error.column, error.text), error.line, error.column};
    }
}

}  // namespace

Result<std::shared_ptr<const FormulaNode>> parseFormula(std::string_view text) {
    return parsed<FormulaNode>(text, [&] { return std::shared_ptr<const FormulaNode>(Parser(text).whole()); });
}

Result<std::shared_ptr<const FormulaText>> parseFormulaText(std::string_view text) {
    return parsed<FormulaText>(text, [&] { return std::make_shared<const FormulaText>(Parser(text).statements()); });
}

FormulaNames namesIn(const FormulaNode& formula) {
    FormulaNames names;
    collect(formula, names);
    return names;
}

FormulaNames namesIn(const FormulaText& text) {
    FormulaNames names;
    for (const FormulaStatement& s : text.statements) collect(*s.value, names);
    for (const FormulaStatement& s : text.statements)
        if (s.local) names.attributes.erase(s.target);
        else if (s.combine || !s.components.empty()) names.attributes.insert(s.target);
    for (const FormulaDial& dial : text.dials) names.attributes.erase(dial.name);
    return names;
}

}  // namespace seedloom
