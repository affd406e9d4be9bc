#pragma once
// A solid cut into pieces along walls.
#include "breaking/Walls.h"
#include "parallel/RunContext.h"

#include <functional>

namespace seedloom {

/// Where a face of the pieces comes from.
struct PieceFace {
    Index source;  ///< a face of the solid; of the walls where `inside`
    bool inside;
    bool turned;  ///< it looks against the wall's front
};

struct SolidPieces {
    Geometry geometry;             ///< closed pieces, each with points of its own, one after the other; face number `piece`, face tag `inside`
    std::vector<PieceFace> faces;  ///< by face
    std::vector<Index> cellOfPiece;
    double volume = 0;  ///< in m³, of what was cut: where no room is left between them, the pieces must add up to it
};

/// Every connected part of what is inside the solid, between the walls. Walls outside of it, and those that end inside and so part nothing, leave no
/// trace. What lies in no cell is left out. `cellAt` tells the cell of a part that no wall bounds, by a place on its surface. Faces that no wall meets
/// stay bit for bit; of those that are cut, corners mix what the old face's corners hold. Both sides of a wall have the same faces, turned over. Pieces
/// are numbered by cell, then by the first of their faces in the solid's order. Precondition: closed and consistently wound, one body (see
/// bodiesOf; cutBodies takes any). Method: exact arrangement (arrange); around each edge faces follow each other by angle, and two sides that face each other
/// there bound one part; sides vote by the length of their edges (after Zhou, Grinspun, Zorin, Jacobson, "Mesh Arrangements for Solid Geometry", ACM TOG 35(4),
/// 2016). Cost: O(n log n) and about 50 µs for each triangle that is cut.
/// `size`: places within a millionth of it are one; the solid's own, or that of a whole whose parts must be cut alike.
SolidPieces cutIntoPieces(const Geometry& solid, const Walls& walls, const std::function<Index(Vec3)>& cellAt, double size, const RunContext& run);

}  // namespace seedloom
