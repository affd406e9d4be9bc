#pragma once
#include <string>

namespace seedloom::app {

/// What the left button does on the stage: painting a mask, shaping, or drawing lines.
struct Brush {
    static constexpr int kSurface = -1, kView = -2;
    double radius = 0.1;       ///< metres
    double strength = 0.5;     ///< 0–1, what one pass does
    double soft = 0.5;         ///< 0–1, the part of the radius that falls off
    std::string mode = "add";  ///< as strokes have it: one of the setting's choices
    std::string mirror;        ///< axes whose other side is done, too: letters of xyz
    bool pen = false;          ///< draws lines instead
    int plane = kSurface;      ///< of a pen: the axis that its plane through the origin faces; kSurface; kView: one straight line across the view
    bool grabs() const { return !pen && mode == "grab"; }
    bool operator==(const Brush&) const = default;
};

}  // namespace seedloom::app
