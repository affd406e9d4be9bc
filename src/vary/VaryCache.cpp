#include "vary/VaryCache.h"

#include "files/FileIo.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

namespace fs = std::filesystem;

constexpr std::size_t kLargestKept = std::size_t(16) << 20;

}  // namespace

/// Folders by the first two signs: no folder gets very long.
fs::path VaryCache::recordOf(const Digest& key) const {
    const std::string name = key.hex();
    return folder_ / name.substr(0, 2) / (name + ".json");
}

fs::path VaryCache::pictureOf(const Digest& key, double yaw, double pitch) const {
    fs::path out = recordOf(key);
    const auto whole = [](double degrees) { return int(std::lround(std::remainder(degrees, 360.0))); };
    out.replace_extension(fmt::format(".{}_{}.png", whole(yaw), whole(pitch)));
    return out;
}

std::optional<VaryRow> VaryCache::find(const Digest& key, double yaw, double pitch) const {
    const fs::path record = recordOf(key);
    const auto bytes = readFile(record, kLargestKept);
    auto row = bytes ? rowFromJson(Json::parse(*bytes, nullptr, false)) : std::nullopt;
    if (!row || row->key != key.hex()) return {};
    std::error_code ignored;
    fs::last_write_time(record, fs::file_time_type::clock::now(), ignored);
    const fs::path picture = pictureOf(key, yaw, pitch);
    row->picture = fs::exists(picture, ignored) ? picture.string() : std::string();
    return row;
}

std::optional<Error> VaryCache::keep(VaryRow& row, const Digest& key, const Picture& picture, double yaw, double pitch) const {
    const fs::path record = recordOf(key);
    std::error_code error;
    fs::create_directories(record.parent_path(), error);
    if (error) return Error{"file.write", fmt::format("The folder '{}' can't be made: {}.", record.parent_path().string(), error.message())};
    row.key = key.hex();
    row.picture.clear();
    if (!picture.pixels.empty()) {
        const fs::path file = pictureOf(key, yaw, pitch);
        if (auto problem = writePng(picture, file)) return problem;
        row.picture = file.string();
    }
    return writeFileAtomically(record, rowJson(row).dump(1, ' ', false, Json::error_handler_t::replace));
}

std::size_t VaryCache::prune(std::size_t most) const {
    std::vector<std::pair<fs::file_time_type, fs::path>> records;
    std::vector<fs::path> pictures;
    std::error_code error;
    for (auto it = fs::recursive_directory_iterator(folder_, error); !error && it != fs::recursive_directory_iterator(); it.increment(error)) {
        std::error_code ignored;
        if (it->path().extension() == ".json") records.emplace_back(it->last_write_time(ignored), it->path());
        else if (it->path().extension() == ".png") pictures.push_back(it->path());
    }
    if (records.size() <= most) return 0;
    std::sort(records.begin(), records.end());
    const std::size_t gone = records.size() - most * 9 / 10;
    for (std::size_t i = 0; i < gone; ++i) fs::remove(records[i].second, error);
    // Pictures go with their record, from whichever side they are.
    for (const fs::path& picture : pictures) {
        fs::path record = picture;
        record.replace_extension().replace_extension(".json");
        if (!fs::exists(record, error)) fs::remove(picture, error);
    }
    return gone;
}

}  // namespace seedloom
