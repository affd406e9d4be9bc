#pragma once
// The pieces that a model is in, and how large they are.
#include "geometry/Geometry.h"

namespace seedloom {

struct PieceList {
    std::vector<Index> ofFace;  ///< numbers without gaps
    Index count = 0;
    std::vector<std::int32_t> number;  ///< by piece: what the face attribute `piece` calls it
};

/// By the face attribute `piece`; where there is none, by what hangs together.
PieceList piecesIn(const Geometry& geometry);

struct PieceMeasure {
    double size = 0;  ///< m³ where closed, else m²
    Vec3 centre;      ///< of gravity: of the volume where closed, else of the surface
    bool closed = false;
};
std::vector<PieceMeasure> measurePieces(const Geometry& geometry, const PieceList& pieces);

}  // namespace seedloom
