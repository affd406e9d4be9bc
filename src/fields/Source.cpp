#include "fields/Source.h"

#include <map>

#include <fmt/format.h>

#include <array>
#include <cmath>

namespace seedloom {

namespace {

constexpr std::array<std::string_view, 7> kKinds{"fixed", "control", "formula", "attribute", "ramp", "noise", "random"};
constexpr std::array<std::string_view, 3> kShapes{"straight", "smooth", "step"};

/// Unwinds to sourceFromJson with what is wrong.
struct Wrong {
    std::string text;
};

double number(const Json& from, const char* key, double fallback) {
    const auto it = from.find(key);
    if (it == from.end()) return fallback;
    if (!it->is_number() || !std::isfinite(it->get<double>())) throw Wrong{fmt::format("'{}' must be a number", key)};
    return it->get<double>();
}

std::string text(const Json& value, const char* what) {
    if (!value.is_string()) throw Wrong{fmt::format("{} must be a text", what)};
    return value.get<std::string>();
}

template <std::size_t N> std::array<double, N> numbers(const Json& value, const char* key) {
    std::array<double, N> out{};
    if (!value.is_array() || value.size() != N) throw Wrong{fmt::format("'{}' must be a list of {} numbers", key, N)};
    for (std::size_t i = 0; i < N; ++i) {
        if (!value[i].is_number() || !std::isfinite(value[i].get<double>())) throw Wrong{fmt::format("'{}' must be a list of {} numbers", key, N)};
        out[i] = value[i].get<double>();
    }
    return out;
}

template <std::size_t N> std::size_t word(const std::array<std::string_view, N>& words, const std::string& given, const char* what) {
    for (std::size_t i = 0; i < N; ++i)
        if (words[i] == given) return i;
    throw Wrong{fmt::format("'{}' is no {}", given, what)};
}

const Json& object(const Json& value, const char* what) {
    if (!value.is_object()) throw Wrong{fmt::format("{} must be an object", what)};
    return value;
}

Ramp readRamp(const Json& from) {
    const auto knots = object(from, "a ramp").find("knots");
    if (knots == from.end() || !knots->is_array() || knots->empty() || knots->size() > 1000) throw Wrong{"a ramp needs a list 'knots' of 1 to 1000 knots"};
    std::vector<RampKnot> out;
    for (const Json& knot : *knots) {
        if (!knot.is_array() || knot.size() < 2 || knot.size() > 3 || !knot[0].is_number() || !knot[1].is_number() || !std::isfinite(knot[0].get<double>()) ||
            !std::isfinite(knot[1].get<double>()))
            throw Wrong{"a ramp's knot is written [x, y] or [x, y, \"smooth\"]"};
        RampKnot k{knot[0].get<double>(), knot[1].get<double>()};
        if (knot.size() == 3) k.shape = static_cast<RampShape>(word(kShapes, text(knot[2], "a knot's shape"), "knot shape (straight, smooth, step)"));
        out.push_back(k);
    }
    return Ramp(std::move(out));
}

Source readRampSource(const Json& from) {
    RampSource out{.ramp = readRamp(from)};
    out.over = from.contains("over") ? text(from["over"], "'over'") : "along";
    if (const auto written = from.find("range"); written != from.end()) {
        const auto range = valueRange(*written);
        if (!range) throw Wrong{"a ramp's range is \"auto\", \"auto 2 %\" (without so much at each end) or two numbers"};
        out.range = *range;
    }
    return out;
}

Source readNoise(const Json& from) {
    NoiseSource out;
    object(from, "noise");
    out.options.size = number(from, "size", 1);
    out.options.octaves = static_cast<int>(std::clamp(number(from, "octaves", 1), 1.0, 16.0));
    out.options.roughness = number(from, "roughness", 0.5);
    out.options.seed = static_cast<std::uint32_t>(static_cast<std::int64_t>(std::clamp(number(from, "seed", 0), -2e9, 4e9)));
    if (from.contains("offset")) {
        const auto offset = numbers<3>(from["offset"], "offset");
        std::copy(offset.begin(), offset.end(), out.options.offset);
    }
    if (from.contains("stretch")) {
        const auto stretch = numbers<3>(from["stretch"], "stretch");
        std::copy(stretch.begin(), stretch.end(), out.options.stretch);
    }
    if (from.contains("ridged")) {
        if (!from["ridged"].is_boolean()) throw Wrong{"'ridged' must be true or false"};
        out.options.ridged = from["ridged"].get<bool>();
    }
    if (from.contains("kind"))
        out.options.kind = static_cast<NoiseKind>(
            word(kNoiseKinds, text(from["kind"], "'kind'"), "kind of noise (gradient, cells, value, cell second, cell edge, cell number)"));
    if (from.contains("range")) {
        const auto range = numbers<2>(from["range"], "range");
        out.low = range[0], out.high = range[1];
    }
    return out;
}

Source readRandom(const Json& from) {
    RandomSource out;
    object(from, "random");
    if (from.contains("range")) {
        const auto range = numbers<2>(from["range"], "range");
        out.low = range[0], out.high = range[1];
    }
    out.seed = number(from, "seed", 0);
    if (from.contains("by")) out.by = text(from["by"], "'by'");
    return out;
}

}  // namespace

std::string_view sourceKind(const Source& source) { return kKinds[source.index()]; }

UnknownKeys unknownKeys(const Json& written) {
    static const std::map<std::string, std::vector<std::string>> known{
        {"random", {"range", "seed", "by"}},
        {"ramp", {"over", "range", "knots"}},
        {"noise", {"size", "octaves", "roughness", "seed", "offset", "stretch", "ridged", "kind", "range"}}};
    UnknownKeys out;
    if (!written.is_object()) return out;
    for (const auto& [kind, keys] : known) {
        const auto inner = written.find(kind);
        if (inner == written.end() || !inner->is_object()) continue;
        out.kind = kind, out.known = keys;
        for (const auto& [key, value] : inner->items())
            if (std::find(keys.begin(), keys.end(), key) == keys.end()) out.keys.push_back(key);
    }
    return out;
}

Result<Source> sourceFromJson(const Json& json) {
    try {
        if (!json.is_object() || json.contains("knots")) return Source(FixedSource{json});
        int found = 0;
        for (std::size_t i = 1; i < kKinds.size(); ++i) found += json.contains(kKinds[i]);
        if (found != 1) throw Wrong{"exactly one of control, formula, attribute, ramp, noise, random is needed"};
        if (json.contains("control")) return Source(ControlSource{text(json["control"], "'control'")});
        if (json.contains("formula")) return Source(FormulaSource{text(json["formula"], "'formula'")});
        if (json.contains("attribute"))
            return Source(AttributeSource{text(json["attribute"], "'attribute'"), number(json, "scale", 1), number(json, "add", 0)});
        if (json.contains("ramp")) return readRampSource(json["ramp"]);
        if (json.contains("noise")) return readNoise(json["noise"]);
        return readRandom(json["random"]);
    } catch (const Wrong& wrong) {
        return Error{"setting.source", fmt::format("The source can't be read: {}.", wrong.text)};
    }
}

Result<Ramp> rampFromJson(const Json& json) {
    try {
        return readRamp(json);
    } catch (const Wrong& wrong) {
        return Error{"setting.source", fmt::format("The ramp can't be read: {}.", wrong.text)};
    }
}

Json rampToJson(const Ramp& ramp) {
    Json knots = Json::array();
    for (const RampKnot& k : ramp.knots()) {
        Json knot = Json::array({k.x, k.y});
        if (k.shape != RampShape::straight) knot.push_back(kShapes[static_cast<std::size_t>(k.shape)]);
        knots.push_back(std::move(knot));
    }
    return {{"knots", std::move(knots)}};
}

namespace {

struct Writer {
    Json operator()(const FixedSource& s) const { return s.value; }
    Json operator()(const ControlSource& s) const { return {{"control", s.control}}; }
    Json operator()(const FormulaSource& s) const { return {{"formula", s.text}}; }
    Json operator()(const AttributeSource& s) const {
        Json out{{"attribute", s.name}};
        if (s.scale != 1) out["scale"] = s.scale;
        if (s.add != 0) out["add"] = s.add;
        return out;
    }
    Json operator()(const RampSource& s) const {
        Json inner{{"over", s.over}};
        inner["range"] = rangeJson(s.range);
        inner["knots"] = rampToJson(s.ramp)["knots"];
        return {{"ramp", std::move(inner)}};
    }
    Json operator()(const NoiseSource& s) const {
        const NoiseOptions& o = s.options;
        Json inner{{"size", o.size}, {"octaves", o.octaves}, {"roughness", o.roughness}, {"seed", o.seed}};
        inner["range"] = {s.low, s.high};
        inner["offset"] = {o.offset[0], o.offset[1], o.offset[2]};
        if (o.stretch[0] != 1 || o.stretch[1] != 1 || o.stretch[2] != 1) inner["stretch"] = {o.stretch[0], o.stretch[1], o.stretch[2]};
        inner["kind"] = kNoiseKinds[static_cast<std::size_t>(o.kind)];
        if (o.ridged) inner["ridged"] = true;
        return {{"noise", std::move(inner)}};
    }
    Json operator()(const RandomSource& s) const {
        Json inner{{"range", {s.low, s.high}}, {"seed", s.seed}};
        if (!s.by.empty()) inner["by"] = s.by;
        return {{"random", std::move(inner)}};
    }
};

}  // namespace

Json sourceToJson(const Source& source) { return std::visit(Writer{}, source); }

}  // namespace seedloom
