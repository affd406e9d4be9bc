#pragma once
// What kind of face breaking and its neighbours have made.
#include "geometry/Geometry.h"

#include <string>

namespace seedloom {

/// The old skin; faces that breaking or cutting made; all faces of crumbs; rims of walls.
enum class FaceKind : std::uint8_t { skin, inside, crumb, rim };

/// By the face tags crumb, rim and inside, the first that a face has.
FaceKind faceKind(const Geometry& geometry, Index face);
/// All faces of the kind, in order.
std::vector<Index> facesOfKind(const Geometry& geometry, FaceKind kind);
/// A formula over faces that holds for those of the kind.
std::string formulaOfKind(const Geometry& geometry, FaceKind kind);
/// Whether there are faces of more than one kind.
bool hasKinds(const Geometry& geometry);

}  // namespace seedloom
