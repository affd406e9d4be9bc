#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

/// What is to be known of a surface that was scanned, or comes from elsewhere, before it is cleaned.
struct ScanFacts {
    std::size_t openEdges = 0;
    std::size_t holes = 0;     ///< rings of open edges; a sheet's outline is one, too
    std::size_t reversed = 0;  ///< edges along which neighbours look to opposite sides
    std::size_t crowded = 0;   ///< edges of three or more faces
    double area = 0;           ///< m²
    bool sheet = false;        ///< goes around hardly any volume
    bool insideOut = false;    ///< goes around some, and looks inwards
};

/// Cost: O(corners).
ScanFacts scanFactsOf(const Geometry& geometry);

/// The edge of so many even triangles that cover an area, metres: one of edge 1 has √3/4.
double edgeOfTriangles(double area, double count);

}  // namespace seedloom
