#include "formats/Pack.h"

#include "formats/LoomFile.h"

#include <fmt/format.h>

#include <array>
#include <charconv>

namespace seedloom {

namespace {

constexpr std::size_t kLargestLoom = std::size_t(256) << 20;

std::string textIn(const Json& from, const char* key) {
    const auto it = from.find(key);
    return it != from.end() && it->is_string() ? it->get<std::string>() : std::string();
}

std::optional<std::array<int, 3>> numbersOf(const std::string& version) {
    std::array<int, 3> out{};
    const char *at = version.data(), *end = at + version.size();
    for (std::size_t i = 0; i < out.size(); ++i) {
        const auto [stop, error] = std::from_chars(at, end, out[i]);
        const bool ends = i + 1 == out.size() ? stop == end : stop != end && *stop == '.';
        if (error != std::errc() || out[i] < 0 || !ends) return {};
        at = stop + 1;
    }
    return out;
}

}  // namespace

bool isPack(const std::filesystem::path& file) { return file.extension() == kPackEnding; }

AssetAbout aboutIn(const Json& told) {
    if (!told.is_object()) return {};
    AssetAbout out{textIn(told, "name"), textIn(told, "version"), textIn(told, "summary"), textIn(told, "author"), textIn(told, "licence"), {}};
    if (const auto tags = told.find("tags"); tags != told.end() && tags->is_array())
        for (const Json& tag : *tags)
            if (tag.is_string()) out.tags.push_back(tag.get<std::string>());
    return out;
}

AssetAbout aboutOf(const Loom& loom) {
    AssetAbout out = aboutIn(loom.extra);
    out.name = loom.name;
    return out;
}

Loom withAbout(Loom loom, const AssetAbout& about) {
    loom.name = about.name;
    const auto put = [&](const char* key, const auto& value) {
        if (value.empty()) loom.extra.erase(key);
        else loom.extra[key] = value;
    };
    put("version", about.version);
    put("summary", about.summary);
    put("author", about.author);
    put("licence", about.licence);
    put("tags", about.tags);
    return loom;
}

bool isVersion(const std::string& text) { return numbersOf(text).has_value(); }

int compareVersions(const std::string& a, const std::string& b) {
    const auto first = numbersOf(a), second = numbersOf(b);
    return first < second ? -1 : second < first ? 1 : 0;
}

std::optional<Error> manifestProblem(const Json& manifest, const std::string& name) {
    const int format = manifest.is_object() && manifest.contains("loompack") && manifest["loompack"].is_number_integer() ? manifest["loompack"].get<int>() : 0;
    if (format < 1) return Error{"pack.format", fmt::format("'{}' does not say what it is: its manifest can't be read. Publish it again.", name)};
    if (format > kPackFormat)
        return Error{"pack.format",
                     fmt::format("'{}' has format {}, and this version reads up to {}. Update Seed Loom to open it.", name, format, kPackFormat)};
    return {};
}

Result<Packed> readPack(const std::filesystem::path& file, const FileSource& from) {
    auto bytes = from.read(file);
    if (!bytes) return bytes.error();
    return packFromBytes(std::move(*bytes), file.filename().string());
}

Result<Packed> packFromBytes(std::string bytes, const std::string& name) {
    auto pack = PackFiles::fromBytes(std::move(bytes), name);
    if (!pack) return pack.error();
    if (const auto manifest = (*pack)->read(kPackedManifest, kLargestManifest))
        if (auto problem = manifestProblem(Json::parse(*manifest, nullptr, false), name)) return *problem;
    const auto text = (*pack)->read(kPackedLoom, kLargestLoom);
    if (!text) return Error{"pack.format", fmt::format("'{}' holds no asset: {}", name, text.error().text)};
    auto loom = loomFromText(*text);
    if (!loom) return Error{loom.error().code, fmt::format("The loom in '{}' can't be used: {}", name, loom.error().text)};
    AssetAbout about = aboutOf(*loom);
    return Packed{std::move(*loom), std::move(about), std::move(*pack)};
}

}  // namespace seedloom
