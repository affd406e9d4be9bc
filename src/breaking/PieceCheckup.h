#pragma once
// Soundness of a model in pieces, and figures of them.
#include "geometry/Checkup.h"

#include <optional>

namespace seedloom {

/// Whether faces have numbers of at least two pieces, none of which shares a point with another: then places and faces that pieces have in common, as those
/// that fit together do, say nothing against them.
bool inPieces(const Geometry& geometry);

struct PieceFigures {
    std::size_t count = 0;
    bool closed = false;  ///< all of them: sizes are m³; else m²
    double smallest = 0, median = 0, largest = 0;
    double sliver = 0;        ///< pieces smaller than this are slivers: a thousandth of the median
    std::size_t slivers = 0;  ///< how many are
    std::vector<Index> facesOfSlivers;
};
/// Nothing where it is not in pieces.
std::optional<PieceFigures> pieceFigures(const Geometry& geometry);

/// findingsOf, but doubled points count within a piece only, and that pieces touch is not told, as all do that fit together; and `slivers`, with their faces.
std::vector<Finding> findingsOfPieces(const Geometry& geometry, const PieceFigures& figures, bool intersections);

/// Points on top of an earlier one of the same piece.
std::vector<Index> doubledInPieces(const Geometry& geometry);

}  // namespace seedloom
