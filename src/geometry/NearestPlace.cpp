#include "geometry/NearestPlace.h"

#include "geometry/Triangulate.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

constexpr std::size_t kLeaf = 4;

float squaredDistanceToBox(Vec3 p, Vec3 low, Vec3 high) {
    float sum = 0;
    for (int c = 0; c < 3; ++c) {
        const float d = std::max({low[c] - p[c], 0.0f, p[c] - high[c]});
        sum += d * d;
    }
    return sum;
}

std::array<float, 3> nearestOnSegment(Vec3 p, Vec3 a, Vec3 b) {
    const Vec3 ab = b - a;
    const float size = dot(ab, ab);
    const float t = size > 0 ? std::clamp(dot(p - a, ab) / size, 0.0f, 1.0f) : 0.0f;
    return {1 - t, t, 0};
}

using Way = std::array<double, 3>;

Way way(Vec3 from, Vec3 to) { return {double(to.x) - double(from.x), double(to.y) - double(from.y), double(to.z) - double(from.z)}; }
double dot(const Way& a, const Way& b) { return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]; }

std::array<float, 3> weights(double a, double b, double c) { return {float(a), float(b), float(c)}; }

/// In doubles: areas of long thin triangles are small differences of large products.
std::array<float, 3> nearestOnTriangle(Vec3 p, Vec3 a, Vec3 b, Vec3 c) {
    const Way ab = way(a, b), ac = way(a, c), ap = way(a, p);
    const double d1 = dot(ab, ap), d2 = dot(ac, ap);
    if (d1 <= 0 && d2 <= 0) return {1, 0, 0};
    const Way bp = way(b, p);
    const double d3 = dot(ab, bp), d4 = dot(ac, bp);
    if (d3 >= 0 && d4 <= d3) return {0, 1, 0};
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return weights(1 - d1 / (d1 - d3), d1 / (d1 - d3), 0);
    const Way cp = way(c, p);
    const double d5 = dot(ab, cp), d6 = dot(ac, cp);
    if (d6 >= 0 && d5 <= d6) return {0, 0, 1};
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return weights(1 - d2 / (d2 - d6), 0, d2 / (d2 - d6));
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const double t = (d4 - d3) / ((d4 - d3) + (d5 - d6));
        return weights(0, 1 - t, t);
    }
    const double sum = va + vb + vc;
    if (!(sum > 0)) return nearestOnSegment(p, a, b);  // no area
    return weights(va / sum, vb / sum, vc / sum);
}

}  // namespace

void NearestPlace::addPart(const Geometry& geometry, const Part& part) {
    const auto& at = geometry.positions();
    if (isFinite(at[part.points[0]]) && isFinite(at[part.points[1]]) && isFinite(at[part.points[2]])) parts_.push_back(part);
}

NearestPlace::NearestPlace(const Geometry& geometry, On on) : at_(geometry.positions()) {
    const Topology& t = geometry.topology();
    if (on == On::points)
        for (Index p = 0; p < geometry.pointCount(); ++p) addPart(geometry, {{p, p, p}, {}, p});
    if (on == On::curves)
        for (Index c = 0; c < geometry.curveCount(); ++c) {
            const auto curve = t.curve(c);
            for (std::size_t i = 0; i + 1 < curve.size(); ++i) addPart(geometry, {{curve[i], curve[i + 1], curve[i]}, {}, c});
            if (curve.size() == 1 || (curve.size() > 2 && t.curveClosed(c))) addPart(geometry, {{curve.back(), curve.front(), curve.back()}, {}, c});
        }
    if (on == On::faces) {
        const Triangles triangles = triangulate(geometry);
        for (std::size_t i = 0; i < triangles.count(); ++i) {
            const std::array<Index, 3> corners{triangles.corners[3 * i], triangles.corners[3 * i + 1], triangles.corners[3 * i + 2]};
            addPart(geometry, {{t.cornerPoint()[corners[0]], t.cornerPoint()[corners[1]], t.cornerPoint()[corners[2]]}, corners, triangles.faceOf[i]});
        }
    }
    if (parts_.empty()) return;
    std::vector<Middle> middles(parts_.size());
    for (Index i = 0; i < parts_.size(); ++i) middles[i] = {(at_[parts_[i].points[0]] + at_[parts_[i].points[1]] + at_[parts_[i].points[2]]) * (1.0f / 3), i};
    boxes_.reserve(parts_.size());
    boxes_.emplace_back();
    build(0, middles, 0, middles.size());
    order_.reserve(middles.size());
    for (const Middle& middle : middles) order_.push_back(middle.part);
}

void NearestPlace::build(std::size_t box, std::vector<Middle>& middles, std::size_t begin, std::size_t end) {
    if (end - begin <= kLeaf) {
        Vec3 low = at_[parts_[middles[begin].part].points[0]], high = low;
        for (std::size_t i = begin; i < end; ++i)
            for (Index p : parts_[middles[i].part].points)
                for (int c = 0; c < 3; ++c) low[c] = std::min(low[c], at_[p][c]), high[c] = std::max(high[c], at_[p][c]);
        boxes_[box] = {low, high, Index(begin), Index(end - begin)};
        return;
    }
    Vec3 low = middles[begin].place, high = low;
    for (std::size_t i = begin; i < end; ++i)
        for (int c = 0; c < 3; ++c) low[c] = std::min(low[c], middles[i].place[c]), high[c] = std::max(high[c], middles[i].place[c]);
    const Vec3 size = high - low;
    const int axis = size.x >= size.y && size.x >= size.z ? 0 : size.y >= size.z ? 1 : 2;
    const std::size_t half = begin + (end - begin) / 2;
    std::nth_element(middles.begin() + std::ptrdiff_t(begin), middles.begin() + std::ptrdiff_t(half), middles.begin() + std::ptrdiff_t(end),
                     [axis](const Middle& a, const Middle& b) { return a.place[axis] != b.place[axis] ? a.place[axis] < b.place[axis] : a.part < b.part; });
    const std::size_t left = boxes_.size();
    boxes_.emplace_back();
    build(left, middles, begin, half);
    const std::size_t right = boxes_.size();
    boxes_.emplace_back();
    build(right, middles, half, end);
    Box& whole = boxes_[box];
    for (int c = 0; c < 3; ++c)
        whole.low[c] = std::min(boxes_[left].low[c], boxes_[right].low[c]), whole.high[c] = std::max(boxes_[left].high[c], boxes_[right].high[c]);
    whole.first = Index(right);
}

void NearestPlace::consider(Index number, Vec3 p, Place& best, bool& any) const {
    const Part& part = parts_[number];
    const Vec3 a = at_[part.points[0]], b = at_[part.points[1]], c = at_[part.points[2]];
    const auto w = part.points[0] == part.points[1] ? std::array<float, 3>{1, 0, 0}
                 : part.points[0] == part.points[2] ? nearestOnSegment(p, a, b)
                                                    : nearestOnTriangle(p, a, b, c);
    const Vec3 place = a * w[0] + b * w[1] + c * w[2];
    const float distance = dot(place - p, place - p);
    if (any && (distance > best.squaredDistance || (distance == best.squaredDistance && number >= best.part))) return;
    best = {place, distance, part.element, part.points, part.corners, w, number};
    any = true;
}

Place NearestPlace::find(Vec3 p, Index start) const {
    Place best;
    bool any = false;
    consider(std::min<Index>(start, Index(parts_.size() - 1)), p, best, any);
    std::array<std::pair<Index, float>, 128> stack;
    std::size_t top = 0;
    stack[top++] = {0, squaredDistanceToBox(p, boxes_[0].low, boxes_[0].high)};
    while (top > 0) {
        const auto [number, distance] = stack[--top];
        if (distance > best.squaredDistance) continue;
        const Box& box = boxes_[number];
        if (box.count > 0) {
            for (Index i = box.first; i < box.first + box.count; ++i) consider(order_[i], p, best, any);
            continue;
        }
        const Index left = number + 1, right = box.first;
        const float dl = squaredDistanceToBox(p, boxes_[left].low, boxes_[left].high), dr = squaredDistanceToBox(p, boxes_[right].low, boxes_[right].high);
        stack[top++] = dl < dr ? std::pair{right, dr} : std::pair{left, dl};
        stack[top++] = dl < dr ? std::pair{left, dl} : std::pair{right, dr};
    }
    return best;
}

Column valuesAt(const Column& column, Element element, const std::vector<Place>& places) {
    return std::visit(
        [&](const auto& shared) -> Column {
            using T = typename std::decay_t<decltype(*shared)>::value_type;
            const std::vector<T>& values = *shared;
            std::vector<T> out;
            out.reserve(places.size());
            for (const Place& place : places) {
                const auto row = [&](std::size_t k) -> Index {
                    return element == Element::point  ? place.points[k]
                         : element == Element::corner ? place.corners[k]
                         : element == Element::model  ? 0
                                                      : place.element;
                };
                if constexpr (std::is_same_v<T, std::string> || std::is_integral_v<T>) {
                    out.push_back(values[row(std::size_t(std::max_element(place.weights.begin(), place.weights.end()) - place.weights.begin()))]);
                } else {
                    out.push_back(values[row(0)] * place.weights[0] + values[row(1)] * place.weights[1] + values[row(2)] * place.weights[2]);
                }
            }
            return Column(std::move(out));
        },
        column.data());
}

}  // namespace seedloom
