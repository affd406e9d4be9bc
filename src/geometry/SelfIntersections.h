#pragma once
#include "geometry/BoxTree.h"
#include "parallel/RunContext.h"

namespace seedloom {

using TrianglePairs = std::vector<std::pair<Index, Index>>;

struct Crossings {
    std::size_t pairs = 0;             ///< of triangles of one piece: a fault
    std::vector<Index> faces;          ///< theirs, in order
    std::size_t touching = 0;          ///< pairs of pieces that touch or stand in each other: shells on a rock, planks on a beam
    std::vector<Index> touchingFaces;  ///< those where they do, in order
};

/// Pairs of triangles that cross or overlap elsewhere than in common points and edges. Points at the same place count as common; triangles without area are
/// left out. Faces of one piece are those that common points join. Exact predicates (CGAL). Cost: about 1 µs a triangle when nothing crosses.
Crossings crossingsOf(const Geometry& geometry, const RunContext& run = RunContext());
/// The same where the piece of each point is known otherwise.
Crossings crossingsOf(const Geometry& geometry, const std::vector<Index>& pieceOfPoint, const RunContext& run = RunContext());
/// The same by triangles, in order, the smaller number first, of those in the tree of their boxes; `asked` tells which pairs are looked at, all without it.
/// `others` gets the pairs that are not, though their boxes meet, in the same order.
TrianglePairs crossingTriangles(const Geometry& geometry, const Triangles& triangles, const BoxTree& tree, const std::function<bool(Index, Index)>& asked,
                                const RunContext& run, TrianglePairs* others = nullptr);
/// Only how many pairs of triangles of one piece there are: pieces that stand in each other, as planks on a beam, cost nothing then.
std::size_t crossingsWithinPieces(const Geometry& geometry, const RunContext& run = RunContext());
/// The faces of these pairs, in order.
std::vector<Index> facesCrossingWithinPieces(const Geometry& geometry, const RunContext& run = RunContext());
/// All that crosses, as if everything were one piece.
Crossings crossingsOfAll(const Geometry& geometry, const RunContext& run = RunContext());

}  // namespace seedloom
