#include "fields/Evaluate.h"

#include "fields/GeometryScope.h"
#include "fields/Random.h"
#include "geometry/ElementTransfer.h"
#include "parallel/Loops.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <limits>

namespace seedloom {

bool numbersOf(const Json& value, Numbers& out) {
    out = {};
    if (value.is_number() || value.is_boolean()) {
        out.value[0] = value.is_boolean() ? double(value.get<bool>()) : value.get<double>();
        return true;
    }
    if (!value.is_array() || value.empty() || value.size() > 4) return false;
    out.components = static_cast<int>(value.size());
    for (std::size_t i = 0; i < value.size(); ++i) {
        if (!value[i].is_number()) return false;
        out.value[i] = value[i].get<double>();
    }
    return true;
}

namespace {

std::size_t rowsOf(const FieldContext& context) { return context.perElement && context.geometry ? context.geometry->count(context.element) : 1; }

std::string similarHint(std::string_view name, std::vector<std::string> known) {
    const auto near = similarNames(name, std::move(known));
    return near.empty() ? std::string(" There are none yet") : fmt::format(" The nearest are: {}", fmt::join(near, ", "));
}

const Json& controlValue(const FieldContext& context, const std::string& id) {
    if (context.controls)
        if (const auto it = context.controls->find(id); it != context.controls->end()) return it->second;
    std::vector<std::string> known;
    if (context.controls)
        for (const auto& [name, value] : *context.controls) known.push_back(name);
    throw FieldError("setting.unknown_control", fmt::format("There is no control '{}'.{}.", id, similarHint(id, known)));
}

Numbers emptyColumns(const FieldContext& context, int components) {
    Numbers out{.components = components, .uniform = false};
    for (int c = 0; c < components; ++c) out.columns[c].resize(rowsOf(context));
    return out;
}

const RunContext& runOf(const FieldContext& context) {
    static const RunContext none;
    return context.run ? *context.run : none;
}

Numbers evaluateFormula(const std::string& text, const FieldContext& context) {
    const auto parsed = parseFormula(text);
    if (!parsed) throw FieldError(parsed.error());
    GeometryScope scope(context);
    const auto program = bindFormula(**parsed, scope);
    if (!program) throw FieldError(program.error());
    if (program->outputs().front().kind == FormulaKind::text)
        throw FieldError("setting.type", "This gives a text, and a number is needed. Compare it, as in name == \"front\".");
    if (program->uniform()) return {.components = program->components(), .uniform = true, .value = program->evaluate()};
    Numbers out = emptyColumns(context, program->components());
    forChunks(rowsOf(context), runOf(context), [&](std::size_t, Range range) {
        float* to[4] = {};
        for (int c = 0; c < out.components; ++c) to[c] = out.columns[c].data() + range.begin;
        program->evaluate(range.begin, range.end - range.begin, to);
    });
    return out;
}

/// Applies f to every number in place.
template <class F> void mapNumbers(Numbers& numbers, const FieldContext& context, F&& f) {
    for (int c = 0; c < numbers.components; ++c) {
        if (numbers.uniform) numbers.value[c] = f(numbers.value[c]);
        else
            forEach(numbers.columns[c].size(), runOf(context),
                    [&](std::size_t i) { numbers.columns[c][i] = static_cast<float>(f(double(numbers.columns[c][i]))); });
    }
}

struct Evaluator {
    const FieldContext& context;

    Numbers operator()(const FixedSource& source) const {
        Numbers out;
        if (!numbersOf(source.value, out)) throw FieldError("setting.type", "A number was expected.");
        return out;
    }
    Numbers operator()(const ControlSource& source) const {
        Numbers out;
        if (!numbersOf(controlValue(context, source.control), out))
            throw FieldError("setting.type", fmt::format("The control '{}' holds no number.", source.control));
        return out;
    }
    Numbers operator()(const FormulaSource& source) const { return evaluateFormula(source.text, context); }

    Numbers operator()(const AttributeSource& source) const {
        if (context.words)
            if (const auto word = context.words->find(source.name); word != context.words->end()) {
                Numbers out = word->second;
                mapNumbers(out, context, [&](double v) { return v * source.scale + source.add; });
                return out;
            }
        const auto column = visibleColumn(context, source.name);
        if (!column) {
            if (!context.geometry)
                throw FieldError("setting.unknown_attribute", fmt::format("There is no attribute '{}': nothing is plugged in.", source.name));
            throw FieldError("setting.unknown_attribute",
                             fmt::format("There is no attribute '{}' here.{}.", source.name, similarHint(source.name, attributeNames(*context.geometry))));
        }
        if (column->type() == ColumnType::text)
            throw FieldError("setting.type", fmt::format("The attribute '{}' holds texts, and a number is needed.", source.name));
        const FormulaInput input = inputOf(*column, context.perElement);
        Numbers out{.components = input.components, .uniform = true, .value = input.value};
        if (!input.uniform) {
            out = emptyColumns(context, input.components);
            float* to[4] = {};
            for (int c = 0; c < out.components; ++c) to[c] = out.columns[c].data();
            input.load(0, rowsOf(context), to);
        }
        if (source.scale != 1 || source.add != 0) mapNumbers(out, context, [&](double v) { return v * source.scale + source.add; });
        return out;
    }

    Numbers operator()(const RampSource& source) const {
        Numbers over = evaluateFormula(source.over, context);
        if (over.components != 1)
            throw FieldError("setting.type", fmt::format("'{}' has {} components; a ramp runs over one number.", source.over, over.components));
        const auto [low, high] = source.range.over(over.uniform ? std::span<const float>() : std::span<const float>(over.columns[0]));
        const double width = high - low;
        mapNumbers(over, context, [&](double v) { return source.ramp.at(width != 0 ? (v - low) / width : 0); });
        return over;
    }

    Numbers operator()(const NoiseSource& source) const {
        const auto place = visibleColumn(context, "position");
        Numbers out;
        const float half = static_cast<float>((source.high - source.low) / 2), middle = static_cast<float>((source.high + source.low) / 2);
        if (!place || !context.perElement) {
            const float zero = 0;
            float value = 0;
            noise({&zero, 1}, {&zero, 1}, {&zero, 1}, source.options, {&value, 1});
            out.value[0] = double(value * half + middle);
            return out;
        }
        out = emptyColumns(context, 1);
        const auto& positions = *place->as<Vec3>();
        forChunks(positions.size(), runOf(context), [&](std::size_t, Range range) {
            const std::size_t n = range.end - range.begin;
            std::vector<float> x(n), y(n), z(n);
            float* to[3] = {x.data(), y.data(), z.data()};
            unpackColumn(positions, range.begin, n, to);
            const std::span<float> result(out.columns[0].data() + range.begin, n);
            noise(x, y, z, source.options, result);
            for (float& v : result) v = v * half + middle;
        });
        return out;
    }

    Numbers operator()(const RandomSource& source) const {
        const auto at = [&](double id) { return source.low + (source.high - source.low) * randomOf(id, source.seed); };
        Numbers out;
        if (!context.perElement || !context.geometry) {
            out.value[0] = at(0);
            return out;
        }
        auto by = visibleColumn(context, source.by.empty() ? "id" : source.by);
        if (!by && !source.by.empty()) (*this)(AttributeSource{source.by});  // throws with similar names
        if (!by) by = visibleColumn(context, "index");
        out = emptyColumns(context, 1);
        forEach(out.columns[0].size(), runOf(context), [&](std::size_t i) { out.columns[0][i] = static_cast<float>(at(by->component(i, 0))); });
        return out;
    }
};

}  // namespace

Numbers evaluate(const Source& source, const FieldContext& context) { return std::visit(Evaluator{context}, source); }

Field<float> evaluateFloat(const Source& source, const FieldContext& context) {
    Numbers numbers = evaluate(source, context);
    if (numbers.components != 1)
        throw FieldError("setting.type", fmt::format("One number is needed, and this gives {} components. Pick one, as in position.y.", numbers.components));
    return {numbers.uniform, static_cast<float>(numbers.value[0]), std::move(numbers.columns[0])};
}

Field<Vec3> evaluateVec3(const Source& source, const FieldContext& context) {
    const Numbers numbers = evaluate(source, context);
    if (numbers.components == 4) throw FieldError("setting.type", "Three numbers are needed, and this gives four components.");
    const bool fill = numbers.components == 1;
    Field<Vec3> out;
    out.uniform = numbers.uniform;
    const auto at = [&](int c) { return fill ? 0 : c; };
    for (int c = 0; c < 3; ++c)
        if (fill || c < numbers.components) out.value[c] = static_cast<float>(numbers.value[at(c)]);
    if (!numbers.uniform) {
        out.values.resize(numbers.columns[0].size());
        for (int c = 0; c < 3; ++c)
            if (fill || c < numbers.components)
                for (std::size_t i = 0; i < out.values.size(); ++i) out.values[i][c] = numbers.columns[at(c)][i];
    }
    return out;
}

}  // namespace seedloom
