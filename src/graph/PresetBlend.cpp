#include "graph/PresetBlend.h"

#include "fields/Source.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

double mixed(double a, double b, double part) { return a * (1 - part) + b * part; }  // exact at both ends

Json blendedNumber(const Control& control, const Json& from, const Json& to, double part) {
    double value = mixed(from.get<double>(), to.get<double>(), part);
    if (control.min) value = std::max(value, *control.min);
    if (control.max) value = std::min(value, *control.max);
    if (control.type == "integer" && std::abs(value) < 9e15) return std::int64_t(std::llround(value));
    return value;
}

/// Knots wherever one of the two has them, so that both ends are what was drawn.
Json blendedRamp(const Ramp& from, const Ramp& to, double part) {
    std::vector<double> at;
    for (const Ramp* ramp : {&from, &to})
        for (const RampKnot& knot : ramp->knots()) at.push_back(knot.x);
    std::sort(at.begin(), at.end());
    at.erase(std::unique(at.begin(), at.end()), at.end());
    const std::vector<RampKnot>& shapes = (part < 0.5 ? from : to).knots();
    std::vector<RampKnot> knots;
    for (double x : at) {
        RampShape shape = shapes.front().shape;
        for (const RampKnot& knot : shapes)
            if (knot.x <= x) shape = knot.shape;
        knots.push_back({x, mixed(from.at(x), to.at(x), part), shape});
    }
    return rampToJson(Ramp(std::move(knots)));
}

}  // namespace

Json blendedValue(const Control& control, const Json& from, const Json& to, double part) {
    part = std::clamp(part, 0.0, 1.0);
    if (part == 0 || from == to) return from;
    if (part == 1) return to;
    if (from.is_number() && to.is_number()) return blendedNumber(control, from, to, part);
    if (from.is_array() && to.is_array() && from.size() == to.size()) {
        Json out = Json::array();
        for (std::size_t i = 0; i < from.size(); ++i) out.push_back(blendedNumber(control, from[i], to[i], part));
        return out;
    }
    if (control.type == "ramp")
        if (const auto a = rampFromJson(from), b = rampFromJson(to); a && b) return blendedRamp(*a, *b, part);
    return part < 0.5 ? from : to;
}

Result<ControlValues> blendedValues(const Loom& loom, const Preset& from, const Preset& to, double part) {
    // What a preset leaves out has its default, whatever is in use now.
    Loom plain = loom;
    plain.values.clear();
    plain.presets = {from, to};
    plain.presets[0].name = "from", plain.presets[1].name = "to";
    const auto first = controlValues(plain, {"from", {}}), second = controlValues(plain, {"to", {}});
    if (!first) return first.error();
    if (!second) return second.error();
    ControlValues out;
    for (const Control& control : loom.controls)
        if (from.values.contains(control.id) || to.values.contains(control.id))
            out[control.id] = blendedValue(control, first->at(control.id), second->at(control.id), part);
    plain.values = out;
    if (const auto together = controlValues(plain); !together) return together.error();
    return out;
}

}  // namespace seedloom
