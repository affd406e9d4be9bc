#include "formats/FilePaths.h"

#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

namespace seedloom {

namespace {

/// Controls that a file is named by, directly or through settings of containers; those of the graph itself, and of graphs around it.
void collectControls(const Loom& loom, std::set<std::string>& found) {
    for (const Node& node : loom.nodes) {
        std::set<std::string> files;  // settings of this node that name files
        if (const auto spec = specOf(node, {}))
            for (const SettingSpec& setting : spec->settings)
                if (setting.type == SettingType::file) files.insert(setting.id);
        if (node.graph) {
            std::set<std::string> inside;
            collectControls(*node.graph, inside);
            for (const std::string& id : inside) (node.graph->control(id) ? files : found).insert(id);
        }
        for (const std::string& id : files) {
            const auto written = node.settings.find(id);
            if (written == node.settings.end()) continue;
            const auto source = sourceFromJson(*written);
            if (!source) continue;
            if (const auto* control = std::get_if<ControlSource>(&*source)) found.insert(control->control);
        }
    }
}

/// Settings of a container that its graph takes files from.
std::set<std::string> fileSettingsOf(const Node& node) {
    std::set<std::string> out;
    if (!node.graph) return out;
    std::set<std::string> inside;
    collectControls(*node.graph, inside);
    for (const std::string& id : inside)
        if (node.graph->control(id)) out.insert(id);
    return out;
}

}  // namespace

PathMove::PathMove(const Loom& loom, const std::filesystem::path& from, const std::filesystem::path& to)
    : PathMove(loom, [from, to = to.lexically_normal()](const std::string& written) {
          const std::filesystem::path path = written;
          return path.is_absolute() ? written : (from / path).lexically_normal().lexically_relative(to).generic_string();
      }) {}

PathMove::PathMove(const Loom& loom, std::function<std::string(const std::string& written)> rewrite) : rewrite_(std::move(rewrite)) {
    collectControls(loom, controls_);
}

void PathMove::move(Json& path) const {
    if (path.is_string() && !path.get_ref<const std::string&>().empty()) path = rewrite_(path.get<std::string>());
}

void PathMove::move(Node& node) const {
    std::set<std::string> files = fileSettingsOf(node);
    if (const auto spec = specOf(node, {}))
        for (const SettingSpec& setting : spec->settings)
            if (setting.type == SettingType::file) files.insert(setting.id);
    for (const std::string& id : files)
        if (node.settings.contains(id)) move(node.settings[id]);
    if (node.graph) node.graph = InnerGraph(inner(*node.graph));
}

void PathMove::move(Control& control) const {
    if (controls_.count(control.id)) move(control.fallback);
    for (std::string& picture : control.pictures)
        if (!picture.empty()) picture = rewrite_(picture);
}

void PathMove::move(Preset& preset) const {
    for (const std::string& id : controls_)
        if (preset.values.contains(id)) move(preset.values[id]);
}

/// What is inside of a container has controls of its own; which of them name files is its own affair.
Loom PathMove::inner(Loom loom) const { return PathMove(loom, rewrite_)(std::move(loom)); }

Loom PathMove::operator()(Loom loom) const {
    for (Node& node : loom.nodes) move(node);
    for (Control& control : loom.controls) move(control);
    for (Preset& preset : loom.presets) move(preset);
    for (const std::string& id : controls_)
        if (loom.values.contains(id)) move(loom.values[id]);
    return loom;
}

void PathMove::apply(Edit& edit) const {
    for (Change& change : edit.changes)
        std::visit(
            [&](auto& c) {
                using C = std::decay_t<decltype(c)>;
                if constexpr (std::is_same_v<C, ValueChange>) {
                    if (!controls_.count(c.control)) return;
                    move(c.before);
                    move(c.after);
                } else if constexpr (std::is_same_v<C, ItemChange<Node>> || std::is_same_v<C, ItemChange<Control>> || std::is_same_v<C, ItemChange<Preset>>) {
                    if (c.before) move(*c.before);
                    if (c.after) move(*c.after);
                }
            },
            change);
}

Loom withPathsMoved(Loom loom, const std::filesystem::path& from, const std::filesystem::path& to) {
    const PathMove move(loom, from, to);
    return move(std::move(loom));
}

}  // namespace seedloom
