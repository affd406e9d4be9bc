#include "formats/Shelf.h"

#include "files/FileIo.h"
#include "formats/LoomFile.h"
#include "graph/NodeSpec.h"

#include <fmt/format.h>

#include <algorithm>

namespace seedloom {

namespace {

namespace fs = std::filesystem;

constexpr std::size_t kLargestPicture = std::size_t(16) << 20;
constexpr std::uint64_t kMostUnpacked = std::uint64_t(16) << 30;

std::vector<std::string> textsIn(const Json& from, const char* key) {
    std::vector<std::string> out;
    const auto it = from.find(key);
    if (it == from.end() || !it->is_array()) return out;
    for (const Json& text : *it)
        if (text.is_string()) out.push_back(text.get<std::string>());
    return out;
}

void tellLoom(ShelfAsset& to) {
    const auto loom = readLoom(to.file);
    if (!loom) {
        to.problem = loom.error().text;
        return;
    }
    to.about = aboutOf(*loom);
    to.inputs = pluggedNamesIn(*loom);
    for (const Control& control : loom->controls) to.controls.push_back(control.id);
}

void tellPack(ShelfAsset& to) {
    const auto pack = PackFiles::peek(to.file);
    const auto text = pack ? (*pack)->read(kPackedManifest, kLargestManifest) : Result<std::string>(pack.error());
    const Json manifest = text ? Json::parse(*text, nullptr, false) : Json();
    if (!text) {
        to.problem = text.error().text;
        return;
    }
    if (auto problem = manifestProblem(manifest, to.file.filename().string())) {
        to.problem = problem->text;
        return;
    }
    to.about = aboutIn(manifest);
    to.inputs = textsIn(manifest, "inputs");
    to.controls = textsIn(manifest, "controls");
}

}  // namespace

bool isForShelf(const fs::path& file) { return isPack(file) || file.extension() == ".loom"; }

Result<std::vector<fs::path>> filesOnShelf(const fs::path& folder) {
    std::error_code error;
    fs::recursive_directory_iterator at(folder, fs::directory_options::skip_permission_denied, error);
    if (error)
        return Error{"shelf.gone",
                     fmt::format("The folder '{}' can't be read: {}. Take the shelf away, or put the folder back.", folder.string(), error.message())};
    std::vector<fs::path> out;
    for (const fs::recursive_directory_iterator end; at != end && out.size() < kMostOnShelf; at.increment(error)) {
        if (error) break;
        const std::string name = at->path().filename().string();
        std::error_code unknown;
        if (at->is_directory(unknown)) {
            if (at.depth() + 1 >= kDeepestShelf || name.starts_with('.')) at.disable_recursion_pending();
        } else if (isForShelf(at->path()) && !name.starts_with('.')) {
            out.push_back(at->path());
        }
    }
    std::sort(out.begin(), out.end());
    return out;
}

ShelfAsset shelfAsset(const fs::path& file) {
    ShelfAsset out;
    out.file = file;
    out.pack = isPack(file);
    if (out.pack) tellPack(out);
    else tellLoom(out);
    if (out.about.name.empty()) out.about.name = file.stem().string();
    return out;
}

Result<Loom> loomOnShelf(const ShelfAsset& asset) {
    if (!asset.pack) return readLoom(asset.file);
    auto pack = readPack(asset.file);
    return pack ? Result<Loom>(std::move(pack->loom)) : Result<Loom>(pack.error());
}

std::string shelfPicture(const fs::path& pack) {
    if (!isPack(pack)) return {};
    const auto files = PackFiles::peek(pack);
    const auto picture = files ? (*files)->read(kPackedPicture, kLargestPicture) : Result<std::string>(files.error());
    return picture ? *picture : std::string();
}

std::vector<std::vector<std::size_t>> versionsOf(const std::vector<ShelfAsset>& assets) {
    std::map<std::string, std::vector<std::size_t>> byName;
    for (std::size_t i = 0; i < assets.size(); ++i) byName[assets[i].about.name].push_back(i);
    std::vector<std::vector<std::size_t>> out;
    for (auto& [name, group] : byName) {
        std::stable_sort(group.begin(), group.end(), [&](std::size_t a, std::size_t b) {
            if (assets[a].pack != assets[b].pack) return !assets[a].pack;
            return compareVersions(assets[a].about.version, assets[b].about.version) > 0;
        });
        out.push_back(std::move(group));
    }
    return out;
}

Result<fs::path> unpacked(const fs::path& pack, const fs::path& folder) {
    const auto read = readPack(pack);
    if (!read) return read.error();
    std::error_code error;
    if (fs::exists(folder, error)) return Error{"shelf.taken", fmt::format("'{}' is there already. Choose another name.", folder.string())};
    const auto failed = [&](const Error& why) {
        fs::remove_all(folder, error);
        return why;
    };
    const fs::path loom = folder / (folder.filename().string() + ".loom");
    std::uint64_t all = 0;
    for (const std::string& path : read->files->paths()) {
        all += read->files->stamp(path)->size;
        if (all > kMostUnpacked)
            return failed(Error{"pack.format", fmt::format("'{}' holds more than {} GB. It is not unpacked.", pack.filename().string(), kMostUnpacked >> 30)});
        if (folder / path == loom) return failed(Error{"shelf.taken", fmt::format("The pack holds a file '{}' already. Choose another name.", path)});
        // What is told of it is told by the loom, too; its pictures would soon be of another.
        if (path == kPackedManifest || path == kPackedPicture || path.starts_with(kPackedSheet)) continue;
        const auto bytes = read->files->read(path);
        if (!bytes) return failed(bytes.error());
        const fs::path to = path == kPackedLoom ? loom : folder / path;
        fs::create_directories(to.parent_path(), error);
        if (auto problem = writeFileAtomically(to, *bytes)) return failed(*problem);
    }
    return loom;
}

}  // namespace seedloom
