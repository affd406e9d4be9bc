#pragma once
// Drawings made of lines, as files: SVG (W3C, Scalable Vector Graphics 1.1), of which the outlines count and no paint.
#include "files/FileSource.h"

#include <array>
#include <cstddef>
#include <string_view>
#include <vector>

namespace seedloom {

/// On the page, in metres: x to the right, y up, from the page's lower left corner.
using PageSpot = std::array<double, 2>;

/// From where the one before ended: straight to `to`, or a cubic Bezier curve by two control points.
struct OutlineStretch {
    PageSpot one{}, two{}, to{};
    bool straight = true;
};

struct OutlineLine {
    PageSpot from{};
    std::vector<OutlineStretch> stretches;
    bool closed = false;
    int shape = 0;  ///< number of the element it comes from, in the order of the file
};

struct OutlineDrawing {
    std::vector<OutlineLine> lines;
    double width = 0, height = 0;  ///< of the page, in metres; 0: the file tells none
    std::size_t bends = 0, straights = 0;
    std::size_t broken = 0;  ///< path data that could be read only up to a place
    std::size_t other = 0;   ///< texts, pictures and references, which have no outline of their own here
};

/// Endings that can be read, with the dot.
const std::vector<std::string>& outlineEndings();

/// Errors: `outline.format` with the byte.
Result<OutlineDrawing> outlinesFromSvg(std::string_view bytes);

}  // namespace seedloom
