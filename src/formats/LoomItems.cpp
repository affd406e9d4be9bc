#include "formats/LoomItems.h"

#include "operators/flow/Containers.h"

#include <fmt/format.h>

#include <set>

namespace seedloom::items {

static const Json& member(const Json& from, const char* key, const std::string& where) {
    const auto it = from.find(key);
    if (it == from.end()) throw Wrong{where, fmt::format("'{}' is missing", key)};
    return *it;
}

std::string text(const Json& value, const std::string& where) {
    if (!value.is_string()) throw Wrong{where, "a text was expected"};
    return value.get<std::string>();
}

std::string textOr(const Json& from, const char* key, const std::string& where, std::string fallback) {
    const auto it = from.find(key);
    return it == from.end() ? std::move(fallback) : text(*it, where + "." + key);
}

static std::optional<double> numberOr(const Json& from, const char* key, const std::string& where) {
    const auto it = from.find(key);
    if (it == from.end()) return {};
    if (!it->is_number()) throw Wrong{where + "." + key, "a number was expected"};
    return it->get<double>();
}

static std::vector<std::string> textsOr(const Json& from, const char* key, const std::string& where) {
    std::vector<std::string> out;
    const auto it = from.find(key);
    if (it == from.end()) return out;
    if (!it->is_array()) throw Wrong{where + "." + key, "a list of texts was expected"};
    for (const Json& word : *it) out.push_back(text(word, where + "." + key));
    return out;
}

void needObject(const Json& value, const std::string& where) {
    if (!value.is_object()) throw Wrong{where, "an object { } was expected"};
}

Json others(const Json& from, std::initializer_list<const char*> known) {
    Json out = Json::object();
    for (const auto& [key, value] : from.items())
        if (std::find_if(known.begin(), known.end(), [&, k = key](const char* c) { return k == c; }) == known.end()) out[key] = value;
    return out;
}

static Cell cellOr(const Json& from, const std::string& where) {
    const auto it = from.find("cell");
    if (it == from.end()) return {};
    if (!it->is_array() || it->size() != 2 || !(*it)[0].is_number_integer() || !(*it)[1].is_number_integer())
        throw Wrong{where + ".cell", "two whole numbers [column, row] were expected"};
    const auto bounded = [](const Json& v) { return static_cast<int>(std::clamp<std::int64_t>(v.get<std::int64_t>(), -100000, 100000)); };
    return {bounded((*it)[0]), bounded((*it)[1])};
}

template <> Control read<Control>(const Json& from, const std::string& where) {
    needObject(from, where);
    Control c;
    c.id = text(member(from, "id", where), where + ".id");
    c.label = textOr(from, "label", where, c.id);
    c.section = textOr(from, "section", where);
    c.type = textOr(from, "type", where, "number");
    c.fallback = from.contains("default") ? from["default"] : Json(0.0);
    c.min = numberOr(from, "min", where);
    c.max = numberOr(from, "max", where);
    c.low = numberOr(from, "low", where);
    c.high = numberOr(from, "high", where);
    c.step = numberOr(from, "step", where);
    c.unit = textOr(from, "unit", where);
    c.help = textOr(from, "help", where);
    c.choices = textsOr(from, "choices", where);
    c.pictures = textsOr(from, "pictures", where);
    c.shownWhen = textOr(from, "shown_when", where);
    c.allowedWhen = textOr(from, "allowed_when", where);
    c.extra = others(from, {"id", "label", "section", "type", "default", "min", "max", "low", "high", "step", "unit", "help", "choices", "pictures",
                            "shown_when", "allowed_when"});
    return c;
}

template <> Preset read<Preset>(const Json& from, const std::string& where) {
    needObject(from, where);
    Preset p;
    p.name = text(member(from, "name", where), where + ".name");
    if (from.contains("values")) needObject(from["values"], where + ".values"), p.values = from["values"].get<std::map<std::string, Json>>();
    p.extra = others(from, {"name", "values"});
    return p;
}

template <> Node read<Node>(const Json& from, const std::string& where) {
    needObject(from, where);
    Node n;
    n.id = text(member(from, "id", where), where + ".id");
    n.op = text(member(from, "op", where), where + ".op");
    n.label = textOr(from, "label", where);
    n.cell = cellOr(from, where);
    if (from.contains("settings")) needObject(from["settings"], where + ".settings"), n.settings = SharedJson(from["settings"]);
    if (from.contains("skip")) {
        if (!from["skip"].is_boolean()) throw Wrong{where + ".skip", "true or false was expected"};
        n.skipped = from["skip"].get<bool>();
    }
    if (const auto tint = numberOr(from, "tint", where)) n.tint = static_cast<int>(std::clamp(*tint, 0.0, double(kTints)));
    if (from.contains("graph")) n.graph = InnerGraph(read<Loom>(from["graph"], where + ".graph"));
    n.extra = others(from, {"id", "op", "label", "cell", "settings", "skip", "tint", "graph"});
    // The file of an asset is a setting like any other; its name and version in the file are for readers, and for telling what has changed since.
    if (n.op == kAsset && n.extra.contains(kAsset)) {
        Json& asset = n.extra[kAsset];
        needObject(asset, where + ".asset");
        if (asset.contains("file")) n.settings[kAsset] = textOr(asset, "file", where + ".asset");
        asset.erase("file");
        if (asset.empty()) n.extra.erase(kAsset);
    }
    return n;
}

template <> Link read<Link>(const Json& from, const std::string& where) {
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
    if (const auto cut = from.find("cut"); cut != from.end()) {
        if (!cut->is_boolean()) throw Wrong{where + ".cut", "it is true or false"};
        l.cut = cut->get<bool>();
    }
    l.extra = others(from, {"from", "to", "out", "in", "cut"});
    return l;
}

template <> Note read<Note>(const Json& from, const std::string& where) {
    needObject(from, where);
    Note n;
    n.id = textOr(from, "id", where);
    n.text = textOr(from, "text", where);
    n.cell = cellOr(from, where);
    if (const auto columns = numberOr(from, "columns", where)) n.columns = static_cast<int>(std::clamp(*columns, 1.0, 100.0));
    n.extra = others(from, {"id", "text", "cell", "columns"});
    return n;
}

namespace {

const Json& listOr(const Json& from, const char* key, const std::string& where) {
    static const Json none = Json::array();
    const auto it = from.find(key);
    if (it == from.end()) return none;
    if (!it->is_array()) throw Wrong{where + key, "a list [ ] was expected"};
    return *it;
}

template <class T> std::vector<T> readList(const Json& from, const char* key, const std::string& where) {
    std::vector<T> out;
    const Json& list = listOr(from, key, where);
    for (std::size_t i = 0; i < list.size(); ++i) out.push_back(read<T>(list[i], fmt::format("{}{}[{}]", where, key, i)));
    return out;
}

template <class T> void needUnique(const std::vector<T>& items, const std::string& what, auto&& idOf) {
    std::set<std::string> seen;
    for (const T& item : items)
        if (!seen.insert(idOf(item)).second) throw Wrong{what, fmt::format("'{}' is there twice", idOf(item))};
}

}  // namespace

template <> Loom read<Loom>(const Json& from, const std::string& where) {
    needObject(from, where);
    const std::string in = where.empty() ? std::string() : where + ".";
    Loom loom;
    loom.name = textOr(from, "name", where);
    loom.controls = readList<Control>(from, "controls", in);
    if (from.contains("values")) needObject(from["values"], in + "values"), loom.values = from["values"].get<std::map<std::string, Json>>();
    loom.presets = readList<Preset>(from, "presets", in);
    loom.nodes = readList<Node>(from, "nodes", in);
    loom.links = readList<Link>(from, "links", in);
    loom.notes = readList<Note>(from, "notes", in);
    // Edits name notes by their ids.
    for (std::size_t i = 0; i < loom.notes.size(); ++i)
        for (int k = 1; loom.notes[i].id.empty() || loom.note(loom.notes[i].id) != &loom.notes[i]; ++k) loom.notes[i].id = fmt::format("note_{}", k);
    loom.output = textOr(from, "output", where);
    loom.extra = others(from, {"seedloom", "name", "controls", "values", "presets", "nodes", "links", "notes", "output"});
    needUnique(loom.nodes, in + "nodes", [](const Node& n) { return n.id; });
    needUnique(loom.controls, in + "controls", [](const Control& c) { return c.id; });
    return loom;
}

static void addOthers(Json& to, const Json& extra) {
    for (const auto& [key, value] : extra.items()) to[key] = value;
}

Json toJson(const Control& c) {
    Json out{{"id", c.id}, {"label", c.label}, {"type", c.type}, {"default", c.fallback}};
    const auto limit = [&](double v) { return c.type == "integer" && std::abs(v) < 9e15 ? Json(static_cast<std::int64_t>(v)) : Json(v); };
    if (c.min) out["min"] = limit(*c.min);
    if (c.max) out["max"] = limit(*c.max);
    if (c.low) out["low"] = limit(*c.low);
    if (c.high) out["high"] = limit(*c.high);
    if (c.step) out["step"] = *c.step;
    if (!c.choices.empty()) out["choices"] = c.choices;
    if (!c.pictures.empty()) out["pictures"] = c.pictures;
    if (!c.unit.empty()) out["unit"] = c.unit;
    if (!c.section.empty()) out["section"] = c.section;
    if (!c.help.empty()) out["help"] = c.help;
    if (!c.shownWhen.empty()) out["shown_when"] = c.shownWhen;
    if (!c.allowedWhen.empty()) out["allowed_when"] = c.allowedWhen;
    addOthers(out, c.extra);
    return out;
}

Json toJson(const Preset& p) {
    Json out{{"name", p.name}, {"values", p.values}};
    addOthers(out, p.extra);
    return out;
}

Json toJson(const Link& l) {
    if (l.out.empty() && l.in.empty() && !l.cut && l.extra.empty()) return Json::array({l.from, l.to});
    Json out{{"from", l.from}};
    if (!l.out.empty()) out["out"] = l.out;
    out["to"] = l.to;
    if (!l.in.empty()) out["in"] = l.in;
    if (l.cut) out["cut"] = true;
    addOthers(out, l.extra);
    return out;
}

Json toJson(const Note& n) {
    Json out{{"id", n.id}, {"text", n.text}, {"cell", {n.cell.column, n.cell.row}}, {"columns", n.columns}};
    addOthers(out, n.extra);
    return out;
}

/// An asset's graph stays in its own file.
static void addAsset(Json& out, const Node& n) {
    const auto file = n.settings.find(kAsset);
    if (file == n.settings.end() || !file->is_string()) return;
    Json asset{{"file", *file}};
    addOthers(asset, n.extra.value(kAsset, Json::object()));
    out["settings"].erase(kAsset);
    out.erase(kAsset);  // last, wherever it was read
    out[kAsset] = std::move(asset);
}

Json toJson(const Node& n) {
    Json out{{"id", n.id}, {"op", n.op}};
    if (!n.label.empty()) out["label"] = n.label;
    out["cell"] = {n.cell.column, n.cell.row};
    if (n.skipped) out["skip"] = true;
    if (n.tint > 0) out["tint"] = n.tint;
    addOthers(out, n.extra);
    out["settings"] = n.settings.get();
    if (n.op == kAsset) addAsset(out, n);
    else if (n.graph) out["graph"] = toJson(*n.graph);
    return out;
}

Json toJson(const Loom& inner) {
    Json out = Json::object();
    const auto list = [&](const char* key, const auto& items, bool always) {
        if (items.empty() && !always) return;
        Json& to = out[key] = Json::array();
        for (const auto& item : items) to.push_back(toJson(item));
    };
    if (!inner.name.empty()) out["name"] = inner.name;
    list("controls", inner.controls, false);
    if (!inner.values.empty()) out["values"] = inner.values;
    list("presets", inner.presets, false);
    list("nodes", inner.nodes, true);
    list("links", inner.links, true);
    list("notes", inner.notes, false);
    out["output"] = inner.output;
    addOthers(out, inner.extra);
    return out;
}

}  // namespace seedloom::items
