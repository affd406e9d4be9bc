#pragma once
// What lies under a pixel of the stage; found on the processor, so that it works without OpenGL and in tests.
#include "app/stage/StageCamera.h"
#include "scene/DrawScene.h"

#include <optional>

namespace seedloom::app {

struct Picked {
    Element element = Element::face;
    Index row = 0;
    Vec3 at{};
};

/// The point within a few pixels where there are lone points, points of curves, or `points` are wanted; else the face or the copy that the ray meets first.
/// Cost: O(triangles + dots); about 10 ms a million.
std::optional<Picked> pickAt(const DrawScene& mesh, const StageCamera& camera, QSizeF size, QPointF at, bool points);

/// How far along the ray a triangle is met (Möller & Trumbore, 1997); nothing where it is missed. Both sides count.
std::optional<float> rayMeets(Vec3 from, Vec3 along, Vec3 a, Vec3 b, Vec3 c);

}  // namespace seedloom::app
