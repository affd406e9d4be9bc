#pragma once
// How copies come into a scene: a mesh for each shape, and places and colours for each copy.
#include "scene/DrawScene.h"

namespace seedloom {

/// Fills `mesh.copies`; where the look colours by an attribute that copies or their shapes have, also the legend.
void addCopies(const Geometry& geometry, const SceneLook& look, DrawScene& mesh);

}  // namespace seedloom
