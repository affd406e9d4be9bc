#include "surface/ConvexHull.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>
#include <CGAL/convex_hull_3.h>

#include <map>

namespace seedloom {

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Mesh = CGAL::Surface_mesh<Kernel::Point_3>;

std::array<double, 3> keyOf(const Kernel::Point_3& p) { return {p.x(), p.y(), p.z()}; }

}  // namespace

std::vector<std::array<Index, 3>> convexHull(const std::vector<Vec3>& points) {
    std::vector<Kernel::Point_3> places;
    std::map<std::array<double, 3>, Index> number;
    for (Index i = 0; i < points.size(); ++i) {
        if (!isFinite(points[i])) continue;
        places.emplace_back(double(points[i].x), double(points[i].y), double(points[i].z));
        number.try_emplace(keyOf(places.back()), i);
    }
    Mesh hull;
    if (places.size() >= 4) CGAL::convex_hull_3(places.begin(), places.end(), hull);
    std::vector<std::array<Index, 3>> out;
    if (!CGAL::is_closed(hull)) return out;
    for (const auto face : hull.faces()) {
        std::array<Index, 3> corners{};
        std::size_t i = 0;
        for (const auto vertex : hull.vertices_around_face(hull.halfedge(face)))
            if (i < 3) corners[i++] = number.at(keyOf(hull.point(vertex)));
        std::rotate(corners.begin(), std::min_element(corners.begin(), corners.end()), corners.end());
        out.push_back(corners);
    }
    std::sort(out.begin(), out.end());  // the library's own order depends on addresses
    return out;
}

}  // namespace seedloom
