#include "fields/FormulaSteps.h"
#include "fields/Noise.h"
#include "fields/Random.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

using Op = FormulaOp;
constexpr std::size_t kBlock = FormulaProgram::kBlock;

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

template <class Number> void FormulaProgram::runCall(const Call& call, Number* registers, std::size_t stride, std::size_t n) const {
    double in[4][kBlock], out[4][kBlock];
    const double* from[4] = {in[0], in[1], in[2], in[3]};
    double* to[4] = {out[0], out[1], out[2], out[3]};
    for (std::size_t c = 0; c < call.in.size(); ++c) std::copy_n(registers + std::size_t(call.in[c]) * stride, n, in[c]);
    call.function.run(n, from, to);
    for (std::size_t c = 0; c < call.out.size(); ++c)
        for (std::size_t i = 0; i < n; ++i) registers[std::size_t(call.out[c]) * stride + i] = static_cast<Number>(out[c][i]);
}

template <class Number> void FormulaProgram::runStep(const FormulaStep& s, Number* registers, std::size_t stride, std::size_t n) const {
    using N = Number;
    N* to = registers + std::size_t(s.to) * stride;
    const N *a = registers + std::size_t(s.a) * stride, *b = registers + std::size_t(s.b) * stride, *c = registers + std::size_t(s.c) * stride;
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
        case Op::asinh: map1(to, a, n, [](N x) { return std::asinh(x); }); break;
        case Op::acosh: map1(to, a, n, [](N x) { return std::acosh(x); }); break;
        case Op::atanh: map1(to, a, n, [](N x) { return std::atanh(x); }); break;
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
        case Op::roundEven: map1(to, a, n, [](N x) { return std::nearbyint(x); }); break;
        case Op::fract: map1(to, a, n, [](N x) { return x - std::floor(x); }); break;
        case Op::isnan: map1(to, a, n, [](N x) { return N(x != x); }); break;
        case Op::isinf: map1(to, a, n, [](N x) { return N(std::isinf(x)); }); break;
        case Op::noise: noiseStep(to, a, b, c, n); break;
        case Op::random: map2(to, a, b, n, [](N x, N y) { return N(randomOf(double(x), double(y))); }); break;
        case Op::call: runCall(calls_[std::size_t(s.a)], registers, stride, n); break;
    }
}

template <class Number> void FormulaProgram::runSteps(const std::vector<FormulaStep>& steps, Number* registers, std::size_t stride, std::size_t n) const {
    for (const FormulaStep& s : steps) runStep(s, registers, stride, n);
}

template <class Number> void FormulaProgram::loadBlock(std::size_t begin, std::size_t n, Number* registers) const {
    for (const Load& load : loads_) {
        Number* to[4] = {};
        for (int c = 0; c < load.input.components; ++c) to[c] = registers + std::size_t(load.to[c]) * kBlock;
        if constexpr (std::is_same_v<Number, float>) load.input.load(begin, n, to);
        else load.input.loadWide(begin, n, to);
    }
}

/// A block for each register, those of single values filled.
template <class Number> std::vector<Number> FormulaProgram::startingRegisters() const {
    std::vector<double> fixed = constants_;
    runSteps(once_, fixed.data(), 1, 1);
    std::vector<Number> registers(fixed.size() * kBlock);
    for (std::size_t r = 0; r < fixed.size(); ++r) std::fill_n(registers.data() + r * kBlock, kBlock, static_cast<Number>(fixed[r]));
    return registers;
}

std::array<double, 4> FormulaProgram::evaluate() const {
    std::vector<double> registers = constants_;
    runSteps(once_, registers.data(), 1, 1);
    std::array<double, 4> out{};
    for (int c = 0; c < components(); ++c) out[std::size_t(c)] = registers[std::size_t(outputs_.front().from[std::size_t(c)])];
    return out;
}

template <class Number> void FormulaProgram::evaluateAll(std::size_t begin, std::size_t n,
                                                         const std::function<void(std::size_t, std::size_t, std::size_t, const Number* const*)>& take) const {
    std::vector<Number> registers = startingRegisters<Number>();
    for (std::size_t done = 0; done < n; done += kBlock) {
        const std::size_t size = std::min(kBlock, n - done);
        loadBlock(begin + done, size, registers.data());
        runSteps(each_, registers.data(), kBlock, size);
        for (std::size_t o = 0; o < outputs_.size(); ++o) {
            const Number* from[4] = {};
            for (int c = 0; c < outputs_[o].components(); ++c) from[c] = registers.data() + std::size_t(outputs_[o].from[std::size_t(c)]) * kBlock;
            take(o, begin + done, size, from);
        }
    }
}
template void FormulaProgram::evaluateAll(std::size_t, std::size_t,
                                          const std::function<void(std::size_t, std::size_t, std::size_t, const float* const*)>&) const;
template void FormulaProgram::evaluateAll(std::size_t, std::size_t,
                                          const std::function<void(std::size_t, std::size_t, std::size_t, const double* const*)>&) const;

void FormulaProgram::evaluate(std::size_t begin, std::size_t n, float* const* out) const {
    const auto copy = [&](std::size_t output, std::size_t first, std::size_t rows, const auto* const* from) {
        if (output != 0) return;
        for (int c = 0; c < components(); ++c)
            for (std::size_t i = 0; i < rows; ++i) out[c][first - begin + i] = static_cast<float>(from[c][i]);
    };
    if (wide_) evaluateAll<double>(begin, n, copy);
    else evaluateAll<float>(begin, n, copy);
}

std::optional<FormulaPlace> FormulaProgram::placeOfNonFinite(std::size_t row) const {
    // As single values first, then as a block of one row: whatever gives the first number that is not finite, from finite ones.
    const auto search = [&](const std::vector<FormulaStep>& steps, double* registers, std::size_t stride) -> std::optional<FormulaPlace> {
        for (const FormulaStep& s : steps) {
            const auto finite = [&](int r) { return std::isfinite(registers[std::size_t(r) * stride]); };
            const bool before = s.op == Op::call || (finite(s.a) && finite(s.b) && finite(s.c));
            runStep(s, registers, stride, 1);
            if (before && !finite(s.to)) return FormulaPlace{s.line, s.column};
        }
        return {};
    };
    std::vector<double> fixed = constants_;
    if (const auto place = search(once_, fixed.data(), 1)) return place;
    std::vector<double> registers = startingRegisters<double>();
    loadBlock(row, 1, registers.data());
    return search(each_, registers.data(), kBlock);
}

}  // namespace seedloom
