// In a file of its own: CGAL's headers, and its way with rounding.
#include "Shapes.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/self_intersections.h>
#include <CGAL/Surface_mesh.h>

namespace seedloom::test {

std::size_t pairsByLibrary(const Geometry& g) {
    using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
    using Mesh = CGAL::Surface_mesh<Kernel::Point_3>;
    Mesh mesh;
    std::vector<Mesh::Vertex_index> points;
    for (Vec3 p : g.positions()) points.push_back(mesh.add_vertex({double(p.x), double(p.y), double(p.z)}));
    for (std::size_t f = 0; f < g.faceCount(); ++f) {
        const auto face = g.topology().face(f);
        mesh.add_face(points[face[0]], points[face[1]], points[face[2]]);
    }
    std::vector<std::pair<Mesh::Face_index, Mesh::Face_index>> out;
    CGAL::Polygon_mesh_processing::self_intersections<CGAL::Sequential_tag>(mesh, std::back_inserter(out));
    return out.size();
}

}  // namespace seedloom::test
