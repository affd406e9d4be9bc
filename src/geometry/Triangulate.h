#pragma once
// Cuts polygons into triangles for files, the stage and pictures.
#include "geometry/Geometry.h"

namespace seedloom {

/// Corner numbers of triangles, three each, in face order, and the face of each triangle.
struct Triangles {
    std::vector<Index> corners;
    std::vector<Index> faceOf;
    std::size_t count() const { return faceOf.size(); }
};

/// Every face of n corners gives n − 2 triangles that keep its winding; faces under 3 corners give none.
/// Convex faces are fanned; concave ones are cut by ears (Meisters, 1975), O(n²) in the face's corners.
Triangles triangulate(const Geometry& geometry);
/// For every point the places in `triangles.corners` where it stands; a third of that is the triangle's number.
Rows cornersAtPoints(const Geometry& geometry, const Triangles& triangles);

}  // namespace seedloom
