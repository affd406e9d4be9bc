#include "fields/FormulaAssembler.h"

#include "geometry/ElementTransfer.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace seedloom {

namespace {

using Op = FormulaOp;
using Kind = FormulaKind;

bool isBooleanOp(Op op) {
    return op == Op::lnot || op == Op::land || op == Op::lor || op == Op::lxor || op == Op::less || op == Op::lessEqual || op == Op::equal || op == Op::isnan ||
           op == Op::isinf;
}
bool keepsWholeNumbers(Op op) {
    return op == Op::add || op == Op::sub || op == Op::mul || op == Op::mod || op == Op::neg || op == Op::min || op == Op::max || op == Op::abs ||
           op == Op::sign || op == Op::select;
}
Kind wholeKind(std::initializer_list<Operand> in) {
    return std::all_of(in.begin(), in.end(), [](const Operand& o) { return o.kind == Kind::literal; }) ? Kind::literal : Kind::integer;
}

}  // namespace

bool isWhole(Kind kind) { return kind == Kind::integer || kind == Kind::boolean || kind == Kind::literal; }

BindError unknownWord(std::string code, FormulaPlace place, const std::string& text, const std::string& word, std::vector<std::string> known) {
    std::vector<std::string> near = similarNames(word, std::move(known));
    const std::string proposal = near.empty() ? std::string() : fmt::format(" Did you mean {}?", fmt::join(near, ", "));
    return {std::move(code), place, text + proposal, word, std::move(near)};
}

[[noreturn]] void FormulaAssembler::fail(const FormulaNode& at, std::string code, std::string text) {
    throw BindError{std::move(code), placeOf(at), std::move(text)};
}

[[noreturn]] void FormulaAssembler::failHere(std::string code, std::string text) const { throw BindError{std::move(code), place_, std::move(text)}; }

int FormulaAssembler::reg(double value, bool uniform) {
    program_.constants_.push_back(value);
    uniform_.push_back(uniform);
    return static_cast<int>(program_.constants_.size()) - 1;
}

int FormulaAssembler::emit(Op op, int a, int b, int c) {
    if (b < 0) b = a;
    if (c < 0) c = a;
    const bool uniform = uniform_[std::size_t(a)] && uniform_[std::size_t(b)] && uniform_[std::size_t(c)];
    const int to = reg(0, uniform);
    (uniform ? program_.once_ : program_.each_).push_back({op, to, a, b, c, place_.line, place_.column});
    return to;
}

void FormulaAssembler::give(std::string name, const Operand& value, FormulaPlace place) {
    FormulaProgram::Output out{std::move(name), value.kind, {value.at.begin(), value.at.begin() + value.components}, place, true};
    out.uniform = std::all_of(out.from.begin(), out.from.end(), [&](int r) { return uniform_[std::size_t(r)]; });
    program_.outputs_.push_back(std::move(out));
}

FormulaProgram FormulaAssembler::finish() {
    reuseRegisters();
    return std::move(program_);
}

/// Blocks that nothing reads any more are written again, so that a long formula stays within the processor's cache.
void FormulaAssembler::reuseRegisters() {
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

Operand FormulaAssembler::each(const FormulaNode& at, Op op, std::initializer_list<Operand> in) {
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

int FormulaAssembler::dot(const Operand& a, const Operand& b, int components) {
    int sum = emit(Op::mul, a.reg(0), b.reg(0));
    for (int c = 1; c < components; ++c) sum = emit(Op::add, sum, emit(Op::mul, a.reg(c), b.reg(c)));
    return sum;
}

Operand FormulaAssembler::input(const FormulaInput& from) {
    Operand out{from.components, {}, from.kind};
    for (std::size_t c = 0; c < std::size_t(from.components); ++c) out.at[c] = reg(from.value[c], from.uniform);
    program_.wide_ |= !from.uniform && (from.kind == Kind::integer || from.kind == Kind::text);
    if (!from.uniform) program_.loads_.push_back({out.at, from});
    return out;
}

int FormulaAssembler::joinAll(const Operand& parts, Op op) {
    int all = parts.at[0];
    for (int c = 1; c < parts.components; ++c) all = emit(op, all, parts.at[std::size_t(c)]);
    return all;
}

Operand FormulaAssembler::callOf(const FormulaFunction& function, std::vector<int> in) {
    const bool uniform = std::all_of(in.begin(), in.end(), [&](int r) { return uniform_[std::size_t(r)]; });
    Operand out{function.components, {}, function.kind};
    std::vector<int> to;
    for (std::size_t c = 0; c < std::size_t(function.components); ++c) to.push_back(out.at[c] = reg(0, uniform));
    (uniform ? program_.once_ : program_.each_).push_back({Op::call, to.front(), int(program_.calls_.size()), 0, 0, place_.line, place_.column});
    program_.wide_ |= function.kind == Kind::text || function.kind == Kind::integer;
    program_.calls_.push_back({std::move(in), std::move(to), function});
    return out;
}

}  // namespace seedloom
