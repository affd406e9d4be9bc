#pragma once
// Strokes made by hand on the stage: places in space, so they stay where they are when the geometry is rebuilt finer or coarser.
#include "operators/OperatorCall.h"

namespace seedloom {

/// One move of a brush.
struct HandStroke {
    std::vector<Vec3> at, normal;     ///< metres; normal: of the surface there, as many as places, or none where the stroke goes through everything
    float radius = 0.1f;              ///< metres, over 0
    float strength = 1, soft = 0.5f;  ///< 0–1; soft: the part of the radius over which it falls off
    std::string mode;                 ///< what the brush does, one of the setting's choices; the first where nothing is said

    /// 1 under the middle of the brush, 0 at its rim and outside.
    float pressure(float distance) const;
};

/// A stroke followed by its mirror images; no place: the stroke is hidden, or has none.
using StrokeImages = std::vector<HandStroke>;

/// Whether there is anything in a setting of strokes, or a hand about to add to it.
bool hasStrokes(const OperatorCall& call, std::string_view setting = "strokes");
/// All strokes of the setting that are not hidden. Ends the call with `setting.type` where something is written wrongly.
std::vector<StrokeImages> strokesOf(const OperatorCall& call, std::string_view setting = "strokes");
/// One entry of such a setting.
StrokeImages strokeIn(const OperatorCall& call, const Json& entry, std::string_view setting = "strokes");
/// The line that the brush went, as a curve to search.
Geometry lineOf(const HandStroke& stroke);

}  // namespace seedloom
