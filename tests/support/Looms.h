#pragma once
// Small looms for tests.
#include "graph/Loom.h"

namespace seedloom::test {

inline Node node(const std::string& id, const std::string& op, Cell cell, Json settings = Json::object()) {
    Node n;
    n.id = id;
    n.op = op;
    n.cell = cell;
    n.settings = std::move(settings);
    return n;
}

inline Link linked(const std::string& from, const std::string& to, const std::string& in = {}) { return {from, "", to, in, Json::object()}; }

inline Control heightControl(double least, double most) {
    Control height;
    height.id = "height";
    height.label = "Height";
    height.fallback = 1.0;
    height.min = least;
    height.max = most;
    return height;
}

/// What is inside of a container: in → the given nodes in a row → result.
inline InnerGraph row(std::vector<Node> nodes) {
    Loom inner;
    inner.nodes.push_back(node("part", "inner_input", {0, 0}));
    std::string before = "part";
    for (Node& n : nodes) {
        inner.links.push_back(linked(before, n.id));
        before = n.id;
        inner.nodes.push_back(std::move(n));
    }
    inner.nodes.push_back(node("result", "output", {9, 0}));
    inner.links.push_back(linked(before, "result"));
    inner.output = "result";
    return InnerGraph(std::move(inner));
}

/// line → even → revolve → out, with a control for the height.
inline Loom turnedPost() {
    Loom loom;
    loom.name = "Post";
    loom.controls = {heightControl(0.2, 3.0)};
    loom.nodes = {node("pole", "point_list", {0, 0}, {{"points", {{0.3, 0, 0}, {0.2, 1, 0}}}}), node("even", "resample", {1, 0}, {{"count", 9}}),
                  node("body", "revolve", {2, 0}, {{"height_scale", {{"control", "height"}}}}), node("out", "output", {3, 0})};
    loom.links = {linked("pole", "even"), linked("even", "body"), linked("body", "out")};
    loom.output = "out";
    return loom;
}

}  // namespace seedloom::test
