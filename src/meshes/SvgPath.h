#pragma once
// The small grammars inside of SVG's attributes: numbers with units, lists, transforms and path data.
#include "meshes/OutlineFile.h"

#include <optional>

namespace seedloom {

/// x' = a x + c y + e, y' = b x + d y + f: the order of the standard.
struct PageMap {
    double a = 1, b = 0, c = 0, d = 1, e = 0, f = 0;
    PageSpot operator()(PageSpot p) const { return {a * p[0] + c * p[1] + e, b * p[0] + d * p[1] + f}; }
};
/// First `inner`, then `outer`.
PageMap chained(const PageMap& outer, const PageMap& inner);

/// A number at the start of `text`, which goes on behind it; separators before it are skipped. Nothing where there is none.
std::optional<double> takeNumber(std::string_view& text);
/// All numbers up to the first thing that is none.
std::vector<double> numbersIn(std::string_view text);
/// A length in user units (1/96 inch), as "12", "12.5mm" or "1in". Nothing where there is none, or a share of something (per cent).
std::optional<double> lengthIn(std::string_view text);
/// What a list of transforms comes to; an unknown or broken one ends it.
PageMap transformIn(std::string_view text);

/// Lines in user units, as the file has them. `whole` false: the data could be read only up to a place.
struct PathLines {
    std::vector<OutlineLine> lines;
    bool whole = true;
};
PathLines pathIn(std::string_view text);

}  // namespace seedloom
