#pragma once
// The handles that a node has on the stage, and what dragging one writes into its settings.
#include "app/stage/HandleChain.h"
#include "geometry/Measures.h"
#include "graph/Loom.h"

#include <QtCore/QString>

#include <map>
#include <optional>

namespace seedloom::app {

struct NodeHandles {
    std::vector<Vec3> at;
    std::vector<std::optional<Vec3>> along;  ///< a unit vector where a handle only slides
    std::vector<QString> name;
    std::vector<std::array<Vec3, 2>> lines;  ///< drawn dashed between and around them
    std::vector<std::array<Vec3, 2>> drawn;  ///< lines that somebody drew
    std::vector<HandleChain> chains;
};

/// None for nodes without handles, skipped ones, and settings that take their value from elsewhere. `input` are the bounds of what goes in. `line`: of
/// drawn lines only that one has them.
NodeHandles handlesFor(const Node& node, const Bounds& input, std::optional<std::size_t> line = {});
/// Lines as they cut: what was drawn, and dashed what was drawn on. `extended`: curves with the attribute drawn_on; others give none.
void addCutLines(NodeHandles& to, const Geometry& extended);
/// As settings hold it: rounded to a millionth, so that files stay readable.
Json vectorJson(Vec3 v);
/// The way that a stroke of the node's brush went.
void addStroke(NodeHandles& to, const Node& node, std::size_t stroke);
/// The settings that change when handle `i` is dragged to a place; values are rounded to a millionth, so that files stay readable.
std::map<std::string, Json> movedHandle(const Node& node, const Bounds& input, int i, Vec3 to, std::optional<std::size_t> line = {});
/// The setting with a point put in behind that of a handle, with one beyond the end of its line (that handle's is the first or the last point), or without
/// it. Nothing where that can't be.
std::map<std::string, Json> withPoint(const Node& node, int behind, Vec3 at, std::optional<std::size_t> line = {});
std::map<std::string, Json> withEnd(const Node& node, int end, Vec3 at, std::optional<std::size_t> line = {});
std::map<std::string, Json> withoutPoint(const Node& node, int i, std::optional<std::size_t> line = {});

}  // namespace seedloom::app
