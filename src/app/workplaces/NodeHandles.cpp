#include "app/workplaces/NodeHandles.h"

#include "fields/Evaluate.h"
#include "graph/NodeSpec.h"
#include "operators/DrawnLine.h"

#include <QtCore/QCoreApplication>

namespace seedloom::app {

namespace {

constexpr std::size_t kMostHandles = 400;

QString tr(const char* text) { return QCoreApplication::translate("NodeHandles", text); }

double plain(double v) { return std::round(v * 1e6) / 1e6; }

/// The plain value of a setting, its default where it is not written; nothing where it comes from a source.
std::optional<Json> plainValue(const Node& node, const char* setting) {
    const auto it = node.settings.find(setting);
    if (it != node.settings.end()) return it->is_object() ? std::nullopt : std::optional(*it);
    const auto spec = specOf(node, {});
    const SettingSpec* declared = spec ? spec->setting(setting) : nullptr;
    return declared ? std::optional(declared->fallback) : std::nullopt;
}
std::optional<Vec3> vectorValue(const Node& node, const char* setting) {
    const auto value = plainValue(node, setting);
    Numbers n;
    if (!value || !numbersOf(*value, n) || n.components == 2 || n.components == 4) return {};
    if (n.components == 1) return Vec3{float(n.value[0]), float(n.value[0]), float(n.value[0])};
    return Vec3{float(n.value[0]), float(n.value[1]), float(n.value[2])};
}
std::optional<float> numberValue(const Node& node, const char* setting) {
    const auto value = plainValue(node, setting);
    return value && value->is_number() ? std::optional(value->get<float>()) : std::nullopt;
}
int axisOf(const Node& node, const char* setting) {
    const auto value = plainValue(node, setting);
    return value && value->is_string() && !value->get<std::string>().empty() ? std::clamp(value->get<std::string>()[0] - 'x', 0, 2) : 1;
}
Vec3 unit(int axis) {
    Vec3 out{};
    out[axis] = 1;
    return out;
}
float sizeOf(const Bounds& input) { return input.empty ? 1.0f : std::max(float(input.diagonal()), 1e-4f); }

void add(NodeHandles& to, Vec3 at, QString name, std::optional<Vec3> along = {}) {
    to.at.push_back(at), to.along.push_back(along), to.name.push_back(std::move(name));
}
/// A square around a place, to show a plane.
void addSquare(NodeHandles& to, Vec3 middle, Vec3 normal, float half) {
    const Vec3 u = anyPerpendicular(normalized(normal)), v = cross(normalized(normal), u);
    const Vec3 corners[] = {middle + (u + v) * half, middle + (v - u) * half, middle - (u + v) * half, middle + (u - v) * half};
    for (int i = 0; i < 4; ++i) to.lines.push_back({corners[i], corners[(i + 1) % 4]});
}

std::vector<Vec3> pointsOf(const Node& node, const char* setting) {
    std::vector<Vec3> out;
    const auto value = plainValue(node, setting);
    if (!value || !value->is_array()) return out;
    for (const Json& p : *value) {
        Numbers n;
        if (!numbersOf(p, n) || n.components != 3) return {};
        out.push_back({float(n.value[0]), float(n.value[1]), float(n.value[2])});
    }
    return out;
}

NodeHandles pointHandles(const Node& node) {
    NodeHandles out;
    const auto points = pointsOf(node, "points");
    if (points.size() > kMostHandles) return out;
    for (std::size_t i = 0; i < points.size(); ++i) add(out, points[i], tr("Point %1").arg(i + 1));
    const auto join = plainValue(node, "join");
    const bool closed = join && (*join == "closed curve" || *join == "filled");
    if (!points.empty()) out.chains = {{0, points.size(), closed}};
    // Without the line, a pinned result would hide where a double click puts a point in.
    for (std::size_t i = 0; i + 1 < points.size() + (closed && points.size() > 2); ++i) out.lines.push_back({points[i], points[(i + 1) % points.size()]});
    return out;
}

/// Which line and which of its points each handle of drawn lines is, in order.
std::vector<std::pair<std::size_t, std::size_t>> drawnPlaces(const Json& lines, std::optional<std::size_t> only) {
    std::vector<std::pair<std::size_t, std::size_t>> out;
    for (std::size_t l = 0; l < lines.size(); ++l) {
        if (lineHidden(lines[l]) || (only && *only != l)) continue;
        for (std::size_t i = 0; i < pointsOfLine(lines[l]).size(); ++i) out.push_back({l, i});
    }
    return out;
}

NodeHandles drawnHandles(const Node& node, std::optional<std::size_t> only) {
    NodeHandles out;
    const auto lines = plainValue(node, "strokes");
    if (!lines || !lines->is_array()) return out;
    const bool closed = plainValue(node, "close") == Json(true);
    for (const auto& [line, point] : drawnPlaces(*lines, only)) {
        Numbers n;
        const Json& points = pointsOfLine((*lines)[line]);
        if (!points.is_array() || !numbersOf(points[point], n) || n.components != 3 || out.at.size() >= kMostHandles) return {};
        if (point == 0) out.chains.push_back({out.at.size(), points.size(), closed});
        add(out, {float(n.value[0]), float(n.value[1]), float(n.value[2])}, tr("Line %1, point %2").arg(line + 1).arg(point + 1));
    }
    return out;
}

/// Where a point of drawn lines comes to lie: in the plane that is set, on the ground where nothing else is said and there is no surface.
Vec3 inPlaneOf(const Node& node, const Bounds& surface, Vec3 at) {
    const auto written = plainValue(node, "plane");
    const std::string plane = written && written->is_string() ? written->get<std::string>() : "";
    if (plane == "side") at.x = 0;
    if (plane == "ground" || (plane == "auto" && surface.empty)) at.y = 0;
    if (plane == "front") at.z = 0;
    return at;
}

/// The drawn lines with the one that handle `i` belongs to changed: `change` gets its points and which of them the handle is.
template <class Change> std::map<std::string, Json> changedLine(const Node& node, std::size_t i, std::optional<std::size_t> only, Change change) {
    const auto lines = plainValue(node, "strokes");
    if (!lines || !lines->is_array()) return {};
    const auto places = drawnPlaces(*lines, only);
    if (i >= places.size()) return {};
    const auto [line, point] = places[i];
    Json points = pointsOfLine((*lines)[line]);
    if (!change(points, point)) return {};
    Json out = *lines;
    out[line] = lineWithPoints(out[line], std::move(points));
    return {{"strokes", std::move(out)}};
}

NodeHandles planeHandles(const Node& node, const Bounds& input) {
    NodeHandles out;
    const auto origin = vectorValue(node, "origin"), normal = vectorValue(node, "normal");
    if (!origin || !normal) return out;
    const Vec3 n = normalized(*normal);
    const float reach = sizeOf(input) * 0.3f;
    add(out, *origin, tr("Origin"));
    add(out, *origin + n * reach, tr("Normal"));
    out.lines.push_back({out.at[0], out.at[1]});
    addSquare(out, *origin, n, sizeOf(input) * 0.35f);
    return out;
}

NodeHandles mirrorHandles(const Node& node, const Bounds& input) {
    NodeHandles out;
    const auto offset = numberValue(node, "offset");
    if (!offset) return out;
    const int axis = axisOf(node, "plane");
    Vec3 at = input.centre();
    at[axis] = *offset;
    add(out, at, tr("Mirror plane"), unit(axis));
    addSquare(out, at, unit(axis), sizeOf(input) * 0.35f);
    return out;
}

NodeHandles transformHandles(const Node& node, const Bounds& input) {
    NodeHandles out;
    const auto move = vectorValue(node, "move"), scale = vectorValue(node, "scale"), rotate = vectorValue(node, "rotate"), pivot = vectorValue(node, "pivot");
    if (!move || input.empty) return out;
    const bool straight = rotate && *rotate == Vec3{} && scale && pivot;
    const Vec3 at = straight ? *pivot + (input.centre() - *pivot) * *scale + *move : input.centre() + *move;
    add(out, at, tr("Move"));
    for (int c = 0; straight && c < 3; ++c) {
        const float half = input.size()[c] / 2;
        if (half <= 0) continue;
        add(out, at + unit(c) * (half * (*scale)[c]), tr("Scale %1").arg(QChar('x' + c)), unit(c));
        out.lines.push_back({at, out.at.back()});
    }
    return out;
}

/// The scale along an axis that brings the middle of a side to a place; away from the pivot the centre moves along with it.
float scaleReaching(const Node& node, const Bounds& input, int c, float to, float otherwise) {
    const float pivot = (*vectorValue(node, "pivot"))[c], fromPivot = input.centre()[c] + input.size()[c] / 2 - pivot;
    return std::abs(fromPivot) > 1e-6f ? (to - pivot - (*vectorValue(node, "move"))[c]) / fromPivot : otherwise;
}

struct BendPlace {
    int axis;
    Vec3 foot, along, aside;
    float size;
};
BendPlace bendPlace(const Node& node, const Bounds& input) {
    const int axis = axisOf(node, "axis");
    Vec3 foot = input.centre();
    foot[axis] = input.min[axis];
    return {axis, foot, unit(axis), unit((axis + 1) % 3), input.size()[axis]};
}
NodeHandles bendHandles(const Node& node, const Bounds& input) {
    NodeHandles out;
    const auto start = numberValue(node, "start"), end = numberValue(node, "end"), angle = numberValue(node, "angle");
    if (input.empty || !start || !end) return out;
    const BendPlace p = bendPlace(node, input);
    add(out, p.foot + p.along * (p.size * *start), tr("Start"), p.along);
    add(out, p.foot + p.along * (p.size * *end), tr("End"), p.along);
    out.lines.push_back({out.at[0], out.at[1]});
    if (!angle) return out;
    add(out, out.at[1] + p.aside * (p.size * *angle / 180), tr("Angle"), p.aside);
    out.lines.push_back({out.at[1], out.at[2]});
    return out;
}

NodeHandles fitHandles(const Node& node, const Bounds& input) {
    NodeHandles out;
    const auto size = vectorValue(node, "size");
    if (!size || input.empty) return out;
    const Vec3 at = input.centre();
    for (int c = 0; c < 3; ++c) {
        add(out, at + unit(c) * ((*size)[c] / 2), tr("Size %1").arg(QChar('x' + c)), unit(c));
        out.lines.push_back({at, out.at.back()});
    }
    return out;
}

/// How many points a cage has along each axis, as its operator reads it.
std::optional<std::array<int, 3>> cageCounts(const Node& node) {
    const auto wanted = vectorValue(node, "points");
    if (!wanted) return {};
    std::array<int, 3> out{};
    for (int c = 0; c < 3; ++c) out[std::size_t(c)] = std::clamp(int(std::lround((*wanted)[c])), 1, 16);
    return out;
}
Vec3 cagePlace(const Bounds& input, const std::array<int, 3>& counts, const std::array<int, 3>& at) {
    Vec3 out = input.min;
    for (int c = 0; c < 3; ++c)
        if (counts[std::size_t(c)] > 1) out[c] += input.size()[c] * float(at[std::size_t(c)]) / float(counts[std::size_t(c)] - 1);
    return out;
}
NodeHandles cageHandles(const Node& node, const Bounds& input) {
    NodeHandles out;
    const auto counts = cageCounts(node);
    const auto offsets = pointsOf(node, "offsets");
    if (!counts || !plainValue(node, "offsets") || input.empty || std::size_t((*counts)[0] * (*counts)[1] * (*counts)[2]) > kMostHandles) return out;
    const auto [nx, ny, nz] = *counts;
    const std::array<int, 3> step{1, nx, nx * ny};
    for (int z = 0; z < nz; ++z)
        for (int y = 0; y < ny; ++y)
            for (int x = 0; x < nx; ++x) {
                const std::size_t i = out.at.size();
                add(out, cagePlace(input, *counts, {x, y, z}) + (i < offsets.size() ? offsets[i] : Vec3{}),
                    tr("Cage point %1, %2, %3").arg(x + 1).arg(y + 1).arg(z + 1));
                const std::array<int, 3> at{x, y, z};
                for (std::size_t c = 0; c < 3; ++c)
                    if (at[c] > 0) out.lines.push_back({out.at[i - std::size_t(step[c])], out.at[i]});
            }
    return out;
}
/// The offsets with that of one point changed by as much as its handle was moved.
Json movedCagePoint(const Node& node, std::size_t i, Vec3 by) {
    Json offsets = *plainValue(node, "offsets");
    const auto now = pointsOf(node, "offsets");
    while (offsets.size() <= i) offsets.push_back({0.0, 0.0, 0.0});
    offsets[i] = vectorJson((i < now.size() ? now[i] : Vec3{}) + by);
    return offsets;
}

/// The same for a list of points and for drawn lines.
template <class Change> std::map<std::string, Json> changedPoints(const Node& node, int i, std::optional<std::size_t> line, Change change) {
    if (i < 0) return {};
    if (node.op == "drawn_curve") return changedLine(node, std::size_t(i), line, change);
    const auto points = plainValue(node, "points");
    if (!points || !points->is_array() || std::size_t(i) >= points->size()) return {};
    Json out = *points;
    if (!change(out, std::size_t(i))) return {};
    return {{"points", std::move(out)}};
}

}  // namespace

NodeHandles handlesFor(const Node& node, const Bounds& input, std::optional<std::size_t> line) {
    if (node.skipped) return {};
    if (node.op == "point_list") return pointHandles(node);
    if (node.op == "drawn_curve") return drawnHandles(node, line);
    if (node.op == "plane_cut") return planeHandles(node, input);
    if (node.op == "mirror") return mirrorHandles(node, input);
    if (node.op == "transform") return transformHandles(node, input);
    if (node.op == "bend") return bendHandles(node, input);
    if (node.op == "fit") return fitHandles(node, input);
    if (node.op == "cage") return cageHandles(node, input);
    return {};
}

Json vectorJson(Vec3 v) { return {plain(double(v.x)), plain(double(v.y)), plain(double(v.z))}; }

void addStroke(NodeHandles& to, const Node& node, std::size_t stroke) {
    const auto strokes = plainValue(node, "strokes");
    if (!strokes || !strokes->is_array() || stroke >= strokes->size()) return;
    std::optional<Vec3> last;
    for (const Json& point : pointsOfLine((*strokes)[stroke])) {
        if (!point.is_array() || point.size() < 3 || !point[0].is_number() || !point[1].is_number() || !point[2].is_number()) continue;
        const Vec3 at{point[0].get<float>(), point[1].get<float>(), point[2].get<float>()};
        if (last) to.drawn.push_back({*last, at});
        last = at;
    }
}

void addCutLines(NodeHandles& to, const Geometry& extended) {
    constexpr std::size_t kMostLines = 20000;
    const auto* drawnOn = extended.values<std::uint8_t>(Element::curve, "drawn_on");
    if (!drawnOn) return;
    const Topology& t = extended.topology();
    for (Index c = 0; c < t.curveCount(); ++c) {
        const auto curve = t.curve(c);
        auto& list = (*drawnOn)[c] ? to.lines : to.drawn;
        for (std::size_t k = 0; k + (t.curveClosed(c) ? 0 : 1) < curve.size() && list.size() < kMostLines; ++k)
            list.push_back({extended.positions()[curve[k]], extended.positions()[curve[(k + 1) % curve.size()]]});
    }
}

std::map<std::string, Json> movedHandle(const Node& node, const Bounds& input, int i, Vec3 to, std::optional<std::size_t> line) {
    const auto at = std::size_t(i);
    if (node.op == "point_list") {
        Json points = *plainValue(node, "points");
        if (at < points.size()) points[at] = vectorJson(to);
        return {{"points", points}};
    }
    if (node.op == "drawn_curve")
        return changedLine(node, at, line, [to = inPlaneOf(node, input, to)](Json& points, std::size_t point) {
            points[point] = vectorJson(to);
            return true;
        });
    const NodeHandles now = handlesFor(node, input);
    if (at >= now.at.size()) return {};
    if (node.op == "cage") return {{"offsets", movedCagePoint(node, at, to - now.at[at])}};
    if (node.op == "plane_cut") {
        if (i == 0) return {{"origin", vectorJson(to)}};
        const Vec3 n = normalized(to - now.at[0], {});
        return n == Vec3{} ? std::map<std::string, Json>{} : std::map<std::string, Json>{{"normal", vectorJson(n)}};
    }
    if (node.op == "mirror") return {{"offset", plain(double(to[axisOf(node, "plane")]))}};
    if (node.op == "transform" && i == 0) return {{"move", vectorJson(*vectorValue(node, "move") + to - now.at[0])}};
    if (node.op == "transform") {
        Vec3 scale = *vectorValue(node, "scale");
        for (int c = 0; c < 3; ++c)
            if ((*now.along[at])[c] != 0) scale[c] = scaleReaching(node, input, c, to[c], scale[c]);
        return {{"scale", vectorJson(scale)}};
    }
    if (node.op == "fit") {
        Vec3 size = *vectorValue(node, "size");
        for (int c = 0; c < 3; ++c)
            if ((*now.along[at])[c] != 0) size[c] = std::max(std::abs(to[c] - input.centre()[c]) * 2, 1e-6f);
        return {{"size", vectorJson(size)}};
    }
    if (node.op == "bend") {
        const BendPlace p = bendPlace(node, input);
        if (!(p.size > 0)) return {};
        if (i == 2) return {{"angle", plain(double(std::round(dot(to - now.at[1], p.aside) / p.size * 180 * 10) / 10))}};
        return {{i == 0 ? "start" : "end", plain(double(dot(to - p.foot, p.along) / p.size))}};
    }
    return {};
}

std::map<std::string, Json> withPoint(const Node& node, int behind, Vec3 at, std::optional<std::size_t> line) {
    const auto insert = [at](Json& points, std::size_t point) {
        points.insert(points.begin() + std::ptrdiff_t(point) + 1, vectorJson(at));
        return true;
    };
    return changedPoints(node, behind, line, insert);
}

std::map<std::string, Json> withEnd(const Node& node, int end, Vec3 at, std::optional<std::size_t> line) {
    const auto append = [at](Json& points, std::size_t point) {
        const bool last = point + 1 == points.size();
        points.insert(last ? points.end() : points.begin(), vectorJson(at));
        return true;
    };
    return changedPoints(node, end, line, append);
}

std::map<std::string, Json> withoutPoint(const Node& node, int i, std::optional<std::size_t> line) {
    const std::size_t fewest = node.op == "drawn_curve" ? 2 : 1;
    const auto erase = [fewest](Json& points, std::size_t point) {
        if (points.size() <= fewest) return false;
        points.erase(point);
        return true;
    };
    return changedPoints(node, i, line, erase);
}

}  // namespace seedloom::app
