// Edits of controls.
#include "fields/ControlNames.h"
#include "graph/ControlReadings.h"
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

std::string nameOfControl(const Control& control) { return control.label.empty() ? control.id : control.label; }

Error idProblem(const std::string& id) {
    return {"control.id", fmt::format("'{}' can't be a control's id: it needs a letter first, then letters, digits and _.", id)};
}

/// `values` in the place of controls wherever they are read: in nodes, defaults and conditions.
void writeInPlace(Draft& draft, const std::map<std::string, Json>& values) {
    for (std::size_t i = 0; i < draft.loom().nodes.size(); ++i) draft.replace(&Loom::nodes, i, withControlsWritten(draft.loom().nodes[i], values));
    for (std::size_t i = 0; i < draft.loom().controls.size(); ++i) draft.replace(&Loom::controls, i, withControlsWritten(draft.loom().controls[i], values));
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
    const bool computed = control.fallback.is_object() && control.fallback.contains("formula");
    if (!computed) after.fallback = fittedValue(control, control.fallback);
    draft.replace(&Loom::controls, i, after);
    if (const auto it = loom.values.find(control.id); it != loom.values.end()) {
        const Json fitted = fittedValue(control, it->second);
        draft.setValue(control.id, fitted == after.fallback ? Json() : fitted);
    }
    for (std::size_t p = 0; p < loom.presets.size(); ++p) {
        Preset preset = loom.presets[p];
        if (const auto it = preset.values.find(control.id); it != preset.values.end()) it->second = fittedValue(control, it->second);
        draft.replace(&Loom::presets, p, std::move(preset));
    }
    return draft.finish();
}

std::optional<Error> renameProblem(const Loom& loom, const std::string& from, const std::string& to) {
    if (!loom.control(from)) return Error{"control.unknown", fmt::format("There is no control '{}'.", from)};
    if (to == from) return {};
    if (!isControlId(to)) return idProblem(to);
    if (loom.control(to)) return Error{"control.id", fmt::format("There is a control '{}' already. Choose another id.", to)};
    const std::vector<ControlReading> readings = controlReadings(loom)[from];
    for (const ControlReading& reading : readings) {
        const Loom* around = &loom;
        for (const std::string& container : reading.path) {
            around = around->node(container)->graph.get();
            if (around->control(to))
                return Error{"control.id",
                             fmt::format("{} has a setting of its own with the id '{}', which would be read instead. Choose another.", container, to)};
        }
    }
    return {};
}

Edit renameControl(const Loom& loom, const std::string& from, const std::string& to) {
    const std::size_t i = controlIndex(loom, from);
    if (renameProblem(loom, from, to) || from == to) return {};
    Draft draft(loom, fmt::format("Change the id of {}", nameOfControl(loom.controls[i])));
    Control renamed = loom.controls[i];
    renamed.id = to;
    draft.replace(&Loom::controls, i, std::move(renamed));
    writeInPlace(draft, {{from, Json{{"control", to}}}});
    if (const Json value = loom.valueInUse(from); !value.is_null()) {
        draft.setValue(from, Json());
        draft.setValue(to, value);
    }
    for (std::size_t p = 0; p < draft.loom().presets.size(); ++p) {
        Preset preset = draft.loom().presets[p];
        if (auto entry = preset.values.extract(from)) {
            entry.key() = to;
            preset.values.insert(std::move(entry));
        }
        draft.replace(&Loom::presets, p, std::move(preset));
    }
    return draft.finish();
}

std::optional<Error> controlProblem(const Loom& loom, const std::string& id, const Control& control) {
    const auto wrong = [&](std::string text) { return Error{"control.range", std::move(text)}; };
    if (!isControlId(control.id)) return idProblem(control.id);
    if (!id.empty())
        if (auto error = renameProblem(loom, id, control.id)) return error;
    const auto turned = [](const std::optional<double>& a, const std::optional<double>& b) { return a && b && *a > *b; };
    if (turned(control.min, control.max)) return wrong("The least value is above the largest. Exchange them.");
    if (turned(control.low, control.high)) return wrong("The slider's start is above its end. Exchange them.");
    if (control.step && !(*control.step > 0)) return wrong("A step must be above 0.");
    if (control.type == "choice" && control.choices.empty())
        return Error{"control.choices", "A choice needs words to choose from. Write them with commas between."};
    auto after = applied(loom, id.empty() ? Edit{} : editControl(loom, id, control));
    if (!after) return after.error();
    if (id.empty()) after->controls.push_back(control);
    const auto before = controlValues(loom), values = controlValues(*after);
    // What was wrong before, somewhere else, is no reason to refuse this.
    if (values || (!before && before.error().text == values.error().text)) return {};
    return values.error();
}

Edit editControl(const Loom& loom, const std::string& id, const Control& control) {
    const Edit rename = renameControl(loom, id, control.id);
    const auto renamed = applied(loom, rename);
    if (!renamed) return {};
    // Its own formulas may still call it what it was called.
    Edit change = changeControl(*renamed, withControlsWritten(control, {{id, Json{{"control", control.id}}}}));
    if (rename.empty()) return change;
    Edit both = change.empty() ? rename : joined(rename, change);
    if (!change.empty()) both.label = change.label;
    return both;
}

Edit removeControl(const Loom& loom, const std::string& id) {
    const std::size_t i = controlIndex(loom, id);
    Draft draft(loom, i < loom.controls.size() ? fmt::format("Remove the control {}", nameOfControl(loom.controls[i])) : std::string());
    if (i >= loom.controls.size()) return draft.finish();
    Json value = loom.controls[i].fallback;
    if (const auto values = controlValues(loom))
        if (const auto it = values->find(id); it != values->end()) value = it->second;
    draft.setValue(id, Json());
    draft.remove(&Loom::controls, i);
    writeInPlace(draft, {{id, value}});
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

}  // namespace seedloom
