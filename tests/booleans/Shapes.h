#pragma once
// Shapes that make it hard for booleans, and another count of what crosses.
#include "geometry/Geometry.h"
#include "support/Chance.h"

namespace seedloom::test {

/// A ball whose skin was bent through itself; 20 · frequency² triangles.
Geometry turnedThrough(unsigned seed, int frequency);
/// Two pyramids of five faces each that have point 0 as their common tip, in the origin; the first lies below.
Geometry pyramidsTipToTip();
/// A sound solid about a metre large: ball, box, cylinder, ring or rounded box, of up to a few thousand faces.
Geometry someSolid(Chance& chance);
/// It, turned by anything or next to nothing, moved by as much, and then by `far` along each axis.
Geometry somewhere(Geometry g, Chance& chance, float far);

/// Pairs of triangles that cross, by CGAL's function for surfaces. The surface must be closed and manifold, of triangles.
std::size_t pairsByLibrary(const Geometry& g);

}  // namespace seedloom::test
