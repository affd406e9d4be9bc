#include "fields/FormulaSteps.h"
#include "fields/FormulaText.h"
#include "geometry/ElementTransfer.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <map>

namespace seedloom {

namespace {

using Op = FormulaOp;
using Kind = FormulaKind;

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
    Kind kind = Kind::number;
    int reg(int c) const { return components == 1 ? at[0] : at[std::size_t(c)]; }
};

const std::map<std::string_view, Op> kUnary{{"sin", Op::sin},
                                            {"cos", Op::cos},
                                            {"tan", Op::tan},
                                            {"asin", Op::asin},
                                            {"acos", Op::acos},
                                            {"sinh", Op::sinh},
                                            {"cosh", Op::cosh},
                                            {"tanh", Op::tanh},
                                            {"asinh", Op::asinh},
                                            {"acosh", Op::acosh},
                                            {"atanh", Op::atanh},
                                            {"exp", Op::exp},
                                            {"log", Op::log},
                                            {"exp2", Op::exp2},
                                            {"log2", Op::log2},
                                            {"sqrt", Op::sqrt},
                                            {"inversesqrt", Op::inversesqrt},
                                            {"abs", Op::abs},
                                            {"sign", Op::sign},
                                            {"floor", Op::floor},
                                            {"ceil", Op::ceil},
                                            {"trunc", Op::trunc},
                                            {"round", Op::round},
                                            {"roundEven", Op::roundEven},
                                            {"fract", Op::fract},
                                            {"not", Op::lnot},
                                            {"isnan", Op::isnan},
                                            {"isinf", Op::isinf}};
const std::map<std::string_view, Op> kBinary{{"min", Op::min}, {"max", Op::max}, {"mod", Op::mod}, {"pow", Op::pow}, {"step", Op::step}};
/// Comparisons of each component; those that turn the values round have them swapped.
struct Comparison {
    Op op;
    bool swap = false, negate = false;
};
const std::map<std::string_view, Comparison> kComparisons{
    {"lessThan", {Op::less}}, {"lessThanEqual", {Op::lessEqual}},    {"greaterThan", {Op::less, true}}, {"greaterThanEqual", {Op::lessEqual, true}},
    {"equal", {Op::equal}},   {"notEqual", {Op::equal, false, true}}};
const std::vector<std::string> kOtherFunctions{"atan",      "clamp",   "mix",     "smoothstep",  "length", "distance", "dot",     "cross",
                                               "normalize", "reflect", "refract", "faceforward", "any",    "all",      "radians", "degrees",
                                               "vec2",      "vec3",    "vec4",    "float",       "int",    "bool",     "noise",   "random",
                                               "ramp",      "stat",    "nearest", "at",          "surface"};
const std::vector<std::string_view> kFixedNames{"index", "count", "time", "frame", "ctl", "true", "false", "A", "B", "C"};

/// `text` says what is unknown; the names that are most like it are proposed.
BindError unknownWord(std::string code, FormulaPlace place, const std::string& text, const std::string& word, std::vector<std::string> known) {
    std::vector<std::string> near = similarNames(word, std::move(known));
    const std::string proposal = near.empty() ? std::string() : fmt::format(" Did you mean {}?", fmt::join(near, ", "));
    return {std::move(code), place, text + proposal, word, std::move(near)};
}

bool isBooleanOp(Op op) {
    return op == Op::lnot || op == Op::land || op == Op::lor || op == Op::lxor || op == Op::less || op == Op::lessEqual || op == Op::equal || op == Op::isnan ||
           op == Op::isinf;
}
bool keepsWholeNumbers(Op op) {
    return op == Op::add || op == Op::sub || op == Op::mul || op == Op::mod || op == Op::neg || op == Op::min || op == Op::max || op == Op::abs ||
           op == Op::sign || op == Op::select;
}
bool isWhole(Kind kind) { return kind == Kind::integer || kind == Kind::boolean || kind == Kind::literal; }

/// What two values have in common.
Kind joined(Kind a, Kind b) {
    if (a == b) return a;
    return isWhole(a) && isWhole(b) ? Kind::integer : Kind::number;
}

const char* kindWord(Kind kind) {
    return kind == Kind::text ? "a text" : kind == Kind::boolean ? "true or false" : kind == Kind::integer ? "a whole number" : "a number";
}

bool isConstructor(const std::string& f) { return f == "vec2" || f == "vec3" || f == "vec4"; }

}  // namespace

class FormulaBinder {
public:
    explicit FormulaBinder(FormulaScope& scope) : scope_(scope) {}

    FormulaProgram run(const FormulaNode& formula) {
        give("", bind(formula), {formula.line, formula.column});
        return finish();
    }

    FormulaProgram run(const FormulaText& text) {
        for (const FormulaStatement& s : text.statements) place_ = s.place, assign(s);
        for (const auto& [name, value] : assigned_) give(name, value.operand, value.place);
        return finish();
    }

private:
    struct Assigned {
        Operand operand;
        FormulaPlace place;
    };

    [[noreturn]] static void fail(const FormulaNode& at, std::string code, std::string text) { throw BindError{std::move(code), placeOf(at), std::move(text)}; }
    static FormulaPlace placeOf(const FormulaNode& node) { return {node.line, node.column}; }
    [[noreturn]] void failHere(std::string code, std::string text) const { throw BindError{std::move(code), place_, std::move(text)}; }

    int reg(double value = 0, bool uniform = true) {
        program_.constants_.push_back(value);
        uniform_.push_back(uniform);
        return static_cast<int>(program_.constants_.size()) - 1;
    }
    int emit(Op op, int a, int b = -1, int c = -1) {
        if (b < 0) b = a;
        if (c < 0) c = a;
        const bool uniform = uniform_[std::size_t(a)] && uniform_[std::size_t(b)] && uniform_[std::size_t(c)];
        const int to = reg(0, uniform);
        (uniform ? program_.once_ : program_.each_).push_back({op, to, a, b, c, place_.line, place_.column});
        return to;
    }
    Operand constant(double value, Kind kind = Kind::number) { return {1, {reg(value)}, kind}; }

    void give(std::string name, const Operand& value, FormulaPlace place) {
        FormulaProgram::Output out{std::move(name), value.kind, {value.at.begin(), value.at.begin() + value.components}, place, true};
        out.uniform = std::all_of(out.from.begin(), out.from.end(), [&](int r) { return uniform_[std::size_t(r)]; });
        program_.outputs_.push_back(std::move(out));
    }

    FormulaProgram finish() {
        reuseRegisters();
        return std::move(program_);
    }

    /// Blocks that nothing reads any more are written again, so that a long formula stays within the processor's cache.
    void reuseRegisters() {
        const std::size_t count = program_.constants_.size();
        std::vector<std::size_t> lastUse(count, 0);
        const auto forever = program_.each_.size() + 1;
        const auto keep = [&](int r) { lastUse[std::size_t(r)] = forever; };
        for (std::size_t r = 0; r < count; ++r)
            if (uniform_[r]) lastUse[r] = forever;
        for (const auto& load : program_.loads_)
            for (int c = 0; c < load.input.components; ++c) keep(load.to[std::size_t(c)]);
        for (const auto& call : program_.calls_) std::for_each(call.in.begin(), call.in.end(), keep), std::for_each(call.out.begin(), call.out.end(), keep);
        for (const auto& out : program_.outputs_) std::for_each(out.from.begin(), out.from.end(), keep);
        for (std::size_t i = 0; i < program_.each_.size(); ++i)
            if (program_.each_[i].op != Op::call)
                for (int r : {program_.each_[i].to, program_.each_[i].a, program_.each_[i].b, program_.each_[i].c})
                    lastUse[std::size_t(r)] = std::max(lastUse[std::size_t(r)], i + 1);
        std::vector<int> slot(count, -1), free;
        int slots = 0;
        std::vector<double> constants;
        const auto place = [&](int r) {
            int& at = slot[std::size_t(r)];
            if (at < 0 && !free.empty() && lastUse[std::size_t(r)] != forever) at = free.back(), free.pop_back();
            if (at < 0) at = slots++, constants.push_back(program_.constants_[std::size_t(r)]);
            return at;
        };
        for (std::size_t r = 0; r < count; ++r)
            if (lastUse[r] == forever) place(int(r));
        for (std::size_t i = 0; i < program_.each_.size(); ++i) {
            FormulaStep& s = program_.each_[i];
            if (s.op == Op::call) continue;
            const std::array<int, 3> read{s.a, s.b, s.c};
            const int written = s.to;
            s.a = place(s.a), s.b = place(s.b), s.c = place(s.c);
            for (std::size_t k = 0; k < read.size(); ++k)
                if (lastUse[std::size_t(read[k])] == i + 1 &&
                    std::find(read.begin(), read.begin() + std::ptrdiff_t(k), read[k]) == read.begin() + std::ptrdiff_t(k))
                    free.push_back(slot[std::size_t(read[k])]);
            s.to = place(written);
            if (lastUse[std::size_t(written)] == i + 1) free.push_back(s.to);
        }
        const auto moved = [&](int& r) { r = slot[std::size_t(r)]; };
        for (FormulaStep& s : program_.once_)
            if (s.op == Op::call) moved(s.to);
            else moved(s.to), moved(s.a), moved(s.b), moved(s.c);
        for (FormulaStep& s : program_.each_)
            if (s.op == Op::call) moved(s.to);
        for (auto& load : program_.loads_)
            for (int c = 0; c < load.input.components; ++c) moved(load.to[std::size_t(c)]);
        for (auto& call : program_.calls_) std::for_each(call.in.begin(), call.in.end(), moved), std::for_each(call.out.begin(), call.out.end(), moved);
        for (auto& out : program_.outputs_) std::for_each(out.from.begin(), out.from.end(), moved);
        program_.constants_ = std::move(constants);
    }

    /// Applies `op` to each component; single numbers meet every component of a vector.
    Operand each(const FormulaNode& at, Op op, std::initializer_list<Operand> in) {
        place_ = {at.line, at.column};
        Operand out;
        bool whole = true, texts = false;
        for (const Operand& o : in) {
            if (o.components > 1 && out.components > 1 && o.components != out.components)
                fail(at, "formula.type", fmt::format("'{}' can't join {} components with {}", at.text, out.components, o.components));
            out.components = std::max(out.components, o.components);
            whole &= isWhole(o.kind);
            texts |= o.kind == Kind::text;
        }
        if (texts && op != Op::select && op != Op::equal)
            fail(at, "formula.type", fmt::format("'{}' can't work on texts; they can only be compared with == and !=", at.text));
        out.kind = isBooleanOp(op) ? Kind::boolean : whole && keepsWholeNumbers(op) ? wholeKind(in) : Kind::number;
        for (int c = 0; c < out.components; ++c) {
            int r[3] = {-1, -1, -1}, i = 0;
            for (const Operand& o : in) r[i++] = o.reg(c);
            out.at[std::size_t(c)] = emit(op, r[0], r[1], r[2]);
        }
        return out;
    }
    static Kind wholeKind(std::initializer_list<Operand> in) {
        return std::all_of(in.begin(), in.end(), [](const Operand& o) { return o.kind == Kind::literal; }) ? Kind::literal : Kind::integer;
    }
    int dot(const Operand& a, const Operand& b, int components) {
        int sum = emit(Op::mul, a.reg(0), b.reg(0));
        for (int c = 1; c < components; ++c) sum = emit(Op::add, sum, emit(Op::mul, a.reg(c), b.reg(c)));
        return sum;
    }
    Operand input(const FormulaInput& from) {
        Operand out{from.components, {}, from.kind};
        for (std::size_t c = 0; c < std::size_t(from.components); ++c) out.at[c] = reg(from.value[c], from.uniform);
        program_.wide_ |= !from.uniform && (from.kind == Kind::integer || from.kind == Kind::text);
        if (!from.uniform) program_.loads_.push_back({out.at, from});
        return out;
    }

    Operand bind(const FormulaNode& node) {
        place_ = {node.line, node.column};
        switch (node.kind) {
            case FormulaNode::Kind::number: return constant(node.number, node.text.find_first_of(".eE") == std::string::npos ? Kind::literal : Kind::number);
            case FormulaNode::Kind::text: return constant(scope_.numberOfText(node.text), Kind::text);
            case FormulaNode::Kind::name: return name(node);
            case FormulaNode::Kind::control: return control(node);
            case FormulaNode::Kind::call: return call(node);
            case FormulaNode::Kind::unary: {
                const Operand a = bind(*node.parts[0]);
                return node.text == "+" ? a : each(node, node.text == "-" ? Op::neg : Op::lnot, {a});
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
        if ((yes.kind == Kind::text) != (no.kind == Kind::text)) fail(node, "formula.type", "both sides of '?' must be texts, or both numbers");
        if (condition.kind == Kind::text) fail(node, "formula.type", "the condition of '?' is a text; compare it with == first");
        Operand out = each(node, Op::select, {condition, yes, no});
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
        return loaded_[name] = input(found);
    }

    Operand name(const FormulaNode& node) {
        if (node.text == "true" || node.text == "false") return constant(node.text == "true", Kind::boolean);
        if (const auto it = locals_.find(node.text); it != locals_.end()) return it->second;
        if (const auto found = attribute(node.text)) return *found;
        std::vector<std::string> known = scope_.knownNames();
        for (const auto& [local, value] : locals_) known.push_back(local);
        throw unknownWord("formula.unknown_name", placeOf(node), fmt::format("there is no attribute '{}' here.", node.text), node.text, std::move(known));
    }

    Operand control(const FormulaNode& node) {
        FormulaInput found;
        if (scope_.resolveControl(node.text, found)) return input(found);
        throw unknownWord("formula.unknown_name", placeOf(node), fmt::format("there is no control '{}' with a number.", node.text), node.text,
                          scope_.knownControls());
    }

    Operand binary(const FormulaNode& node) {
        const Operand a = bind(*node.parts[0]), b = bind(*node.parts[1]);
        static const std::map<std::string_view, Op> ops{{"+", Op::add},  {"-", Op::sub},        {"*", Op::mul},   {"/", Op::div},  {"%", Op::mod},
                                                        {"<", Op::less}, {"<=", Op::lessEqual}, {"&&", Op::land}, {"||", Op::lor}, {"^^", Op::lxor}};
        if (node.text == ">") return each(node, Op::less, {b, a});
        if (node.text == ">=") return each(node, Op::lessEqual, {b, a});
        if (node.text == "==" || node.text == "!=") {
            if ((a.kind == Kind::text) != (b.kind == Kind::text)) fail(node, "formula.type", "a text can only be compared with a text");
            const Operand parts = each(node, Op::equal, {a, b});
            const int all = joinAll(parts, Op::land);
            return {1, {node.text == "==" ? all : emit(Op::lnot, all)}, Kind::boolean};
        }
        return each(node, ops.at(node.text), {a, b});
    }
    int joinAll(const Operand& parts, Op op) {
        int all = parts.at[0];
        for (int c = 1; c < parts.components; ++c) all = emit(op, all, parts.at[std::size_t(c)]);
        return all;
    }

    /// The places that a text such as xz picks out of a value with so many components.
    std::vector<std::size_t> picked(const std::string& text, int components) const {
        if (text.size() > 4) failHere("formula.type", fmt::format("'.{}' names more than four components", text));
        std::vector<std::size_t> out;
        for (char letter : text) {
            std::size_t c = std::string_view::npos;
            for (std::string_view set : {"xyzw", "rgba", "stpq"})
                if (const auto at = set.find(letter); at != std::string_view::npos) c = at;
            if (c >= std::size_t(components))
                failHere("formula.type", fmt::format("'.{}' asks for a component that is not there; the value has {}", text, components));
            out.push_back(c);
        }
        return out;
    }

    Operand pick(const FormulaNode& node) {
        const Operand from = bind(*node.parts[0]);
        place_ = {node.line, node.column};
        Operand out{static_cast<int>(node.text.size()), {}, from.kind};
        const auto places = picked(node.text, from.components);
        for (std::size_t i = 0; i < places.size(); ++i) out.at[i] = from.at[places[i]];
        return out;
    }

    // Statements.

    void assign(const FormulaStatement& s) {
        Operand value = bind(*s.value);
        place_ = s.place;
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
            throw unknownWord("formula.unknown_name", place_, fmt::format("there is no attribute '{}' to change here; give it a value with = first.", s.target),
                              s.target, scope_.knownNames());
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
            failHere("formula.assign", fmt::format("'{}' can't be given a value; it has one already. Choose another name", name));
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
        if (s.combine) value = each(sign, ops.at(s.combine), {part, value});
        if (value.components != 1 && value.components != part.components)
            failHere("formula.type", fmt::format("'{}{}{}' takes {}, and this is {}", s.target, s.components.empty() ? "" : ".", s.components,
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
        failHere("formula.type",
                 fmt::format("'{}' holds {}, and this is {}{}", s.target, before == Kind::text ? "texts" : kindWord(before), kindWord(value), hint));
    }

    // Functions.

    Operand call(const FormulaNode& node) {
        if (node.text == "ramp" || node.text == "stat" || node.text == "at" || node.text == "nearest" || node.text == "surface") return outside(node);
        std::vector<Operand> in;
        for (const auto& part : node.parts) in.push_back(bind(*part));
        place_ = {node.line, node.column};
        const auto need = [&](std::size_t count) {
            if (in.size() != count)
                fail(node, "formula.type", fmt::format("{}() takes {} value{}, not {}", node.text, count, count == 1 ? "" : "s", in.size()));
        };
        for (const Operand& o : in)
            if (o.kind == Kind::text) fail(node, "formula.type", fmt::format("{}() can't work on texts", node.text));
        const std::string& f = node.text;
        if (const auto one = kUnary.find(f); one != kUnary.end()) return need(1), each(node, one->second, {in[0]});
        if (const auto two = kBinary.find(f); two != kBinary.end()) return need(2), each(node, two->second, {in[0], in[1]});
        if (const auto compare = kComparisons.find(f); compare != kComparisons.end()) {
            need(2);
            const Operand out = compare->second.swap ? each(node, compare->second.op, {in[1], in[0]}) : each(node, compare->second.op, {in[0], in[1]});
            return compare->second.negate ? each(node, Op::lnot, {out}) : out;
        }
        if (isConstructor(f)) return vector(node, in, f[3] - '0');
        if (f == "float") return need(1), Operand{1, {in[0].at[0]}, Kind::number};
        if (f == "int") return need(1), Operand{1, {emit(Op::trunc, in[0].at[0])}, Kind::integer};
        if (f == "bool") return need(1), Operand{1, {emit(Op::lnot, emit(Op::lnot, in[0].at[0]))}, Kind::boolean};
        if (f == "any") return need(1), Operand{1, {emit(Op::lnot, emit(Op::lnot, joinAll(in[0], Op::lor)))}, Kind::boolean};
        if (f == "all") return need(1), Operand{1, {emit(Op::lnot, emit(Op::lnot, joinAll(in[0], Op::land)))}, Kind::boolean};
        if (f == "atan") return in.size() == 1 ? each(node, Op::atan, {in[0]}) : (need(2), each(node, Op::atan2, {in[0], in[1]}));
        if (f == "radians") return need(1), each(node, Op::mul, {in[0], constant(3.14159265358979323846 / 180)});
        if (f == "degrees") return need(1), each(node, Op::mul, {in[0], constant(180 / 3.14159265358979323846)});
        if (f == "clamp") return need(3), each(node, Op::min, {each(node, Op::max, {in[0], in[1]}), in[2]});
        if (f == "mix") return need(3), each(node, Op::add, {in[0], each(node, Op::mul, {each(node, Op::sub, {in[1], in[0]}), in[2]})});
        if (f == "smoothstep") return need(3), smoothstep(node, in);
        if (f == "random") {
            if (in.size() == 1) in.push_back(constant(0));
            return need(2), Operand{1, {emit(Op::random, in[0].at[0], in[1].at[0])}};
        }
        if (f == "noise") {
            need(1);
            if (in[0].components == 1) in[0] = {3, {in[0].at[0], reg(0), reg(0)}};
            if (in[0].components == 2) in[0] = {3, {in[0].at[0], in[0].at[1], reg(0)}};
            return {1, {emit(Op::noise, in[0].at[0], in[0].at[1], in[0].at[2])}};
        }
        return geometric(node, in, need);
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
                if (value.kind == Kind::text) fail(*part, "formula.type", fmt::format("{}() needs a number here, not a text", node.text));
                in.insert(in.end(), value.at.begin(), value.at.begin() + value.components);
            }
        }
        place_ = {node.line, node.column};
        if ((node.text == "at" || node.text == "nearest" || node.text == "surface") && geometry.empty())
            failHere("formula.type", fmt::format("{}() starts with the letter of an input: A, B or C", node.text));
        const auto found = scope_.resolveFunction(node.text, geometry, words);
        if (!found) throw BindError{found.error().code, place_, found.error().text, found.error().unknown, found.error().near};
        if (in.size() != std::size_t(found->inputs))
            failHere("formula.type", fmt::format("{}() takes {} number{} here, not {}", node.text, found->inputs, found->inputs == 1 ? "" : "s", in.size()));
        return callOf(*found, std::move(in));
    }
    Operand callOf(const FormulaFunction& function, std::vector<int> in) {
        const bool uniform = std::all_of(in.begin(), in.end(), [&](int r) { return uniform_[std::size_t(r)]; });
        Operand out{function.components, {}, function.kind};
        std::vector<int> to;
        for (std::size_t c = 0; c < std::size_t(function.components); ++c) to.push_back(out.at[c] = reg(0, uniform));
        (uniform ? program_.once_ : program_.each_).push_back({Op::call, to.front(), int(program_.calls_.size()), 0, 0, place_.line, place_.column});
        program_.wide_ |= function.kind == Kind::text || function.kind == Kind::integer;
        program_.calls_.push_back({std::move(in), std::move(to), function});
        return out;
    }

    Operand vector(const FormulaNode& node, const std::vector<Operand>& in, int components) {
        Operand out{components, {}};
        int filled = 0;
        for (const Operand& o : in)
            for (int c = 0; c < o.components && filled < components; ++c) out.at[std::size_t(filled++)] = o.at[std::size_t(c)];
        if (in.size() == 1 && in[0].components == 1)
            while (filled < components) out.at[std::size_t(filled++)] = in[0].at[0];
        if (filled < components) fail(node, "formula.type", fmt::format("{}() needs {} numbers, not {}", node.text, components, filled));
        return out;
    }

    Operand smoothstep(const FormulaNode& node, const std::vector<Operand>& in) {
        const Operand raw = each(node, Op::div, {each(node, Op::sub, {in[2], in[0]}), each(node, Op::sub, {in[1], in[0]})});
        const Operand t = each(node, Op::min, {each(node, Op::max, {raw, constant(0)}), constant(1)});
        return each(node, Op::mul, {each(node, Op::mul, {t, t}), each(node, Op::sub, {constant(3), each(node, Op::mul, {constant(2), t})})});
    }

    template <class Need> Operand geometric(const FormulaNode& node, const std::vector<Operand>& in, Need&& need) {
        const std::string& f = node.text;
        const auto sameSize = [&](std::size_t count) {
            need(count);
            for (std::size_t i = 1; i < count; ++i)
                if (in[0].components != in[i].components) fail(node, "formula.type", fmt::format("{}() needs values of the same size", f));
        };
        if (f == "dot") return sameSize(2), Operand{1, {dot(in[0], in[1], in[0].components)}};
        if (f == "length") return need(1), Operand{1, {emit(Op::sqrt, dot(in[0], in[0], in[0].components))}};
        if (f == "distance") {
            sameSize(2);
            const Operand d = each(node, Op::sub, {in[0], in[1]});
            return {1, {emit(Op::sqrt, dot(d, d, d.components))}};
        }
        if (f == "normalize") {
            need(1);
            // A vector without length stays as it is: a direction of NaN would spoil everything after it.
            const int size = emit(Op::sqrt, dot(in[0], in[0], in[0].components));
            return each(node, Op::div, {in[0], Operand{1, {emit(Op::select, size, size, reg(1))}}});
        }
        if (f == "reflect") {
            sameSize(2);
            const Operand twice{1, {emit(Op::mul, reg(2), dot(in[0], in[1], in[0].components))}};
            return each(node, Op::sub, {in[0], each(node, Op::mul, {in[1], twice})});
        }
        if (f == "faceforward") {
            sameSize(3);
            const Operand towards{1, {emit(Op::less, dot(in[2], in[1], in[1].components), reg(0))}};
            return each(node, Op::select, {towards, in[0], each(node, Op::neg, {in[0]})});
        }
        if (f == "refract") return refract(node, in, need);
        if (f == "cross") {
            sameSize(2);
            if (in[0].components != 3) fail(node, "formula.type", "cross() needs two values of three components");
            Operand out{3, {}};
            for (std::size_t c = 0; c < 3; ++c) {
                const std::size_t i = (c + 1) % 3, j = (c + 2) % 3;
                out.at[c] = emit(Op::sub, emit(Op::mul, in[0].at[i], in[1].at[j]), emit(Op::mul, in[0].at[j], in[1].at[i]));
            }
            return out;
        }
        throw unknownWord("formula.unknown_function", placeOf(node), fmt::format("there is no function '{}'.", f), f, formulaFunctions());
    }

    /// As in the GLSL specification: the direction I through a surface with normal N, 0 where all of it is reflected.
    template <class Need> Operand refract(const FormulaNode& node, const std::vector<Operand>& in, Need&& need) {
        need(3);
        if (in[0].components != in[1].components || in[2].components != 1)
            fail(node, "formula.type", "refract() needs two directions of the same size, and a number");
        const Operand ratio = in[2], along{1, {dot(in[1], in[0], in[0].components)}};
        const Operand rest = each(node, Op::sub, {constant(1), each(node, Op::mul, {along, along})});
        const Operand k = each(node, Op::sub, {constant(1), each(node, Op::mul, {each(node, Op::mul, {ratio, ratio}), rest})});
        const Operand root{1, {emit(Op::sqrt, emit(Op::max, k.at[0], reg(0)))}};
        const Operand bend = each(node, Op::add, {each(node, Op::mul, {ratio, along}), root});
        const Operand through = each(node, Op::sub, {each(node, Op::mul, {in[0], ratio}), each(node, Op::mul, {in[1], bend})});
        return each(node, Op::select, {each(node, Op::less, {k, constant(0)}), constant(0), through});
    }

    FormulaScope& scope_;
    FormulaProgram program_;
    std::vector<bool> uniform_;
    std::map<std::string, Operand> locals_, loaded_;
    std::vector<std::pair<std::string, Assigned>> assigned_;
    FormulaPlace place_{1, 1};
};

namespace {

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

std::vector<std::string> formulaFunctions() {
    std::vector<std::string> out = kOtherFunctions;
    for (const auto& [name, op] : kUnary) out.emplace_back(name);
    for (const auto& [name, op] : kBinary) out.emplace_back(name);
    for (const auto& [name, op] : kComparisons) out.emplace_back(name);
    return out;
}

Result<FormulaProgram> bindFormula(const FormulaNode& formula, FormulaScope& scope) { return bound(formula, scope); }
Result<FormulaProgram> bindFormulaText(const FormulaText& text, FormulaScope& scope) { return bound(text, scope); }

}  // namespace seedloom
