#pragma once

/// Sizes on the stage, in pixels.
namespace seedloom::app {

inline constexpr double kHandleReach = 11, kCompassRadius = 29;

}  // namespace seedloom::app
