#include "graph/AssetUpdate.h"

#include "graph/Controls.h"
#include "graph/Draft.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

namespace seedloom {

namespace {

std::string labelOf(const Control& control) { return control.label.empty() ? control.id : control.label; }

std::string textOf(const Json& value) {
    if (value.is_object() && value.contains("formula")) return value["formula"].dump();
    return value.is_string() ? value.get<std::string>() : value.dump();
}

std::string textOf(const std::optional<double>& limit) { return limit ? fmt::format("{:g}", *limit) : std::string("none"); }
std::string textOf(const std::string& text) { return text.empty() ? "none" : text; }
std::string textOf(const std::vector<std::string>& words) { return fmt::format("{}", fmt::join(words, ", ")); }

std::string wordOf(const Json& value) { return value.is_string() ? value.get<std::string>() : std::string(); }

void collect(const Loom& loom, const Assets& assets, std::vector<std::string> path, std::vector<AssetUse>& out) {
    for (const Node& node : loom.nodes) {
        if (node.graph) {
            path.push_back(node.id);
            collect(*node.graph, assets, path, out);
            path.pop_back();
        }
        if (node.op != kAsset) continue;
        const std::string file = assetFileOf(node.settings);
        if (file.empty()) continue;
        AssetUse use{path, node.id, file, {}, {}};
        const Inside inside = insideOf(node, assets);
        const auto noted = node.extra.find(kAsset);
        if (inside) use.name = inside->name, use.version = wordOf(inside->fact("version"));
        else if (noted != node.extra.end() && noted->is_object())
            use.name = wordOf(noted->value("name", Json())), use.version = wordOf(noted->value("version", Json()));
        out.push_back(std::move(use));
    }
}

std::vector<std::string> differences(const Control& a, const Control& b) {
    std::vector<std::string> out;
    const auto compare = [&](const char* what, const auto& before, const auto& after) {
        if (before != after) out.push_back(fmt::format("{}: {} → {}", what, textOf(before), textOf(after)));
    };
    compare("Name", labelOf(a), labelOf(b));
    compare("Type", a.type, b.type);
    compare("Default", a.fallback, b.fallback);
    compare("Least", a.min, b.min);
    compare("Largest", a.max, b.max);
    compare("Step", a.step, b.step);
    compare("Unit", a.unit, b.unit);
    compare("Section", a.section, b.section);
    compare("Choices", a.choices, b.choices);
    compare("Shown when", a.shownWhen, b.shownWhen);
    compare("Allowed when", a.allowedWhen, b.allowedWhen);
    if (a.help != b.help) out.push_back("Another help");
    return out;
}

/// The node's settings for the other asset.
void fit(Node& node, const Loom& asset, const Inside& before, std::vector<LostValue>* lost) {
    const auto tell = [&](const std::string& label, std::string text) {
        if (lost) lost->push_back({displayName(node), label, std::move(text)});
    };
    Json kept = Json::object();
    for (const auto& [id, value] : node.settings.items()) {
        const Control* control = asset.control(id);
        const Control* old = before ? before->control(id) : nullptr;
        const bool own = id == kAsset || findOperator(kAsset)->setting(id) != nullptr;
        if (!control && !own) {
            tell(old ? labelOf(*old) : id, fmt::format("{} goes, since there is no such control any more", textOf(value)));
            continue;
        }
        kept[id] = value;
        if (!control || value.is_object()) continue;  // a source gives what it gives
        if (const auto checked = checkedControlValue(*control, value); checked) continue;
        const Json fitted = fittedValue(*control, value);
        kept[id] = fitted;
        tell(labelOf(*control), fmt::format("{} becomes {}, the nearest that it takes", textOf(value), textOf(fitted)));
    }
    node.settings = SharedJson(std::move(kept));
}

}  // namespace

std::vector<AssetUse> assetUses(const Loom& loom, const Assets& assets) {
    std::vector<AssetUse> out;
    collect(loom, assets, {}, out);
    return out;
}

std::vector<ControlDifference> controlDifferences(const Loom& before, const Loom& after) {
    using Kind = ControlDifference::Kind;
    std::vector<ControlDifference> out;
    for (const Control& control : after.controls) {
        const Control* old = before.control(control.id);
        if (!old) out.push_back({Kind::added, labelOf(control), {fmt::format("Default: {}", textOf(control.fallback))}});
        else if (auto texts = differences(*old, control); !texts.empty()) out.push_back({Kind::changed, labelOf(control), std::move(texts)});
    }
    for (const Control& control : before.controls)
        if (!after.control(control.id)) out.push_back({Kind::removed, labelOf(control), {}});
    const auto had = pluggedNamesIn(before), has = pluggedNamesIn(after);
    const auto missing = [](const std::vector<std::string>& in, const std::string& name) { return std::find(in.begin(), in.end(), name) == in.end(); };
    for (const std::string& name : has)
        if (missing(had, name)) out.push_back({Kind::added, name, {"An input for geometry"}});
    for (const std::string& name : had)
        if (missing(has, name)) out.push_back({Kind::removed, name, {"An input for geometry"}});
    return out;
}

Edit updateAssets(const Loom& loom, const std::vector<AssetUse>& uses, const std::string& file, const Loom& asset, const Assets& assets,
                  std::vector<LostValue>* lost) {
    Edit all;
    Loom now = loom;
    const std::vector<std::string> ports = pluggedNamesIn(asset);
    for (const AssetUse& use : uses) {
        const Loom* around = loomAt(now, use.path);
        const Node* node = around ? around->node(use.node) : nullptr;
        if (!node || node->op != kAsset) continue;
        Draft draft(*around, "Update");
        draft.changeNode(use.node, [&](Node& changed) {
            fit(changed, asset, insideOf(changed, assets), lost);
            changed.settings[kAsset] = file;
            changed.extra.erase(kAsset);  // noted again when the document is saved
        });
        draft.removeLinksIf([&](const Link& link) {
            const bool gone = link.to == use.node && (ports.empty() || (!link.in.empty() && std::find(ports.begin(), ports.end(), link.in) == ports.end()));
            if (gone && lost)
                lost->push_back({displayName(*node), link.in.empty() ? "Input" : link.in, "its thread goes, since there is no such input any more"});
            return gone;
        });
        const Edit edit = lifted(now, use.path, draft.finish());
        if (edit.empty()) continue;
        const auto next = applied(now, edit);
        if (!next) continue;
        now = *next;
        all = all.empty() ? edit : joined(all, edit);
    }
    if (!all.empty()) all.label = fmt::format("Update {}", asset.name);
    return all;
}

}  // namespace seedloom
