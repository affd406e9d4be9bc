#pragma once
// Triangles of faces that are the same from both sides.
#include "geometry/Triangulate.h"

namespace seedloom {

/// As triangulate(), but a face gets the same triangles whichever side it is seen from and with whatever corner it begins: so two pieces that fit together
/// are cut alike where they touch.
Triangles mirroredTriangles(const Geometry& geometry);

}  // namespace seedloom
