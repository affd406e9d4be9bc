#pragma once
// Elements that are marked, and how marks are drawn.
#include "scene/DrawScene.h"

#include <array>

namespace seedloom {

/// Marked elements: rows of one kind, or edges by their two points.
struct ElementMarks {
    Element element = Element::point;
    std::vector<Index> rows;
    std::vector<std::array<Index, 2>> edges;  ///< by their points, besides the rows
    bool empty() const { return rows.empty() && edges.empty(); }
    bool operator==(const ElementMarks&) const = default;
};

/// Marks as lines (pairs), dots and triangles over `geometry`; rows that do not exist are left out.
struct MarkShapes {
    std::vector<DrawScene::Vertex> lines, dots, triangles;
    Bounds bounds;
};
MarkShapes markShapes(const Geometry& geometry, const ElementMarks& marks);

}  // namespace seedloom
