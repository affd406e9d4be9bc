#include "operators/attribute/Strokes.h"

#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "geometry/Neighbours.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// One move of the brush, as places in space: it stays where it is when the geometry is rebuilt finer or coarser.
struct Stroke {
    std::vector<Vec3> at, normal;  ///< normal: of the surface there; empty where the stroke goes through everything
    float radius = 0.1f, strength = 1, soft = 0.5f;
    enum class Mode { add, remove, smooth } mode = Mode::add;
};

float numberIn(const OperatorCall& call, const Json& stroke, const char* key, float fallback, float low, float high) {
    const auto it = stroke.find(key);
    if (it == stroke.end()) return fallback;
    if (!it->is_number() || !std::isfinite(it->get<double>())) call.fail("setting.type", fmt::format("A stroke's {} must be a number.", key), "strokes");
    return std::clamp(it->get<float>(), low, high);
}

Stroke readStroke(const OperatorCall& call, const Json& json) {
    Stroke out;
    const auto points = json.is_object() ? json.find("points") : json.end();
    if (!json.is_object() || points == json.end() || !points->is_array())
        call.fail("setting.type", "A stroke is written {\"points\": [[x, y, z], …], \"radius\": 0.1}. Clear the strokes, or mend the file.", "strokes");
    for (const Json& p : *points) {
        if (!p.is_array() || (p.size() != 3 && p.size() != 6))
            call.fail("setting.type", "A stroke's point is written [x, y, z], or with the surface's normal behind it.", "strokes");
        float v[6] = {};
        for (std::size_t i = 0; i < p.size(); ++i) {
            if (!p[i].is_number()) call.fail("setting.type", "A stroke's point holds something that is no number.", "strokes");
            v[i] = p[i].get<float>();
        }
        if (!isFinite(Vec3{v[0], v[1], v[2]})) continue;
        out.at.push_back({v[0], v[1], v[2]});
        if (p.size() == 6) out.normal.push_back({v[3], v[4], v[5]});
    }
    if (out.normal.size() != out.at.size()) out.normal.clear();
    out.radius = numberIn(call, json, "radius", 0.1f, 1e-6f, 1e9f);
    out.strength = numberIn(call, json, "strength", 1, 0, 1);
    out.soft = numberIn(call, json, "soft", 0.5f, 0, 1);
    const std::string mode = json.value("mode", Json("add")).is_string() ? json.value("mode", std::string("add")) : std::string("add");
    out.mode = mode == "remove" ? Stroke::Mode::remove : mode == "smooth" ? Stroke::Mode::smooth : Stroke::Mode::add;
    return out;
}

Stroke mirrored(const Stroke& stroke, int axis) {
    Stroke out = stroke;
    for (Vec3& p : out.at) p[axis] = -p[axis];
    for (Vec3& n : out.normal) n[axis] = -n[axis];
    return out;
}

/// A stroke followed by its mirror images.
std::vector<Stroke> readImages(const OperatorCall& call, const Json& json) {
    std::vector<Stroke> images{readStroke(call, json)};
    const auto mirror = json.find("mirror");
    if (mirror != json.end() && mirror->is_string())
        for (char c : mirror->get<std::string>())
            if (c >= 'x' && c <= 'z')
                for (std::size_t i = 0, n = images.size(); i < n; ++i) images.push_back(mirrored(images[i], c - 'x'));
    return images;
}

/// All strokes of the setting.
std::vector<Stroke> readStrokes(const OperatorCall& call) {
    const auto* plain = std::get_if<FixedSource>(&call.source("strokes"));
    if (!plain || !plain->value.is_array()) call.fail("setting.type", "Strokes must be a list of strokes.", "strokes");
    call.run().require(double(plain->value.size()), "strokes");
    std::vector<Stroke> out;
    for (const Json& json : plain->value) {
        const std::vector<Stroke> images = readImages(call, json);
        out.insert(out.end(), images.begin(), images.end());
    }
    return out;
}

/// The line that the brush went, as a curve to search.
Geometry lineOf(const Stroke& stroke) {
    std::vector<Index> points(stroke.at.size());
    for (Index i = 0; i < points.size(); ++i) points[i] = i;
    const Index count = Index(points.size());
    return Geometry(stroke.at, Topology(count, {0}, {}, {0, count}, std::move(points), {0}));
}

class Painter {
public:
    Painter(const OperatorCall& call, const Geometry& in, std::vector<float> mask) : call_(call), in_(in), normals_(pointNormals(in)), mask_(std::move(mask)) {}

    void paint(const Stroke& stroke) {
        if (stroke.at.empty()) return;
        const NearestPlace line(lineOf(stroke), NearestPlace::On::curves);
        const Bounds bounds = boundsOf(stroke.at);
        const Vec3 low = bounds.min - Vec3{1, 1, 1} * stroke.radius, high = bounds.max + Vec3{1, 1, 1} * stroke.radius;
        const std::vector<float> before = stroke.mode == Stroke::Mode::smooth ? mask_ : std::vector<float>();
        if (stroke.mode == Stroke::Mode::smooth && beside_.start.empty()) beside_ = pointNeighbours(in_.topology());
        forEach(
            mask_.size(), call_.run(),
            [&](std::size_t i) {
                const Vec3 p = in_.positions()[i];
                // Written so that a place that is no number is left out.
                if (!(p.x >= low.x && p.y >= low.y && p.z >= low.z && p.x <= high.x && p.y <= high.y && p.z <= high.z)) return;
                const Place place = line.find(p);
                const float effect = stroke.strength * pressure(stroke, std::sqrt(place.squaredDistance));
                if (effect <= 0 || facesAway(stroke, place, i)) return;
                if (stroke.mode == Stroke::Mode::smooth) mask_[i] += (meanBeside(before, i) - mask_[i]) * effect;
                else mask_[i] = std::clamp(mask_[i] + (stroke.mode == Stroke::Mode::add ? effect : -effect), 0.0f, 1.0f);
            },
            4096);
    }
    std::vector<float> take() { return std::move(mask_); }

private:
    /// 1 under the middle of the brush, 0 at its rim; `soft` is the part of the radius over which it falls off.
    static float pressure(const Stroke& stroke, float distance) {
        const float from = stroke.radius * (1 - stroke.soft);
        if (distance <= from) return 1;
        if (distance >= stroke.radius) return 0;
        const float t = 1 - (distance - from) / (stroke.radius - from);
        return t * t * (3 - 2 * t);
    }
    /// The far side of a thin wall is not painted through.
    bool facesAway(const Stroke& stroke, const Place& place, std::size_t i) const {
        if (stroke.normal.empty()) return false;
        const Vec3 n = stroke.normal[place.points[0]] * place.weights[0] + stroke.normal[place.points[1]] * place.weights[1];
        return dot(n, normals_[i]) < -0.2f;
    }
    float meanBeside(const std::vector<float>& values, std::size_t i) const {
        const auto around = beside_[i];
        float sum = values[i];
        for (Index j : around) sum += values[j];
        return sum / float(around.size() + 1);
    }

    const OperatorCall& call_;
    const Geometry& in_;
    std::vector<Vec3> normals_;
    std::vector<float> mask_;
    Rows beside_;
};

std::vector<float> painted(const OperatorCall& call, const Geometry& in, std::vector<float> mask, const std::vector<Stroke>& strokes) {
    if (strokes.empty()) return mask;
    Painter painter(call, in, std::move(mask));
    for (const Stroke& stroke : strokes) painter.paint(stroke);
    return painter.take();
}

}  // namespace

bool hasStrokes(const OperatorCall& call) {
    const auto* plain = std::get_if<FixedSource>(&call.source("strokes"));
    return plain && (!plain->value.empty() || call.unfinished("strokes"));
}

std::vector<float> paintedOver(const OperatorCall& call, const Geometry& in, std::vector<float> mask) {
    const Json* more = call.unfinished("strokes");
    if (!more) return painted(call, in, std::move(mask), readStrokes(call));
    const auto before = call.withoutUnfinished<std::vector<float>>([&] { return painted(call, in, std::move(mask), readStrokes(call)); });
    return painted(call, in, *before, readImages(call, *more));
}

}  // namespace seedloom
