#pragma once
// A mask painted on the stage.
#include "operators/HandStrokes.h"

namespace seedloom {

/// What a brush for masks can do.
inline const std::vector<std::string> kPaintModes{"add", "remove", "smooth"};

/// The mask of points, 0–1, with the strokes of the setting `strokes` painted over it, one after another.
std::vector<float> paintedOver(const OperatorCall& call, const Geometry& in, std::vector<float> mask);

}  // namespace seedloom
