#pragma once
#include <string>

namespace seedloom::app {

/// How painting on the stage works.
struct Brush {
    enum class Mode : unsigned char { add, remove, smooth };
    double radius = 0.1;    ///< metres
    double strength = 0.5;  ///< 0–1, what one pass adds
    double soft = 0.5;      ///< 0–1, the part of the radius that falls off
    Mode mode = Mode::add;
    std::string mirror;  ///< axes whose other side is painted, too: letters of xyz
    bool pen = false;    ///< draws lines instead of painting
    int plane = -1;      ///< of a pen: the axis that its plane through the origin faces; −1 draws on the surface
    bool operator==(const Brush&) const = default;
};

}  // namespace seedloom::app
