#pragma once
// Arranges flat charts in a square.
#include "geometry/Vec.h"

#include <span>
#include <vector>

namespace seedloom {

/// Where a chart goes: (x, y) → turn · (x, y) + move, with `turn` the image of the x axis, a unit vector.
struct ChartPlace {
    Vec2 turn{1, 0}, move{};
    Vec2 of(Vec2 p) const { return {p.x * turn.x - p.y * turn.y + move.x, p.x * turn.y + p.y * turn.x + move.y}; }
};

struct ChartPacking {
    std::vector<ChartPlace> places;  ///< per chart
    double side = 0;                 ///< of the square from 0, 0 that holds all, in the charts' units
};

/// Each chart is turned so that its bounds are least (the smallest rectangle around a convex hull has a side along the hull: Freeman, Shapira, 1975), with
/// the longer side along x; then they are laid on shelves by falling height, for the width that gives the least square. Charts keep `margin` × side from
/// each other and from the border. `charts` are the points of each. Precondition: 0 ≤ margin ≤ 0.1.
ChartPacking packCharts(const std::vector<std::vector<Vec2>>& charts, double margin);

}  // namespace seedloom
