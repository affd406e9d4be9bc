#pragma once
// What lies beside what: points along edges and curves, faces across edges.
#include "geometry/Geometry.h"

namespace seedloom {

/// For every point those it is joined to by an edge of a face or a stretch of a curve, each once, in rising order.
Rows pointNeighbours(const Topology& topology);
/// For every face those with which it shares an edge, each once, in rising order.
Rows faceNeighbours(const Topology& topology);
/// Points on edges that one face only uses, and ends of open curves.
std::vector<std::uint8_t> borderPoints(const Topology& topology);

}  // namespace seedloom
