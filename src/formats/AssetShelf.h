#pragma once
// The looms that asset nodes stand for: read once, shared, and read again when their files change.
#include "graph/Loom.h"

#include <filesystem>
#include <map>
#include <optional>
#include <set>

namespace seedloom {

class AssetShelf {
public:
    /// The loom with the graph of every asset node as its file is now; paths start from `folder`. A file that is missing, damaged, or holds itself
    /// gives a graph that says so. Cheap where nothing changed: one look at the disk for each asset.
    Loom filled(Loom loom, const std::filesystem::path& folder);
    /// All files that the last call looked at, those of assets inside of assets included.
    const std::set<std::filesystem::path>& files() const { return files_; }

private:
    struct Stamp {
        std::filesystem::file_time_type time{};
        std::uintmax_t size = 0;
        bool operator==(const Stamp&) const = default;
    };
    struct Kept {
        InnerGraph graph;
        std::map<std::filesystem::path, std::optional<Stamp>> seen;  ///< all files that it was made from
    };
    using Chain = std::vector<std::filesystem::path>;  ///< the files that are being read, outermost first

    static std::optional<Stamp> stampOf(const std::filesystem::path& file);
    std::optional<Loom> refilled(const Loom& loom, const std::filesystem::path& folder, const Chain& chain);
    InnerGraph graphOf(const std::filesystem::path& file, const Chain& chain);
    InnerGraph read(const std::filesystem::path& file, const Chain& chain);

    std::map<std::filesystem::path, Kept> kept_;
    std::set<std::filesystem::path> files_;
};

}  // namespace seedloom
