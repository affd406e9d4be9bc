#pragma once
// The inner connections of a chart, where it is cut to a disk, and how it is split.
#include "geometry/Geometry.h"

#include <optional>

namespace seedloom {

/// An edge inside of a chart, between two of its faces: the corners from which it runs in each, by their number in the geometry.
struct InnerEdge {
    Index edge, cornerA, cornerB;
};

/// Faces with the edges that hold them together. Faces are counted from 0 within the chart.
struct ChartFaces {
    std::vector<Index> faces;
    std::vector<InnerEdge> inner;
};

/// For each corner of the chart's faces, face after face, its vertex in the disk, from 0. The chart is opened along the fewest edges of the inner ones that
/// a spanning tree over its faces leaves (Gu, Gortler, Hoppe, "Geometry Images", SIGGRAPH 2002, section 3.1). nullopt for a closed surface like a ball,
/// which has no border to open it from.
std::optional<std::vector<Index>> diskVertices(const Geometry& geometry, const ChartFaces& chart);

/// Two connected parts of a connected chart of two faces or more: what is nearer to the one or the other of two far ends.
std::pair<ChartFaces, ChartFaces> splitChart(const Geometry& geometry, const ChartFaces& chart);

}  // namespace seedloom
