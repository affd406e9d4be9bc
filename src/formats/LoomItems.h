#pragma once
// The parts of a loom as JSON, one by one: shared by documents, journals and the clipboard.
#include "graph/Loom.h"

namespace seedloom::items {

/// Thrown where JSON is not what was expected; `where` is a path such as nodes[3].settings. Caught inside formats/ only.
struct Wrong {
    std::string where, text;
};

std::string text(const Json& value, const std::string& where);
std::string textOr(const Json& from, const char* key, const std::string& where, std::string fallback = {});
void needObject(const Json& value, const std::string& where);
/// Members whose keys are not among `known`.
Json others(const Json& from, std::initializer_list<const char*> known);

/// One of Control, Preset, Node, Link, Note, or Loom (a document, or the graph inside a node). Throws Wrong.
template <class T> T read(const Json& from, const std::string& where);
template <> Control read<Control>(const Json& from, const std::string& where);
template <> Preset read<Preset>(const Json& from, const std::string& where);
template <> Node read<Node>(const Json& from, const std::string& where);
template <> Link read<Link>(const Json& from, const std::string& where);
template <> Note read<Note>(const Json& from, const std::string& where);
template <> Loom read<Loom>(const Json& from, const std::string& where);

Json toJson(const Control& control);
Json toJson(const Preset& preset);
Json toJson(const Node& node);
Json toJson(const Link& link);
Json toJson(const Note& note);
/// The graph inside a node.
Json toJson(const Loom& inner);

}  // namespace seedloom::items
