#pragma once
// Pieces moved apart, to look inside.
#include "geometry/Geometry.h"

namespace seedloom {

/// Whether there are several pieces: by the face attribute `piece`, or by what hangs together.
bool comesApart(const Geometry& geometry);

/// The same rows, each piece's points moved away from the middle by `amount` of the piece's distance from it; 0 leaves all where they are. Points that no face
/// has, and those of several pieces, stay.
Geometry movedApart(const Geometry& geometry, double amount);

}  // namespace seedloom
