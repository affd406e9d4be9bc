#include "fields/ControlNames.h"

#include "fields/FormulaLexer.h"

namespace seedloom {

namespace {

/// Calls found(id, begin, end) for each `ctl.id`, with the bytes where it stands. What follows the first thing that can't be read is not looked at.
template <class F> void eachControl(std::string_view formula, F&& found) {
    FormulaLexer lexer(formula);
    FormulaToken first, second;
    try {
        for (FormulaToken third = lexer.next(); third.kind != FormulaToken::Kind::end; first = second, second = third, third = lexer.next()) {
            const bool member = second.kind == FormulaToken::Kind::symbol && second.text == ".";
            if (third.kind != FormulaToken::Kind::word || !member || first.kind != FormulaToken::Kind::word || first.text != "ctl") continue;
            found(std::string(third.text), first.at, third.at + third.text.size());
        }
    } catch (const FormulaSyntaxError&) {}
}

}  // namespace

std::set<std::string> controlsNamed(std::string_view formula) {
    std::set<std::string> out;
    eachControl(formula, [&](const std::string& id, std::size_t, std::size_t) { out.insert(id); });
    return out;
}

std::string withControlsWritten(std::string_view formula, const std::function<std::optional<std::string>(const std::string& id)>& written) {
    std::string out;
    std::size_t copied = 0;
    eachControl(formula, [&](const std::string& id, std::size_t begin, std::size_t end) {
        const auto with = written(id);
        if (!with) return;
        out += formula.substr(copied, begin - copied);
        out += *with;
        copied = end;
    });
    out += formula.substr(copied);
    return out;
}

bool isControlId(std::string_view id) {
    if (id.empty()) return false;
    FormulaLexer lexer(id);
    try {
        const FormulaToken word = lexer.next();
        return word.kind == FormulaToken::Kind::word && word.text == id;
    } catch (const FormulaSyntaxError&) {
        return false;
    }
}

}  // namespace seedloom
