#include "fields/Formula.h"

#include "fields/Noise.h"
#include "fields/Random.h"
#include "geometry/ElementTransfer.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <map>

namespace seedloom {

enum class FormulaProgram::Op : std::uint8_t {
    add, sub, mul, div, mod, neg, lnot, land, lor, lxor, less, lessEqual, equal, notEqual, select,
    min, max, pow, atan2, step, sin, cos, tan, asin, acos, atan, sinh, cosh, tanh, exp, log, exp2, log2, sqrt, inversesqrt,
    abs, sign, floor, ceil, trunc, round, fract, noise, random
};

namespace {

using Op = FormulaProgram::Op;
constexpr std::size_t kBlock = 256;

struct BindError {
    std::string code;
    int line, column;
    std::string text;
};

struct Operand {
    int components = 1;
    std::array<int, 4> at{};
    int reg(int c) const { return components == 1 ? at[0] : at[c]; }
};

const std::map<std::string_view, Op> kUnary{
    {"sin", Op::sin}, {"cos", Op::cos}, {"tan", Op::tan}, {"asin", Op::asin}, {"acos", Op::acos}, {"sinh", Op::sinh},
    {"cosh", Op::cosh}, {"tanh", Op::tanh}, {"exp", Op::exp}, {"log", Op::log}, {"exp2", Op::exp2}, {"log2", Op::log2},
    {"sqrt", Op::sqrt}, {"inversesqrt", Op::inversesqrt}, {"abs", Op::abs}, {"sign", Op::sign}, {"floor", Op::floor},
    {"ceil", Op::ceil}, {"trunc", Op::trunc}, {"round", Op::round}, {"fract", Op::fract}, {"not", Op::lnot}};
const std::map<std::string_view, Op> kBinary{{"min", Op::min}, {"max", Op::max}, {"mod", Op::mod}, {"pow", Op::pow}, {"step", Op::step}};
const std::vector<std::string> kOtherFunctions{"atan", "clamp", "mix", "smoothstep", "length", "distance", "dot", "cross", "normalize",
                                               "reflect", "radians", "degrees", "vec2", "vec3", "vec4", "float", "noise", "random"};

std::string didYouMean(std::string_view name, std::vector<std::string> known) {
    const auto near = similarNames(name, std::move(known));
    return near.empty() ? std::string() : fmt::format(" Did you mean {}?", fmt::join(near, ", "));
}

}  // namespace

class FormulaBinder {
public:
    FormulaBinder(FormulaScope& scope) : scope_(scope) {}

    FormulaProgram run(const FormulaNode& formula) {
        const Operand result = bind(formula);
        program_.result_.assign(result.at.begin(), result.at.begin() + result.components);
        program_.uniform_ = std::all_of(program_.result_.begin(), program_.result_.end(), [&](int r) { return uniform_[r]; });
        return std::move(program_);
    }

private:
    [[noreturn]] static void fail(const FormulaNode& at, std::string code, std::string text) {
        throw BindError{std::move(code), at.line, at.column, std::move(text)};
    }
    int reg(double value = 0, bool uniform = true) {
        program_.constants_.push_back(value);
        uniform_.push_back(uniform);
        return static_cast<int>(program_.constants_.size()) - 1;
    }
    int emit(Op op, int a, int b = -1, int c = -1) {
        const auto same = [&](int r) { return r < 0 || uniform_[r]; };
        const bool uniform = same(a) && same(b) && same(c);
        const int to = reg(0, uniform);
        (uniform ? program_.once_ : program_.each_).push_back({op, to, std::max(a, 0), std::max(b, 0), std::max(c, 0)});
        return to;
    }
    Operand constant(double value) { return {1, {reg(value)}}; }

    /// Applies `op` to each component; single numbers meet every component of a vector.
    Operand each(const FormulaNode& at, Op op, std::initializer_list<Operand> in) {
        int components = 1;
        for (const Operand& o : in) {
            if (o.components > 1 && components > 1 && o.components != components)
                fail(at, "formula.type", fmt::format("'{}' can't join {} components with {}", at.text, components, o.components));
            components = std::max(components, o.components);
        }
        Operand out{components, {}};
        for (int c = 0; c < components; ++c) {
            int r[3] = {-1, -1, -1}, i = 0;
            for (const Operand& o : in) r[i++] = o.reg(c);
            out.at[c] = emit(op, r[0], r[1], r[2]);
        }
        return out;
    }
    int dot(const Operand& a, const Operand& b, int components) {
        int sum = emit(Op::mul, a.reg(0), b.reg(0));
        for (int c = 1; c < components; ++c) sum = emit(Op::add, sum, emit(Op::mul, a.reg(c), b.reg(c)));
        return sum;
    }
    Operand input(const FormulaInput& from) {
        Operand out{from.components, {}};
        for (int c = 0; c < from.components; ++c) out.at[c] = reg(from.value[c], from.uniform);
        if (!from.uniform) program_.loads_.push_back({out.at, from});
        return out;
    }

    Operand bind(const FormulaNode& node) {
        switch (node.kind) {
            case FormulaNode::Kind::number: return constant(node.number);
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
                const Operand yes = bind(*node.parts[1]), no = bind(*node.parts[2]);
                return each(node, Op::select, {condition, yes, no});
            }
            case FormulaNode::Kind::pick: return pick(node);
        }
        return {};
    }

    Operand name(const FormulaNode& node) {
        if (node.text == "true") return constant(1);
        if (node.text == "false") return constant(0);
        FormulaInput found;
        if (scope_.resolveName(node.text, found)) return input(found);
        fail(node, "formula.unknown_name", fmt::format("there is no attribute '{}' here.{}", node.text, didYouMean(node.text, scope_.knownNames())));
    }

    Operand control(const FormulaNode& node) {
        FormulaInput found;
        if (scope_.resolveControl(node.text, found)) return input(found);
        fail(node, "formula.unknown_name", fmt::format("there is no control '{}' with a number.{}", node.text, didYouMean(node.text, scope_.knownControls())));
    }

    Operand binary(const FormulaNode& node) {
        const Operand a = bind(*node.parts[0]), b = bind(*node.parts[1]);
        static const std::map<std::string_view, Op> ops{{"+", Op::add}, {"-", Op::sub}, {"*", Op::mul}, {"/", Op::div}, {"%", Op::mod},
                                                        {"<", Op::less}, {"<=", Op::lessEqual}, {"&&", Op::land}, {"||", Op::lor}, {"^^", Op::lxor}};
        if (node.text == ">") return each(node, Op::less, {b, a});
        if (node.text == ">=") return each(node, Op::lessEqual, {b, a});
        if (node.text == "==" || node.text == "!=") {
            const Operand parts = each(node, Op::equal, {a, b});
            int all = parts.at[0];
            for (int c = 1; c < parts.components; ++c) all = emit(Op::land, all, parts.at[c]);
            return {1, {node.text == "==" ? all : emit(Op::lnot, all)}};
        }
        return each(node, ops.at(node.text), {a, b});
    }

    Operand pick(const FormulaNode& node) {
        const Operand from = bind(*node.parts[0]);
        Operand out{static_cast<int>(node.text.size()), {}};
        if (node.text.size() > 4) fail(node, "formula.type", fmt::format("'.{}' names more than four components", node.text));
        for (std::size_t i = 0; i < node.text.size(); ++i) {
            std::size_t c = std::string_view::npos;
            for (std::string_view set : {"xyzw", "rgba", "stpq"})
                if (const auto at = set.find(node.text[i]); at != std::string_view::npos) c = at;
            if (c >= static_cast<std::size_t>(from.components))
                fail(node, "formula.type", fmt::format("'.{}' asks for a component that is not there; the value has {}", node.text, from.components));
            out.at[i] = from.at[c];
        }
        return out;
    }

    Operand call(const FormulaNode& node) {
        std::vector<Operand> in;
        for (const auto& part : node.parts) in.push_back(bind(*part));
        const auto need = [&](std::size_t count) {
            if (in.size() != count) fail(node, "formula.type", fmt::format("{}() takes {} value{}, not {}", node.text, count, count == 1 ? "" : "s", in.size()));
        };
        const std::string& f = node.text;
        if (const auto one = kUnary.find(f); one != kUnary.end()) return need(1), each(node, one->second, {in[0]});
        if (const auto two = kBinary.find(f); two != kBinary.end()) return need(2), each(node, two->second, {in[0], in[1]});
        if (f == "vec2" || f == "vec3" || f == "vec4") return vector(node, in, f[3] - '0');
        if (f == "float") return need(1), Operand{1, {in[0].at[0]}};
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

    Operand vector(const FormulaNode& node, const std::vector<Operand>& in, int components) {
        Operand out{components, {}};
        int filled = 0;
        for (const Operand& o : in)
            for (int c = 0; c < o.components && filled < components; ++c) out.at[filled++] = o.at[c];
        if (in.size() == 1 && in[0].components == 1)
            while (filled < components) out.at[filled++] = in[0].at[0];
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
        const auto sameSize = [&] {
            need(2);
            if (in[0].components != in[1].components) fail(node, "formula.type", fmt::format("{}() needs two values of the same size", f));
        };
        if (f == "dot") return sameSize(), Operand{1, {dot(in[0], in[1], in[0].components)}};
        if (f == "length") return need(1), Operand{1, {emit(Op::sqrt, dot(in[0], in[0], in[0].components))}};
        if (f == "distance") {
            sameSize();
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
            sameSize();
            const Operand twice{1, {emit(Op::mul, reg(2), dot(in[0], in[1], in[0].components))}};
            return each(node, Op::sub, {in[0], each(node, Op::mul, {in[1], twice})});
        }
        if (f == "cross") {
            sameSize();
            if (in[0].components != 3) fail(node, "formula.type", "cross() needs two values of three components");
            Operand out{3, {}};
            for (int c = 0; c < 3; ++c) {
                const int i = (c + 1) % 3, j = (c + 2) % 3;
                out.at[c] = emit(Op::sub, emit(Op::mul, in[0].at[i], in[1].at[j]), emit(Op::mul, in[0].at[j], in[1].at[i]));
            }
            return out;
        }
        std::vector<std::string> known = kOtherFunctions;
        for (const auto& [name, op] : kUnary) known.emplace_back(name);
        for (const auto& [name, op] : kBinary) known.emplace_back(name);
        fail(node, "formula.unknown_function", fmt::format("there is no function '{}'.{}", f, didYouMean(f, std::move(known))));
    }

    FormulaScope& scope_;
    FormulaProgram program_;
    std::vector<bool> uniform_;
};

namespace {

template <class Number, class F> void map1(Number* to, const Number* a, std::size_t n, F&& f) {
    for (std::size_t i = 0; i < n; ++i) to[i] = f(a[i]);
}
template <class Number, class F> void map2(Number* to, const Number* a, const Number* b, std::size_t n, F&& f) {
    for (std::size_t i = 0; i < n; ++i) to[i] = f(a[i], b[i]);
}

template <class Number> void noiseStep(Number* to, const Number* a, const Number* b, const Number* c, std::size_t n) {
    float x[kBlock], y[kBlock], z[kBlock], out[kBlock];
    for (std::size_t i = 0; i < n; ++i) x[i] = float(a[i]), y[i] = float(b[i]), z[i] = float(c[i]);
    noise({x, n}, {y, n}, {z, n}, NoiseOptions{}, {out, n});
    for (std::size_t i = 0; i < n; ++i) to[i] = Number(out[i]);
}

}  // namespace

template <class Number>
void FormulaProgram::runSteps(const std::vector<Step>& steps, Number* registers, std::size_t stride, std::size_t n) const {
    using N = Number;
    for (const Step& s : steps) {
        N* to = registers + std::size_t(s.to) * stride;
        const N *a = registers + std::size_t(s.a) * stride, *b = registers + std::size_t(s.b) * stride,
                *c = registers + std::size_t(s.c) * stride;
        switch (s.op) {
            case Op::add: map2(to, a, b, n, [](N x, N y) { return x + y; }); break;
            case Op::sub: map2(to, a, b, n, [](N x, N y) { return x - y; }); break;
            case Op::mul: map2(to, a, b, n, [](N x, N y) { return x * y; }); break;
            case Op::div: map2(to, a, b, n, [](N x, N y) { return x / y; }); break;
            case Op::mod: map2(to, a, b, n, [](N x, N y) { return x - y * std::floor(x / y); }); break;
            case Op::neg: map1(to, a, n, [](N x) { return -x; }); break;
            case Op::lnot: map1(to, a, n, [](N x) { return N(x == 0); }); break;
            case Op::land: map2(to, a, b, n, [](N x, N y) { return N(x != 0 && y != 0); }); break;
            case Op::lor: map2(to, a, b, n, [](N x, N y) { return N(x != 0 || y != 0); }); break;
            case Op::lxor: map2(to, a, b, n, [](N x, N y) { return N((x != 0) != (y != 0)); }); break;
            case Op::less: map2(to, a, b, n, [](N x, N y) { return N(x < y); }); break;
            case Op::lessEqual: map2(to, a, b, n, [](N x, N y) { return N(x <= y); }); break;
            case Op::equal: map2(to, a, b, n, [](N x, N y) { return N(x == y); }); break;
            case Op::notEqual: map2(to, a, b, n, [](N x, N y) { return N(x != y); }); break;
            case Op::select:
                for (std::size_t i = 0; i < n; ++i) to[i] = a[i] != 0 ? b[i] : c[i];
                break;
            case Op::min: map2(to, a, b, n, [](N x, N y) { return y < x ? y : x; }); break;
            case Op::max: map2(to, a, b, n, [](N x, N y) { return x < y ? y : x; }); break;
            case Op::pow: map2(to, a, b, n, [](N x, N y) { return std::pow(x, y); }); break;
            case Op::atan2: map2(to, a, b, n, [](N x, N y) { return std::atan2(x, y); }); break;
            case Op::step: map2(to, a, b, n, [](N edge, N x) { return N(x < edge ? 0 : 1); }); break;
            case Op::sin: map1(to, a, n, [](N x) { return std::sin(x); }); break;
            case Op::cos: map1(to, a, n, [](N x) { return std::cos(x); }); break;
            case Op::tan: map1(to, a, n, [](N x) { return std::tan(x); }); break;
            case Op::asin: map1(to, a, n, [](N x) { return std::asin(x); }); break;
            case Op::acos: map1(to, a, n, [](N x) { return std::acos(x); }); break;
            case Op::atan: map1(to, a, n, [](N x) { return std::atan(x); }); break;
            case Op::sinh: map1(to, a, n, [](N x) { return std::sinh(x); }); break;
            case Op::cosh: map1(to, a, n, [](N x) { return std::cosh(x); }); break;
            case Op::tanh: map1(to, a, n, [](N x) { return std::tanh(x); }); break;
            case Op::exp: map1(to, a, n, [](N x) { return std::exp(x); }); break;
            case Op::log: map1(to, a, n, [](N x) { return std::log(x); }); break;
            case Op::exp2: map1(to, a, n, [](N x) { return std::exp2(x); }); break;
            case Op::log2: map1(to, a, n, [](N x) { return std::log2(x); }); break;
            case Op::sqrt: map1(to, a, n, [](N x) { return std::sqrt(x); }); break;
            case Op::inversesqrt: map1(to, a, n, [](N x) { return 1 / std::sqrt(x); }); break;
            case Op::abs: map1(to, a, n, [](N x) { return std::abs(x); }); break;
            case Op::sign: map1(to, a, n, [](N x) { return N((x > 0) - (x < 0)); }); break;
            case Op::floor: map1(to, a, n, [](N x) { return std::floor(x); }); break;
            case Op::ceil: map1(to, a, n, [](N x) { return std::ceil(x); }); break;
            case Op::trunc: map1(to, a, n, [](N x) { return std::trunc(x); }); break;
            case Op::round: map1(to, a, n, [](N x) { return std::floor(x + N(0.5)); }); break;
            case Op::fract: map1(to, a, n, [](N x) { return x - std::floor(x); }); break;
            case Op::noise: noiseStep(to, a, b, c, n); break;
            case Op::random: map2(to, a, b, n, [](N x, N y) { return N(randomOf(double(x), double(y))); }); break;
        }
    }
}

std::array<double, 4> FormulaProgram::evaluate() const {
    std::vector<double> registers = constants_;
    runSteps(once_, registers.data(), 1, 1);
    std::array<double, 4> out{};
    for (std::size_t c = 0; c < result_.size(); ++c) out[c] = registers[std::size_t(result_[c])];
    return out;
}

void FormulaProgram::evaluate(std::size_t begin, std::size_t n, float* const* out) const {
    std::vector<double> fixed = constants_;
    runSteps(once_, fixed.data(), 1, 1);
    std::vector<float> registers(fixed.size() * kBlock);
    for (std::size_t r = 0; r < fixed.size(); ++r) std::fill_n(registers.data() + r * kBlock, kBlock, static_cast<float>(fixed[r]));
    for (std::size_t done = 0; done < n; done += kBlock) {
        const std::size_t size = std::min(kBlock, n - done);
        for (const Load& load : loads_) {
            float* to[4] = {};
            for (int c = 0; c < load.input.components; ++c) to[c] = registers.data() + std::size_t(load.to[c]) * kBlock;
            load.input.load(begin + done, size, to);
        }
        runSteps(each_, registers.data(), kBlock, size);
        for (std::size_t c = 0; c < result_.size(); ++c)
            std::copy_n(registers.data() + std::size_t(result_[c]) * kBlock, size, out[c] + done);
    }
}

Result<FormulaProgram> bindFormula(const FormulaNode& formula, FormulaScope& scope) {
    try {
        return FormulaBinder(scope).run(formula);
    } catch (const BindError& error) {
        const bool sentence = error.text.ends_with('?') || error.text.ends_with('.');
        return Error{error.code, fmt::format("Formula, line {}, column {}: {}{}", error.line, error.column, error.text, sentence ? "" : ".")};
    }
}

}  // namespace seedloom
