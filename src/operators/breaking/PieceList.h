#pragma once
// The pieces that a model is in, as the breaking operators take them.
#include "operators/OperatorCall.h"

namespace seedloom {

struct PieceList {
    std::vector<Index> ofFace;  ///< numbers without gaps
    Index count = 0;
    std::vector<std::int32_t> number;  ///< by piece: what the face attribute `piece` calls it
};

/// By the face attribute `piece`; where there is none, by what hangs together. Fails where there are no faces.
PieceList piecesOf(const OperatorCall& call, const Geometry& geometry);

struct PieceMeasure {
    double size = 0;  ///< m³ where closed, else m²
    Vec3 centre;      ///< of gravity: of the volume where closed, else of the surface
    bool closed = false;
};
std::vector<PieceMeasure> measurePieces(const Geometry& geometry, const PieceList& pieces);

/// The mean of a setting that may differ from face to face, over each piece.
std::vector<float> eachPiece(const Field<float>& values, const PieceList& pieces);

/// Those pieces that are kept, in their order and each with points of its own, with numbers without gaps in `piece`; curves, loose points and copies stay.
Geometry takePieces(const Geometry& geometry, const PieceList& pieces, const std::vector<std::uint8_t>& keep);

}  // namespace seedloom
