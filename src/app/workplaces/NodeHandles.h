#pragma once
// The handles that a node has on the stage, and what dragging one writes into its settings.
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
    bool chain = false;                      ///< points of a line: others can be put in between, and taken out
    bool closed = false;                     ///< the last goes on to the first
};

/// None for nodes without handles, skipped ones, and settings that take their value from elsewhere. `input` are the bounds of what goes in.
NodeHandles handlesFor(const Node& node, const Bounds& input);
/// Lines as they cut: what was drawn, and dashed what was drawn on. `extended`: curves with the attribute drawn_on; others give none.
void addCutLines(NodeHandles& to, const Geometry& extended);
/// The settings that change when handle `i` is dragged to a place; values are rounded to a millionth, so that files stay readable.
std::map<std::string, Json> movedHandle(const Node& node, const Bounds& input, int i, Vec3 to);
/// A point list with a point put in behind point `i`, or without point `i`. Nothing where that can't be.
std::optional<Json> withPoint(const Node& node, int i, Vec3 at);
std::optional<Json> withoutPoint(const Node& node, int i);

}  // namespace seedloom::app
