#pragma once
// Variations that were made before, by what they were made from: what a sheet shows again is not built again, whichever sheet it was on. It may be emptied
// at any time.
#include "render/Picture.h"
#include "vary/VaryRow.h"

#include <filesystem>

namespace seedloom {

class VaryCache {
public:
    static constexpr std::size_t kMostKept = 40'000;  ///< variations; about half a gigabyte
    explicit VaryCache(std::filesystem::path folder) : folder_(std::move(folder)) {}

    /// With `picture` naming the file of its picture from that side, where there is one; nothing where it was not made.
    std::optional<VaryRow> find(const Digest& key, double yaw, double pitch) const;
    /// Errors `file.write`. `row.picture` is set where there is a picture.
    std::optional<Error> keep(VaryRow& row, const Digest& key, const Picture& picture, double yaw, double pitch) const;
    /// Takes away what was not used for longest, down to nine of ten, where there are more than `most`. Returns how many went.
    std::size_t prune(std::size_t most = kMostKept) const;

private:
    std::filesystem::path recordOf(const Digest& key) const;
    std::filesystem::path pictureOf(const Digest& key, double yaw, double pitch) const;
    std::filesystem::path folder_;
};

}  // namespace seedloom
