#include "surface/CellFaces.h"

#include <algorithm>

namespace seedloom {

namespace {

/// The corners of each side, anticlockwise seen from outside of the cell.
constexpr std::array<std::array<int, 4>, 6> kSides{{{0, 4, 6, 2}, {1, 3, 7, 5}, {0, 1, 5, 4}, {2, 6, 7, 3}, {0, 2, 3, 1}, {4, 5, 7, 6}}};

int edgeBetween(int a, int b) {
    for (int e = 0; e < 12; ++e)
        if ((kCellEdges[std::size_t(e)][0] == a && kCellEdges[std::size_t(e)][1] == b) ||
            (kCellEdges[std::size_t(e)][0] == b && kCellEdges[std::size_t(e)][1] == a))
            return e;
    return -1;
}

/// On each side, stretches from the edge where the ring of its corners leaves the inside back to the one where it came in before.
std::array<int, 12> stretches(unsigned inside) {
    std::array<int, 12> next;
    next.fill(-1);
    for (const auto& side : kSides)
        for (std::size_t k = 0; k < 4; ++k) {
            const int a = side[k], b = side[(k + 1) % 4];
            if (!(inside >> a & 1) || (inside >> b & 1)) continue;
            // Back from the corner that is left, to where this run of inside corners began.
            std::size_t from = k;
            while (inside >> side[(from + 3) % 4] & 1) from = (from + 3) % 4;
            next[std::size_t(edgeBetween(side[(from + 3) % 4], side[from]))] = edgeBetween(a, b);
        }
    return next;
}

bool onSide(int edge, const std::array<int, 4>& side) {
    return std::all_of(kCellEdges[std::size_t(edge)].begin(), kCellEdges[std::size_t(edge)].end(),
                       [&](int corner) { return std::find(side.begin(), side.end(), corner) != side.end(); });
}

bool meetsASideTwice(const std::vector<int>& ring) {
    for (std::size_t i = 0; i < ring.size(); ++i)
        for (std::size_t k = i + 2; k < ring.size() - (i == 0); ++k)
            for (const auto& side : kSides)
                if (onSide(ring[i], side) && onSide(ring[k], side)) return true;
    return false;
}

std::array<std::vector<CellRing>, 256> makeTable() {
    std::array<std::vector<CellRing>, 256> out;
    for (unsigned inside = 0; inside < 256; ++inside) {
        const auto next = stretches(inside);
        std::array<bool, 12> done{};
        for (int e = 0; e < 12; ++e) {
            if (next[std::size_t(e)] < 0 || done[std::size_t(e)]) continue;
            std::vector<int> ring;
            for (int at = e; !done[std::size_t(at)]; at = next[std::size_t(at)]) done[std::size_t(at)] = true, ring.push_back(at);
            out[inside].push_back({ring, meetsASideTwice(ring)});
        }
    }
    return out;
}

}  // namespace

const std::array<std::vector<CellRing>, 256>& cellFaces() {
    static const auto table = makeTable();
    return table;
}

}  // namespace seedloom
