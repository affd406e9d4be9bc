// Edits of controls and presets.
#include "graph/Controls.h"
#include "graph/Draft.h"
#include "graph/InnerEdits.h"

#include <fmt/format.h>

#include <algorithm>

namespace seedloom {

namespace {

std::size_t controlIndex(const Loom& loom, const std::string& id) {
    return std::size_t(std::find_if(loom.controls.begin(), loom.controls.end(), [&](const Control& c) { return c.id == id; }) - loom.controls.begin());
}

std::size_t presetIndex(const Loom& loom, const std::string& name) {
    return std::size_t(std::find_if(loom.presets.begin(), loom.presets.end(), [&](const Preset& p) { return p.name == name; }) - loom.presets.begin());
}

std::string nameOfControl(const Control& control) { return control.label.empty() ? control.id : control.label; }

/// A number inside the control's range; other values as they are.
Json heldInRange(const Control& control, const Json& value) {
    if (!value.is_number()) return value;
    double v = value.get<double>();
    if (control.min) v = std::max(v, *control.min);
    if (control.max) v = std::min(v, *control.max);
    return v == value.get<double>() ? value : control.type == "integer" ? Json(std::int64_t(std::llround(v))) : Json(v);
}

/// The node with `value` wherever a setting of it, or of what is inside, takes its value from the control.
Node withoutUses(Node node, const Json& use, const Json& value) {
    const auto reads = [&](const Json& setting) { return setting == use; };
    if (std::any_of(node.settings.begin(), node.settings.end(), reads))
        for (auto& [id, setting] : node.settings.edit().items())
            if (setting == use) setting = value;
    // A container's own setting of that name hides the control.
    if (!node.graph || node.graph->control(use["control"].get<std::string>())) return node;
    Loom inner = *node.graph;
    for (Node& inside : inner.nodes) inside = withoutUses(std::move(inside), use, value);
    if (!(inner == *node.graph)) node.graph = InnerGraph(std::move(inner));
    return node;
}

void replaceUses(Draft& draft, const std::string& control, const Json& value) {
    for (std::size_t i = 0; i < draft.loom().nodes.size(); ++i)
        draft.replace(&Loom::nodes, i, withoutUses(draft.loom().nodes[i], Json{{"control", control}}, value));
}

}  // namespace

Edit makeControl(const Loom& loom, const std::vector<std::string>& path, const std::string& node, const std::string& setting, Control control) {
    const std::string wanted = control.id;
    for (int i = 2; loom.control(control.id); ++i) control.id = fmt::format("{}_{}", wanted, i);
    Draft draft(loom, fmt::format("Make {} a control", nameOfControl(control)));
    const Json use{{"control", control.id}};
    draft.add(&Loom::controls, std::move(control));
    Edit edit = draft.finish();
    const Loom* inside = loomAt(draft.loom(), path);
    if (!inside) return {};
    const Edit linked = lifted(draft.loom(), path, setSetting(*inside, node, setting, use));
    edit.changes.insert(edit.changes.end(), linked.changes.begin(), linked.changes.end());
    return edit;
}

Edit changeControl(const Loom& loom, const Control& control) {
    Draft draft(loom, fmt::format("Change the control {}", nameOfControl(control)));
    const std::size_t i = controlIndex(loom, control.id);
    if (i >= loom.controls.size()) return draft.finish();
    Control after = control;
    after.fallback = heldInRange(control, control.fallback);
    draft.replace(&Loom::controls, i, after);
    if (const auto it = loom.values.find(control.id); it != loom.values.end()) {
        const Json held = heldInRange(control, it->second);
        draft.setValue(control.id, held == after.fallback ? Json() : held);
    }
    return draft.finish();
}

Edit removeControl(const Loom& loom, const std::string& id) {
    const std::size_t i = controlIndex(loom, id);
    Draft draft(loom, i < loom.controls.size() ? fmt::format("Remove the control {}", nameOfControl(loom.controls[i])) : std::string());
    if (i >= loom.controls.size()) return draft.finish();
    Json value = loom.controls[i].fallback;
    if (const auto values = controlValues(loom))
        if (const auto it = values->find(id); it != values->end()) value = it->second;
    replaceUses(draft, id, value);
    draft.setValue(id, Json());
    draft.remove(&Loom::controls, i);
    for (std::size_t p = 0; p < draft.loom().presets.size(); ++p) {
        Preset preset = draft.loom().presets[p];
        preset.values.erase(id);
        draft.replace(&Loom::presets, p, std::move(preset));
    }
    return draft.finish();
}

Edit moveControl(const Loom& loom, const std::string& id, std::size_t to, const std::string& section) {
    const std::size_t from = controlIndex(loom, id);
    Draft draft(loom, from < loom.controls.size() ? fmt::format("Move the control {}", nameOfControl(loom.controls[from])) : std::string());
    if (from >= loom.controls.size()) return draft.finish();
    Control control = loom.controls[from];
    control.section = section;
    to = std::min(to, loom.controls.size() - 1);
    if (from == to) {
        draft.replace(&Loom::controls, from, std::move(control));
        return draft.finish();
    }
    draft.remove(&Loom::controls, from);
    draft.insert(&Loom::controls, to, std::move(control));
    return draft.finish();
}

Edit savePreset(const Loom& loom, const std::string& name) {
    Draft draft(loom, fmt::format("Save preset {}", name));
    Preset preset;
    const std::size_t i = presetIndex(loom, name);
    if (i < loom.presets.size()) preset = loom.presets[i];
    preset.name = name;
    preset.values = loom.values;
    if (i < loom.presets.size()) draft.replace(&Loom::presets, i, std::move(preset));
    else draft.add(&Loom::presets, std::move(preset));
    return draft.finish();
}

Edit removePreset(const Loom& loom, const std::string& name) {
    Draft draft(loom, fmt::format("Delete preset {}", name));
    const std::size_t i = presetIndex(loom, name);
    if (i < loom.presets.size()) draft.remove(&Loom::presets, i);
    return draft.finish();
}

}  // namespace seedloom
