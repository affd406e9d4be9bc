#pragma once
// Solids of several bodies cut into pieces along walls.
#include "breaking/Bodies.h"
#include "breaking/SolidCells.h"
#include "geometry/BoxTree.h"

namespace seedloom {

/// Each body of a solid (see bodiesOf) cut by itself, along the walls that reach it: bodies may touch, as pieces do that were broken before, or reach into
/// each other. Where they touch with the same faces, they are cut alike.
class BodyCuts {
public:
    BodyCuts(const Geometry& solid, std::function<Index(Vec3)> cellAt, const RunContext& run);

    /// Cuts along these walls; bodies that none but the same walls reach as the time before stay as they were cut then.
    void cut(const Walls& walls);

    /// By piece, the number of its body.
    std::vector<Index> bodyOfPiece() const;
    /// The pieces of one body; sources of inside faces are those of the walls.
    const SolidPieces& piecesOf(std::size_t body) const { return bodies_[body].pieces; }
    /// All of them, body by body; sources are those of the solid, and of the walls.
    SolidPieces pieces() const;

private:
    struct CutBody {
        Body body;
        Box box;
        Walls near;
        std::vector<Index> wallFaces;  ///< which of the walls' these are
        bool cut = false;
        SolidPieces pieces;
    };
    std::vector<CutBody> bodies_;
    std::function<Index(Vec3)> cellAt_;
    RunContext run_;
    double size_;
};

/// All at once.
SolidPieces cutBodies(const Geometry& solid, const Walls& walls, const std::function<Index(Vec3)>& cellAt, const RunContext& run);

}  // namespace seedloom
