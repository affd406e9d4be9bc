#include "cli/Summary.h"
#include "operators/Catalogue.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Json portsJson(const std::vector<PortSpec>& ports) {
    Json out = Json::array();
    for (const PortSpec& p : ports) out.push_back({{"id", p.id}, {"label", p.label}, {"many", p.many}, {"optional", p.optional}});
    return out;
}

Json settingJson(const SettingSpec& s) {
    Json out{{"id", s.id}, {"label", s.label}, {"type", settingTypeName(s.type)}, {"unit", unitSymbol(s.unit)}, {"default", s.fallback}};
    out["min"] = s.min ? Json(*s.min) : Json();
    out["max"] = s.max ? Json(*s.max) : Json();
    out["choices"] = s.choices;
    out["per_element"] = s.perElement;
    out["help"] = s.help;
    return out;
}

}  // namespace

Json operatorsJson(std::string_view onlyId) {
    Json list = Json::array();
    for (const OperatorSpec& spec : catalogue()) {
        if (!onlyId.empty() && spec.id != onlyId) continue;
        Json settings = Json::array();
        for (const SettingSpec& s : spec.settings) settings.push_back(settingJson(s));
        list.push_back({{"id", spec.id},
                        {"label", spec.label},
                        {"family", familyName(spec.family)},
                        {"sentence", spec.sentence},
                        {"help", spec.help},
                        {"version", spec.version},
                        {"inputs", portsJson(spec.inputs)},
                        {"outputs", portsJson(spec.outputs)},
                        {"settings", std::move(settings)}});
    }
    return {{"operators", std::move(list)}};
}

std::string operatorsText(std::string_view onlyId) {
    std::string out;
    for (const OperatorSpec& spec : catalogue()) {
        if (onlyId.empty()) {
            out += fmt::format("{:<18} {:<10} {}\n", spec.id, familyName(spec.family), spec.sentence);
        } else if (spec.id == onlyId) {
            out += fmt::format("{} ({}), family {}\n{}\n{}\n", spec.label, spec.id, familyName(spec.family), spec.sentence, spec.help);
            for (const SettingSpec& s : spec.settings)
                out += fmt::format("  {:<14} {:<8} default {}{}{}  {}\n", s.id, settingTypeName(s.type), s.fallback.dump(),
                                   unitSymbol(s.unit).empty() ? "" : " ", unitSymbol(s.unit), s.help);
        }
    }
    return out;
}

}  // namespace seedloom
