#include "graph/Controls.h"

#include "fields/Formula.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <charconv>

namespace seedloom {

namespace {

bool isFormula(const Json& value) { return value.is_object() && value.contains("formula") && value["formula"].is_string(); }

Result<Json> wrongType(const Control& control, const char* wanted) {
    return Error{"control.type", fmt::format("The control '{}' needs {}.", control.id, wanted)};
}

Result<Json> checkedNumber(const Control& control, const Json& value) {
    if (!value.is_number() || !std::isfinite(value.get<double>())) return wrongType(control, "a number");
    const double v = value.get<double>();
    if (control.type == "integer" && v != std::floor(v)) return wrongType(control, "a whole number");
    if ((control.min && v < *control.min) || (control.max && v > *control.max)) {
        const std::string limits = control.min && control.max ? fmt::format("from {:g} to {:g}", *control.min, *control.max)
                                 : control.min                ? fmt::format("{:g} or more", *control.min)
                                                              : fmt::format("{:g} or less", *control.max);
        return Error{"control.range",
                     fmt::format("The control '{}' takes {}{}, and {:g} is outside.", control.id, limits, control.unit.empty() ? "" : " " + control.unit, v)};
    }
    return value;
}

}  // namespace

Result<Json> checkedControlValue(const Control& control, const Json& value) {
    if (control.type == "number" || control.type == "integer") return checkedNumber(control, value);
    if (control.type == "boolean") return value.is_boolean() ? Result<Json>(value) : wrongType(control, "true or false");
    if (control.type == "vec2" || control.type == "vec3") {
        const std::size_t size = control.type == "vec2" ? 2 : 3;
        if (!value.is_array() || value.size() != size) return wrongType(control, size == 2 ? "two numbers" : "three numbers");
        for (const Json& part : value)
            if (const auto checked = checkedNumber(control, part); !checked) return checked.error();
        return value;
    }
    if (!value.is_string()) return wrongType(control, "a text");
    if (control.type == "choice" && std::find(control.choices.begin(), control.choices.end(), value.get_ref<const std::string&>()) == control.choices.end())
        return Error{"control.range", fmt::format("The control '{}' takes one of: {}.", control.id, fmt::join(control.choices, ", "))};
    return value;
}

Result<Json> controlValueFromText(const Control& control, const std::string& text) {
    const auto number = [](std::string_view part) -> Json {
        double v = 0;
        const auto [end, error] = std::from_chars(part.data(), part.data() + part.size(), v);
        if (error != std::errc() || end != part.data() + part.size()) return nullptr;
        return v;
    };
    Json value = text;
    if (control.type == "number" || control.type == "integer") {
        value = number(text);
        if (control.type == "integer" && value.is_number() && std::abs(value.get<double>()) < 9e15 && value.get<double>() == std::floor(value.get<double>()))
            value = static_cast<std::int64_t>(value.get<double>());
    } else if (control.type == "boolean") {
        value = text == "true" || text == "1" ? Json(true) : text == "false" || text == "0" ? Json(false) : Json();
    } else if (control.type == "vec2" || control.type == "vec3") {
        value = Json::array();
        for (std::size_t at = 0; at <= text.size();) {
            const std::size_t end = std::min(text.find(',', at), text.size());
            value.push_back(number(std::string_view(text).substr(at, end - at)));
            at = end + 1;
        }
    }
    return checkedControlValue(control, value);
}

namespace {

/// Settles the defaults that are formulas, each after the controls that it reads.
class DefaultResolver {
public:
    DefaultResolver(const Loom& loom, ControlValues& values) : loom_(loom), values_(values) {}

    std::optional<Error> resolve(const Control& control) {
        const auto known = values_.find(control.id);
        if (known == values_.end() || !isFormula(known->second)) return {};
        const std::string text = known->second["formula"];
        if (const auto at = std::find(path_.begin(), path_.end(), control.id); at != path_.end()) {
            std::vector<std::string> ring(at, path_.end());
            ring.push_back(control.id);
            return Error{"control.cycle",
                         fmt::format("Controls depend on each other in a ring: {}. Give one of them a plain default.", fmt::join(ring, " → "))};
        }
        path_.push_back(control.id);
        const auto formula = parseFormula(text);
        if (!formula) return formula.error();
        for (const std::string& needed : namesIn(**formula).controls)
            if (const Control* other = loom_.control(needed))
                if (auto error = resolve(*other)) return error;
        path_.pop_back();
        try {
            FieldContext context;
            context.controls = &values_;
            const Numbers result = evaluate(FormulaSource{text}, context);
            Json value = result.value[0];
            if (control.type == "boolean") value = result.value[0] != 0;
            if (control.type == "integer") value = std::floor(result.value[0] + 0.5);
            if (result.components > 1) {
                value = Json::array();
                for (int c = 0; c < result.components; ++c) value.push_back(result.value[c]);
            }
            values_[control.id] = value;
        } catch (const FieldError& error) {
            return Error{error.code(), fmt::format("Control '{}': {}", control.id, error.what())};
        }
        return {};
    }

private:
    const Loom& loom_;
    ControlValues& values_;
    std::vector<std::string> path_;
};

}  // namespace

Result<ControlValues> controlValues(const Loom& loom, const ControlChoice& choice) {
    ControlValues out;
    for (const Control& control : loom.controls) {
        const auto inUse = loom.values.find(control.id);
        out[control.id] = inUse != loom.values.end() ? inUse->second : control.fallback;
    }
    const auto put = [&](const std::string& id, const Json& value) -> std::optional<Error> {
        const Control* control = loom.control(id);
        if (!control) return Error{"control.unknown", fmt::format("There is no control '{}'.", id)};
        auto checked = checkedControlValue(*control, value);
        if (!checked) return checked.error();
        out[id] = *checked;
        return {};
    };
    if (!choice.preset.empty()) {
        const Preset* preset = loom.preset(choice.preset);
        if (!preset) {
            if (loom.presets.empty()) return Error{"control.preset", fmt::format("There is no preset '{}': there are none at all.", choice.preset)};
            std::vector<std::string> names;
            for (const Preset& p : loom.presets) names.push_back(p.name);
            return Error{"control.preset", fmt::format("There is no preset '{}'. There are: {}.", choice.preset, fmt::join(names, ", "))};
        }
        for (const auto& [id, value] : preset->values)
            if (auto error = put(id, value)) return *error;
    }
    for (const auto& [id, value] : choice.given)
        if (auto error = put(id, value)) return *error;
    DefaultResolver resolver(loom, out);
    for (const Control& control : loom.controls)
        if (auto error = resolver.resolve(control)) return *error;
    return out;
}

}  // namespace seedloom
