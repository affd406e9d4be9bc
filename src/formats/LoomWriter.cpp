// Writing documents: stable order of keys, one item or setting a line, so that version control shows readable changes.
#include "formats/LoomFile.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// One line, with a space after commas and colons.
void writeInline(std::string& to, const Json& value) {
    if (value.is_object() || value.is_array()) {
        const bool object = value.is_object();
        to += object ? '{' : '[';
        bool first = true;
        for (const auto& [key, part] : value.items()) {
            if (!first) to += ", ";
            first = false;
            if (object) to += Json(key).dump(-1, ' ', false, Json::error_handler_t::replace) + ": ";
            writeInline(to, part);
        }
        to += object ? '}' : ']';
    } else {
        to += value.dump(-1, ' ', false, Json::error_handler_t::replace);
    }
}

std::string inlineText(const Json& value) {
    std::string out;
    writeInline(out, value);
    return out;
}

void addOthers(Json& to, const Json& extra) {
    for (const auto& [key, value] : extra.items()) to[key] = value;
}

Json controlJson(const Control& c) {
    Json out{{"id", c.id}, {"label", c.label}, {"type", c.type}, {"default", c.fallback}};
    const auto limit = [&](double v) { return c.type == "integer" && std::abs(v) < 9e15 ? Json(static_cast<std::int64_t>(v)) : Json(v); };
    if (c.min) out["min"] = limit(*c.min);
    if (c.max) out["max"] = limit(*c.max);
    if (!c.choices.empty()) out["choices"] = c.choices;
    if (!c.unit.empty()) out["unit"] = c.unit;
    if (!c.section.empty()) out["section"] = c.section;
    if (!c.help.empty()) out["help"] = c.help;
    addOthers(out, c.extra);
    return out;
}

Json presetJson(const Preset& p) {
    Json out{{"name", p.name}, {"values", p.values}};
    addOthers(out, p.extra);
    return out;
}

Json linkJson(const Link& l) {
    if (l.out.empty() && l.in.empty() && l.extra.empty()) return Json::array({l.from, l.to});
    Json out{{"from", l.from}};
    if (!l.out.empty()) out["out"] = l.out;
    out["to"] = l.to;
    if (!l.in.empty()) out["in"] = l.in;
    addOthers(out, l.extra);
    return out;
}

Json noteJson(const Note& n) {
    Json out{{"id", n.id}, {"text", n.text}, {"cell", {n.cell.column, n.cell.row}}, {"columns", n.columns}};
    addOthers(out, n.extra);
    return out;
}

std::string nodeText(const Node& n) {
    Json head{{"id", n.id}, {"op", n.op}};
    if (!n.label.empty()) head["label"] = n.label;
    head["cell"] = {n.cell.column, n.cell.row};
    if (n.skipped) head["skip"] = true;
    addOthers(head, n.extra);
    std::string out = inlineText(head);
    out.pop_back();
    out += ", \"settings\": {";
    bool first = true;
    for (const auto& [key, value] : n.settings.items()) {
        out += first ? "\n" : ",\n";
        first = false;
        out += "      " + inlineText(Json(key)) + ": " + inlineText(value);
    }
    return out + (first ? "}}" : "\n    }}");
}

class Document {
public:
    void field(const char* key, const std::string& text) { keyed(fmt::format("\"{}\"", key), text); }
    /// `key` as JSON text, quotes included.
    void keyed(const std::string& key, const std::string& text) { text_ += fmt::format("{}  {}: {}", text_.size() > 2 ? ",\n" : "", key, text); }
    template <class T, class Write> void list(const char* key, const std::vector<T>& items, Write&& write) {
        std::string text = "[";
        for (std::size_t i = 0; i < items.size(); ++i) text += (i ? ",\n    " : "\n    ") + write(items[i]);
        field(key, text + (items.empty() ? "]" : "\n  ]"));
    }
    std::string finish() const { return text_ + "\n}\n"; }

private:
    std::string text_ = "{\n";
};

}  // namespace

std::string loomToText(const Loom& loom) {
    Document out;
    const auto oneLine = [](auto toJson) { return [toJson](const auto& item) { return inlineText(toJson(item)); }; };
    out.field("seedloom", std::to_string(kLoomFormat));
    out.field("name", inlineText(loom.name));
    out.list("controls", loom.controls, oneLine(controlJson));
    if (!loom.values.empty()) out.field("values", inlineText(loom.values));
    out.list("presets", loom.presets, oneLine(presetJson));
    out.list("nodes", loom.nodes, nodeText);
    out.list("links", loom.links, oneLine(linkJson));
    if (!loom.notes.empty()) out.list("notes", loom.notes, oneLine(noteJson));
    out.field("output", inlineText(loom.output));
    for (const auto& [key, value] : loom.extra.items()) out.keyed(inlineText(Json(key)), inlineText(value));
    return out.finish();
}

}  // namespace seedloom
