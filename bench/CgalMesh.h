#pragma once
// A geometry as the mesh of the library that figures are compared with.
#include "geometry/Triangulate.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>

namespace seedloom {

using Mesh = CGAL::Surface_mesh<CGAL::Exact_predicates_inexact_constructions_kernel::Point_3>;

inline Mesh meshOf(const Geometry& g) {
    Mesh out;
    for (Vec3 p : g.positions()) out.add_vertex({double(p.x), double(p.y), double(p.z)});
    const Triangles t = triangulate(g);
    const auto at = [&](std::size_t k) { return Mesh::Vertex_index(g.topology().cornerPoint()[t.corners[k]]); };
    for (std::size_t i = 0; i < t.count(); ++i) out.add_face(at(3 * i), at(3 * i + 1), at(3 * i + 2));
    return out;
}

}  // namespace seedloom
