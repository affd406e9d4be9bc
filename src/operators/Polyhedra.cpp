#include "operators/Polyhedra.h"

#include "geometry/Measures.h"

#include <cmath>

namespace seedloom {

namespace {

const double kGolden = (1 + std::sqrt(5.0)) / 2;

using Triple = std::array<double, 3>;

/// All signs of the entries that are not 0, in the cyclic orders, or in all six.
std::vector<Vec3> arranged(const std::vector<Triple>& seeds, bool allOrders) {
    std::vector<Vec3> out;
    for (const Triple& seed : seeds)
        for (int order = 0; order < (allOrders ? 6 : 3); ++order)
            for (int signs = 0; signs < 8; ++signs) {
                Vec3 p;
                bool needless = false;
                for (int c = 0; c < 3; ++c) {
                    const int from = order < 3 ? (c + order) % 3 : (order - c) % 3;
                    const double v = seed[std::size_t(from)];
                    needless |= v == 0 && (signs >> c & 1);
                    p[c] = float(signs >> c & 1 ? -v : v);
                }
                if (!needless && std::find(out.begin(), out.end(), p) == out.end()) out.push_back(p);
            }
    return out;
}

std::vector<Vec3> pointsOf(std::size_t number) {
    const double g = kGolden, root = 1 + std::sqrt(2.0);
    switch (number) {
        case 0: return {{1, 1, 1}, {1, -1, -1}, {-1, 1, -1}, {-1, -1, 1}};
        case 1: return arranged({{1, 1, 1}}, false);
        case 2: return arranged({{1, 0, 0}}, false);
        case 3: return arranged({{1, 1, 1}, {0, 1 / g, g}}, false);
        case 4: return arranged({{0, 1, g}}, false);
        case 5: return arranged({{0, 1, 3 * g}, {1, 2 + g, 2 * g}, {g, 2, 2 * g + 1}}, false);
        case 6: return arranged({{1, 1, 0}}, false);
        case 7: return arranged({{0, 1, 2}}, true);
        case 8: return arranged({{0, 0, 2 * g}, {1, g, g * g}}, false);
        default: return arranged({{1, 1, root}}, false);
    }
}

/// Points of the hull in one plane, in order around its outward normal.
std::vector<Index> around(std::vector<Index> inPlane, const std::vector<Vec3>& points, Vec3 normal) {
    Vec3 centre{};
    for (Index p : inPlane) centre += points[p] * (1.0f / float(inPlane.size()));
    const Vec3 u = normalized(points[inPlane.front()] - centre), v = cross(normal, u);
    const auto angle = [&](Index p) { return std::atan2(dot(points[p] - centre, v), dot(points[p] - centre, u)); };
    std::sort(inPlane.begin(), inPlane.end(), [&](Index a, Index b) { return angle(a) < angle(b); });
    std::rotate(inPlane.begin(), std::min_element(inPlane.begin(), inPlane.end()), inPlane.end());
    return inPlane;
}

}  // namespace

Geometry smallHull(const std::vector<Vec3>& points) {
    const auto n = static_cast<Index>(points.size());
    const float least = float(boundsOf(points).diagonal()) * 1e-5f;
    std::vector<std::vector<Index>> faces;
    for (Index a = 0; a < n; ++a)
        for (Index b = a + 1; b < n; ++b)
            for (Index c = b + 1; c < n; ++c) {
                Vec3 normal = normalized(cross(points[b] - points[a], points[c] - points[a]), {});
                if (!(length(normal) > 0.5f)) continue;
                bool above = false, below = false;
                std::vector<Index> inPlane;
                for (Index p = 0; p < n && !(above && below); ++p) {
                    const float side = dot(points[p] - points[a], normal);
                    if (side > least) above = true;
                    else if (side < -least) below = true;
                    else inPlane.push_back(p);
                }
                // Each plane is met by all its triples: the first three of its points stand for it.
                if ((above && below) || inPlane.size() < 3 || inPlane[0] != a || inPlane[1] != b || inPlane[2] != c) continue;
                faces.push_back(around(std::move(inPlane), points, above ? -normal : normal));
            }
    std::vector<Index> start{0}, corners;
    for (const auto& face : faces) {
        corners.insert(corners.end(), face.begin(), face.end());
        start.push_back(static_cast<Index>(corners.size()));
    }
    return Geometry(points, Topology(points.size(), std::move(start), std::move(corners), {0}, {}, {}));
}

const Geometry& unitSolid(std::size_t number) {
    static const std::vector<Geometry> all = [] {
        std::vector<Geometry> out;
        for (std::size_t i = 0; i < kSolids.size(); ++i) {
            std::vector<Vec3> points = pointsOf(i);
            for (Vec3& p : points) p = normalized(p);
            out.push_back(smallHull(points));
        }
        return out;
    }();
    return all[number];
}

Geometry touchingPanels(const Geometry& triangles, double radius) {
    const Topology& t = triangles.topology();
    std::vector<Vec3> points(t.faceCount());
    for (std::size_t f = 0; f < points.size(); ++f) {
        // Where the three planes that touch the ball at the triangle's points meet: p·a = p·b = p·c = r².
        const auto face = t.face(f);
        const Vec3 a = triangles.positions()[face[0]], b = triangles.positions()[face[1]], c = triangles.positions()[face[2]];
        const Vec3 sum = cross(b, c) + cross(c, a) + cross(a, b);
        points[f] = sum * float(radius * radius / double(dot(a, cross(b, c))));
    }
    std::vector<Index> start{0}, corners;
    for (Index p = 0; p < t.pointCount(); ++p) {
        // The triangles around the point, in the order of their angle about it.
        std::vector<Index> panel;
        for (Index corner : t.cornersOfPoint()[p]) panel.push_back(t.faceOfCorner()[corner]);
        panel = around(std::move(panel), points, normalized(triangles.positions()[p]));
        corners.insert(corners.end(), panel.begin(), panel.end());
        start.push_back(static_cast<Index>(corners.size()));
    }
    const std::size_t count = points.size();
    return Geometry(std::move(points), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
}

}  // namespace seedloom
