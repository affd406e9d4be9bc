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

}  // namespace seedloom::test
