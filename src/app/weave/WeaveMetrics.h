#pragma once

/// Sizes of the weave at zoom 1, in pixels.
namespace seedloom::app::metrics {

inline constexpr double kCardWidth = 148, kCardHeight = 58, kPitchX = 164, kPitchY = 88;
inline constexpr double kKnobReach = 9;
inline constexpr double kLeastReadable = 0.75;  ///< texts never get smaller than 10 px

}  // namespace seedloom::app::metrics
