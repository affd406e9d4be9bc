#pragma once
// The colours of what has none of its own, and how edges are shaded: the same on the stage and in every picture.
#include "scene/DrawScene.h"

namespace seedloom {

inline constexpr Vec3 kClay{0.80f, 0.765f, 0.70f}, kInk{0.137f, 0.169f, 0.212f};
inline constexpr Vec3 kIndigo{0.176f, 0.290f, 0.471f}, kMadder{0.702f, 0.251f, 0.180f};
/// Of what was not there, or is no more; neither is a colour of the even scale.
inline constexpr Vec3 kAdded{0.75f, 0.33f, 0.24f}, kRemoved{0.50f, 0.24f, 0.52f};
/// Faces that meet at less are shaded as one surface where no normals are stored.
inline constexpr double kCreaseDegrees = 32;

/// A corner of a line or dot.
inline DrawScene::Vertex plainVertex(Vec3 position, Vec3 colour) { return {position, {0, 1, 0}, colour, {}}; }

}  // namespace seedloom
