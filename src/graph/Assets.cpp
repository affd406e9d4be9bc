#include "graph/Assets.h"

#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

namespace seedloom {

Inside insideOf(const Node& node, const Assets& assets) {
    if (node.op != kAsset) return {node.graph.shared(), assets, {}};
    if (!assets) return {};
    const auto found = assets->byFile.find(assetFileOf(node.settings));
    return found == assets->byFile.end() ? Inside{} : found->second;
}

}  // namespace seedloom
