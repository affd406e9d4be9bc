#pragma once
// Solids with crumbs cut off them.
#include "breaking/BodyCuts.h"
#include "breaking/CrumbCells.h"

namespace seedloom {

struct Crumbled {
    SolidPieces pieces;
    Walls walls;
    std::vector<std::uint8_t> crumb;   ///< by piece: whether it is one
    std::vector<Index> body;           ///< by piece: what it was broken off, as bodiesOf counts
    std::vector<Index> largestOfBody;  ///< by body: the piece that most of it has become
    bool sound = true;                 ///< false where something was wrong to the last, as with a solid that was so before
};

/// Every body of the solid cut along the walls of the crumbs that reach it. What remains of it in several parts, those smaller than the largest crumb,
/// are crumbs too. Left out are crumbs of less than a ten thousandth of the whole's size, and those that would leave a sliver of themselves or of what
/// they lie in, an edge too short for its places to be told apart, a face that is not the same on both sides of a break, or a piece that is open or
/// touches or crosses itself.
Crumbled crumbled(const Geometry& solid, const std::vector<Crumb>& crumbs, const RunContext& run);

}  // namespace seedloom
