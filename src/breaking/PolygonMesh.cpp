#include "breaking/PolygonMesh.h"

#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_face_base_with_info_2.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using FaceBase = CGAL::Constrained_triangulation_face_base_2<Kernel, CGAL::Triangulation_face_base_with_info_2<int, Kernel>>;
using Structure = CGAL::Triangulation_data_structure_2<CGAL::Triangulation_vertex_base_with_info_2<Index, Kernel>, FaceBase>;
using Plan = CGAL::Constrained_Delaunay_triangulation_2<Kernel, Structure>;
using Place = std::array<double, 2>;

constexpr double kFromRing = 0.6;  ///< of the spacing: points inside keep this far from the ring

double distanceTo(const Place& p, const Place& a, const Place& b) {
    const double x = b[0] - a[0], y = b[1] - a[1], length = x * x + y * y;
    const double t = length > 0 ? std::clamp(((p[0] - a[0]) * x + (p[1] - a[1]) * y) / length, 0.0, 1.0) : 0;
    return std::hypot(p[0] - a[0] - t * x, p[1] - a[1] - t * y);
}

/// Rows of points in the ring, each between the places where the ring crosses it.
std::vector<Place> pointsInside(const std::vector<Place>& ring, double spacing) {
    std::vector<Place> out;
    double low = ring[0][1], high = low;
    for (const Place& p : ring) low = std::min(low, p[1]), high = std::max(high, p[1]);
    const double step = spacing * std::sqrt(0.75);
    for (auto row = std::int64_t(std::ceil(low / step)); double(row) * step <= high; ++row) {
        const double y = double(row) * step, shift = row % 2 ? spacing / 2 : 0;
        std::vector<double> crossings;
        for (std::size_t k = 0; k < ring.size(); ++k) {
            const Place &a = ring[k], &b = ring[(k + 1) % ring.size()];
            if ((a[1] <= y) != (b[1] <= y)) crossings.push_back(a[0] + (b[0] - a[0]) * (y - a[1]) / (b[1] - a[1]));
        }
        std::sort(crossings.begin(), crossings.end());
        for (std::size_t k = 0; k + 1 < crossings.size(); k += 2)
            for (auto i = std::int64_t(std::ceil((crossings[k] - shift) / spacing)); double(i) * spacing + shift < crossings[k + 1]; ++i)
                out.push_back({double(i) * spacing + shift, y});
    }
    // Only points near the ring's box of an edge can be near the edge; rings are short.
    std::erase_if(out, [&](const Place& p) {
        for (std::size_t k = 0; k < ring.size(); ++k)
            if (distanceTo(p, ring[k], ring[(k + 1) % ring.size()]) < kFromRing * spacing) return true;
        return false;
    });
    return out;
}

/// Numbers the faces outside −1, by walking from the infinite one.
void markOutside(Plan& plan) {
    for (auto f = plan.all_faces_begin(); f != plan.all_faces_end(); ++f) f->info() = 0;
    std::vector<Plan::Face_handle> queue{plan.infinite_face()};
    queue.front()->info() = -1;
    while (!queue.empty()) {
        const auto f = queue.back();
        queue.pop_back();
        for (int k = 0; k < 3; ++k) {
            const auto next = f->neighbor(k);
            if (next->info() == -1 || f->is_constrained(k)) continue;
            next->info() = -1;
            queue.push_back(next);
        }
    }
}

}  // namespace

PolygonMesh meshPolygon(const std::vector<Place>& ring, double spacing) {
    PolygonMesh out;
    if (ring.size() < 3) return out;
    out.inner = pointsInside(ring, spacing);
    Plan plan;
    std::vector<Plan::Vertex_handle> vertices;
    for (Index i = 0; i < ring.size(); ++i) {
        vertices.push_back(plan.insert(Kernel::Point_2(ring[i][0], ring[i][1])));
        vertices.back()->info() = i;
    }
    for (std::size_t i = 0; i < ring.size(); ++i)
        if (vertices[i] != vertices[(i + 1) % ring.size()]) plan.insert_constraint(vertices[i], vertices[(i + 1) % ring.size()]);
    // In rows, one beside the other: the library's own way of inserting many shuffles them anew each time.
    Plan::Face_handle hint;
    for (Index i = 0; i < out.inner.size(); ++i) {
        const auto v = plan.insert(Kernel::Point_2(out.inner[i][0], out.inner[i][1]), hint);
        v->info() = Index(ring.size()) + i;
        hint = v->face();
    }
    markOutside(plan);
    for (auto f = plan.finite_faces_begin(); f != plan.finite_faces_end(); ++f)
        if (f->info() == 0) out.triangles.push_back({f->vertex(0)->info(), f->vertex(1)->info(), f->vertex(2)->info()});
    // Told in an order that does not depend on how the triangulation came about.
    for (auto& t : out.triangles) std::rotate(t.begin(), std::min_element(t.begin(), t.end()), t.end());
    std::sort(out.triangles.begin(), out.triangles.end());
    return out;
}

}  // namespace seedloom
