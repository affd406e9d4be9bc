#pragma once
// Walls between cells: what a solid is cut along.
#include "geometry/Measures.h"

#include <array>
#include <vector>

namespace seedloom {

/// A place that lies in no cell: room between pieces.
inline constexpr Index kNoCell = ~Index{0};

/// Flat convex polygons that share their points, in doubles: before they are rounded, made fine and uneven.
struct FlatWalls {
    std::vector<std::array<double, 3>> points;
    struct Wall {
        std::vector<Index> ring;     ///< anticlockwise seen from the front
        std::array<Index, 2> cells;  ///< in front of it, behind it
    };
    std::vector<Wall> walls;
};

/// Walls as faces. Those of one group meet in common points and edges only.
struct Walls {
    Geometry geometry;
    std::vector<std::array<Index, 2>> cells;  ///< by face: the cell in front of it, and the one behind
    std::vector<Index> wall;                  ///< by face: the wall that it is a part of
    std::vector<Index> group;                 ///< by face; empty: all are of one
};

}  // namespace seedloom
