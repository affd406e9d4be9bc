#pragma once
// What flows from one operator to the next.
#include "geometry/Geometry.h"
#include "operators/Spec.h"

namespace seedloom {

/// What a geometry mostly is, for what can follow it.
enum class Flow : unsigned char { nothing, points, curves, faces, copies };
Flow flowOf(const Geometry& geometry);
/// Whether an operator can do something with it.
bool takes(const OperatorSpec& spec, Flow flow);

}  // namespace seedloom
