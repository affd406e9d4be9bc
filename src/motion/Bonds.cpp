#include "motion/Bonds.h"

#include "geometry/BoxTree.h"
#include "parallel/Loops.h"

#include <algorithm>
#include <map>

namespace seedloom {

namespace {

constexpr double kFacing = 0.95;         // cosine, of faces that look at each other
constexpr double kLeastArea = 1e-4;      // of the largest bond: less is a corner or an edge
constexpr std::size_t kTriangles = 512;  // at once

struct Flat {
    double x = 0, y = 0;
};

/// A plane with axes of its own.
struct Plane {
    Triple origin, normal, x, y;
    Flat flat(const Triple& p) const { return {dot(p - origin, x), dot(p - origin, y)}; }
    double height(const Triple& p) const { return dot(p - origin, normal); }
};

Triple triple(Vec3 p) { return {double(p.x), double(p.y), double(p.z)}; }

/// False of a triangle without area.
bool planeOf(const Triangle3& t, Plane& out) {
    const Triple a = triple(t[0]), b = triple(t[1]), c = triple(t[2]), n = cross(b - a, c - a);
    const double twice = lengthOf(n), edge = lengthOf(b - a);
    if (!(twice > 0) || !(edge > 0)) return false;
    out.origin = a, out.normal = n * (1 / twice), out.x = (b - a) * (1 / edge), out.y = cross(out.normal, out.x);
    return true;
}

/// The part of a convex outline that lies left of the line from `a` to `b`.
std::vector<Flat> leftOf(const std::vector<Flat>& outline, Flat a, Flat b) {
    const auto side = [&](Flat p) { return (b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x); };
    std::vector<Flat> out;
    for (std::size_t i = 0; i < outline.size(); ++i) {
        const Flat p = outline[i], q = outline[(i + 1) % outline.size()];
        const double sp = side(p), sq = side(q);
        if (sp >= 0) out.push_back(p);
        if ((sp > 0 && sq < 0) || (sp < 0 && sq > 0)) {
            const double t = sp / (sp - sq);
            out.push_back({p.x + (q.x - p.x) * t, p.y + (q.y - p.y) * t});
        }
    }
    return out;
}

/// Where two faces lie on each other.
struct Touch {
    double area = 0;
    Triple middle{}, normal{};  ///< both times the area
};

Touch touchOf(const Triangle3& a, const Triangle3& b, double gap) {
    Plane plane, other;
    if (!planeOf(a, plane) || !planeOf(b, other) || dot(plane.normal, other.normal) > -kFacing) return {};
    std::vector<Flat> outline;
    double height = 0;
    for (const Vec3 p : a) outline.push_back(plane.flat(triple(p)));
    std::array<Flat, 3> by;
    for (std::size_t c = 0; c < 3; ++c) {
        const Triple p = triple(b[2 - c]);  // it looks the other way
        by[c] = plane.flat(p), height += plane.height(p) / 3;
    }
    if (std::abs(height) > gap) return {};
    for (std::size_t c = 0; c < 3 && !outline.empty(); ++c) outline = leftOf(outline, by[c], by[(c + 1) % 3]);
    Touch out;
    Flat sum;
    for (std::size_t i = 1; i + 1 < outline.size(); ++i) {
        const Flat p = outline[0], q = outline[i], r = outline[i + 1];
        const double area = ((q.x - p.x) * (r.y - p.y) - (q.y - p.y) * (r.x - p.x)) / 2;
        out.area += area, sum.x += area * (p.x + q.x + r.x) / 3, sum.y += area * (p.y + q.y + r.y) / 3;
    }
    if (!(out.area > 0)) return {};
    out.middle = (plane.origin + plane.normal * (height / 2)) * out.area + plane.x * sum.x + plane.y * sum.y;
    out.normal = (plane.normal - other.normal) * (out.area / 2);
    return out;
}

using Touches = std::map<std::pair<std::uint32_t, std::uint32_t>, Touch>;

void add(Touch& to, const Touch& more) { to.area += more.area, to.middle = to.middle + more.middle, to.normal = to.normal + more.normal; }

}  // namespace

std::vector<Bond> bondsBetween(const std::vector<std::vector<Triangle3>>& surfaces, double gap, const RunContext& run) {
    std::vector<Triangle3> triangles;
    std::vector<std::uint32_t> bodyOf;
    for (std::uint32_t body = 0; body < surfaces.size(); ++body) {
        triangles.insert(triangles.end(), surfaces[body].begin(), surfaces[body].end());
        bodyOf.resize(triangles.size(), body);
    }
    if (triangles.empty()) return {};
    std::vector<Box> boxes;
    const Vec3 more{float(gap), float(gap), float(gap)};
    for (const Triangle3& t : triangles) {
        Box box{t[0], t[0]};
        box.add({t[1], t[1]}), box.add({t[2], t[2]});
        boxes.push_back({box.low - more, box.high + more});
    }
    const BoxTree tree(boxes);
    std::vector<Touches> found(chunkCount(triangles.size(), kTriangles));
    forChunks(
        triangles.size(), run,
        [&](std::size_t chunk, Range range) {
            std::vector<Index> meeting;
            for (std::size_t i = range.begin; i < range.end; ++i) {
                meeting.clear();
                tree.meeting(boxes[i], [&](Index j) {
                    if (bodyOf[j] > bodyOf[i]) meeting.push_back(j);
                });
                std::sort(meeting.begin(), meeting.end());
                for (const Index j : meeting) {
                    const Touch touch = touchOf(triangles[i], triangles[j], gap);
                    if (touch.area > 0) add(found[chunk][{bodyOf[i], bodyOf[j]}], touch);
                }
            }
        },
        kTriangles);
    Touches all;
    double most = 0;
    for (const Touches& part : found)
        for (const auto& [pair, touch] : part) {
            Touch& sum = all[pair];
            add(sum, touch);
            most = std::max(most, sum.area);
        }
    std::vector<Bond> out;
    for (const auto& [pair, touch] : all) {
        const double turned = lengthOf(touch.normal);
        if (touch.area < kLeastArea * most || !(turned > 0)) continue;
        out.push_back({pair.first, pair.second, touch.middle * (1 / touch.area), touch.normal * (1 / turned), touch.area});
    }
    return out;
}

}  // namespace seedloom
