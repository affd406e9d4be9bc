#include "breaking/PartedCells.h"

#include "geometry/Measures.h"

#include <map>

namespace seedloom {

std::size_t piecesOfSeveralCells(const SolidPieces& pieces, const Walls& walls) {
    constexpr double kRounding = 0.01;
    const Geometry& g = pieces.geometry;
    const auto* piece = g.values<std::int32_t>(Element::face, "piece");
    std::vector<std::map<Index, double>> area(pieces.cellOfPiece.size());
    for (Index f = 0; piece && f < g.faceCount(); ++f)
        if (const PieceFace& face = pieces.faces[f]; face.inside)
            area[std::size_t((*piece)[f])][walls.cells[face.source][face.turned ? 0 : 1]] += double(length(areaVector(g.topology().face(f), g.positions())));
    std::size_t several = 0;
    for (const auto& cells : area) {
        double all = 0, most = 0;
        for (const auto& [cell, a] : cells) all += a, most = std::max(most, a);
        several += all - most > kRounding * all;
    }
    return several;
}

}  // namespace seedloom
