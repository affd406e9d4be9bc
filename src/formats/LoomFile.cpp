#include "formats/LoomFile.h"

#include "files/FileIo.h"
#include "formats/LoomItems.h"
#include "formats/LoomMigration.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>

namespace seedloom {

using namespace items;

namespace {

constexpr int kDeepest = 256;  // a container takes three levels
constexpr std::size_t kLargest = std::size_t(256) << 20;

std::pair<std::size_t, std::size_t> lineAndColumn(std::string_view text, std::size_t byte) {
    std::size_t line = 1, column = 1;
    for (std::size_t i = 0; i < std::min(byte, text.size()); ++i) {
        if (text[i] == '\n') ++line, column = 1;
        else ++column;
    }
    return {line, column};
}

Result<Json> parseJson(std::string_view text) {
    bool tooDeep = false;
    const auto depthGuard = [&](int depth, Json::parse_event_t, Json&) {
        if (depth > kDeepest) tooDeep = true;
        return depth <= kDeepest;
    };
    try {
        Json json = Json::parse(text, depthGuard);
        if (tooDeep) return Error{"loom.syntax", fmt::format("The file is nested more than {} levels deep.", kDeepest)};
        return json;
    } catch (const Json::parse_error& error) {
        const auto [line, column] = lineAndColumn(text, error.byte > 0 ? error.byte - 1 : 0);
        std::string reason = error.what();
        if (const auto at = reason.rfind(": "); at != std::string::npos) reason = reason.substr(at + 2);
        return Error{"loom.syntax", fmt::format("Line {}, column {}: the text is no valid JSON ({}).", line, column, reason)};
    } catch (const Json::exception& error) {
        return Error{"loom.syntax", fmt::format("The text is no valid JSON ({}).", error.what())};
    }
}

}  // namespace

Result<Loom> loomFromText(std::string_view text) {
    auto parsed = parseJson(text);
    if (!parsed) return parsed.error();
    Json& json = *parsed;
    try {
        if (!json.is_object() || !json.contains("seedloom")) return Error{"loom.structure", "This is no loom: the key 'seedloom' is missing at the top."};
        if (!json["seedloom"].is_number_integer()) return Error{"loom.structure", "'seedloom' must be the number of the format."};
        if (auto error = migrateLoom(json)) return *error;
        return read<Loom>(json, "");
    } catch (const Wrong& wrong) {
        return Error{"loom.structure", fmt::format("{}{}{}.", wrong.where, wrong.where.empty() ? "" : ": ", wrong.text)};
    } catch (const Json::exception& error) {
        return Error{"loom.structure", fmt::format("The document can't be read ({}).", error.what())};
    }
}

Result<Loom> readLoom(const std::filesystem::path& path, const FileSource& files) {
    const auto bytes = files.read(path, kLargest);
    if (!bytes) return bytes.error();
    return loomFromText(*bytes);
}

namespace {

void noteAssets(Loom& loom, const Assets& assets) {
    for (Node& node : loom.nodes) {
        if (node.graph) {
            Loom inner = *node.graph;
            noteAssets(inner, assets);
            if (!(inner == *node.graph)) node.graph = InnerGraph(std::move(inner));
        }
        const Inside inside = node.op == kAsset ? insideOf(node, assets) : Inside{};
        if (!inside) continue;
        Json& asset = node.extra[kAsset];
        asset["name"] = inside->name;
        if (inside->extra.contains("version")) asset["version"] = inside->extra["version"];
    }
}

}  // namespace

Loom withAssetsNoted(Loom loom, const Assets& assets) {
    noteAssets(loom, assets);
    return loom;
}

std::optional<Error> writeLoom(const Loom& loom, const std::filesystem::path& path) { return writeFileAtomically(path, loomToText(loom), true); }

}  // namespace seedloom
