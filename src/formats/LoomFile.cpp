#include "formats/LoomFile.h"

#include "formats/FileIo.h"
#include "formats/LoomItems.h"
#include "formats/LoomMigration.h"

#include <fmt/format.h>

#include <set>

namespace seedloom {

using namespace items;

namespace {

constexpr int kDeepest = 64;
constexpr std::size_t kLargest = std::size_t(256) << 20;

const Json& listOr(const Json& from, const char* key) {
    static const Json none = Json::array();
    const auto it = from.find(key);
    if (it == from.end()) return none;
    if (!it->is_array()) throw Wrong{key, "a list [ ] was expected"};
    return *it;
}

template <class T, class Read> std::vector<T> readList(const Json& from, const char* key, Read&& read) {
    std::vector<T> out;
    const Json& list = listOr(from, key);
    for (std::size_t i = 0; i < list.size(); ++i) out.push_back(read(list[i], fmt::format("{}[{}]", key, i)));
    return out;
}

template <class T> void needUnique(const std::vector<T>& items, const char* what, auto&& idOf) {
    std::set<std::string> seen;
    for (const T& item : items)
        if (!seen.insert(idOf(item)).second) throw Wrong{what, fmt::format("'{}' is there twice", idOf(item))};
}

Loom readDocument(const Json& from) {
    Loom loom;
    loom.name = textOr(from, "name", "");
    loom.controls = readList<Control>(from, "controls", [](const Json& j, const std::string& w) { return read<Control>(j, w); });
    if (from.contains("values")) needObject(from["values"], "values"), loom.values = from["values"];
    loom.presets = readList<Preset>(from, "presets", [](const Json& j, const std::string& w) { return read<Preset>(j, w); });
    loom.nodes = readList<Node>(from, "nodes", [](const Json& j, const std::string& w) { return read<Node>(j, w); });
    loom.links = readList<Link>(from, "links", [](const Json& j, const std::string& w) { return read<Link>(j, w); });
    loom.notes = readList<Note>(from, "notes", [](const Json& j, const std::string& w) { return read<Note>(j, w); });
    // Edits name notes by their ids.
    for (std::size_t i = 0; i < loom.notes.size(); ++i)
        for (int k = 1; loom.notes[i].id.empty() || loom.note(loom.notes[i].id) != &loom.notes[i]; ++k) loom.notes[i].id = fmt::format("note_{}", k);
    loom.output = textOr(from, "output", "");
    loom.extra = others(from, {"seedloom", "name", "controls", "values", "presets", "nodes", "links", "notes", "output"});
    needUnique(loom.nodes, "nodes", [](const Node& n) { return n.id; });
    needUnique(loom.controls, "controls", [](const Control& c) { return c.id; });
    return loom;
}

std::pair<std::size_t, std::size_t> lineAndColumn(std::string_view text, std::size_t byte) {
    std::size_t line = 1, column = 1;
    for (std::size_t i = 0; i < std::min(byte, text.size()); ++i) {
        if (text[i] == '\n')
            ++line, column = 1;
        else
            ++column;
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
        return readDocument(json);
    } catch (const Wrong& wrong) {
        return Error{"loom.structure", fmt::format("{}{}{}.", wrong.where, wrong.where.empty() ? "" : ": ", wrong.text)};
    } catch (const Json::exception& error) {
        return Error{"loom.structure", fmt::format("The document can't be read ({}).", error.what())};
    }
}

Result<Loom> readLoom(const std::filesystem::path& path) {
    const auto bytes = readFile(path, kLargest);
    if (!bytes) return bytes.error();
    return loomFromText(*bytes);
}

std::optional<Error> writeLoom(const Loom& loom, const std::filesystem::path& path) { return writeFileAtomically(path, loomToText(loom), true); }

}  // namespace seedloom
