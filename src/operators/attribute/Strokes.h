#pragma once
// Strokes painted on the stage: places in space, so they stay where they are when the geometry is rebuilt finer or coarser.
#include "operators/OperatorCall.h"

namespace seedloom {

/// Whether there is anything in the setting `strokes`, or a hand about to add to it.
bool hasStrokes(const OperatorCall& call);
/// The mask of points, 0–1, with the strokes of the setting `strokes` painted over it, one after another.
std::vector<float> paintedOver(const OperatorCall& call, const Geometry& in, std::vector<float> mask);

}  // namespace seedloom
