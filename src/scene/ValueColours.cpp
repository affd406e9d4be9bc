#include "scene/ValueColours.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <unordered_map>

namespace seedloom {

namespace {

/// OKLab: lightness, and two axes of colour (B. Ottosson, "A perceptual color space for image processing", 2020).
struct Lab {
    float l, a, b;
};

// Ink-indigo over moss to sand; the lightness rises by the same amount in each stretch.
constexpr Lab kEven[] = {{0.38f, 0.000f, -0.095f}, {0.52f, -0.055f, -0.040f}, {0.66f, -0.055f, 0.060f}, {0.80f, 0.012f, 0.110f}, {0.94f, 0.010f, 0.045f}};
// Indigo, light linen, madder; the two ends are equally dark.
constexpr Lab kDiverging[] = {{0.42f, 0.000f, -0.105f}, {0.68f, -0.020f, -0.065f}, {0.95f, 0.004f, 0.016f}, {0.68f, 0.095f, 0.070f}, {0.42f, 0.130f, 0.075f}};

float fromLinear(float v) {
    v = std::clamp(v, 0.0f, 1.0f);
    return v <= 0.0031308f ? 12.92f * v : 1.055f * std::pow(v, 1 / 2.4f) - 0.055f;
}

Vec3 screenColour(Lab c) {
    const auto cube = [](float v) { return v * v * v; };
    const float l = cube(c.l + 0.3963377774f * c.a + 0.2158037573f * c.b), m = cube(c.l - 0.1055613458f * c.a - 0.0638541728f * c.b),
                s = cube(c.l - 0.0894841775f * c.a - 1.2914855480f * c.b);
    return {fromLinear(4.0767416621f * l - 3.3077115913f * m + 0.2309699292f * s), fromLinear(-1.2684380046f * l + 2.6097574011f * m - 0.3413193965f * s),
            fromLinear(-0.0041960863f * l - 0.7034186147f * m + 1.7076147010f * s)};
}

/// A number a row: the value, or a vector's length.
double magnitude(const Column& column, std::size_t row) {
    const int n = componentCount(column.type());
    if (n == 1) return column.component(row, 0);
    double sum = 0;
    for (int c = 0; c < n; ++c) sum += column.component(row, c) * column.component(row, c);
    return std::sqrt(sum);
}

/// The middle values of all, without a share of them at either end; reorders.
std::array<double, 2> middleOf(std::vector<double>& values) {
    const auto left = std::size_t(double(values.size()) * kLeftOutAtEnds);
    const auto at = [&](std::size_t i) {
        std::nth_element(values.begin(), values.begin() + std::ptrdiff_t(i), values.end());
        return values[i];
    };
    const double low = at(left);
    return {low, at(values.size() - 1 - left)};
}

/// The range of finite values, or of most of them; around 0 for a diverging scale with values on both sides.
void findRange(std::vector<double> finite, Legend& legend) {
    legend.low = legend.least, legend.high = legend.greatest;
    if (!legend.choice.whole && !finite.empty()) {
        const auto [low, high] = middleOf(finite);
        if (high > low && (legend.greatest - legend.least) > kMuchWider * (high - low)) legend.low = low, legend.high = high;
    }
    if (legend.choice.scale == ColourScale::diverging && legend.low < 0 && legend.high > 0)
        legend.high = std::max(legend.high, -legend.low), legend.low = -legend.high;
}

std::vector<Vec3> scaled(const Column& column, Legend& legend) {
    legend.scaled = true;
    std::vector<double> values(column.size()), finite;
    for (std::size_t i = 0; i < values.size(); ++i) {
        values[i] = magnitude(column, i);
        if (std::isfinite(values[i])) finite.push_back(values[i]);
    }
    const auto ends = std::minmax_element(finite.begin(), finite.end());
    legend.least = finite.empty() ? 0 : *ends.first;
    legend.greatest = finite.empty() ? 0 : *ends.second;
    if (legend.choice.range) legend.low = (*legend.choice.range)[0], legend.high = (*legend.choice.range)[1];
    else findRange(std::move(finite), legend);
    // Looked up: the way through OKLab has three powers.
    std::array<Vec3, 256> table;
    for (std::size_t i = 0; i < table.size(); ++i) table[i] = scaleColour(legend.choice.scale, float(i) / 255);
    const Vec3 below = beyondColour(legend.choice.scale, false), above = beyondColour(legend.choice.scale, true);
    const double width = legend.high - legend.low;
    legend.below = legend.above = 0;
    std::vector<Vec3> out(column.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        const double v = values[i];
        if (!std::isfinite(v)) out[i] = kNoNumber;
        else if (v < std::min(legend.low, legend.high)) out[i] = width < 0 ? above : below, ++legend.below;
        else if (v > std::max(legend.low, legend.high)) out[i] = width < 0 ? below : above, ++legend.above;
        else out[i] = table[std::size_t((width != 0 ? (v - legend.low) / width : 0.5) * 255 + 0.5)];
    }
    return out;
}

std::vector<Vec3> categorised(const Column& column, Legend& legend) {
    std::unordered_map<std::string, std::size_t> numbers;
    std::vector<std::size_t> valueOf(column.size());
    std::vector<LegendKey> values;
    for (std::size_t i = 0; i < column.size(); ++i) {
        const auto [it, fresh] = numbers.try_emplace(valueText(column, i), values.size());
        if (fresh) values.push_back({it->first, {}, 0});
        ++values[valueOf[i] = it->second].count;
    }
    std::vector<std::size_t> order(values.size()), rank(values.size());
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
    // Equally frequent ones by name, so that colours do not depend on the order of elements.
    std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
        return values[a].count != values[b].count ? values[a].count > values[b].count : values[a].text < values[b].text;
    });
    for (std::size_t i = 0; i < order.size(); ++i) {
        rank[order[i]] = i;
        if (i < kMostCategories) legend.key.push_back({values[order[i]].text, categoryColour(i), values[order[i]].count});
    }
    legend.further = values.size() - legend.key.size();
    legend.choice.scale = ColourScale::categories;
    std::vector<Vec3> out(column.size());
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = categoryColour(rank[valueOf[i]]);
    return out;
}

}  // namespace

Vec3 scaleColour(ColourScale scale, float t) {
    const Lab* stops = scale == ColourScale::diverging ? kDiverging : kEven;
    const float at = std::clamp(t, 0.0f, 1.0f) * 4;
    const int i = std::min(int(at), 3);
    const float f = at - float(i);
    const auto mixed = [f](float a, float b) { return a + (b - a) * f; };
    return screenColour({mixed(stops[i].l, stops[i + 1].l), mixed(stops[i].a, stops[i + 1].a), mixed(stops[i].b, stops[i + 1].b)});
}

Vec3 beyondColour(ColourScale scale, bool above) {
    // Beside the ends, and not on the way between them: darker than the dark ends, and madder beyond the light one.
    if (scale == ColourScale::diverging) return above ? Vec3{0.36f, 0.05f, 0.03f} : Vec3{0.05f, 0.09f, 0.28f};
    return above ? Vec3{0.74f, 0.27f, 0.18f} : Vec3{0.09f, 0.09f, 0.17f};
}

Vec3 categoryColour(std::size_t n) {
    constexpr Vec3 colours[kMostCategories] = {{0.25f, 0.38f, 0.58f}, {0.75f, 0.33f, 0.24f}, {0.47f, 0.59f, 0.29f}, {0.85f, 0.64f, 0.22f},
                                               {0.53f, 0.37f, 0.56f}, {0.28f, 0.58f, 0.58f}, {0.87f, 0.60f, 0.55f}, {0.55f, 0.42f, 0.27f},
                                               {0.62f, 0.70f, 0.83f}, {0.20f, 0.26f, 0.31f}};
    return n < kMostCategories ? colours[n] : Vec3{0.72f, 0.70f, 0.66f};
}

std::vector<Vec3> coloursOf(const Column& column, Legend& legend) {
    if (legend.title == "color" && column.type() == ColumnType::vec3) return *column.as<Vec3>();
    const bool words = column.type() == ColumnType::text || column.type() == ColumnType::boolean;
    legend.numeric = !words;
    return words || legend.choice.scale == ColourScale::categories ? categorised(column, legend) : scaled(column, legend);
}

std::string valueText(const Column& column, std::size_t row) {
    if (const auto* texts = column.as<std::string>()) return (*texts)[row].empty() ? "no text" : (*texts)[row];
    if (column.type() == ColumnType::boolean) return column.component(row, 0) != 0 ? "yes" : "no";
    if (column.type() == ColumnType::integer) return fmt::format("{}", std::int64_t(column.component(row, 0)));
    std::vector<std::string> parts;
    for (int c = 0; c < componentCount(column.type()); ++c) parts.push_back(fmt::format("{:.4g}", column.component(row, c)));
    return fmt::format("{}", fmt::join(parts, ", "));
}

}  // namespace seedloom
