#include "vary/EvenDraws.h"

#include "fields/Random.h"
#include "graph/Controls.h"

#include <fmt/format.h>

#include <algorithm>
#include <charconv>
#include <cmath>

namespace seedloom {

namespace {

/// The only root above 1 of x^(n + 1) = x + 1.
double goldenRatio(std::size_t n) {
    double x = 2;
    for (int i = 0; i < 60; ++i) x = std::pow(1 + x, 1 / double(n + 1));
    return x;
}

}  // namespace

EvenDraws::EvenDraws(std::size_t dimensions, unsigned seed) {
    const double ratio = goldenRatio(dimensions);
    for (std::size_t d = 0; d < dimensions; ++d) {
        step_.push_back(std::pow(1 / ratio, double(d + 1)));
        shift_.push_back(randomOf(double(d), seed));
    }
}

double EvenDraws::part(std::size_t number, std::size_t dimension) const {
    const double part = shift_[dimension] + std::fmod(double(number) * step_[dimension], 1.0);
    return part - std::floor(part);
}

namespace {

/// As few digits as tell values of such a range apart, or a multiple of the control's step: what people read is what is built.
double plainIn(const DrawnFrom& from, double value) {
    if (!(from.high > from.low)) return from.low;
    const auto range = sliderRange(*from.control);
    const bool stepped = from.control->step.value_or(0) > 0;
    const double unit = stepped ? *from.control->step : std::pow(10.0, std::floor(std::log10(from.high - from.low)) - 4);
    const double origin = stepped && range ? range->first : 0;
    return std::clamp(plainNumber(origin + std::round((value - origin) / unit) * unit), from.low, from.high);
}

}  // namespace

double plainNumber(double value) {
    const std::string text = fmt::format("{:.12g}", value);
    double out = value;
    std::from_chars(text.data(), text.data() + text.size(), out);
    return out;
}

Json DrawnFrom::at(double part) const {
    if (!values.empty()) return values[std::size_t(part * double(values.size()))];
    if (control->type != "integer") return plainIn(*this, low + part * (high - low));
    return std::int64_t(std::min(std::floor(low + part * (high - low + 1)), high));
}

DrawnFrom drawnFrom(const Control& control) {
    DrawnFrom out{&control, 0, 0, {}};
    if (control.type == "boolean") out.values = {false, true};
    else if (control.type == "choice") out.values = {control.choices.begin(), control.choices.end()};
    else if (const auto range = sliderRange(control); range && (control.type == "number" || control.type == "integer"))
        out.low = std::max(range->first, control.min.value_or(range->first)), out.high = std::min(range->second, control.max.value_or(range->second));
    return out;
}

}  // namespace seedloom
