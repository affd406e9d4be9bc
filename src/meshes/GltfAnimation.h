#pragma once
// A model that moves, as one glTF file.
#include "meshes/RigidMoves.h"

#include <string>

namespace seedloom {

/// A binary file in which every piece and every copy is a node with its geometry once, and those that move have a translation and a rotation key for each
/// frame, `secondsPerFrame` apart from 0 on. Meshes of copies are shared. The same moves give the same bytes.
std::string animatedGlb(const RigidMoves& moves, double secondsPerFrame);

}  // namespace seedloom
