#include "formats/LoomFile.h"

#include "formats/FileIo.h"
#include "formats/LoomMigration.h"

#include <fmt/format.h>

#include <set>

namespace seedloom {

namespace {

constexpr int kDeepest = 64;
constexpr std::size_t kLargest = std::size_t(256) << 20;

/// Unwinds to loomFromText; `where` is a path such as nodes[3].settings.
struct Wrong {
    std::string where, text;
};

const Json& member(const Json& from, const char* key, const std::string& where) {
    const auto it = from.find(key);
    if (it == from.end()) throw Wrong{where, fmt::format("'{}' is missing", key)};
    return *it;
}

std::string text(const Json& value, const std::string& where) {
    if (!value.is_string()) throw Wrong{where, "a text was expected"};
    return value.get<std::string>();
}

std::string textOr(const Json& from, const char* key, const std::string& where, std::string fallback = {}) {
    const auto it = from.find(key);
    return it == from.end() ? std::move(fallback) : text(*it, where + "." + key);
}

std::optional<double> numberOr(const Json& from, const char* key, const std::string& where) {
    const auto it = from.find(key);
    if (it == from.end()) return {};
    if (!it->is_number()) throw Wrong{where + "." + key, "a number was expected"};
    return it->get<double>();
}

void needObject(const Json& value, const std::string& where) {
    if (!value.is_object()) throw Wrong{where, "an object { } was expected"};
}

const Json& listOr(const Json& from, const char* key) {
    static const Json none = Json::array();
    const auto it = from.find(key);
    if (it == from.end()) return none;
    if (!it->is_array()) throw Wrong{key, "a list [ ] was expected"};
    return *it;
}

Json others(const Json& from, std::initializer_list<const char*> known) {
    Json out = Json::object();
    for (const auto& [key, value] : from.items())
        if (std::find_if(known.begin(), known.end(), [&, k = key](const char* c) { return k == c; }) == known.end()) out[key] = value;
    return out;
}

Cell cellOr(const Json& from, const std::string& where) {
    const auto it = from.find("cell");
    if (it == from.end()) return {};
    if (!it->is_array() || it->size() != 2 || !(*it)[0].is_number_integer() || !(*it)[1].is_number_integer())
        throw Wrong{where + ".cell", "two whole numbers [column, row] were expected"};
    const auto bounded = [](const Json& v) { return static_cast<int>(std::clamp<std::int64_t>(v.get<std::int64_t>(), -100000, 100000)); };
    return {bounded((*it)[0]), bounded((*it)[1])};
}

Control readControl(const Json& from, const std::string& where) {
    needObject(from, where);
    Control c;
    c.id = text(member(from, "id", where), where + ".id");
    c.label = textOr(from, "label", where, c.id);
    c.section = textOr(from, "section", where);
    c.type = textOr(from, "type", where, "number");
    c.fallback = from.contains("default") ? from["default"] : Json(0.0);
    c.min = numberOr(from, "min", where);
    c.max = numberOr(from, "max", where);
    c.unit = textOr(from, "unit", where);
    c.help = textOr(from, "help", where);
    if (from.contains("choices")) {
        if (!from["choices"].is_array()) throw Wrong{where + ".choices", "a list of texts was expected"};
        for (const Json& word : from["choices"]) c.choices.push_back(text(word, where + ".choices"));
    }
    c.extra = others(from, {"id", "label", "section", "type", "default", "min", "max", "unit", "help", "choices"});
    return c;
}

Preset readPreset(const Json& from, const std::string& where) {
    needObject(from, where);
    Preset p;
    p.name = text(member(from, "name", where), where + ".name");
    if (from.contains("values")) needObject(from["values"], where + ".values"), p.values = from["values"];
    p.extra = others(from, {"name", "values"});
    return p;
}

Node readNode(const Json& from, const std::string& where) {
    needObject(from, where);
    Node n;
    n.id = text(member(from, "id", where), where + ".id");
    n.op = text(member(from, "op", where), where + ".op");
    n.label = textOr(from, "label", where);
    n.cell = cellOr(from, where);
    if (from.contains("settings")) needObject(from["settings"], where + ".settings"), n.settings = from["settings"];
    if (from.contains("skip")) {
        if (!from["skip"].is_boolean()) throw Wrong{where + ".skip", "true or false was expected"};
        n.skipped = from["skip"].get<bool>();
    }
    n.extra = others(from, {"id", "op", "label", "cell", "settings", "skip"});
    return n;
}

Link readLink(const Json& from, const std::string& where) {
    Link l;
    if (from.is_array()) {
        if (from.size() != 2) throw Wrong{where, "a link is written [from, to]"};
        l.from = text(from[0], where), l.to = text(from[1], where);
        return l;
    }
    needObject(from, where);
    l.from = text(member(from, "from", where), where + ".from");
    l.to = text(member(from, "to", where), where + ".to");
    l.out = textOr(from, "out", where);
    l.in = textOr(from, "in", where);
    l.extra = others(from, {"from", "to", "out", "in"});
    return l;
}

Note readNote(const Json& from, const std::string& where) {
    needObject(from, where);
    Note n;
    n.id = textOr(from, "id", where);
    n.text = textOr(from, "text", where);
    n.cell = cellOr(from, where);
    if (const auto columns = numberOr(from, "columns", where)) n.columns = static_cast<int>(std::clamp(*columns, 1.0, 100.0));
    n.extra = others(from, {"id", "text", "cell", "columns"});
    return n;
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
    loom.controls = readList<Control>(from, "controls", readControl);
    if (from.contains("values")) needObject(from["values"], "values"), loom.values = from["values"];
    loom.presets = readList<Preset>(from, "presets", readPreset);
    loom.nodes = readList<Node>(from, "nodes", readNode);
    loom.links = readList<Link>(from, "links", readLink);
    loom.notes = readList<Note>(from, "notes", readNote);
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
