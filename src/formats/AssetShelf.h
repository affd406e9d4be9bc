#pragma once
// The looms that asset nodes stand for: read once, shared, and read again when their files change.
#include "files/FileSource.h"
#include "graph/Assets.h"

#include <filesystem>
#include <map>
#include <optional>
#include <set>

namespace seedloom {

class AssetShelf {
public:
    explicit AssetShelf(Files files = diskFiles()) : files_(std::move(files)) {}
    /// What the asset nodes of the loom stand for, as their files are now; paths start from `folder`. A file that is missing, damaged, or holds itself
    /// is there with the problem. The same pointer as the last time where nothing changed; cheap then: one look at the disk for each file.
    Assets assetsOf(const Loom& loom, const std::filesystem::path& folder);
    /// All files that the last call looked at, those of assets inside of assets included.
    const std::set<std::filesystem::path>& files() const { return looked_; }

private:
    struct Kept {
        Inside inside;
        std::map<std::filesystem::path, std::optional<FileStamp>> seen;  ///< all files that it was made from
    };
    using Chain = std::vector<std::filesystem::path>;  ///< the files that are being read, outermost first

    void collect(const Loom& loom, const std::filesystem::path& folder, const Chain& chain, AssetTable& to);
    Assets tableOf(const Loom& loom, const std::filesystem::path& folder, const Chain& chain);
    Inside insideOf(const std::filesystem::path& file, const Chain& chain);
    Inside read(const std::filesystem::path& file, const Chain& chain);
    Inside readPack(const std::filesystem::path& file);

    Files files_;
    std::map<std::filesystem::path, Kept> kept_;
    std::set<std::filesystem::path> looked_;
    Assets last_;
};

/// The assets of a loom that is looked at once.
Assets assetsOf(const Loom& loom, const std::filesystem::path& folder, Files files = diskFiles());

}  // namespace seedloom
