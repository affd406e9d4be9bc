#include "graph/LoomNotices.h"

#include "graph/ControlReadings.h"
#include "graph/Controls.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"

#include <fmt/format.h>

#include <algorithm>

namespace seedloom {

namespace {

std::string nameOf(const Control& control) { return control.label.empty() ? control.id : control.label; }

/// The loom with nothing in use: what others begin with.
Loom atDefaults(Loom loom) {
    loom.values.clear();
    return loom;
}

Edit withControl(const Loom& loom, Control control, std::string label) {
    return {std::move(label), {ItemChange<Control>{loom.controls.size(), {}, std::move(control)}}};
}

Edit withPreset(const Loom& loom, std::size_t index, Preset after, std::string label) {
    return {std::move(label), {ItemChange<Preset>{index, loom.presets[index], std::move(after)}}};
}

class Teller {
public:
    Teller(const Loom& loom, const Assets& assets) : loom_(loom), assets_(assets), readings_(controlReadings(loom)) {}

    std::vector<LoomNotice> told() {
        for (const Control& control : loom_.controls) {
            tellUnused(control);
            tellDefault(control);
            tellCondition(control, &Control::shownWhen, "Shown when");
            tellCondition(control, &Control::allowedWhen, "Allowed when");
        }
        tellDefaultsTogether();
        for (std::size_t i = 0; i < loom_.presets.size(); ++i) tellPreset(i);
        tellMissing();
        return std::move(out_);
    }

private:
    LoomNotice& tell(NoticeLevel level, std::string code, std::string text, const std::string& control = {}) {
        return out_.emplace_back(LoomNotice{level, std::move(code), std::move(text), control, {}, {}, {}});
    }

    void tellUnused(const Control& control) {
        if (readings_.contains(control.id) || !controlsReading(loom_, control.id).empty()) return;
        tell(NoticeLevel::info, "control.unused",
             fmt::format("Nothing reads the control {}, so it changes nothing. Drag its name onto a setting, or remove it.", nameOf(control)), control.id)
            .fixes.push_back({"Remove it", removeControl(loom_, control.id)});
    }

    void tellDefault(const Control& control) {
        if (control.fallback.is_object() && control.fallback.contains("formula")) return;
        const auto checked = checkedControlValue(control, control.fallback);
        if (checked) return;
        Control mended = control;
        mended.fallback = fittedValue(control, control.fallback);
        tell(NoticeLevel::warning, "control.default",
             fmt::format("The default of the control {} is none that it takes. {}", nameOf(control), checked.error().text), control.id)
            .fixes.push_back({fmt::format("Set it to {}", mended.fallback.dump()), changeControl(loom_, mended)});
        broken_ = true;
    }

    /// A condition that can't be computed; whether it holds is told of all defaults together.
    void tellCondition(const Control& control, std::string Control::*condition, const char* name) {
        if ((control.*condition).empty()) return;
        const auto values = controlValues(atDefaults(loom_));
        // Where the defaults can't be had for another reason, that is told.
        ControlValues tried;
        for (const Control& other : loom_.controls) tried[other.id] = values ? values->at(other.id) : other.fallback;
        const auto holds = conditionHolds(control.*condition, tried);
        if (holds || std::any_of(tried.begin(), tried.end(), [](const auto& v) { return v.second.is_object() && v.second.contains("formula"); })) return;
        tell(NoticeLevel::warning, "control.condition", fmt::format("'{}' of the control {} can't be computed: {}", name, nameOf(control), holds.error().text),
             control.id)
            .fixes.push_back({"Take the condition away", without(control, condition)});
        broken_ = true;
    }

    Edit without(const Control& control, std::string Control::*condition) const {
        Control mended = control;
        (mended.*condition).clear();
        return changeControl(loom_, mended);
    }

    void tellDefaultsTogether() {
        if (broken_) return;
        const auto values = controlValues(atDefaults(loom_));
        if (values) return;
        LoomNotice& notice =
            tell(NoticeLevel::error, values.error().code, fmt::format("The defaults of the controls can't be had together. {}", values.error().text));
        for (const Control& control : loom_.controls) {
            if (control.allowedWhen.empty()) continue;
            Loom eased = atDefaults(loom_);
            for (Control& other : eased.controls)
                if (other.id == control.id) other.allowedWhen.clear();
            const auto now = controlValues(eased);
            if (!now && now.error().text == values.error().text) continue;
            if (notice.control.empty()) notice.control = control.id;
            notice.fixes.push_back({fmt::format("Allow {} always", nameOf(control)), without(control, &Control::allowedWhen)});
        }
    }

    void tellPreset(std::size_t index) {
        const Preset& preset = loom_.presets[index];
        Preset fitting = preset;
        std::string first, firstControl;
        for (const auto& [id, value] : preset.values) {
            const Control* control = loom_.control(id);
            const auto checked = control ? checkedControlValue(*control, value) : Result<Json>(value);
            if (control && checked) continue;
            if (control) fitting.values[id] = fittedValue(*control, value);
            else fitting.values.erase(id);
            if (!first.empty()) continue;
            first = control ? checked.error().text : fmt::format("It sets '{}', and there is no such control.", id);
            firstControl = control ? id : std::string();
        }
        if (fitting == preset) return;
        tell(NoticeLevel::warning, firstControl.empty() ? "preset.unknown" : "preset.value", fmt::format("The preset {} can't be used. {}", preset.name, first),
             firstControl)
            .fixes.push_back({"Make it fit", withPreset(loom_, index, std::move(fitting), fmt::format("Make the preset {} fit", preset.name))});
    }

    /// Settings that read a control which is not there.
    void tellMissing() {
        for (const auto& [id, places] : readings_) {
            if (loom_.control(id) || places.empty()) continue;
            const ControlReading& place = places.front();
            const Loom* inner = loomAt(loom_, place.path);
            const Node* node = inner ? inner->node(place.node) : nullptr;
            if (!node) continue;
            const auto spec = specOf(*node, assets_);
            const SettingSpec* setting = spec ? spec->setting(place.setting) : nullptr;
            const std::string label = setting ? setting->label : place.setting;
            LoomNotice& notice =
                tell(NoticeLevel::error, "control.missing", fmt::format("{} of {} reads the control '{}', which is not there.", label, displayName(*node), id));
            notice.path = place.path, notice.node = place.node;
            notice.fixes.push_back({fmt::format("Make the control {}", id),
                                    withControl(loom_, standIn(id, place.formula ? nullptr : setting), fmt::format("Make the control {}", id))});
            if (!place.formula)
                notice.fixes.push_back({"Back to its default", lifted(loom_, place.path, setSetting(*inner, place.node, place.setting, {}, assets_))});
        }
    }

    /// A control that gives what the setting would have without it.
    static Control standIn(const std::string& id, const SettingSpec* setting) {
        Control out;
        out.id = id, out.label = setting ? setting->label : id;
        if (!setting) return out;
        const auto& types = controlTypes();
        const std::string type(settingTypeName(setting->type));
        if (std::find(types.begin(), types.end(), type) != types.end()) out.type = type;
        out.choices = setting->choices;
        out.help = setting->help;
        out.fallback = fittedValue(out, setting->fallback);
        return out;
    }

    const Loom& loom_;
    const Assets& assets_;
    std::map<std::string, std::vector<ControlReading>> readings_;
    std::vector<LoomNotice> out_;
    bool broken_ = false;  ///< what is told of one control already keeps the defaults from being had
};

}  // namespace

std::vector<LoomNotice> loomNotices(const Loom& loom, const Assets& assets) { return Teller(loom, assets).told(); }

}  // namespace seedloom
