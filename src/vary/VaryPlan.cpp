#include "vary/VaryPlan.h"

#include "vary/EvenDraws.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

using How = VariedControl::How;
constexpr std::array<std::string_view, 3> kHowIds{"values", "steps", "random"};

/// What a varied control is drawn from where its variations are left to chance.
Result<DrawnFrom> drawn(const Loom& loom, const VariedControl& varied) {
    const Control* control = loom.control(varied.control);
    if (varied.how != How::random || !varied.values.empty()) {
        auto axis = axisOf(loom, varied);
        if (!axis) return axis.error();
        return DrawnFrom{control, 0, 0, std::move(axis->values)};
    }
    if (!control) return unknownControl(loom, varied.control);
    DrawnFrom out = drawnFrom(*control);
    if (!out.values.empty()) return out;
    for (const double end : {varied.from, varied.to})
        if (const auto checked = checkedControlValue(*control, control->type == "integer" ? Json(std::int64_t(std::llround(end))) : Json(end)); !checked)
            return checked.error();
    out.low = std::min(varied.from, varied.to), out.high = std::max(varied.from, varied.to);
    return out;
}

/// Values in use, but for what varies; those of presets come before them.
ControlValues heldValues(const VaryPlan& plan, const Loom& loom) {
    ControlValues out;
    if (plan.presets) return out;
    for (const auto& [id, value] : loom.values)
        if (!plan.of(id)) out[id] = value;
    return out;
}

std::vector<std::string> presetNames(const VaryPlan& plan, const Loom& loom) {
    std::vector<std::string> out;
    if (plan.presets)
        for (const Preset& preset : loom.presets) out.push_back(preset.name);
    return out;
}

/// What is left to chance.
class Chance {
public:
    /// One more control. Errors as axisOf().
    std::optional<Error> take(const Loom& loom, const VariedControl& varied) {
        auto from = drawn(loom, varied);
        if (!from) return from.error();
        from_.push_back(std::move(*from));
        return {};
    }
    std::size_t controls() const { return from_.size(); }
    /// From the last dimensions of the draws; the ones before are somebody else's.
    void fill(Variation& variation, std::size_t number, const EvenDraws& draws) const {
        const std::size_t before = draws.dimensions() - from_.size();
        for (std::size_t d = 0; d < from_.size(); ++d) variation.given[from_[d].control->id] = from_[d].at(draws.part(number, d + before));
    }

private:
    std::vector<DrawnFrom> from_;
};

Result<std::vector<Variation>> combinations(const VaryPlan& plan, const Loom& loom) {
    std::vector<VaryAxis> axes;
    Chance chance;
    for (const VariedControl& varied : plan.controls) {
        if (varied.how == How::random) {
            if (auto error = chance.take(loom, varied)) return std::move(*error);
            continue;
        }
        auto axis = axisOf(loom, varied);
        if (!axis) return axis.error();
        axes.push_back(std::move(*axis));
    }
    auto grid = variationsOfGrid(axes);
    if (!grid) return grid.error();
    const std::vector<std::string> presets = presetNames(plan, loom);
    const std::size_t rounds = std::max<std::size_t>(presets.size(), 1);
    if (grid->size() * rounds > kMostVariations) return tooManyVariations(double(grid->size()) * double(rounds));
    const ControlValues held = heldValues(plan, loom);
    const EvenDraws draws(chance.controls(), plan.seed);
    std::vector<Variation> out;
    for (std::size_t round = 0; round < rounds; ++round)
        for (Variation one : *grid) {
            if (!presets.empty()) one.preset = presets[round];
            one.given.insert(held.begin(), held.end());
            chance.fill(one, out.size() + 1, draws);
            out.push_back(std::move(one));
        }
    return out;
}

Result<std::vector<Variation>> byChance(const VaryPlan& plan, const Loom& loom) {
    if (plan.count > kMostVariations) return tooManyVariations(double(plan.count));
    Chance chance;
    for (const VariedControl& varied : plan.controls)
        if (auto error = chance.take(loom, varied)) return std::move(*error);
    const std::vector<std::string> presets = presetNames(plan, loom);
    const ControlValues held = heldValues(plan, loom);
    const EvenDraws draws(chance.controls() + std::size_t(!presets.empty()), plan.seed);
    return allowedOnes(loom, plan.count, [&](std::size_t number) {
        Variation one{{}, held};
        if (!presets.empty()) one.preset = presets[std::size_t(draws.part(number, 0) * double(presets.size()))];
        chance.fill(one, number, draws);
        return one;
    });
}

}  // namespace

const VariedControl* VaryPlan::of(const std::string& control) const {
    const auto it = std::find_if(controls.begin(), controls.end(), [&](const VariedControl& one) { return one.control == control; });
    return it == controls.end() ? nullptr : &*it;
}

bool VaryPlan::combines() const {
    return presets || std::any_of(controls.begin(), controls.end(), [](const VariedControl& one) { return one.how != How::random; });
}

VariedControl proposedFor(const Loom& loom, const Control& control, How how) {
    VariedControl out{control.id, how, {}, 0, 1, 4};
    const DrawnFrom from = drawnFrom(control);
    const auto inUse = controlValues(loom);
    const Json value = inUse ? inUse->at(control.id) : control.fallback;
    if (from.high > from.low) out.from = from.low, out.to = from.high;
    else if (value.is_number()) out.from = value.get<double>(), out.to = out.from + 1;
    if (how != How::values) return out;
    out.values = from.values;
    if (!out.values.empty()) return out;
    out.values = {value};
    if (from.high > from.low)
        if (auto ends = steppedValues(control, from.low, from.high, 3)) out.values = std::move(*ends);
    return out;
}

VaryPlan everythingByChance(const Loom& loom) {
    VaryPlan out;
    out.all = false;
    for (const Control& control : loom.controls)
        if (drawnFrom(control).possible()) out.controls.push_back(proposedFor(loom, control, How::random));
    return out;
}

VaryPlan fittedPlan(VaryPlan plan, const Loom& loom) {
    plan.presets = plan.presets && !loom.presets.empty();
    std::erase_if(plan.controls, [&](const VariedControl& one) { return !loom.control(one.control); });
    return plan;
}

Result<VaryAxis> axisOf(const Loom& loom, const VariedControl& varied) {
    const Control* control = loom.control(varied.control);
    if (!control) return unknownControl(loom, varied.control);
    VaryAxis out{varied.control, {}};
    if (varied.how == How::steps) {
        auto stepped = steppedValues(*control, varied.from, varied.to, std::max(varied.steps, 1));
        if (!stepped) return stepped.error();
        out.values = std::move(*stepped);
        return out;
    }
    for (const Json& value : varied.values) {
        auto checked = checkedControlValue(*control, value);
        if (!checked) return checked.error();
        out.values.push_back(std::move(*checked));
    }
    const std::string name = control->label.empty() ? control->id : control->label;
    if (out.values.empty()) return Error{"vary.axis", fmt::format("{} has no values to vary over. Write some, or turn it off.", name)};
    return out;
}

Result<double> plannedCount(const VaryPlan& plan, const Loom& loom) {
    if (plan.empty()) return 0.0;
    if (!plan.all || !plan.combines()) return double(plan.count);
    double out = plan.presets ? double(loom.presets.size()) : 1;
    for (const VariedControl& varied : plan.controls) {
        if (varied.how == How::random) continue;
        const auto axis = axisOf(loom, varied);
        if (!axis) return axis.error();
        out *= double(axis->values.size());
    }
    return out;
}

Result<std::vector<Variation>> variationsOf(const VaryPlan& plan, const Loom& loom) {
    const VaryPlan fitted = fittedPlan(plan, loom);
    if (fitted.empty()) return std::vector<Variation>();
    return fitted.all && fitted.combines() ? combinations(fitted, loom) : byChance(fitted, loom);
}

Result<std::vector<Json>> valuesFromText(const Control& control, const std::string& text) {
    const bool oneWord = control.type == "number" || control.type == "integer" || control.type == "choice" || control.type == "boolean";
    const char mark = text.find(';') == std::string::npos && oneWord ? ',' : ';';
    std::vector<Json> out;
    for (std::size_t at = 0; at <= text.size();) {
        const std::size_t end = std::min(text.find(mark, at), text.size());
        std::string word = text.substr(at, end - at);
        at = end + 1;
        const auto first = word.find_first_not_of(" \t"), last = word.find_last_not_of(" \t");
        word = first == std::string::npos ? std::string() : word.substr(first, last - first + 1);
        if (word.empty()) continue;
        auto value = controlValueFromText(control, word);
        if (!value) return value.error();
        if (std::find(out.begin(), out.end(), *value) == out.end()) out.push_back(std::move(*value));
    }
    return out;
}

std::string valuesText(const std::vector<Json>& values) {
    std::string out;
    for (const Json& value : values) {
        if (!out.empty()) out += "; ";
        if (value.is_string()) out += value.get<std::string>();
        else if (value.is_number_float()) out += fmt::format("{:.6g}", value.get<double>());
        else if (!value.is_array()) out += value.dump();
        else
            for (std::size_t i = 0; i < value.size(); ++i)
                out += (i > 0 ? ", " : "") + (value[i].is_number() ? fmt::format("{:.6g}", value[i].get<double>()) : "0");
    }
    return out;
}

Json planJson(const VaryPlan& plan) {
    Json controls = Json::array();
    for (const VariedControl& one : plan.controls) {
        Json json{{"control", one.control}, {"how", kHowIds[std::size_t(one.how)]}};
        if (!one.values.empty()) json["values"] = one.values;
        if (one.how != How::values) json["from"] = one.from, json["to"] = one.to;
        if (one.how == How::steps) json["steps"] = one.steps;
        controls.push_back(std::move(json));
    }
    return {{"presets", plan.presets}, {"controls", std::move(controls)}, {"all", plan.all}, {"count", plan.count}, {"seed", plan.seed}};
}

VaryPlan planFromJson(const Json& json) {
    VaryPlan out;
    if (!json.is_object()) return out;
    const auto number = [](const Json& in, const char* key, double low, double high, double fallback) {
        const auto it = in.find(key);
        const double value = it != in.end() && it->is_number() ? it->get<double>() : fallback;
        return std::isfinite(value) ? std::clamp(value, low, high) : fallback;
    };
    out.presets = json.value("presets", Json()) == Json(true);
    out.all = json.value("all", Json(true)) != Json(false);
    out.count = std::size_t(number(json, "count", 1, double(kMostVariations), 24));
    out.seed = unsigned(number(json, "seed", 0, 1e9, 1));
    const Json controls = json.value("controls", Json::array());
    if (!controls.is_array()) return out;
    for (const Json& one : controls) {
        if (!one.is_object() || !one.value("control", Json()).is_string()) continue;
        const auto how = std::find(kHowIds.begin(), kHowIds.end(), one.value("how", Json()).is_string() ? one["how"].get<std::string>() : std::string());
        if (how == kHowIds.end() || out.of(one["control"].get<std::string>())) continue;
        VariedControl varied{one["control"].get<std::string>(), How(how - kHowIds.begin()), {}, 0, 1, 4};
        if (const Json values = one.value("values", Json()); values.is_array()) varied.values.assign(values.begin(), values.end());
        varied.from = number(one, "from", -1e12, 1e12, 0), varied.to = number(one, "to", -1e12, 1e12, 1);
        varied.steps = int(number(one, "steps", 1, double(kMostVariations), 4));
        out.controls.push_back(std::move(varied));
    }
    return out;
}

}  // namespace seedloom
