#pragma once
#include "geometry/Geometry.h"

namespace seedloom {

struct CutPlane {
    Vec3 origin, normal;  ///< unit normal
};

/// What lies on the side that the normal points to, with new points exactly on the plane where edges and curves cross it, shared between
/// faces. Points within a millionth of the size count as on it. Attributes of points and corners are mixed along cut edges; others are kept
/// bit for bit. Faces that lie in the plane belong to the side they close. `fill` closes the cut with faces that carry the tag `cut`
/// (holes in it included); rings that are open, because the input is, stay open and are counted in `openRings`. Copies pass through.
Geometry cutByPlane(const Geometry& geometry, const CutPlane& plane, bool fill, std::size_t* openRings = nullptr);

}  // namespace seedloom
