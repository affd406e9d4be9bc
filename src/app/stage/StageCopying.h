#pragma once
// How copies come onto the stage: a mesh for each shape, and places and colours for each copy.
#include "app/stage/StageMesh.h"

namespace seedloom::app {

/// Fills `mesh.copies`; where the look colours by an attribute that copies or their shapes have, also the legend.
void addCopies(const Geometry& geometry, const StageLook& look, StageMesh& mesh);

/// A copy's box as lines, and its faces where they are not too many.
void markCopy(const Geometry& geometry, Index copy, Vec3 colour, MarkShapes& marks);

}  // namespace seedloom::app
