#include "motion/Hulls.h"

#include "geometry/EvenDirections.h"
#include "geometry/Measures.h"

#include <LinearMath/btConvexHullComputer.h>

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace seedloom {

namespace {

constexpr double kThin = 0.005;         // of the size: as thick is what has no thickness of its own
constexpr double kLeastSaving = 0.015;  // of the whole hull: a cut that saves less is not made
constexpr std::size_t kFirstCorners = 24;
constexpr double kLeastOut = 0.002;  // of the size: what stands out by less needs no corner
constexpr int kCutsTried = 5;        // along each axis
constexpr float kLeastSize = 1e-4f;  // m

Vec3 vec3Of(const btVector3& v) { return {float(v.x()), float(v.y()), float(v.z())}; }

Hull rawHull(std::span<const Vec3> points) {
    Hull out;
    btConvexHullComputer computer;
    computer.compute(&points.front().x, sizeof(Vec3), int(points.size()), 0, 0);
    for (int i = 0; i < computer.vertices.size(); ++i) out.corners.push_back(vec3Of(computer.vertices[i]));
    for (int f = 0; f < computer.faces.size(); ++f) {
        const auto* first = &computer.edges[computer.faces[f]];
        const int from = first->getSourceVertex();
        for (const auto* edge = first->getNextEdgeOfFace(); edge->getTargetVertex() != from; edge = edge->getNextEdgeOfFace())
            out.surface.push_back(
                {out.corners[std::size_t(from)], out.corners[std::size_t(edge->getSourceVertex())], out.corners[std::size_t(edge->getTargetVertex())]});
    }
    out.volume = momentsOf(out.surface).volume;
    if (out.volume < 0) {
        for (Triangle3& t : out.surface) std::swap(t[1], t[2]);
        out.volume = -out.volume;
    }
    return out;
}

std::vector<Vec3> farthest(const std::vector<Vec3>& corners, std::size_t most) {
    std::vector<std::uint8_t> kept(corners.size());
    for (std::size_t i = 0; i < most; ++i) {
        const Vec3 to = evenDirection(i, most);
        std::size_t best = 0;
        for (std::size_t c = 1; c < corners.size(); ++c)
            if (dot(corners[c], to) > dot(corners[best], to)) best = c;
        kept[best] = 1;
    }
    std::vector<Vec3> out;
    for (std::size_t c = 0; c < corners.size(); ++c)
        if (kept[c]) out.push_back(corners[c]);
    return out;
}

/// How far a point stands out of a convex surface; 0 inside.
double outOf(const Hull& hull, Vec3 p) {
    double out = 0;
    for (const Triangle3& t : hull.surface) {
        const Vec3 normal = cross(t[1] - t[0], t[2] - t[0]);
        const double size = double(length(normal));
        if (size > 0) out = std::max(out, double(dot(normal, p - t[0])) / size);
    }
    return out;
}

/// With fewer corners: some all round, then whichever stands out most, until none does by much.
Hull fewerCorners(const Hull& whole, std::size_t most, double size) {
    std::vector<Vec3> kept = farthest(whole.corners, std::min<std::size_t>(most, kFirstCorners));
    for (;;) {
        Hull out = rawHull(kept);
        std::size_t worst = 0;
        double farthestOut = 0;
        for (std::size_t c = 0; c < whole.corners.size(); ++c)
            if (const double by = outOf(out, whole.corners[c]); by > farthestOut) farthestOut = by, worst = c;
        if (farthestOut <= kLeastOut * size || kept.size() >= most) return out;
        kept.push_back(whole.corners[worst]);
    }
}

/// What has no thickness gets some on both sides of the plane in which it lies most nearly.
std::vector<Vec3> thickened(std::span<const Vec3> points, float size) {
    Vec3 along{}, normal{};
    for (const Vec3 p : points)
        if (length(p - points.front()) > length(along)) along = p - points.front();
    for (const Vec3 p : points)
        if (const Vec3 n = cross(along, p - points.front()); length(n) > length(normal)) normal = n;
    const float half = std::max(size * float(kThin), kLeastSize) * 0.5f;
    const Vec3 x = normalized(along, {1, 0, 0}), y = normalized(normal, anyPerpendicular(x)), z = cross(x, y);
    // A line or a place has no side of its own: it gets some all round.
    const bool flat = length(normal) > size * size * 1e-6f, line = length(along) > kLeastSize;
    std::vector<Vec3> out;
    for (const Vec3 p : points)
        for (int corner = 0; corner < 8; ++corner) {
            if (flat && corner % 4 != 0) continue;
            if (line && corner % 2 != 0) continue;
            out.push_back(p + y * (corner & 4 ? half : -half) + z * (flat ? 0 : corner & 2 ? half : -half) + x * (line ? 0 : corner & 1 ? half : -half));
        }
    return out;
}

float along(Vec3 v, int axis) { return axis == 0 ? v.x : axis == 1 ? v.y : v.z; }

/// The part of a triangle on one side of a plane across an axis, as a fan; its corners only matter for hulls.
void addSide(std::vector<Triangle3>& to, const Triangle3& t, int axis, float at, float side) {
    std::vector<Vec3> polygon;
    for (int i = 0; i < 3; ++i) {
        const Vec3 a = t[std::size_t(i)], b = t[std::size_t((i + 1) % 3)];
        const float da = (along(a, axis) - at) * side, db = (along(b, axis) - at) * side;
        if (da >= 0) polygon.push_back(a);
        if ((da > 0 && db < 0) || (da < 0 && db > 0)) polygon.push_back(mix(a, b, da / (da - db)));
    }
    for (std::size_t i = 2; i < polygon.size(); ++i) to.push_back({polygon[0], polygon[i - 1], polygon[i]});
}

struct Part {
    std::vector<Triangle3> surface;
    Hull hull;
    double saving = -1;  ///< by its best cut; below 0: not looked for
    std::vector<Triangle3> sides[2];
    Hull hulls[2];
};

std::vector<Vec3> cornersOf(std::span<const Triangle3> surface) {
    std::vector<Vec3> out;
    out.reserve(surface.size() * 3);
    for (const Triangle3& t : surface) out.insert(out.end(), t.begin(), t.end());
    return out;
}

Part partOf(std::vector<Triangle3> surface) {
    Part out;
    out.hull = hullOf(cornersOf(surface), kEveryCorner);
    out.surface = std::move(surface);
    return out;
}

void findCut(Part& part) {
    part.saving = 0;
    const Bounds bounds = boundsOf(part.hull.corners);
    const Vec3 low = bounds.min, high = bounds.max;
    for (int axis = 0; axis < 3; ++axis)
        for (int cut = 1; cut <= kCutsTried; ++cut) {
            const float at = along(low, axis) + (along(high, axis) - along(low, axis)) * float(cut) / float(kCutsTried + 1);
            std::vector<Triangle3> sides[2];
            for (const Triangle3& t : part.surface) addSide(sides[0], t, axis, at, -1), addSide(sides[1], t, axis, at, 1);
            if (sides[0].empty() || sides[1].empty()) continue;
            Hull hulls[2]{hullOf(cornersOf(sides[0]), kEveryCorner), hullOf(cornersOf(sides[1]), kEveryCorner)};
            const double saving = part.hull.volume - hulls[0].volume - hulls[1].volume;
            if (saving <= part.saving) continue;
            part.saving = saving;
            for (int s = 0; s < 2; ++s) part.sides[s] = std::move(sides[s]), part.hulls[s] = std::move(hulls[s]);
        }
}

}  // namespace

Hull hullOf(std::span<const Vec3> points, std::size_t most) {
    if (points.empty() || !std::all_of(points.begin(), points.end(), isFinite)) return {};
    const auto size = float(boundsOf(points).diagonal());
    Hull out = rawHull(points);
    // Flat, or as good as that.
    if (!(out.volume > 1e-6 * double(size) * double(size) * double(size)) || size < kLeastSize) out = rawHull(thickened(points, size));
    return most == kEveryCorner || out.corners.size() <= kFirstCorners ? out : fewerCorners(out, most, double(size));
}

Hull boxOf(std::span<const Vec3> points, const InertiaAxes& axes) {
    if (points.empty()) return {};
    std::array<Vec3, 3> axis;
    for (std::size_t a = 0; a < 3; ++a) axis[a] = {float(axes.axis[a][0]), float(axes.axis[a][1]), float(axes.axis[a][2])};
    std::array<float, 3> low, high;
    for (std::size_t a = 0; a < 3; ++a) {
        low[a] = high[a] = dot(points.front(), axis[a]);
        for (const Vec3 p : points) low[a] = std::min(low[a], dot(p, axis[a])), high[a] = std::max(high[a], dot(p, axis[a]));
    }
    std::vector<Vec3> corners;
    for (int c = 0; c < 8; ++c) {
        Vec3 at{};
        for (std::size_t a = 0; a < 3; ++a) at += axis[a] * (c >> a & 1 ? high[a] : low[a]);
        corners.push_back(at);
    }
    return hullOf(corners, corners.size());
}

std::vector<Hull> convexPartsOf(std::span<const Triangle3> surface, std::size_t most, std::size_t mostCorners) {
    if (surface.empty()) return {};
    std::vector<Part> parts;
    parts.push_back(partOf({surface.begin(), surface.end()}));
    if (parts.front().hull.corners.empty()) return {};
    const double whole = parts.front().hull.volume;
    while (parts.size() < most) {
        for (Part& part : parts)
            if (part.saving < 0) findCut(part);
        const auto best = std::max_element(parts.begin(), parts.end(), [](const Part& a, const Part& b) { return a.saving < b.saving; });
        if (best->saving < kLeastSaving * whole) break;
        Part second;
        second.surface = std::move(best->sides[1]), second.hull = std::move(best->hulls[1]);
        Part first;
        first.surface = std::move(best->sides[0]), first.hull = std::move(best->hulls[0]);
        *best = std::move(first);
        parts.push_back(std::move(second));
    }
    std::vector<Hull> out;
    for (const Part& part : parts) out.push_back(part.hull.corners.size() <= mostCorners ? part.hull : hullOf(part.hull.corners, mostCorners));
    return out;
}

}  // namespace seedloom
