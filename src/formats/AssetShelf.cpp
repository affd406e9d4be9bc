#include "formats/AssetShelf.h"

#include "formats/LoomFile.h"
#include "formats/Pack.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>

#include <algorithm>

namespace seedloom {

namespace {

constexpr std::size_t kDeepestAssets = 32;
constexpr std::size_t kLargestLoom = std::size_t(256) << 20;

bool sameInside(const Inside& a, const Inside& b) { return a.loom == b.loom && a.assets == b.assets && a.problem == b.problem; }

bool sameTable(const AssetTable& a, const AssetTable& b) {
    return std::equal(a.byFile.begin(), a.byFile.end(), b.byFile.begin(), b.byFile.end(),
                      [](const auto& x, const auto& y) { return x.first == y.first && sameInside(x.second, y.second); });
}

Inside missing(std::string why) { return {nullptr, nullptr, std::move(why), {}, {}}; }

}  // namespace

Assets AssetShelf::assetsOf(const Loom& loom, const std::filesystem::path& folder) {
    looked_.clear();
    Assets now = tableOf(loom, folder, {});
    const bool same = last_ && now ? sameTable(*last_, *now) : last_ == now;
    if (!same) last_ = std::move(now);
    return last_;
}

void AssetShelf::collect(const Loom& loom, const std::filesystem::path& folder, const Chain& chain, AssetTable& to) {
    for (const Node& node : loom.nodes) {
        if (node.graph) collect(*node.graph, folder, chain, to);
        if (node.op != kAsset) continue;
        const std::string file = assetFileOf(node.settings);
        if (!file.empty() && !to.byFile.count(file)) to.byFile.emplace(file, insideOf((folder / file).lexically_normal(), chain));
    }
}

Assets AssetShelf::tableOf(const Loom& loom, const std::filesystem::path& folder, const Chain& chain) {
    AssetTable table;
    collect(loom, folder, chain, table);
    return table.byFile.empty() ? nullptr : std::make_shared<const AssetTable>(std::move(table));
}

Inside AssetShelf::insideOf(const std::filesystem::path& file, const Chain& chain) {
    if (std::find(chain.begin(), chain.end(), file) != chain.end())
        return missing(
            fmt::format("'{}' holds itself as an asset, by way of {}. Take it out there.", file.filename().string(), chain.back().filename().string()));
    if (chain.size() >= kDeepestAssets)
        return missing(fmt::format("Assets hold assets more than {} deep, down to '{}'.", kDeepestAssets, file.filename().string()));
    looked_.insert(file);
    if (const auto it = kept_.find(file); it != kept_.end()) {
        const bool fresh = std::all_of(it->second.seen.begin(), it->second.seen.end(), [this](const auto& s) { return files_->stamp(s.first) == s.second; });
        for (const auto& [seen, stamp] : it->second.seen) looked_.insert(seen);
        if (fresh) return it->second.inside;
    }
    std::set<std::filesystem::path> around;
    std::swap(around, looked_);
    looked_.insert(file);
    Kept kept{read(file, chain), {}};
    for (const auto& seen : looked_) kept.seen.emplace(seen, files_->stamp(seen));
    looked_.insert(around.begin(), around.end());
    return (kept_[file] = std::move(kept)).inside;
}

Inside AssetShelf::readPack(const std::filesystem::path& file) {
    auto pack = seedloom::readPack(file, *files_);
    if (!pack) return missing(fmt::format("The asset's pack can't be read. {}", pack.error().text));
    auto shared = std::make_shared<const Loom>(std::move(pack->loom));
    // What it uses lies in it as well.
    Assets inner = AssetShelf(pack->files).assetsOf(*shared, {});
    return {shared, std::move(inner), {}, pack->files, pack->files->digest()};
}

Inside AssetShelf::read(const std::filesystem::path& file, const Chain& chain) {
    if (isPack(file)) return readPack(file);
    const auto bytes = files_->read(file, kLargestLoom);
    if (!bytes) return missing(fmt::format("The asset's loom can't be read. {} Choose its file again.", bytes.error().text));
    auto loom = loomFromText(*bytes);
    if (!loom) return missing(fmt::format("'{}' is no loom that can be used: {}", file.filename().string(), loom.error().text));
    Chain inner = chain;
    inner.push_back(file);
    auto shared = std::make_shared<const Loom>(std::move(*loom));
    return {shared, tableOf(*shared, file.parent_path(), inner), {}, {}, {}};
}

Assets assetsOf(const Loom& loom, const std::filesystem::path& folder, Files files) { return AssetShelf(std::move(files)).assetsOf(loom, folder); }

}  // namespace seedloom
