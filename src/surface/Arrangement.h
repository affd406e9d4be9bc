#pragma once
// Cuts triangles of several solids where they meet, so that afterwards they meet in common points and edges only.
#include "geometry/SelfIntersections.h"
#include "parallel/RunContext.h"
#include "surface/FinePlace.h"

#include <array>

namespace seedloom {

/// A piece of a triangle that was cut.
struct Facet {
    std::array<Index, 3> points;                    ///< in the triangle's sense; from `points` on: new ones
    Index triangle = 0;                             ///< that it is a piece of
    std::array<std::array<float, 3>, 3> weights{};  ///< of the triangle's corners at each of its points
};

struct Arrangement {
    std::vector<std::uint8_t> cut;  ///< by triangle: it meets another solid and is replaced by its facets
    std::vector<Facet> facets;
    std::vector<FinePlace> newPoints;  ///< their places
    std::vector<Index> standsFor;      ///< by old point: the first at the same place among those of cut triangles, else itself
};

/// Cuts the triangles of those `pairs`, each once, that meet elsewhere than in common points and edges. Triangles in one plane that overlap are cut alike, so
/// that common areas are given as facets of each with the same points. Predicates and places are exact until the last rounding, so the result hangs together
/// whatever the numbers are. Coordinates must be finite. After: Zhou, Grinspun, Zorin, Jacobson, "Mesh Arrangements for Solid Geometry", ACM TOG 35(4), 2016.
/// Cost: O(n log n), and about 50 µs for each triangle that is cut. Library: CGAL.
Arrangement arrange(const Geometry& geometry, const Triangles& triangles, const TrianglePairs& pairs, const RunContext& run);

}  // namespace seedloom
