#pragma once
// Points moved by strokes of a hand. Each stroke is a flow of space: small steps along a field that turns about in less than a step, so that what was apart
// stays apart, and walls that both lie under a brush are dented together instead of going through each other.
#include "operators/HandStrokes.h"

namespace seedloom {

/// What all strokes need to know of what they are put on.
struct HandBase {
    std::vector<float> weights;  ///< 0–1, how much of each stroke a point takes; empty: all of it
    std::vector<Vec3> normals;   ///< of the points before they were shaped
    Rows beside;                 ///< of each point, those that it is joined to
    float amount = 1;            ///< 0–1, how much of each stroke is done
};

/// Points on their way. Copies share the base, so that one more stroke on what was kept costs little.
struct HandShaped {
    std::shared_ptr<const HandBase> base;
    std::vector<Vec3> at;
    std::size_t idle = 0;  ///< strokes that no point was near to
};

/// What `geometry` is before any stroke.
HandShaped readyToShape(const Geometry& geometry, std::vector<float> weights, float amount);

/// One stroke and its mirror images at once, so that what is symmetric stays so. Modes:
/// grab: from the first place to the last, all that is under the brush on the way goes along, at any strength;
/// push, pull: against and along the normals, half of the radius deep at full strength, however often the stroke passes;
/// flatten: onto the plane through the middle of the stroke's places, which a hair is left of;
/// pinch: sideways to the stroke's line;
/// smooth: to the middle of neighbours, over a third of the radius at full strength, however fine the mesh is.
/// Throws Cancelled.
void shapeByHand(HandShaped& shaped, const StrokeImages& stroke, const RunContext& run);

}  // namespace seedloom
