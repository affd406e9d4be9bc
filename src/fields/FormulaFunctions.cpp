#include "fields/FormulaFunctions.h"

#include <fmt/format.h>

#include <map>

namespace seedloom {

namespace {

using Op = FormulaOp;
using Kind = FormulaKind;

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

bool isConstructor(const std::string& f) { return f == "vec2" || f == "vec3" || f == "vec4"; }

class FunctionCall {
public:
    FunctionCall(FormulaAssembler& steps, const FormulaNode& node, std::vector<Operand> in) : steps_(steps), node_(node), in_(std::move(in)) {}

    Operand value() {
        for (const Operand& o : in_)
            if (o.kind == Kind::text) steps_.fail(node_, "formula.type", fmt::format("{}() can't work on texts", node_.text));
        const std::string& f = node_.text;
        if (const auto one = kUnary.find(f); one != kUnary.end()) return need(1), steps_.each(node_, one->second, {in_[0]});
        if (const auto two = kBinary.find(f); two != kBinary.end()) return need(2), steps_.each(node_, two->second, {in_[0], in_[1]});
        if (const auto compare = kComparisons.find(f); compare != kComparisons.end()) {
            need(2);
            const Operand out =
                compare->second.swap ? steps_.each(node_, compare->second.op, {in_[1], in_[0]}) : steps_.each(node_, compare->second.op, {in_[0], in_[1]});
            return compare->second.negate ? steps_.each(node_, Op::lnot, {out}) : out;
        }
        if (isConstructor(f)) return vector(f[3] - '0');
        if (f == "float") return need(1), Operand{1, {in_[0].at[0]}, Kind::number};
        if (f == "int") return need(1), Operand{1, {steps_.emit(Op::trunc, in_[0].at[0])}, Kind::integer};
        if (f == "bool") return need(1), Operand{1, {steps_.emit(Op::lnot, steps_.emit(Op::lnot, in_[0].at[0]))}, Kind::boolean};
        if (f == "any") return need(1), Operand{1, {steps_.emit(Op::lnot, steps_.emit(Op::lnot, steps_.joinAll(in_[0], Op::lor)))}, Kind::boolean};
        if (f == "all") return need(1), Operand{1, {steps_.emit(Op::lnot, steps_.emit(Op::lnot, steps_.joinAll(in_[0], Op::land)))}, Kind::boolean};
        if (f == "atan") return in_.size() == 1 ? steps_.each(node_, Op::atan, {in_[0]}) : (need(2), steps_.each(node_, Op::atan2, {in_[0], in_[1]}));
        if (f == "radians") return need(1), steps_.each(node_, Op::mul, {in_[0], steps_.constant(3.14159265358979323846 / 180)});
        if (f == "degrees") return need(1), steps_.each(node_, Op::mul, {in_[0], steps_.constant(180 / 3.14159265358979323846)});
        if (f == "clamp") return need(3), steps_.each(node_, Op::min, {steps_.each(node_, Op::max, {in_[0], in_[1]}), in_[2]});
        if (f == "mix")
            return need(3), steps_.each(node_, Op::add, {in_[0], steps_.each(node_, Op::mul, {steps_.each(node_, Op::sub, {in_[1], in_[0]}), in_[2]})});
        if (f == "smoothstep") return need(3), smoothstep();
        if (f == "random") {
            if (in_.size() == 1) in_.push_back(steps_.constant(0));
            return need(2), Operand{1, {steps_.emit(Op::random, in_[0].at[0], in_[1].at[0])}};
        }
        if (f == "noise") {
            need(1);
            if (in_[0].components == 1) in_[0] = {3, {in_[0].at[0], steps_.reg(0), steps_.reg(0)}};
            if (in_[0].components == 2) in_[0] = {3, {in_[0].at[0], in_[0].at[1], steps_.reg(0)}};
            return {1, {steps_.emit(Op::noise, in_[0].at[0], in_[0].at[1], in_[0].at[2])}};
        }
        return geometric();
    }

private:
    void need(std::size_t count) const {
        if (in_.size() != count)
            FormulaAssembler::fail(node_, "formula.type", fmt::format("{}() takes {} value{}, not {}", node_.text, count, count == 1 ? "" : "s", in_.size()));
    }

    Operand vector(int components) {
        Operand out{components, {}};
        int filled = 0;
        for (const Operand& o : in_)
            for (int c = 0; c < o.components && filled < components; ++c) out.at[std::size_t(filled++)] = o.at[std::size_t(c)];
        if (in_.size() == 1 && in_[0].components == 1)
            while (filled < components) out.at[std::size_t(filled++)] = in_[0].at[0];
        if (filled < components) steps_.fail(node_, "formula.type", fmt::format("{}() needs {} numbers, not {}", node_.text, components, filled));
        return out;
    }

    Operand smoothstep() {
        const Operand raw = steps_.each(node_, Op::div, {steps_.each(node_, Op::sub, {in_[2], in_[0]}), steps_.each(node_, Op::sub, {in_[1], in_[0]})});
        const Operand t = steps_.each(node_, Op::min, {steps_.each(node_, Op::max, {raw, steps_.constant(0)}), steps_.constant(1)});
        return steps_.each(node_, Op::mul,
                           {steps_.each(node_, Op::mul, {t, t}),
                            steps_.each(node_, Op::sub, {steps_.constant(3), steps_.each(node_, Op::mul, {steps_.constant(2), t})})});
    }

    Operand geometric() {
        const std::string& f = node_.text;
        const auto sameSize = [&](std::size_t count) {
            need(count);
            for (std::size_t i = 1; i < count; ++i)
                if (in_[0].components != in_[i].components) steps_.fail(node_, "formula.type", fmt::format("{}() needs values of the same size", f));
        };
        if (f == "dot") return sameSize(2), Operand{1, {steps_.dot(in_[0], in_[1], in_[0].components)}};
        if (f == "length") return need(1), Operand{1, {steps_.emit(Op::sqrt, steps_.dot(in_[0], in_[0], in_[0].components))}};
        if (f == "distance") {
            sameSize(2);
            const Operand d = steps_.each(node_, Op::sub, {in_[0], in_[1]});
            return {1, {steps_.emit(Op::sqrt, steps_.dot(d, d, d.components))}};
        }
        if (f == "normalize") {
            need(1);
            // A vector without length stays as it is: a direction of NaN would spoil everything after it.
            const int size = steps_.emit(Op::sqrt, steps_.dot(in_[0], in_[0], in_[0].components));
            return steps_.each(node_, Op::div, {in_[0], Operand{1, {steps_.emit(Op::select, size, size, steps_.reg(1))}}});
        }
        if (f == "reflect") {
            sameSize(2);
            const Operand twice{1, {steps_.emit(Op::mul, steps_.reg(2), steps_.dot(in_[0], in_[1], in_[0].components))}};
            return steps_.each(node_, Op::sub, {in_[0], steps_.each(node_, Op::mul, {in_[1], twice})});
        }
        if (f == "faceforward") {
            sameSize(3);
            const Operand towards{1, {steps_.emit(Op::less, steps_.dot(in_[2], in_[1], in_[1].components), steps_.reg(0))}};
            return steps_.each(node_, Op::select, {towards, in_[0], steps_.each(node_, Op::neg, {in_[0]})});
        }
        if (f == "refract") return refract();
        if (f == "cross") {
            sameSize(2);
            if (in_[0].components != 3) steps_.fail(node_, "formula.type", "cross() needs two values of three components");
            Operand out{3, {}};
            for (std::size_t c = 0; c < 3; ++c) {
                const std::size_t i = (c + 1) % 3, j = (c + 2) % 3;
                out.at[c] = steps_.emit(Op::sub, steps_.emit(Op::mul, in_[0].at[i], in_[1].at[j]), steps_.emit(Op::mul, in_[0].at[j], in_[1].at[i]));
            }
            return out;
        }
        throw unknownWord("formula.unknown_function", steps_.placeOf(node_), fmt::format("there is no function '{}'.", f), f, formulaFunctions());
    }

    /// As in the GLSL specification: the direction I through a surface with normal N, 0 where all of it is reflected.
    Operand refract() {
        need(3);
        if (in_[0].components != in_[1].components || in_[2].components != 1)
            steps_.fail(node_, "formula.type", "refract() needs two directions of the same size, and a number");
        const Operand ratio = in_[2], along{1, {steps_.dot(in_[1], in_[0], in_[0].components)}};
        const Operand rest = steps_.each(node_, Op::sub, {steps_.constant(1), steps_.each(node_, Op::mul, {along, along})});
        const Operand k = steps_.each(node_, Op::sub, {steps_.constant(1), steps_.each(node_, Op::mul, {steps_.each(node_, Op::mul, {ratio, ratio}), rest})});
        const Operand root{1, {steps_.emit(Op::sqrt, steps_.emit(Op::max, k.at[0], steps_.reg(0)))}};
        const Operand bend = steps_.each(node_, Op::add, {steps_.each(node_, Op::mul, {ratio, along}), root});
        const Operand through = steps_.each(node_, Op::sub, {steps_.each(node_, Op::mul, {in_[0], ratio}), steps_.each(node_, Op::mul, {in_[1], bend})});
        return steps_.each(node_, Op::select, {steps_.each(node_, Op::less, {k, steps_.constant(0)}), steps_.constant(0), through});
    }

    FormulaAssembler& steps_;
    const FormulaNode& node_;
    std::vector<Operand> in_;
};

}  // namespace

Operand callFormulaFunction(FormulaAssembler& steps, const FormulaNode& call, std::vector<Operand> in) {
    return FunctionCall(steps, call, std::move(in)).value();
}

std::vector<std::string> formulaFunctions() {
    std::vector<std::string> out = kOtherFunctions;
    for (const auto& [name, op] : kUnary) out.emplace_back(name);
    for (const auto& [name, op] : kBinary) out.emplace_back(name);
    for (const auto& [name, op] : kComparisons) out.emplace_back(name);
    return out;
}

}  // namespace seedloom
