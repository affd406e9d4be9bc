#include "fields/GeometryScope.h"

#include "geometry/ElementTransfer.h"
#include "geometry/NearestPlace.h"
#include "geometry/Statistics.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

namespace {

FormulaKind kindOf(ColumnType type) {
    switch (type) {
        case ColumnType::integer: return FormulaKind::integer;
        case ColumnType::boolean: return FormulaKind::boolean;
        case ColumnType::text: return FormulaKind::text;
        default: return FormulaKind::number;
    }
}

Error unknownAttribute(const std::string& name, const Geometry& geometry) {
    Error out{"formula.unknown_name", fmt::format("there is no attribute '{}' there", name)};
    out.unknown = name;
    out.near = similarNames(name, attributeNames(geometry));
    if (!out.near.empty()) out.text += fmt::format(". Did you mean {}?", fmt::join(out.near, ", "));
    return out;
}

FormulaFunction constantFunction(double value) {
    return {0, 1, FormulaKind::number, [value](std::size_t n, const double* const*, double* const* out) { std::fill_n(out[0], n, value); }};
}

/// Where elements of a geometry are found by place and by number: points first, else what there is.
Element elementsOf(const Geometry& geometry) { return geometry.pointCount() > 0 || geometry.copyCount() == 0 ? Element::point : Element::copy; }

NearestPlace::On surfaceOf(const Geometry& geometry) {
    return geometry.faceCount() > 0 ? NearestPlace::On::faces : geometry.curveCount() > 0 ? NearestPlace::On::curves : NearestPlace::On::points;
}

}  // namespace

std::optional<Column> visibleColumn(const FieldContext& context, std::string_view name) {
    if (!context.geometry) return {};
    return columnFor(*context.geometry, name, context.perElement ? context.element : Element::model);
}

FormulaInput inputOf(Column column, bool perElement) {
    FormulaInput input;
    input.components = componentCount(column.type());
    input.kind = kindOf(column.type());
    input.uniform = !perElement;
    if (input.uniform) {
        for (int c = 0; c < input.components; ++c) input.value[std::size_t(c)] = column.component(0, c);
        return input;
    }
    const auto load = [column = std::move(column)](std::size_t begin, std::size_t n, auto* const* out) {
        std::visit([&](const auto& values) { unpackColumn(*values, begin, n, out); }, column.data());
    };
    input.load = load;
    input.loadWide = load;
    return input;
}

GeometryScope::GeometryScope(const FieldContext& context, FormulaSurroundings surroundings) : context_(context), surroundings_(std::move(surroundings)) {}

double GeometryScope::numberOfText(const std::string& text) {
    const auto [it, fresh] = numberOfText_.emplace(text, double(texts_.size()));
    if (fresh) texts_.push_back(text);
    return it->second;
}

FormulaInput GeometryScope::textInput(const std::vector<std::string>& values) {
    FormulaInput input;
    input.kind = FormulaKind::text;
    input.uniform = !context_.perElement;
    if (input.uniform) {
        input.value[0] = numberOfText(values.front());
        return input;
    }
    std::vector<float> numbers(values.size());
    for (std::size_t i = 0; i < values.size(); ++i) numbers[i] = float(numberOfText(values[i]));
    const auto load = [shared = std::make_shared<const std::vector<float>>(std::move(numbers))](std::size_t begin, std::size_t n, auto* const* out) {
        unpackColumn(*shared, begin, n, out);
    };
    input.load = load;
    input.loadWide = load;
    return input;
}

bool GeometryScope::resolveName(const std::string& name, FormulaInput& input) {
    if (const auto dial = surroundings_.dials.find(name); dial != surroundings_.dials.end()) {
        input.value[0] = dial->second;
        return true;
    }
    if (name == "time" || name == "frame" || name == "count") {
        input.kind = name == "count" ? FormulaKind::integer : FormulaKind::number;
        input.value[0] = name == "time"    ? context_.time
                       : name == "frame"   ? context_.frame
                       : context_.geometry ? double(context_.geometry->count(context_.element))
                                           : 0;
        return true;
    }
    if (context_.words)
        if (const auto word = context_.words->find(name); word != context_.words->end()) {
            input.components = word->second.components;
            input.value = word->second.value;
            return true;
        }
    auto column = visibleColumn(context_, name);
    if (!column && name == "id") column = visibleColumn(context_, "index");
    if (!column) return false;
    if (const auto found = findColumn(*context_.geometry, name, context_.element);
        found && context_.perElement && found->element != context_.element && found->element != Element::model && name != "position")
        converted_.emplace_back(name, found->element);
    input = column->type() == ColumnType::text ? textInput(*column->as<std::string>()) : inputOf(*column, context_.perElement);
    return true;
}

bool GeometryScope::resolveControl(const std::string& id, FormulaInput& input) {
    if (!context_.controls) return false;
    const auto it = context_.controls->find(id);
    if (it == context_.controls->end()) return false;
    if (it->second.is_string()) {
        input.kind = FormulaKind::text;
        input.value[0] = numberOfText(it->second.get<std::string>());
        return true;
    }
    Numbers numbers;
    if (!numbersOf(it->second, numbers)) return false;
    input.components = numbers.components;
    input.value = numbers.value;
    return true;
}

std::vector<std::string> GeometryScope::knownNames() const {
    std::vector<std::string> known = context_.geometry ? attributeNames(*context_.geometry) : std::vector<std::string>{};
    for (const auto& [name, value] : surroundings_.dials) known.push_back(name);
    if (context_.words)
        for (const auto& [name, value] : *context_.words) known.push_back(name);
    for (const char* word : {"time", "frame"}) known.emplace_back(word);
    return known;
}

std::vector<std::string> GeometryScope::knownControls() const {
    std::vector<std::string> known;
    if (context_.controls)
        for (const auto& [id, value] : *context_.controls) known.push_back(id);
    return known;
}

Result<FormulaFunction> GeometryScope::rampFunction(const std::vector<std::string>& words) const {
    if (words.size() != 1) return Error{"formula.type", "ramp() takes the name of a ramp in quotes, and a number"};
    const auto found = surroundings_.ramps.find(words[0]);
    if (found == surroundings_.ramps.end()) return Error{"formula.unknown_function", "ramp() works in the Formula operator only; choose the source Ramp here"};
    return FormulaFunction{1, 1, FormulaKind::number, [ramp = found->second](std::size_t n, const double* const* in, double* const* out) {
                               for (std::size_t i = 0; i < n; ++i) out[0][i] = ramp.at(in[0][i]);
                           }};
}

Result<FormulaFunction> GeometryScope::statFunction(const Geometry* from, const std::vector<std::string>& words) const {
    if (words.size() != 2) return Error{"formula.type", "stat() takes two texts: an attribute, and min, max, mean, sum, deviation or count"};
    if (!from) return Error{"formula.unknown_name", "nothing is plugged in, so there are no statistics"};
    const auto found = findColumn(*from, words[0], context_.element);
    const auto column = found ? std::optional<Column>(found->column) : columnFor(*from, words[0], context_.element);
    if (!column) return unknownAttribute(words[0], *from);
    const Statistics s = statisticsOf(*column, componentCount(column->type()) > 1 ? -1 : 0, 1);
    const std::map<std::string, double> all{{"min", s.least},           {"max", s.most},           {"mean", s.mean}, {"sum", s.mean * double(s.count)},
                                            {"deviation", s.deviation}, {"count", double(s.count)}};
    const auto wanted = all.find(words[1]);
    if (wanted == all.end()) return Error{"formula.type", fmt::format("'{}' is no statistic. There are min, max, mean, sum, deviation and count", words[1])};
    return constantFunction(wanted->second);
}

Result<FormulaFunction> GeometryScope::atFunction(const Geometry& from, const std::vector<std::string>& words) {
    if (words.size() != 1) return Error{"formula.type", "at() takes the letter of an input, a number, and an attribute's name in quotes"};
    const auto column = columnFor(from, words[0], elementsOf(from));
    if (!column) return unknownAttribute(words[0], from);
    FormulaInput input;
    if (column->type() == ColumnType::text) {
        std::vector<std::int32_t> numbers;
        for (const std::string& text : *column->as<std::string>()) numbers.push_back(std::int32_t(numberOfText(text)));
        input = inputOf(Column(std::move(numbers)), true);
        input.kind = FormulaKind::text;
    } else {
        input = inputOf(*column, true);
    }
    const std::size_t rows = column->size();
    return FormulaFunction{1, input.components, input.kind, [input, rows](std::size_t n, const double* const* in, double* const* out) {
                               for (std::size_t i = 0; i < n; ++i) {
                                   double value[4] = {};
                                   double* const to[4] = {&value[0], &value[1], &value[2], &value[3]};
                                   // A number outside reads zeros, as an attribute that is not there does.
                                   const double row = std::floor(in[0][i] + 0.5);
                                   if (row >= 0 && row < double(rows)) input.loadWide(std::size_t(row), 1, to);
                                   for (int c = 0; c < input.components; ++c) out[c][i] = value[c];
                               }
                           }};
}

Result<FormulaFunction> GeometryScope::placeFunction(const std::string& function, const Geometry& from) const {
    const bool number = function == "nearest";
    if (number && elementsOf(from) == Element::copy) return Error{"formula.type", "nearest() needs points, and this input has copies only"};
    const auto places = std::make_shared<const NearestPlace>(from, number ? NearestPlace::On::points : surfaceOf(from));
    if (places->empty()) return Error{"formula.type", fmt::format("{}() finds nothing in this input: it is empty", function)};
    const auto run = [places, number](std::size_t n, const double* const* in, double* const* out) {
        Index start = 0;
        for (std::size_t i = 0; i < n; ++i) {
            const Vec3 p{float(in[0][i]), float(in[1][i]), float(in[2][i])};
            const Place place = isFinite(p) ? places->find(p, start) : Place{};
            start = place.part;
            if (number) {
                out[0][i] = place.element;
            } else {
                for (int c = 0; c < 3; ++c) out[c][i] = double(place.position[c]);
            }
        }
    };
    return FormulaFunction{3, number ? 1 : 3, number ? FormulaKind::integer : FormulaKind::number, run};
}

Result<FormulaFunction> GeometryScope::resolveFunction(const std::string& function, const std::string& geometry, const std::vector<std::string>& words) {
    if (function == "ramp") return rampFunction(words);
    const std::size_t place = geometry.empty() ? 0 : std::size_t(geometry[0] - 'A');
    const Geometry* from = place == 0 ? context_.geometry : place < surroundings_.inputs.size() ? surroundings_.inputs[place] : nullptr;
    if (function == "stat") return statFunction(from, words);
    if (!from) return Error{"formula.unknown_name", fmt::format("nothing is plugged into input {}", geometry)};
    return function == "at" ? atFunction(*from, words) : placeFunction(function, *from);
}

}  // namespace seedloom
