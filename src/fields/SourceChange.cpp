#include "fields/SourceChange.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

std::string plain(double v) { return fmt::format("{:.6g}", v); }

/// As many digits as a float holds, so that 0.35 does not come back as 0.349999994.
double rounded(double v) { return std::isfinite(v) ? std::stod(fmt::format("{:.7g}", v)) : v; }

std::string bracketed(const std::string& text) {
    const bool word = std::all_of(text.begin(), text.end(), [](unsigned char c) { return std::isalnum(c) || c == '_' || c == '.'; });
    return word ? text : "(" + text + ")";
}

/// value × times + plus, without what does nothing.
std::string scaledText(const std::string& value, double times, double plus) {
    std::string out = times == 1 ? value : fmt::format("{} * {}", bracketed(value), plain(times));
    if (plus != 0) out += fmt::format(" {} {}", plus < 0 ? "-" : "+", plain(std::abs(plus)));
    return out;
}

std::array<double, 2> rangeOr(const SourceSurroundings& around, const std::string& over, std::array<double, 2> otherwise) {
    const auto found = around.rangeOf ? around.rangeOf(over) : std::nullopt;
    return found ? std::array{rounded((*found)[0]), rounded((*found)[1])} : otherwise;
}

/// A range that noise or random numbers can fill: that of the values, or about the one that there is.
std::array<double, 2> spreadOf(const SourceSurroundings& around) {
    const double low = around.least[0], high = around.most[0];
    if (high > low) return {low, high};
    const double by = low != 0 ? std::abs(low) / 2 : 0.1;
    return {rounded(low - by), rounded(low + by)};
}

bool has(const std::vector<std::string>& names, std::string_view name) { return std::find(names.begin(), names.end(), name) != names.end(); }

std::string usualAttribute(const SourceSurroundings& around) {
    for (const char* name : {"mask", "along"})
        if (has(around.attributes, name)) return name;
    return around.attributes.empty() ? "mask" : around.attributes.front();
}

std::string uniformFormula(const SourceSurroundings& around) {
    if (around.components == 1) return plain(around.mean[0]);
    std::string out = fmt::format("vec{}(", around.components);
    for (int c = 0; c < around.components; ++c) out += (c ? ", " : "") + plain(around.mean[std::size_t(c)]);
    return out + ")";
}

struct AsFormula {
    const SourceSurroundings& around;

    std::string operator()(const FixedSource&) const { return uniformFormula(around); }
    std::string operator()(const ControlSource& s) const { return "ctl." + s.control; }
    std::string operator()(const FormulaSource& s) const { return s.text; }
    std::string operator()(const AttributeSource& s) const { return scaledText(s.name, s.scale, s.add); }
    std::string operator()(const RampSource& s) const {
        const auto [low, high] = s.range.fixed ? *s.range.fixed : rangeOr(around, s.over, {0, 1});
        if (high == low) return plain(s.ramp.at(0));
        const std::string shifted = low == 0 ? bracketed(s.over) : fmt::format("({} {} {})", bracketed(s.over), low < 0 ? "+" : "-", plain(std::abs(low)));
        return rampAsFormula(s.ramp, high - low == 1 ? shifted : fmt::format("{} / {}", shifted, plain(high - low)));
    }
    std::string operator()(const NoiseSource& s) const {
        const NoiseOptions& o = s.options;
        std::string place = "position";
        if (o.offset[0] != 0 || o.offset[1] != 0 || o.offset[2] != 0)
            place = fmt::format("(position - vec3({}, {}, {}))", plain(o.offset[0]), plain(o.offset[1]), plain(o.offset[2]));
        const bool even = o.stretch[0] == 1 && o.stretch[1] == 1 && o.stretch[2] == 1;
        const std::string size =
            even ? plain(o.size) : fmt::format("vec3({}, {}, {})", plain(o.size * o.stretch[0]), plain(o.size * o.stretch[1]), plain(o.size * o.stretch[2]));
        return scaledText(fmt::format("noise({} / {})", place, size), (s.high - s.low) / 2, (s.high + s.low) / 2);
    }
    std::string operator()(const RandomSource& s) const {
        const std::string by = !s.by.empty() ? s.by : has(around.attributes, "id") ? "id" : "index";
        return scaledText(fmt::format("random({}, {})", by, plain(s.seed)), s.high - s.low, s.low);
    }
};

Json rampJson(const std::string& over, const Json& range, double first, double last) {
    return {{"ramp", {{"over", over}, {"range", range}, {"knots", {{0, first, "straight"}, {1, last}}}}}};
}

struct AsRamp {
    const SourceSurroundings& around;

    /// Over a formula from its least to its greatest value, giving just these.
    Json through(const std::string& text) const {
        const auto [low, high] = rangeOr(around, text, {around.least[0], around.most[0]});
        return high > low ? rampJson(text, {low, high}, low, high) : level();
    }
    Json level() const { return rampJson(has(around.attributes, "along") ? "along" : "position.y", "auto", around.mean[0], around.mean[0]); }

    Json operator()(const FixedSource&) const { return level(); }
    Json operator()(const ControlSource&) const { return level(); }
    Json operator()(const AttributeSource& s) const {
        const auto [low, high] = rangeOr(around, s.name, {0, 1});
        return rampJson(s.name, {low, high}, low * s.scale + s.add, high * s.scale + s.add);
    }
    Json operator()(const FormulaSource& s) const { return through(s.text); }
    Json operator()(const RampSource& s) const { return sourceToJson(s); }
    Json operator()(const NoiseSource& s) const { return through(AsFormula{around}(s)); }
    Json operator()(const RandomSource& s) const { return through(AsFormula{around}(s)); }
};

Json attributeJson(const std::string& name, double scale, double add) { return sourceToJson(AttributeSource{name, scale, add}); }

struct AsAttribute {
    const SourceSurroundings& around;

    Json usual() const { return attributeJson(usualAttribute(around), around.most[0] != 0 ? around.most[0] : 1, 0); }

    Json operator()(const RampSource& s) const {
        const auto& knots = s.ramp.knots();
        if (!has(around.attributes, s.over)) return usual();
        const auto [low, high] = s.range.fixed ? *s.range.fixed : rangeOr(around, s.over, {0, 1});
        if (high == low || knots.size() < 2) return usual();
        // The straight line through the ramp's ends.
        const double scale = (knots.back().y - knots.front().y) / ((knots.back().x - knots.front().x) * (high - low));
        return std::isfinite(scale) ? attributeJson(s.over, scale, knots.front().y - (low + knots.front().x * (high - low)) * scale) : usual();
    }
    Json operator()(const FormulaSource& s) const { return has(around.attributes, s.text) ? attributeJson(s.text, 1, 0) : usual(); }
    Json operator()(const AttributeSource& s) const { return sourceToJson(s); }
    Json operator()(const auto&) const { return usual(); }
};

Json fixedJson(const SourceSurroundings& around) {
    if (around.fallback.is_boolean()) return around.mean[0] >= 0.5;
    if (around.fallback.is_number_integer()) return std::llround(around.mean[0]);
    if (around.fallback.is_number()) return rounded(around.mean[0]);
    if (!around.fallback.is_array()) return around.fallback;
    Json out = Json::array();
    for (std::size_t c = 0; c < around.fallback.size(); ++c) out.push_back(rounded(around.mean[around.components > 1 ? c : 0]));
    return out;
}

}  // namespace

std::string rampAsFormula(const Ramp& ramp, const std::string& t) {
    const auto& knots = ramp.knots();
    if (knots.empty()) return "0";
    std::string out = plain(knots.front().y);
    for (std::size_t i = 0; i + 1 < knots.size(); ++i) {
        const RampKnot &a = knots[i], &b = knots[i + 1];
        const double rise = b.y - a.y;
        if (rise == 0) continue;
        const std::string part = a.shape == RampShape::step || b.x <= a.x ? fmt::format("step({}, {})", plain(b.x), t)
                               : a.shape == RampShape::smooth             ? fmt::format("smoothstep({}, {}, {})", plain(a.x), plain(b.x), t)
                               : a.x == 0 && b.x == 1                     ? fmt::format("clamp({}, 0, 1)", t)
                                                                          : fmt::format("clamp(({} - {}) / {}, 0, 1)", t, plain(a.x), plain(b.x - a.x));
        out += fmt::format(" {} {} * {}", rise < 0 ? "-" : "+", plain(std::abs(rise)), part);
    }
    return out;
}

Json changedSource(const Source& from, std::string_view kind, const SourceSurroundings& given) {
    SourceSurroundings around = given;
    for (auto* values : {&around.least, &around.mean, &around.most})
        for (double& v : *values) v = rounded(v);
    if (kind == "control" && !around.controls.empty()) return sourceToJson(ControlSource{around.controls.front()});
    if (kind == "formula") return sourceToJson(FormulaSource{std::visit(AsFormula{around}, from)});
    if (kind == "ramp") return std::visit(AsRamp{around}, from);
    if (kind == "attribute") return std::visit(AsAttribute{around}, from);
    const auto [low, high] = spreadOf(around);
    if (kind == "noise") {
        NoiseSource out{.low = low, .high = high};
        out.options.size = 0.3;
        if (const auto* random = std::get_if<RandomSource>(&from)) out.low = random->low, out.high = random->high;
        return sourceToJson(out);
    }
    if (kind == "random") {
        const auto* noise = std::get_if<NoiseSource>(&from);
        return sourceToJson(noise ? RandomSource{noise->low, noise->high, around.seed} : RandomSource{low, high, around.seed});
    }
    return fixedJson(around);
}

}  // namespace seedloom
