#include "surface/ConvexHull.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>
#include <CGAL/convex_hull_3.h>

#include <map>

namespace seedloom {

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Mesh = CGAL::Surface_mesh<Kernel::Point_3>;

using Triangle = std::array<Index, 3>;

std::array<double, 3> keyOf(const Kernel::Point_3& p) { return {p.x(), p.y(), p.z()}; }
Kernel::Point_3 placeOf(Vec3 p) { return {double(p.x), double(p.y), double(p.z)}; }

/// A flat side of more than three corners has several triangulations, and which one the library gives depends on addresses: here it is a fan from its lowest
/// number. Sides are found by exact predicates, and are convex.
class FlatSides {
public:
    FlatSides(const std::vector<Vec3>& points, const std::vector<Triangle>& triangles) : points_(points), triangles_(triangles), side_(triangles.size()) {
        for (Index t = 0; t < triangles.size(); ++t) {
            side_[t] = t;
            for (std::size_t k = 0; k < 3; ++k) triangleAt_[{triangles[t][k], triangles[t][(k + 1) % 3]}] = t;
        }
        for (const auto& [edge, t] : triangleAt_) {
            const auto other = triangleAt_.find({edge.second, edge.first});
            if (other != triangleAt_.end() && flat(t, other->second)) side_[top(t)] = top(other->second);
        }
    }

    std::vector<Triangle> fans() {
        std::map<Index, std::map<Index, Index>> borders;  // of each side, from corner to corner
        for (const auto& [edge, t] : triangleAt_) {
            const auto other = triangleAt_.find({edge.second, edge.first});
            if (other == triangleAt_.end() || top(other->second) != top(t)) borders[top(t)][edge.first] = edge.second;
        }
        std::vector<Triangle> out;
        for (const auto& [side, next] : borders) {
            const Index first = next.begin()->first;
            for (Index at = next.at(first); next.at(at) != first; at = next.at(at)) out.push_back({first, at, next.at(at)});
        }
        return out;
    }

private:
    Index top(Index t) {
        while (side_[t] != t) t = side_[t] = side_[side_[t]];
        return t;
    }
    bool flat(Index one, Index two) const {
        const Triangle &a = triangles_[one], &b = triangles_[two];
        return std::all_of(b.begin(), b.end(), [&](Index p) {
            return CGAL::orientation(placeOf(points_[a[0]]), placeOf(points_[a[1]]), placeOf(points_[a[2]]), placeOf(points_[p])) == CGAL::COPLANAR;
        });
    }
    const std::vector<Vec3>& points_;
    const std::vector<Triangle>& triangles_;
    std::vector<Index> side_;
    std::map<std::pair<Index, Index>, Index> triangleAt_;
};

}  // namespace

std::vector<std::array<Index, 3>> convexHull(const std::vector<Vec3>& points) {
    std::vector<Kernel::Point_3> places;
    std::map<std::array<double, 3>, Index> number;
    for (Index i = 0; i < points.size(); ++i) {
        if (!isFinite(points[i])) continue;
        places.push_back(placeOf(points[i]));
        number.try_emplace(keyOf(places.back()), i);
    }
    Mesh hull;
    if (places.size() >= 4) CGAL::convex_hull_3(places.begin(), places.end(), hull);
    std::vector<Triangle> out;
    if (!CGAL::is_closed(hull)) return out;
    for (const auto face : hull.faces()) {
        Triangle corners{};
        std::size_t i = 0;
        for (const auto vertex : hull.vertices_around_face(hull.halfedge(face)))
            if (i < 3) corners[i++] = number.at(keyOf(hull.point(vertex)));
        out.push_back(corners);
    }
    out = FlatSides(points, out).fans();
    for (Triangle& t : out) std::rotate(t.begin(), std::min_element(t.begin(), t.end()), t.end());
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace seedloom
