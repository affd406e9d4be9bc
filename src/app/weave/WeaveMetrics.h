#pragma once

/// Sizes of the weave at zoom 1, in pixels. The zoom counts from the size of texts: 1.5 shows them as they are with texts of 150 %.
namespace seedloom::app::metrics {

inline constexpr double kCardWidth = 156, kCardHeight = 62, kPitchX = 172, kPitchY = 92;
inline constexpr double kKnobReach = 9;
inline constexpr double kLeastReadable = 0.6;  ///< of the size of texts: what shows all goes no further
inline constexpr double kUsual = 0.8;          ///< of the size of texts: where all does not fit

}  // namespace seedloom::app::metrics
