#include "breaking/MirroredTriangles.h"

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
        const std::size_t n = face.size();
        if (n < 4) {
            for (std::size_t k = 0; k < n; ++k) points.push_back(face[k]), cornerOf.push_back(t.faceStart()[f] + Index(k));
            continue;
        }
        const auto first = std::size_t(std::min_element(face.begin(), face.end(), before) - face.begin());
        turned[f] = before(face[(first + n - 1) % n], face[(first + 1) % n]);
        for (std::size_t k = 0; k < n; ++k) {
            const std::size_t at = (turned[f] ? first + n - k : first + k) % n;
            points.push_back(face[at]);
            cornerOf.push_back(t.faceStart()[f] + Index(at));
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
