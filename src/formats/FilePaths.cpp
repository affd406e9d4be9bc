#include "formats/FilePaths.h"

#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

namespace seedloom {

namespace {

void moveIn(Node& node, const std::filesystem::path& from, const std::filesystem::path& to) {
    const auto spec = specOf(node);
    if (!spec) return;
    for (const SettingSpec& setting : spec->settings) {
        const auto it = node.settings.find(setting.id);
        if (setting.type != SettingType::file || it == node.settings.end() || !it->is_string()) continue;
        const std::filesystem::path path = it->get<std::string>();
        if (path.empty() || path.is_absolute()) continue;
        *it = (from / path).lexically_normal().lexically_relative(to.lexically_normal()).generic_string();
    }
}

}  // namespace

Loom withPathsMoved(Loom loom, const std::filesystem::path& from, const std::filesystem::path& to) {
    for (Node& node : loom.nodes) {
        moveIn(node, from, to);
        // What is inside of an asset lies in its own file, and is found from there.
        if (node.graph && node.op != kAsset) node.graph = InnerGraph(withPathsMoved(*node.graph, from, to));
    }
    return loom;
}

}  // namespace seedloom
