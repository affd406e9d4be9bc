#pragma once
// Facts about the soundness of a geometry.
#include "geometry/Geometry.h"

#include <span>

namespace seedloom {

struct Checkup {
    bool closed = false;             ///< has faces, and no edge belongs to one face only
    bool manifold = false;           ///< no edge of more than two faces, no point where separate fans touch
    bool consistentWinding = false;  ///< neighbouring faces run along their common edge in opposite directions
    std::size_t openEdges = 0;
    std::size_t nonmanifoldEdges = 0;
    std::size_t nonmanifoldPoints = 0;
    std::size_t degenerateFaces = 0;  ///< under three different points, or no area
    std::size_t doubledPoints = 0;    ///< points on top of an earlier one (within a millionth of the size)
    std::size_t nonFinitePoints = 0;
    double area = 0;    ///< m²
    double volume = 0;  ///< m³, signed; only meaningful where closed

    /// A closed, manifold, consistently wound solid without degenerate faces, doubled points or inside-out volume.
    bool sound() const { return closed && manifold && consistentWinding && degenerateFaces == 0 && doubledPoints == 0 && nonFinitePoints == 0 && volume > 0; }
};

/// Cost: O(points + corners). Works on anything.
Checkup checkupOf(const Geometry& geometry);

/// Under three different points, or no area: a height under 10⁻⁶ of the longest side.
bool hasNoArea(std::span<const Index> face, std::span<const Vec3> positions);

/// Points whose corners fall into more than one fan of faces joined by edges, in order: where parts only touch.
std::vector<Index> touchingPoints(const Topology& topology);

/// Something to be told of a geometry, and where it is: what keeps it from being a sound solid, or what only should be known.
struct Finding {
    /// open_edges, nonmanifold_edges, nonmanifold_points, winding, degenerate_faces, doubled_points, non_finite_points, inside_out,
    /// self_intersections (pairs of triangles of one piece), shading_breaks (long thin faces across a smooth surface) and touching_pieces (pairs of
    /// pieces): the last two are no faults.
    std::string code;
    std::size_t count = 0;
    Element element = Element::point;         ///< of `rows`
    std::vector<Index> rows;                  ///< the elements concerned, at most kMostFindingRows
    std::vector<std::array<Index, 2>> edges;  ///< for findings about edges: their points, at most as many

    bool fault() const { return code != "touching_pieces" && code != "shading_breaks"; }
};
inline constexpr std::size_t kMostFindingRows = 20000;

/// All that `checkupOf` counts, with the elements; no fault for a sound solid. With `intersections`, faces that cross and pieces that touch, too (slow on
/// large models, see SelfIntersections.h).
std::vector<Finding> findingsOf(const Geometry& geometry, bool intersections = false);

}  // namespace seedloom
