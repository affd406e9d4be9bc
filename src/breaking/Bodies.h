#pragma once
// The solids that a closed geometry consists of.
#include "geometry/Geometry.h"

namespace seedloom {

struct Body {
    Geometry geometry;         ///< right side out
    std::vector<Index> faces;  ///< of the whole, in the order of the body's own
};

/// What hangs together is a body; a shell that bounds from inside belongs to the smallest body around it, as a hollow does. Where there is none around it,
/// it is turned over and a body of its own. In the order of their first faces. Curves, loose points and copies are left out. Cost: O(faces), and for each
/// hollow a ray through each body around it.
std::vector<Body> bodiesOf(const Geometry& closed);

}  // namespace seedloom
