// Settles what the names of a formula mean, and what its operators and statements do.
#include "fields/FormulaFunctions.h"
#include "fields/FormulaText.h"
#include "geometry/ElementTransfer.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

namespace seedloom {

namespace {

using Op = FormulaOp;
using Kind = FormulaKind;

const std::vector<std::string_view> kFixedNames{"index", "count", "time", "frame", "ctl", "true", "false", "A", "B", "C"};

/// What two values have in common.
Kind joined(Kind a, Kind b) {
    if (a == b) return a;
    return isWhole(a) && isWhole(b) ? Kind::integer : Kind::number;
}

const char* kindWord(Kind kind) {
    return kind == Kind::text ? "a text" : kind == Kind::boolean ? "true or false" : kind == Kind::integer ? "a whole number" : "a number";
}

class FormulaBinder {
public:
    explicit FormulaBinder(FormulaScope& scope) : scope_(scope) {}

    FormulaProgram run(const FormulaNode& formula) {
        steps_.give("", bind(formula), {formula.line, formula.column});
        return steps_.finish();
    }

    FormulaProgram run(const FormulaText& text) {
        for (const FormulaStatement& s : text.statements) steps_.goTo(s.place), assign(s);
        for (const auto& [name, value] : assigned_) steps_.give(name, value.operand, value.place);
        return steps_.finish();
    }

private:
    struct Assigned {
        Operand operand;
        FormulaPlace place;
    };

    Operand bind(const FormulaNode& node) {
        steps_.goTo(steps_.placeOf(node));
        switch (node.kind) {
            case FormulaNode::Kind::number:
                return steps_.constant(node.number, node.text.find_first_of(".eE") == std::string::npos ? Kind::literal : Kind::number);
            case FormulaNode::Kind::text: return steps_.constant(scope_.numberOfText(node.text), Kind::text);
            case FormulaNode::Kind::name: return name(node);
            case FormulaNode::Kind::control: return control(node);
            case FormulaNode::Kind::call: return call(node);
            case FormulaNode::Kind::unary: {
                const Operand a = bind(*node.parts[0]);
                return node.text == "+" ? a : steps_.each(node, node.text == "-" ? Op::neg : Op::lnot, {a});
            }
            case FormulaNode::Kind::binary: return binary(node);
            case FormulaNode::Kind::choose: {
                const Operand condition = bind(*node.parts[0]);
                return choose(node, condition, bind(*node.parts[1]), bind(*node.parts[2]));
            }
            case FormulaNode::Kind::pick: return pick(node);
        }
        return {};
    }

    Operand choose(const FormulaNode& node, const Operand& condition, const Operand& yes, const Operand& no) {
        if ((yes.kind == Kind::text) != (no.kind == Kind::text)) steps_.fail(node, "formula.type", "both sides of '?' must be texts, or both numbers");
        if (condition.kind == Kind::text) steps_.fail(node, "formula.type", "the condition of '?' is a text; compare it with == first");
        Operand out = steps_.each(node, Op::select, {condition, yes, no});
        out.kind = joined(yes.kind, no.kind);
        return out;
    }

    /// An attribute's value, as it is after the statements so far. Nothing where there is none.
    std::optional<Operand> attribute(const std::string& name) {
        for (const auto& [known, value] : assigned_)
            if (known == name) return value.operand;
        if (const auto it = loaded_.find(name); it != loaded_.end()) return it->second;
        FormulaInput found;
        if (!scope_.resolveName(name, found)) return {};
        return loaded_[name] = steps_.input(found);
    }

    Operand name(const FormulaNode& node) {
        if (node.text == "true" || node.text == "false") return steps_.constant(node.text == "true", Kind::boolean);
        if (const auto it = locals_.find(node.text); it != locals_.end()) return it->second;
        if (const auto found = attribute(node.text)) return *found;
        std::vector<std::string> known = scope_.knownNames();
        for (const auto& [local, value] : locals_) known.push_back(local);
        throw unknownWord("formula.unknown_name", steps_.placeOf(node), fmt::format("there is no attribute '{}' here.", node.text), node.text,
                          std::move(known));
    }

    Operand control(const FormulaNode& node) {
        FormulaInput found;
        if (scope_.resolveControl(node.text, found)) return steps_.input(found);
        throw unknownWord("formula.unknown_name", steps_.placeOf(node), fmt::format("there is no control '{}' with a number.", node.text), node.text,
                          scope_.knownControls());
    }

    Operand binary(const FormulaNode& node) {
        const Operand a = bind(*node.parts[0]), b = bind(*node.parts[1]);
        static const std::map<std::string_view, Op> ops{{"+", Op::add},  {"-", Op::sub},        {"*", Op::mul},   {"/", Op::div},  {"%", Op::mod},
                                                        {"<", Op::less}, {"<=", Op::lessEqual}, {"&&", Op::land}, {"||", Op::lor}, {"^^", Op::lxor}};
        if (node.text == ">") return steps_.each(node, Op::less, {b, a});
        if (node.text == ">=") return steps_.each(node, Op::lessEqual, {b, a});
        if (node.text == "==" || node.text == "!=") {
            if ((a.kind == Kind::text) != (b.kind == Kind::text)) steps_.fail(node, "formula.type", "a text can only be compared with a text");
            const Operand parts = steps_.each(node, Op::equal, {a, b});
            const int all = steps_.joinAll(parts, Op::land);
            return {1, {node.text == "==" ? all : steps_.emit(Op::lnot, all)}, Kind::boolean};
        }
        return steps_.each(node, ops.at(node.text), {a, b});
    }
    /// The places that a text such as xz picks out of a value with so many components.
    std::vector<std::size_t> picked(const std::string& text, int components) const {
        if (text.size() > 4) steps_.failHere("formula.type", fmt::format("'.{}' names more than four components", text));
        std::vector<std::size_t> out;
        for (char letter : text) {
            std::size_t c = std::string_view::npos;
            for (std::string_view set : {"xyzw", "rgba", "stpq"})
                if (const auto at = set.find(letter); at != std::string_view::npos) c = at;
            if (c >= std::size_t(components))
                steps_.failHere("formula.type", fmt::format("'.{}' asks for a component that is not there; the value has {}", text, components));
            out.push_back(c);
        }
        return out;
    }

    Operand pick(const FormulaNode& node) {
        const Operand from = bind(*node.parts[0]);
        steps_.goTo(steps_.placeOf(node));
        Operand out{static_cast<int>(node.text.size()), {}, from.kind};
        const auto places = picked(node.text, from.components);
        for (std::size_t i = 0; i < places.size(); ++i) out.at[i] = from.at[places[i]];
        return out;
    }

    // Statements.

    void assign(const FormulaStatement& s) {
        Operand value = bind(*s.value);
        steps_.goTo(s.place);
        if (s.local) {
            checkFree(s.target);
            locals_[s.target] = value;
            return;
        }
        if (const auto local = locals_.find(s.target); local != locals_.end()) {
            local->second = changed(s, local->second, value);
            return;
        }
        checkFree(s.target);
        const auto before = attribute(s.target);
        if (!before && (s.combine || !s.components.empty()))
            throw unknownWord("formula.unknown_name", steps_.place(),
                              fmt::format("there is no attribute '{}' to change here; give it a value with = first.", s.target), s.target, scope_.knownNames());
        if (!before && value.kind == Kind::literal) value.kind = Kind::number;
        const Operand result = before ? changed(s, *before, value) : value;
        for (auto& [known, old] : assigned_)
            if (known == s.target) {
                old = {result, s.place};
                return;
            }
        assigned_.push_back({s.target, {result, s.place}});
    }

    void checkFree(const std::string& name) const {
        if (std::find(kFixedNames.begin(), kFixedNames.end(), name) != kFixedNames.end() || scope_.isFixed(name))
            steps_.failHere("formula.assign", fmt::format("'{}' can't be given a value; it has one already. Choose another name", name));
    }

    static std::string counted(int components) { return components == 1 ? std::string("one number") : fmt::format("a vector of {}", components); }

    /// `before` with the value put in its place, as a whole or in some components.
    Operand changed(const FormulaStatement& s, const Operand& before, Operand value) {
        FormulaNode sign;
        sign.text = s.combine ? std::string{s.combine, '='} : "=";
        sign.line = s.place.line, sign.column = s.place.column;
        const auto places = picked(s.components.empty() ? std::string("xyzw").substr(0, std::size_t(before.components)) : s.components, before.components);
        Operand part{static_cast<int>(places.size()), {}, before.kind};
        for (std::size_t i = 0; i < places.size(); ++i) part.at[i] = before.at[places[i]];
        static const std::map<char, Op> ops{{'+', Op::add}, {'-', Op::sub}, {'*', Op::mul}, {'/', Op::div}};
        if (s.combine) value = steps_.each(sign, ops.at(s.combine), {part, value});
        if (value.components != 1 && value.components != part.components)
            steps_.failHere("formula.type", fmt::format("'{}{}{}' takes {}, and this is {}", s.target, s.components.empty() ? "" : ".", s.components,
                                                        counted(part.components), counted(value.components)));
        checkKind(s, before.kind, value.kind);
        Operand out = before;
        for (std::size_t i = 0; i < places.size(); ++i) out.at[places[i]] = value.reg(int(i));
        if (out.kind == Kind::literal) out.kind = value.kind;
        return out;
    }
    void checkKind(const FormulaStatement& s, Kind before, Kind value) const {
        const bool fits = before == Kind::number || before == Kind::literal ? value != Kind::text : before == Kind::integer ? isWhole(value) : before == value;
        if (fits) return;
        const char* hint = before == Kind::integer ? "; write int(…) or round it" : before == Kind::boolean ? "; compare, as in … > 0.5" : "";
        steps_.failHere("formula.type",
                        fmt::format("'{}' holds {}, and this is {}{}", s.target, before == Kind::text ? "texts" : kindWord(before), kindWord(value), hint));
    }

    // Functions.

    Operand call(const FormulaNode& node) {
        if (node.text == "ramp" || node.text == "stat" || node.text == "at" || node.text == "nearest" || node.text == "surface") return outside(node);
        std::vector<Operand> in;
        for (const auto& part : node.parts) in.push_back(bind(*part));
        steps_.goTo(steps_.placeOf(node));
        return callFormulaFunction(steps_, node, std::move(in));
    }

    /// Functions that read a ramp, a statistic or another geometry: the letter of an input first, quoted words, then numbers.
    Operand outside(const FormulaNode& node) {
        std::string geometry;
        std::vector<std::string> words;
        std::vector<int> in;
        for (const auto& part : node.parts) {
            if (part->kind == FormulaNode::Kind::name && part == node.parts.front() && (part->text == "A" || part->text == "B" || part->text == "C")) {
                geometry = part->text;
            } else if (part->kind == FormulaNode::Kind::text) {
                words.push_back(part->text);
            } else {
                const Operand value = bind(*part);
                if (value.kind == Kind::text) steps_.fail(*part, "formula.type", fmt::format("{}() needs a number here, not a text", node.text));
                in.insert(in.end(), value.at.begin(), value.at.begin() + value.components);
            }
        }
        steps_.goTo(steps_.placeOf(node));
        if ((node.text == "at" || node.text == "nearest" || node.text == "surface") && geometry.empty())
            steps_.failHere("formula.type", fmt::format("{}() starts with the letter of an input: A, B or C", node.text));
        const auto found = scope_.resolveFunction(node.text, geometry, words);
        if (!found) throw BindError{found.error().code, steps_.place(), found.error().text, found.error().unknown, found.error().near};
        if (in.size() != std::size_t(found->inputs))
            steps_.failHere("formula.type",
                            fmt::format("{}() takes {} number{} here, not {}", node.text, found->inputs, found->inputs == 1 ? "" : "s", in.size()));
        return steps_.callOf(*found, std::move(in));
    }

    FormulaScope& scope_;
    FormulaAssembler steps_;
    std::map<std::string, Operand> locals_, loaded_;
    std::vector<std::pair<std::string, Assigned>> assigned_;
};

template <class Formula> Result<FormulaProgram> bound(const Formula& formula, FormulaScope& scope) {
    try {
        return FormulaBinder(scope).run(formula);
    } catch (const BindError& error) {
        const bool sentence = error.text.ends_with('?') || error.text.ends_with('.');
        return Error{error.code,       fmt::format("Formula, line {}, column {}: {}{}", error.place.line, error.place.column, error.text, sentence ? "" : "."),
                     error.place.line, error.place.column,
                     error.unknown,    error.near};
    }
}

}  // namespace

Result<FormulaProgram> bindFormula(const FormulaNode& formula, FormulaScope& scope) { return bound(formula, scope); }
Result<FormulaProgram> bindFormulaText(const FormulaText& text, FormulaScope& scope) { return bound(text, scope); }

}  // namespace seedloom
