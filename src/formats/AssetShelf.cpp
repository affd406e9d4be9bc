#include "formats/AssetShelf.h"

#include "formats/LoomFile.h"
#include "graph/NodeSpec.h"
#include "meshes/FileIo.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>

#include <algorithm>

namespace seedloom {

namespace {

constexpr std::size_t kDeepestAssets = 32;
constexpr std::size_t kLargestLoom = std::size_t(256) << 20;

bool sameGraph(const InnerGraph& a, const InnerGraph& b) { return a.get() == b.get() && a.problem() == b.problem(); }

}  // namespace

Loom AssetShelf::filled(Loom loom, const std::filesystem::path& folder) {
    files_.clear();
    auto changed = refilled(loom, folder, {});
    return changed ? std::move(*changed) : loom;
}

std::optional<AssetShelf::Stamp> AssetShelf::stampOf(const std::filesystem::path& file) {
    std::error_code missing;
    Stamp out{std::filesystem::last_write_time(file, missing), 0};
    if (!missing) out.size = std::filesystem::file_size(file, missing);
    return missing ? std::nullopt : std::optional(out);
}

/// nullopt where nothing is to be changed, so that unchanged graphs stay shared.
std::optional<Loom> AssetShelf::refilled(const Loom& loom, const std::filesystem::path& folder, const Chain& chain) {
    std::optional<Loom> out;
    for (std::size_t i = 0; i < loom.nodes.size(); ++i) {
        const Node& node = loom.nodes[i];
        InnerGraph graph = node.graph;
        if (node.op == kAsset) {
            const std::string file = assetFileOf(node.settings);
            graph = file.empty() ? InnerGraph() : graphOf((folder / file).lexically_normal(), chain);
        } else if (node.graph) {
            if (auto inner = refilled(*node.graph, folder, chain)) graph = InnerGraph(std::move(*inner));
        }
        if (sameGraph(graph, node.graph)) continue;
        if (!out) out = loom;
        out->nodes[i].graph = std::move(graph);
    }
    return out;
}

InnerGraph AssetShelf::graphOf(const std::filesystem::path& file, const Chain& chain) {
    if (std::find(chain.begin(), chain.end(), file) != chain.end())
        return InnerGraph::missing(
            fmt::format("'{}' holds itself as an asset, by way of {}. Take it out there.", file.filename().string(), chain.back().filename().string()));
    if (chain.size() >= kDeepestAssets)
        return InnerGraph::missing(fmt::format("Assets hold assets more than {} deep, down to '{}'.", kDeepestAssets, file.filename().string()));
    files_.insert(file);
    if (const auto it = kept_.find(file); it != kept_.end()) {
        const bool fresh = std::all_of(it->second.seen.begin(), it->second.seen.end(), [](const auto& s) { return stampOf(s.first) == s.second; });
        for (const auto& [seen, stamp] : it->second.seen) files_.insert(seen);
        if (fresh) return it->second.graph;
    }
    std::set<std::filesystem::path> around;
    std::swap(around, files_);
    files_.insert(file);
    Kept kept{read(file, chain), {}};
    for (const auto& seen : files_) kept.seen.emplace(seen, stampOf(seen));
    files_.insert(around.begin(), around.end());
    return (kept_[file] = std::move(kept)).graph;
}

InnerGraph AssetShelf::read(const std::filesystem::path& file, const Chain& chain) {
    const auto bytes = readFile(file, kLargestLoom);
    if (!bytes) return InnerGraph::missing(fmt::format("The asset's loom can't be read. {} Choose its file again.", bytes.error().text));
    auto loom = loomFromText(*bytes);
    if (!loom) return InnerGraph::missing(fmt::format("'{}' is no loom that can be used: {}", file.filename().string(), loom.error().text));
    Chain inner = chain;
    inner.push_back(file);
    if (auto changed = refilled(*loom, file.parent_path(), inner)) return InnerGraph(std::move(*changed));
    return InnerGraph(std::move(*loom));
}

}  // namespace seedloom
