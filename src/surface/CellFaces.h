#pragma once
#include <array>
#include <vector>

namespace seedloom {

/// The twelve edges of a cell as pairs of its corners; corner bits are x 1, y 2, z 4.
inline constexpr std::array<std::array<int, 2>, 12> kCellEdges{
    {{0, 1}, {2, 3}, {4, 5}, {6, 7}, {0, 2}, {1, 3}, {4, 6}, {5, 7}, {0, 4}, {1, 5}, {2, 6}, {3, 7}}};

struct CellRing {
    std::vector<int> edges;
    /// Two corners that are no neighbours lie on one side of the cell. A triangle's side between them could run in the neighbouring cell as well: such a
    /// ring is filled from a point in its middle.
    bool needsMiddle = false;
};

/// For each set of corners inside (bit i: corner i), the faces between inside and outside as rings of cell edges, wound anticlockwise seen from the
/// outside. Where two opposite corners of a cell's side are inside, they are kept apart, on both cells of that side alike: so faces of neighbouring
/// cells fit, and the surface is closed.
const std::array<std::vector<CellRing>, 256>& cellFaces();

}  // namespace seedloom
