#pragma once
// Which values stand at the ends of a scale or a ramp.
#include "geometry/Json.h"

#include <array>
#include <optional>
#include <span>

namespace seedloom {

/// Two numbers; or the least and the largest of the values, "auto"; or those of the middle ones, "auto 2 %", which leaves 2 % of them out at each end, so
/// that a few far out do not make all the others alike.
struct ValueRange {
    std::optional<std::array<double, 2>> fixed;
    double leftOut = 0;  ///< share of the values at each end, 0 to under 0.5

    bool exact() const { return !fixed && leftOut == 0; }
    /// Of these values; what is not finite does not count, and without any that is it is 0 to 1.
    std::array<double, 2> over(std::span<const float> values) const;
    bool operator==(const ValueRange&) const = default;
};

/// Nothing where it is neither of these words nor two finite numbers.
std::optional<ValueRange> valueRange(const Json& written);
Json rangeJson(const ValueRange& range);

}  // namespace seedloom
