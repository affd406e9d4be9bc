#include "breaking/MirroredTriangles.h"

#include "breaking/RingOrder.h"

#include <tuple>

namespace seedloom {

Triangles mirroredTriangles(const Geometry& g) {
    const Topology& t = g.topology();
    const auto before = [&](Index a, Index b) {
        const Vec3 p = g.positions()[a], q = g.positions()[b];
        return std::tie(p.x, p.y, p.z) < std::tie(q.x, q.y, q.z);
    };
    std::vector<Index> points, cornerOf;
    std::vector<std::uint8_t> turned(g.faceCount(), 0);
    for (Index f = 0; f < g.faceCount(); ++f) {
        const auto face = t.face(f);
        const auto n = Index(face.size());
        // Three corners are one triangle, wherever it begins.
        const RingOrder order = n < 4 ? RingOrder() : ringOrder(face, before);
        turned[f] = order.turned;
        for (Index k = 0; k < n; ++k) {
            points.push_back(face[order.corner(k, n)]);
            cornerOf.push_back(t.faceStart()[f] + order.corner(k, n));
        }
    }
    const Geometry rings(g.positions(), Topology(g.pointCount(), t.faceStart(), std::move(points), {0}, {}, {}));
    Triangles out = triangulate(rings);
    for (std::size_t i = 0; i < out.count(); ++i) {
        for (std::size_t k = 0; k < 3; ++k) out.corners[3 * i + k] = cornerOf[out.corners[3 * i + k]];
        if (turned[out.faceOf[i]]) std::swap(out.corners[3 * i + 1], out.corners[3 * i + 2]);
    }
    return out;
}

}  // namespace seedloom
