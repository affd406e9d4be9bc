#include "operators/Spec.h"

#include <array>
#include <charconv>

namespace seedloom {

std::string_view familyName(Family family) {
    constexpr std::array<std::string_view, 10> names{"make", "curve", "surface", "deform", "attribute", "scatter", "break", "motion", "flow", "look"};
    return names[static_cast<std::size_t>(family)];
}

std::string_view settingTypeName(SettingType type) {
    constexpr std::array<std::string_view, 15> names{"number", "integer", "boolean", "vec2",    "vec3",  "choice", "text",     "points",
                                                     "ramp",   "range",   "formula", "strokes", "lines", "file",   "materials"};
    return names[static_cast<std::size_t>(type)];
}

std::string_view unitSymbol(Unit unit) { return unit == Unit::metre ? "m" : unit == Unit::degree ? "°" : ""; }

SettingSpec::SettingSpec() = default;
SettingSpec::SettingSpec(const SettingSpec& other) = default;
SettingSpec::SettingSpec(SettingSpec&& other) noexcept = default;
SettingSpec& SettingSpec::operator=(const SettingSpec& other) = default;
SettingSpec& SettingSpec::operator=(SettingSpec&& other) noexcept = default;
SettingSpec::~SettingSpec() = default;

OperatorSpec::OperatorSpec() = default;
OperatorSpec::OperatorSpec(const OperatorSpec& other) = default;
OperatorSpec::OperatorSpec(OperatorSpec&& other) noexcept = default;
OperatorSpec& OperatorSpec::operator=(const OperatorSpec& other) = default;
OperatorSpec& OperatorSpec::operator=(OperatorSpec&& other) noexcept = default;
OperatorSpec::~OperatorSpec() = default;

namespace {

SettingSpec make(std::string id, std::string label, SettingType type, Json fallback, Unit unit = Unit::none) {
    SettingSpec spec;
    spec.id = std::move(id);
    spec.label = std::move(label);
    spec.type = type;
    spec.unit = unit;
    spec.fallback = std::move(fallback);
    return spec;
}

/// The shortest decimal that reads back as this float, so that defaults look in files as they do in code.
double plain(float value) {
    std::array<char, 32> text;
    const auto end = std::to_chars(text.data(), text.data() + text.size(), value).ptr;
    double out = 0;
    std::from_chars(text.data(), end, out);
    return out;
}

}  // namespace

SettingSpec numberSetting(std::string id, std::string label, Unit unit, double fallback) {
    return make(std::move(id), std::move(label), SettingType::number, fallback, unit);
}
SettingSpec integerSetting(std::string id, std::string label, int fallback) { return make(std::move(id), std::move(label), SettingType::integer, fallback); }
SettingSpec flagSetting(std::string id, std::string label, bool fallback) { return make(std::move(id), std::move(label), SettingType::boolean, fallback); }
SettingSpec vec2Setting(std::string id, std::string label, Unit unit, Vec2 v) {
    return make(std::move(id), std::move(label), SettingType::vec2, Json::array({plain(v.x), plain(v.y)}), unit);
}
SettingSpec vec3Setting(std::string id, std::string label, Unit unit, Vec3 v) {
    return make(std::move(id), std::move(label), SettingType::vec3, Json::array({plain(v.x), plain(v.y), plain(v.z)}), unit);
}
SettingSpec choiceSetting(std::string id, std::string label, std::vector<std::string> choices, std::string fallback) {
    SettingSpec spec = make(std::move(id), std::move(label), SettingType::choice, std::move(fallback));
    spec.choices = std::move(choices);
    return spec;
}
SettingSpec textSetting(std::string id, std::string label, std::string fallback) {
    return make(std::move(id), std::move(label), SettingType::text, std::move(fallback));
}
SettingSpec formulaSetting(std::string id, std::string label, std::string fallback) {
    return make(std::move(id), std::move(label), SettingType::formula, std::move(fallback));
}
SettingSpec strokesSetting(std::string id, std::string label, std::vector<std::string> modes) {
    SettingSpec spec = make(std::move(id), std::move(label), SettingType::strokes, Json::array());
    spec.choices = std::move(modes);
    return spec;
}
SettingSpec materialsSetting(std::string id, std::string label, Json fallback) {
    return make(std::move(id), std::move(label), SettingType::materials, std::move(fallback));
}
SettingSpec linesSetting(std::string id, std::string label) { return make(std::move(id), std::move(label), SettingType::lines, Json::array()); }
SettingSpec fileSetting(std::string id, std::string label, std::vector<std::string> endings) {
    SettingSpec out = make(std::move(id), std::move(label), SettingType::file, "");
    out.choices = std::move(endings);
    return out;
}
SettingSpec pointsSetting(std::string id, std::string label, Json fallback) {
    return make(std::move(id), std::move(label), SettingType::points, std::move(fallback));
}
SettingSpec rampSetting(std::string id, std::string label) {
    return make(std::move(id), std::move(label), SettingType::ramp, Json{{"knots", Json::array({Json::array({0, 0}), Json::array({1, 1})})}});
}
SettingSpec rangeSetting(std::string id, std::string label) { return make(std::move(id), std::move(label), SettingType::range, "auto"); }

SettingSpec whereSetting(Element element) {
    return make("where", "Where", SettingType::number, true, Unit::part)
        .each(element)
        .in("Where it acts")
        .helped("Limits the effect: a mask from 0 to 1, or true and false, for each element.");
}
SettingSpec blendSetting(Element element) {
    return make("blend", "Blend", SettingType::number, 1, Unit::part)
        .within(0, 1)
        .slider(0, 1)
        .each(element)
        .in("Where it acts")
        .helped("How much of the effect is applied: 0 leaves everything as it was, 1 applies it fully.");
}

const SettingSpec* OperatorSpec::setting(std::string_view wanted) const {
    for (const SettingSpec& s : settings)
        if (s.id == wanted) return &s;
    return nullptr;
}

std::optional<std::size_t> OperatorSpec::outputIndex(std::string_view wanted) const {
    for (std::size_t i = 0; i < outputs.size(); ++i)
        if (outputs[i].id == wanted || (i == 0 && wanted.empty())) return i;
    return {};
}

const PortSpec* OperatorSpec::input(std::string_view wanted) const {
    for (const PortSpec& p : inputs)
        if (p.id == wanted) return &p;
    return nullptr;
}

SampleStep sampleOf(const OperatorSpec& spec) {
    if (!spec.sample.op.empty()) return spec.sample;
    if (spec.inputs.empty()) return sample::step(spec.id);
    return sample::step(spec.id, Json::object(), {spec.takes == Takes::curves ? sample::profile() : sample::cells()});
}

}  // namespace seedloom
