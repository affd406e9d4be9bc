#pragma once
// From values to colours: scales, categories with a key, and what a legend says of them.
#include "geometry/Geometry.h"

#include <optional>

namespace seedloom {

enum class ColourScale : unsigned char {
    even,        ///< from dark to light in steps that look alike
    diverging,   ///< two hues away from a light middle, which is 0 where values lie on both sides of it
    categories,  ///< one colour for each value
};

/// How values become colours, as the user set it.
struct ColourChoice {
    ColourScale scale = ColourScale::even;
    std::optional<std::array<double, 2>> range;  ///< locked
    bool whole = false;                          ///< else from the least to the greatest value, and not only over most of them
    bool operator==(const ColourChoice&) const = default;
};

struct LegendKey {
    std::string text;
    Vec3 colour;
    std::size_t count;
};

/// What the colours of a mesh mean.
struct Legend {
    std::string title;    ///< an attribute's name, or what is compared; empty: no legend
    std::string unit;     ///< of the values, where it is known
    std::string problem;  ///< why there are no colours
    Element element = Element::point;
    ColourChoice choice;
    bool numeric = false;  ///< another scale can be chosen
    bool scaled = false;   ///< low and high are valid
    double low = 0, high = 0;
    double least = 0, greatest = 0;    ///< of all finite values, as far as they were looked at
    std::size_t below = 0, above = 0;  ///< values beyond low and high; they have colours of their own
    std::vector<LegendKey> key;        ///< the most frequent values first
    std::size_t further = 0;           ///< values beyond those in the key; they share one colour
};

/// A few values far out leave all others one colour, so the range is that of the middle 96 % where the whole is much wider.
inline constexpr double kLeftOutAtEnds = 0.02, kMuchWider = 1.5;
inline constexpr std::size_t kMostCategories = 10;
/// Where a value is not finite.
inline constexpr Vec3 kNoNumber{1, 0, 1};

/// The colour at t in 0–1 (held outside). Even: lightness of OKLab (Ottosson, 2020) grows in equal steps.
Vec3 scaleColour(ColourScale scale, float t);
/// The colours of values beyond the lower and the upper end of a range.
Vec3 beyondColour(ColourScale scale, bool above);
/// The n-th colour for categories; from kMostCategories on the one that the rest shares.
Vec3 categoryColour(std::size_t n);

/// A colour for each row of a column, and the legend's range or key. Vectors count by their length; texts and yes/no are always categories.
/// `color` with three components shows itself.
std::vector<Vec3> coloursOf(const Column& column, Legend& legend);

/// A value as a legend or read-out writes it.
std::string valueText(const Column& column, std::size_t row);

}  // namespace seedloom
