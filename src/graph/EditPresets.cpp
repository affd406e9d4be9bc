// Edits of presets.
#include "graph/Draft.h"
#include "graph/PresetBlend.h"

#include <fmt/format.h>

#include <algorithm>

namespace seedloom {

namespace {

std::size_t presetIndex(const Loom& loom, const std::string& name) {
    return std::size_t(std::find_if(loom.presets.begin(), loom.presets.end(), [&](const Preset& p) { return p.name == name; }) - loom.presets.begin());
}

}  // namespace

Edit applyPreset(const Loom& loom, const Preset& preset) {
    Draft draft(loom, fmt::format("Use preset {}", preset.name));
    for (const Control& control : loom.controls) {
        const auto it = preset.values.find(control.id);
        const Json value = it == preset.values.end() || it->second == control.fallback ? Json() : it->second;
        draft.setValue(control.id, value);
    }
    return draft.finish();
}

Edit keepPreset(const Loom& loom, Preset preset) {
    Draft draft(loom, fmt::format("Save preset {}", preset.name));
    const std::size_t i = presetIndex(loom, preset.name);
    if (i < loom.presets.size()) preset.extra = loom.presets[i].extra;
    if (i < loom.presets.size()) draft.replace(&Loom::presets, i, std::move(preset));
    else draft.add(&Loom::presets, std::move(preset));
    return draft.finish();
}

Edit savePreset(const Loom& loom, const std::string& name) { return keepPreset(loom, {name, loom.values, Json::object()}); }

Edit removePreset(const Loom& loom, const std::string& name) {
    Draft draft(loom, fmt::format("Delete preset {}", name));
    const std::size_t i = presetIndex(loom, name);
    if (i < loom.presets.size()) draft.remove(&Loom::presets, i);
    return draft.finish();
}

Edit renamePreset(const Loom& loom, const std::string& from, const std::string& to) {
    const std::size_t i = presetIndex(loom, from);
    Draft draft(loom, fmt::format("Rename preset {}", from));
    if (i == loom.presets.size() || to.empty() || loom.preset(to)) return draft.finish();
    Preset preset = loom.presets[i];
    preset.name = to;
    draft.replace(&Loom::presets, i, std::move(preset));
    return draft.finish();
}

Edit movePreset(const Loom& loom, const std::string& name, std::size_t to) {
    const std::size_t from = presetIndex(loom, name);
    Draft draft(loom, fmt::format("Move preset {}", name));
    if (from == loom.presets.size()) return draft.finish();
    to = std::min(to, loom.presets.size() - 1);
    if (from == to) return draft.finish();
    Preset preset = loom.presets[from];
    draft.remove(&Loom::presets, from);
    draft.insert(&Loom::presets, to, std::move(preset));
    return draft.finish();
}

Edit blendPresets(const Loom& loom, const Preset& from, const Preset& to, double part) {
    Draft draft(loom, fmt::format("Blend {} and {}", from.name, to.name));
    const auto values = blendedValues(loom, from, to, part);
    if (!values) return draft.finish();
    for (const Control& control : loom.controls) {
        const auto it = values->find(control.id);
        draft.setValue(control.id, it == values->end() || it->second == control.fallback ? Json() : it->second);
    }
    return draft.finish();
}

}  // namespace seedloom
