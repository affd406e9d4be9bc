#pragma once
// The pieces that a model is in, as the breaking operators take them.
#include "breaking/Pieces.h"
#include "operators/OperatorCall.h"

namespace seedloom {

/// Fails where there are no faces.
PieceList piecesOf(const OperatorCall& call, const Geometry& geometry);

/// The mean of a setting that may differ from face to face, over each piece.
std::vector<float> eachPiece(const Field<float>& values, const PieceList& pieces);

/// Those pieces that are kept, in their order and each with points of its own, with numbers without gaps in `piece`; curves, loose points and copies stay.
Geometry takePieces(const Geometry& geometry, const PieceList& pieces, const std::vector<std::uint8_t>& keep);

}  // namespace seedloom
