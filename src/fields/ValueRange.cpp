#include "fields/ValueRange.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>
#include <limits>
#include <string>
#include <vector>

namespace seedloom {

namespace {

constexpr std::string_view kAuto = "auto", kPercent = " %";

std::array<double, 2> wholeOf(std::span<const float> values) {
    std::array<double, 2> out{std::numeric_limits<double>::max(), std::numeric_limits<double>::lowest()};
    for (float v : values)
        if (std::isfinite(v)) out = {std::min(out[0], double(v)), std::max(out[1], double(v))};
    return out[0] <= out[1] ? out : std::array<double, 2>{0, 1};
}

std::array<double, 2> middleOf(std::span<const float> values, double leftOut) {
    std::vector<float> finite;
    finite.reserve(values.size());
    std::copy_if(values.begin(), values.end(), std::back_inserter(finite), [](float v) { return std::isfinite(v); });
    if (finite.empty()) return {0, 1};
    const auto left = std::min(std::size_t(double(finite.size()) * leftOut), (finite.size() - 1) / 2);
    const auto at = [&](std::size_t i) {
        std::nth_element(finite.begin(), finite.begin() + std::ptrdiff_t(i), finite.end());
        return double(finite[i]);
    };
    const double low = at(left);
    return {low, at(finite.size() - 1 - left)};
}

}  // namespace

std::array<double, 2> ValueRange::over(std::span<const float> values) const {
    if (fixed) return *fixed;
    return leftOut > 0 ? middleOf(values, leftOut) : wholeOf(values);
}

std::optional<ValueRange> valueRange(const Json& written) {
    if (written.is_array()) {
        if (written.size() != 2 || !written[0].is_number() || !written[1].is_number()) return {};
        const std::array<double, 2> ends{written[0].get<double>(), written[1].get<double>()};
        return std::isfinite(ends[0]) && std::isfinite(ends[1]) ? std::optional(ValueRange{ends, 0}) : std::nullopt;
    }
    if (!written.is_string()) return {};
    const auto& text = written.get_ref<const std::string&>();
    if (text == kAuto) return ValueRange{};
    if (!text.starts_with(kAuto) || !text.ends_with(kPercent) || text.size() <= kAuto.size() + kPercent.size() || text[kAuto.size()] != ' ') return {};
    const char *from = text.data() + kAuto.size() + 1, *to = text.data() + text.size() - kPercent.size();
    double percent = 0;
    const auto read = std::from_chars(from, to, percent);
    if (read.ec != std::errc() || read.ptr != to || !(percent >= 0 && percent < 50)) return {};
    return ValueRange{{}, percent / 100};
}

Json rangeJson(const ValueRange& range) {
    if (range.fixed) return *range.fixed;
    return range.leftOut > 0 ? Json(fmt::format("{} {:.6g}{}", kAuto, range.leftOut * 100, kPercent)) : Json(kAuto);
}

}  // namespace seedloom
