// Writing documents: stable order of keys, one item or setting a line, so that version control shows readable changes.
#include "formats/LoomFile.h"
#include "formats/LoomItems.h"

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

/// Every line but the first moved in, so that an inner graph reads like a document.
std::string movedIn(const std::string& text) {
    std::string out;
    for (char c : text) {
        out += c;
        if (c == '\n') out += "      ";
    }
    return out;
}

std::string graphText(const Loom& inner);

std::string nodeText(const Node& n) {
    Json head = items::toJson(n);
    const Json settings = head["settings"];
    const bool ownGraph = head.erase("graph") > 0;
    head.erase("settings");
    std::string out = inlineText(head);
    out.pop_back();
    out += ", \"settings\": {";
    bool first = true;
    for (const auto& [key, value] : settings.items()) {
        out += first ? "\n" : ",\n";
        first = false;
        out += "      " + inlineText(Json(key)) + ": " + inlineText(value);
    }
    out += first ? "}" : "\n    }";
    if (ownGraph) out += ",\n      \"graph\": " + movedIn(graphText(*n.graph));
    return out + "}";
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
    std::string finish() const { return text_ + "\n}"; }

private:
    std::string text_ = "{\n";
};

std::string oneLine(const auto& item) { return inlineText(items::toJson(item)); }

/// What documents and inner graphs have in common, in this order.
void addGraph(Document& out, const Loom& loom) {
    out.list("nodes", loom.nodes, nodeText);
    out.list("links", loom.links, oneLine<Link>);
    if (!loom.notes.empty()) out.list("notes", loom.notes, oneLine<Note>);
    out.field("output", inlineText(loom.output));
    for (const auto& [key, value] : loom.extra.items()) out.keyed(inlineText(Json(key)), inlineText(value));
}

std::string graphText(const Loom& inner) {
    Document out;
    if (!inner.name.empty()) out.field("name", inlineText(inner.name));
    if (!inner.controls.empty()) out.list("controls", inner.controls, oneLine<Control>);
    if (!inner.values.empty()) out.field("values", inlineText(inner.values));
    if (!inner.presets.empty()) out.list("presets", inner.presets, oneLine<Preset>);
    addGraph(out, inner);
    return out.finish();
}

}  // namespace

std::string loomToText(const Loom& loom) {
    Document out;
    out.field("seedloom", std::to_string(kLoomFormat));
    out.field("name", inlineText(loom.name));
    out.list("controls", loom.controls, oneLine<Control>);
    if (!loom.values.empty()) out.field("values", inlineText(loom.values));
    out.list("presets", loom.presets, oneLine<Preset>);
    addGraph(out, loom);
    return out.finish() + "\n";
}

}  // namespace seedloom
