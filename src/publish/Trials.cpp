#include "publish/Trials.h"

#include "graph/ControlReadings.h"

#include <algorithm>
#include <random>
#include <set>

namespace seedloom {

namespace {

bool isNumber(const Control& control) { return control.type == "number" || control.type == "integer"; }

Json numberAt(const Control& control, double value) { return control.type == "integer" ? Json(std::int64_t(std::llround(value))) : Json(value); }

/// What a control may be set to at its ends.
std::vector<Json> endsOf(const Control& control) {
    if (control.type == "boolean") return {false, true};
    if (control.type == "choice") return {control.choices.begin(), control.choices.end()};
    if (control.type == "text") return {"", "W", "Pier 7 & Sluice \"Öst\""};
    if (control.type == "color") return {Json::array({0.0, 0.0, 0.0}), Json::array({1.0, 1.0, 1.0})};
    std::vector<Json> out;
    if (isNumber(control))
        for (const auto& end : {control.min ? control.min : control.low, control.max ? control.max : control.high})
            if (end) out.push_back(numberAt(control, *end));
    return out;
}

/// A part from 0 to 1 of what random bits there are: the same with any standard library.
double part(std::mt19937& random) { return double(random()) / double(std::mt19937::max()); }

Json anyOf(const Control& control, std::mt19937& random) {
    const auto least = control.min ? control.min : control.low, most = control.max ? control.max : control.high;
    if (isNumber(control) && least && most) return numberAt(control, *least + part(random) * (*most - *least));
    if (control.type == "color") return Json::array({part(random), part(random), part(random)});
    const std::vector<Json> all = endsOf(control);
    return all.empty() ? Json() : all[std::min(std::size_t(part(random) * double(all.size())), all.size() - 1)];
}

/// Pairs of controls that one node of the loom reads, itself or inside of it.
std::set<std::pair<std::string, std::string>> controlsTogether(const Loom& loom) {
    std::map<std::string, std::set<std::string>> byNode;
    for (const auto& [control, readings] : controlReadings(loom))
        for (const ControlReading& reading : readings)
            if (loom.control(control)) byNode[reading.path.empty() ? reading.node : reading.path.front()].insert(control);
    std::set<std::pair<std::string, std::string>> out;
    for (const auto& [node, controls] : byNode)
        for (const std::string& a : controls)
            for (const std::string& b : controls)
                if (a < b) out.emplace(a, b);
    return out;
}

}  // namespace

std::shared_ptr<const Loom> asPublished(std::shared_ptr<const Loom> loom) {
    if (loom->values.empty()) return loom;
    Loom plain = *loom;
    plain.values.clear();
    return std::make_shared<const Loom>(std::move(plain));
}

bool givesSameModels(const Loom& checked, Loom now) {
    now.values = checked.values;
    now.name = checked.name;
    now.extra = checked.extra;
    return checked == now;
}

std::string Trial::text() const { return given.empty() ? preset.empty() ? "defaults" : preset : Json(given).dump(); }

std::vector<Trial> trialsOf(const Loom& loom, const TrialPlan& plan) {
    using Kind = Trial::Kind;
    std::vector<Trial> all{{}};
    for (const Preset& preset : loom.presets) all.push_back({Kind::preset, preset.name, {}});
    for (const Control& control : loom.controls) {
        const std::vector<Json> ends = endsOf(control);
        for (const Json& end : ends) all.push_back({Kind::end, {}, {{control.id, end}}});
        if (plan.middles && isNumber(control) && ends.size() == 2)
            all.push_back({Kind::middle, {}, {{control.id, numberAt(control, (ends[0].get<double>() + ends[1].get<double>()) / 2)}}});
    }
    if (plan.pairs)
        for (const auto& [a, b] : controlsTogether(loom))
            for (const Json& first : endsOf(*loom.control(a)))
                for (const Json& second : endsOf(*loom.control(b))) all.push_back({Kind::pair, {}, {{a, first}, {b, second}}});
    std::mt19937 numbers(plan.seed);
    for (int i = 0; i < plan.random; ++i) {
        Trial trial{Kind::random, {}, {}};
        for (const Control& control : loom.controls)
            if (Json value = anyOf(control, numbers); !value.is_null()) trial.given[control.id] = std::move(value);
        all.push_back(std::move(trial));
    }
    Loom plain = loom;
    plain.values.clear();
    std::erase_if(all, [&](const Trial& trial) {
        const auto values = controlValues(plain, {trial.preset, trial.given});
        return trial.kind != Kind::plain && trial.kind != Kind::preset && !values && values.error().code == "control.not_allowed";
    });
    return all;
}

}  // namespace seedloom
