#include "operators/HandStrokes.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

float numberIn(const OperatorCall& call, const Json& stroke, const char* key, std::string_view setting, float fallback, float low, float high) {
    const auto it = stroke.find(key);
    if (it == stroke.end()) return fallback;
    if (!it->is_number() || !std::isfinite(it->get<double>()))
        call.fail("setting.type", fmt::format("A stroke's {} must be a number.", key), std::string(setting));
    return std::clamp(it->get<float>(), low, high);
}

std::string modeIn(const OperatorCall& call, const Json& stroke, std::string_view setting) {
    const std::vector<std::string>& modes = call.choicesOf(setting);
    const auto it = stroke.find("mode");
    if (it == stroke.end()) return modes.front();
    if (it->is_string() && std::find(modes.begin(), modes.end(), it->get<std::string>()) != modes.end()) return it->get<std::string>();
    call.fail("setting.type", fmt::format("A stroke's mode must be one of {}. Remove the stroke, or mend the file.", fmt::join(modes, ", ")),
              std::string(setting));
}

HandStroke readStroke(const OperatorCall& call, const Json& json, std::string_view setting) {
    HandStroke out;
    const std::string where(setting);
    const auto points = json.is_object() ? json.find("points") : json.end();
    if (!json.is_object() || points == json.end() || !points->is_array())
        call.fail("setting.type", "A stroke is written {\"points\": [[x, y, z], …], \"radius\": 0.1}. Clear the strokes, or mend the file.", where);
    for (const Json& p : *points) {
        if (!p.is_array() || (p.size() != 3 && p.size() != 6))
            call.fail("setting.type", "A stroke's point is written [x, y, z], or with the surface's normal behind it.", where);
        float v[6] = {};
        for (std::size_t i = 0; i < p.size(); ++i) {
            if (!p[i].is_number()) call.fail("setting.type", "A stroke's point holds something that is no number.", where);
            v[i] = p[i].get<float>();
        }
        if (!isFinite(Vec3{v[0], v[1], v[2]})) continue;
        out.at.push_back({v[0], v[1], v[2]});
        if (p.size() == 6) out.normal.push_back({v[3], v[4], v[5]});
    }
    if (out.normal.size() != out.at.size()) out.normal.clear();
    out.radius = numberIn(call, json, "radius", setting, 0.1f, 1e-6f, 1e9f);
    out.strength = numberIn(call, json, "strength", setting, 1, 0, 1);
    out.soft = numberIn(call, json, "soft", setting, 0.5f, 0, 1);
    out.mode = modeIn(call, json, setting);
    return out;
}

HandStroke mirrored(const HandStroke& stroke, int axis) {
    HandStroke out = stroke;
    for (Vec3& p : out.at) p[axis] = -p[axis];
    for (Vec3& n : out.normal) n[axis] = -n[axis];
    return out;
}

}  // namespace

float HandStroke::pressure(float distance) const {
    const float from = radius * (1 - soft);
    if (distance <= from) return 1;
    if (distance >= radius) return 0;
    const float t = 1 - (distance - from) / (radius - from);
    return t * t * (3 - 2 * t);
}

StrokeImages strokeIn(const OperatorCall& call, const Json& entry, std::string_view setting) {
    StrokeImages images{readStroke(call, entry, setting)};
    if (images.front().at.empty() || lineHidden(entry)) return {};
    const auto mirror = entry.find("mirror");
    if (mirror != entry.end() && mirror->is_string())
        for (int axis = 0; axis < 3; ++axis)
            if (mirror->get<std::string>().find(char('x' + axis)) != std::string::npos)
                for (std::size_t i = 0, n = images.size(); i < n; ++i) images.push_back(mirrored(images[i], axis));
    return images;
}

std::vector<StrokeImages> strokesOf(const OperatorCall& call, std::string_view setting) {
    const auto* plain = std::get_if<FixedSource>(&call.source(setting));
    if (!plain || !plain->value.is_array()) call.fail("setting.type", "Strokes must be a list of strokes.", std::string(setting));
    call.run().require(double(plain->value.size()), "strokes");
    std::vector<StrokeImages> out;
    for (const Json& json : plain->value)
        if (StrokeImages images = strokeIn(call, json, setting); !images.empty()) out.push_back(std::move(images));
    return out;
}

bool hasStrokes(const OperatorCall& call, std::string_view setting) {
    const auto* plain = std::get_if<FixedSource>(&call.source(setting));
    if (!plain) return false;
    return call.unfinished(setting) || !plain->value.is_array() || !std::all_of(plain->value.begin(), plain->value.end(), lineHidden);
}

Geometry lineOf(const HandStroke& stroke) {
    std::vector<Index> points(stroke.at.size());
    for (Index i = 0; i < points.size(); ++i) points[i] = i;
    const Index count = Index(points.size());
    return Geometry(stroke.at, Topology(count, {0}, {}, {0, count}, std::move(points), {0}));
}

}  // namespace seedloom
