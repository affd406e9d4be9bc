#include "surface/ScanFacts.h"

#include "geometry/Groups.h"
#include "geometry/Measures.h"
#include "surface/HollowVolume.h"

namespace seedloom {

ScanFacts scanFactsOf(const Geometry& geometry) {
    ScanFacts out;
    const EdgeTable& edges = geometry.topology().edges();
    Groups rings(geometry.pointCount());
    for (std::size_t e = 0; e < edges.edges.size(); ++e) {
        out.crowded += edges.faceCount[e] > 2;
        out.reversed += edges.faceCount[e] == 2 && edges.balance[e] != 0;
        if (edges.faceCount[e] != 1) continue;
        ++out.openEdges;
        const auto [a, b] = edges.edges[e];
        // Each edge that joins two of them makes one of both; what is left over closes a ring.
        if (rings.find(a) == rings.find(b)) ++out.holes;
        else rings.join(a, b);
    }
    HollowVolume volume;
    const Vec3 middle = boundsOf(geometry.positions()).centre();
    for (Index f = 0; f < geometry.faceCount(); ++f) {
        const auto face = geometry.topology().face(f);
        volume.add(fine(areaVector(face, geometry.positions())), fine(centreOf(face, geometry.positions()) - middle));
    }
    out.area = volume.area();
    out.sheet = volume.isSheet();
    out.insideOut = !out.sheet && volume.volume() < 0;
    return out;
}

double edgeOfTriangles(double area, double count) { return std::sqrt(area / count * 4 / std::sqrt(3.0)); }

}  // namespace seedloom
