#include "graph/Controls.h"

#include "fields/Formula.h"
#include "fields/Source.h"

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

/// Numbers that a value of its type has; 0 for those that have none.
std::size_t componentsOf(const Control& control) {
    if (control.type == "vec2") return 2;
    if (control.type == "vec3" || control.type == "color") return 3;
    return control.type == "number" || control.type == "integer" || control.type == "boolean" ? 1 : 0;
}

}  // namespace

const std::vector<std::string>& controlTypes() {
    static const std::vector<std::string> all{"number", "integer", "boolean", "choice", "text", "vec2", "vec3", "color", "ramp", "file"};
    return all;
}

std::optional<std::pair<double, double>> sliderRange(const Control& control) {
    const auto from = control.low ? control.low : control.min, to = control.high ? control.high : control.max;
    if (!from || !to) return {};
    const double least = std::max(*from, control.min.value_or(*from)), most = std::min(*to, control.max.value_or(*to));
    return least < most ? std::optional(std::pair(least, most)) : std::nullopt;
}

Result<Json> checkedControlValue(const Control& control, const Json& value) {
    if (control.type == "number" || control.type == "integer") return checkedNumber(control, value);
    if (control.type == "boolean") return value.is_boolean() ? Result<Json>(value) : wrongType(control, "true or false");
    if (const std::size_t size = componentsOf(control); size > 1) {
        if (!value.is_array() || value.size() != size) return wrongType(control, size == 2 ? "two numbers" : "three numbers");
        for (const Json& part : value)
            if (const auto checked = checkedNumber(control, part); !checked) return checked.error();
        return value;
    }
    if (control.type == "ramp") {
        const auto ramp = rampFromJson(value);
        return ramp ? Result<Json>(value) : Error{"control.type", fmt::format("The control '{}': {}", control.id, ramp.error().text)};
    }
    if (!value.is_string()) return wrongType(control, control.type == "file" ? "the path of a file" : "a text");
    if (control.type == "choice" && std::find(control.choices.begin(), control.choices.end(), value.get_ref<const std::string&>()) == control.choices.end())
        return Error{"control.range", fmt::format("The control '{}' takes one of: {}.", control.id, fmt::join(control.choices, ", "))};
    return value;
}

namespace {

Json fittedNumber(const Control& control, const Json& value) {
    double v = value.is_number() ? value.get<double>() : value.is_boolean() ? double(value.get<bool>()) : 0;
    if (!std::isfinite(v)) v = 0;
    // A whole number inside the ends, not one that rounding takes out of them.
    const bool whole = control.type == "integer";
    if (whole) v = std::round(v);
    if (control.max) v = std::min(v, whole ? std::floor(*control.max) : *control.max);
    if (control.min) v = std::max(v, whole ? std::ceil(*control.min) : *control.min);
    if (!whole || std::abs(v) >= 9e15) return value.is_number() && value.get<double>() == v ? value : Json(v);
    return std::int64_t(v);
}

std::string fittedText(const Json& value) { return value.is_string() ? value.get<std::string>() : value.is_number() ? value.dump() : std::string(); }

}  // namespace

Json fittedValue(const Control& control, const Json& value) {
    if (checkedControlValue(control, value)) return value;
    const Json& first = value.is_array() && !value.empty() ? value[0] : value;
    if (control.type == "number" || control.type == "integer") return fittedNumber(control, first);
    if (control.type == "boolean") return first.is_number() && first.get<double>() != 0;
    if (const std::size_t size = componentsOf(control); size > 1) {
        Json out = Json::array();
        const Json rest = control.type == "color" && !value.is_number() ? Json(1.0) : value;
        for (std::size_t c = 0; c < size; ++c)
            out.push_back(fittedNumber(control, value.is_array() && c < value.size() ? value[c] : value.is_array() ? Json(0.0) : rest));
        return out;
    }
    if (control.type == "ramp") return rampToJson(Ramp({{0, 0}, {1, 1}}));
    if (control.type == "choice") return control.choices.empty() ? Json("") : Json(control.choices.front());
    return fittedText(value);
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
    } else if (control.type == "ramp") {
        value = Json::parse(text, nullptr, false);
    } else if (componentsOf(control) > 1) {
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

std::optional<Error> notAllowed(const Control& control, const ControlValues& values) {
    if (control.allowedWhen.empty()) return {};
    const auto holds = conditionHolds(control.allowedWhen, values);
    const std::string name = control.label.empty() ? control.id : control.label;
    if (!holds) return Error{holds.error().code, fmt::format("'Allowed when' of the control {}: {}", name, holds.error().text)};
    if (*holds) return {};
    return Error{"control.not_allowed", fmt::format("{} can't be {} beside the other controls: {} must hold. Change one of them, or the condition.", name,
                                                    values.at(control.id).dump(), control.allowedWhen)};
}

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
    for (const Control& control : loom.controls)
        if (auto error = notAllowed(control, out)) return *error;
    return out;
}

Result<bool> conditionHolds(const std::string& condition, const ControlValues& values, const SurroundingWords& words) {
    FieldContext context;
    context.controls = &values;
    context.words = &words;
    try {
        const Numbers result = evaluate(FormulaSource{condition}, context);
        if (result.components == 1) return result.value[0] != 0;
        return Error{"control.condition",
                     fmt::format("'{}' gives {} numbers. A condition gives yes or no, as in ctl.height > 1.", condition, result.components)};
    } catch (const FieldError& error) {
        return error.error();
    }
}

bool controlShown(const Control& control, const ControlValues& values) {
    if (control.shownWhen.empty()) return true;
    const auto holds = conditionHolds(control.shownWhen, values);
    return !holds || *holds;
}

namespace {

/// The value a part of the way from one to the other; where they are no numbers, or there is no way, nothing.
Json between(const Json& from, const Json& to, double part, bool whole) {
    if (from.is_number() && to.is_number()) {
        const double a = from.get<double>(), b = to.get<double>();
        if (!whole) return a + (b - a) * part;
        return std::abs(a) < 9e15 && std::abs(b) < 9e15 ? Json(std::int64_t(a + std::trunc((b - a) * part))) : Json();
    }
    if (!from.is_array() || !to.is_array() || from.size() != to.size()) return {};
    Json out = Json::array();
    for (std::size_t i = 0; i < from.size(); ++i) {
        out.push_back(between(from[i], to[i], part, whole));
        if (out.back().is_null()) return {};
    }
    return out;
}

/// `value` with as few digits as can be told from it on a slider from `from`, rounded towards that end.
double shortened(double value, double from) {
    for (int digits = 2; digits < 9; ++digits) {
        const double unit = std::pow(10.0, std::floor(std::log10(std::max(std::abs(value), 1e-12))) - digits);
        const double rounded = value > from ? std::floor(value / unit) * unit : std::ceil(value / unit) * unit;
        if (std::abs(rounded - value) <= 0.005 * std::abs(value - from)) return rounded;
    }
    return value;
}

}  // namespace

Json allowedValue(const Loom& loom, const std::string& id, const Json& wanted) {
    const Control* control = loom.control(id);
    if (!control) return wanted;
    const auto allowed = [&](const Json& value) {
        const auto values = controlValues(loom, {{}, {{id, value}}});
        return values || values.error().code != "control.not_allowed";
    };
    if (allowed(wanted)) return wanted;
    const auto now = controlValues(loom);
    if (!now) return wanted;
    const Json& from = now->at(id);
    const bool whole = control->type == "integer";
    double good = 0, bad = 1;
    for (int halvings = 0; halvings < 40; ++halvings) {
        const double middle = (good + bad) / 2;
        const Json there = between(from, wanted, middle, whole);
        if (there.is_null()) return from;
        (allowed(there) ? good : bad) = middle;
    }
    if (good == 0) return from;
    const Json held = between(from, wanted, good, whole);
    if (!held.is_number_float()) return held;
    const Json round = shortened(held.get<double>(), from.get<double>());
    return allowed(round) ? round : held;
}

}  // namespace seedloom
