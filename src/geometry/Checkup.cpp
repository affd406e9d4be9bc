#include "geometry/Checkup.h"

#include "geometry/Measures.h"
#include "geometry/Weld.h"

namespace seedloom {

namespace {

bool degenerate(std::span<const Index> face, std::span<const Vec3> positions) {
    if (face.size() < 3) return true;
    for (std::size_t i = 0; i < face.size(); ++i)
        if (face[i] == face[(i + 1) % face.size()]) return true;
    float longest = 0;
    for (std::size_t i = 0; i < face.size(); ++i)
        longest = std::max(longest, distance(positions[face[i]], positions[face[(i + 1) % face.size()]]));
    // Relative, so that tiny models are not called degenerate: a height under 10⁻⁶ of the longest side has no area.
    return !(length(areaVector(face, positions)) > 1e-6f * longest * longest);
}

/// Points whose corners fall into more than one fan of faces joined by edges.
std::size_t countTouchingFans(const Topology& t) {
    const auto& around = t.cornersOfPoint();
    const auto& edges = t.edges();
    const auto& faceOf = t.faceOfCorner();
    std::size_t found = 0;
    std::vector<std::pair<Index, Index>> sides;
    std::vector<Index> parent;
    for (std::size_t p = 0; p < t.pointCount(); ++p) {
        const auto corners = around[p];
        if (corners.size() < 2) continue;
        sides.clear();
        parent.resize(corners.size());
        for (Index i = 0; i < corners.size(); ++i) {
            const Index c = corners[i], begin = t.faceStart()[faceOf[c]], end = t.faceStart()[faceOf[c] + 1];
            sides.push_back({edges.cornerEdge[c], i});
            sides.push_back({edges.cornerEdge[c == begin ? end - 1 : c - 1], i});
            parent[i] = i;
        }
        std::sort(sides.begin(), sides.end());
        const auto root = [&](Index i) {
            while (parent[i] != i) i = parent[i] = parent[parent[i]];
            return i;
        };
        std::size_t fans = corners.size();
        for (std::size_t i = 1; i < sides.size(); ++i) {
            if (sides[i].first != sides[i - 1].first) continue;
            const Index a = root(sides[i].second), b = root(sides[i - 1].second);
            if (a != b) parent[a] = b, --fans;
        }
        found += fans > 1;
    }
    return found;
}

}  // namespace

Checkup checkupOf(const Geometry& geometry) {
    Checkup out;
    const auto& positions = geometry.positions();
    const auto& edges = geometry.topology().edges();
    bool wound = true;
    for (std::size_t e = 0; e < edges.edges.size(); ++e) {
        out.openEdges += edges.faceCount[e] == 1;
        out.nonmanifoldEdges += edges.faceCount[e] > 2;
        if (edges.faceCount[e] == 2 && edges.balance[e] != 0) wound = false;
    }
    for (std::size_t f = 0; f < geometry.faceCount(); ++f)
        out.degenerateFaces += degenerate(geometry.topology().face(f), positions);
    for (Vec3 p : positions) out.nonFinitePoints += !isFinite(p);
    out.nonmanifoldPoints = countTouchingFans(geometry.topology());
    out.doubledPoints = countDoubled(positions, boundsOf(positions).diagonal() * 1e-6);
    out.closed = geometry.faceCount() > 0 && out.openEdges == 0;
    out.manifold = geometry.faceCount() > 0 && out.nonmanifoldEdges == 0 && out.nonmanifoldPoints == 0;
    out.consistentWinding = geometry.faceCount() > 0 && wound;
    out.area = surfaceArea(geometry);
    out.volume = signedVolume(geometry);
    return out;
}

}  // namespace seedloom
