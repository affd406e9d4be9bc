#include "geometry/Checkup.h"

#include "geometry/Fans.h"
#include "geometry/Measures.h"
#include "geometry/SelfIntersections.h"
#include "geometry/ShadingBreaks.h"
#include "geometry/Weld.h"

namespace seedloom {

bool hasNoArea(std::span<const Index> face, std::span<const Vec3> positions) {
    if (face.size() < 3) return true;
    for (std::size_t i = 0; i < face.size(); ++i)
        if (face[i] == face[(i + 1) % face.size()]) return true;
    float longest = 0;
    for (std::size_t i = 0; i < face.size(); ++i) longest = std::max(longest, distance(positions[face[i]], positions[face[(i + 1) % face.size()]]));
    // Relative, so that tiny models are not called degenerate.
    return !(length(areaVector(face, positions)) > 1e-6f * longest * longest);
}

std::vector<Index> touchingPoints(const Topology& t) {
    std::vector<Index> found;
    Fans fans(t);
    for (Index p = 0; p < t.pointCount(); ++p)
        if (fans.at(p) > 1) found.push_back(p);
    return found;
}

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
    for (std::size_t f = 0; f < geometry.faceCount(); ++f) out.degenerateFaces += hasNoArea(geometry.topology().face(f), positions);
    for (Vec3 p : positions) out.nonFinitePoints += !isFinite(p);
    out.nonmanifoldPoints = touchingPoints(geometry.topology()).size();
    out.doubledPoints = countDoubled(positions, boundsOf(positions).diagonal() * 1e-6);
    out.closed = geometry.faceCount() > 0 && out.openEdges == 0;
    out.manifold = geometry.faceCount() > 0 && out.nonmanifoldEdges == 0 && out.nonmanifoldPoints == 0;
    out.consistentWinding = geometry.faceCount() > 0 && wound;
    out.area = surfaceArea(geometry);
    out.volume = signedVolume(geometry);
    return out;
}

namespace {

class FindingList {
public:
    explicit FindingList(const Geometry& geometry) : g_(geometry) {}
    std::vector<Finding> take() { return std::move(out_); }

    void rows(const char* code, Element element, const std::vector<Index>& found) {
        if (found.empty()) return;
        Finding finding{code, found.size(), element, found, {}};
        if (finding.rows.size() > kMostFindingRows) finding.rows.resize(kMostFindingRows);
        out_.push_back(std::move(finding));
    }
    /// Of something else than the faces that show it.
    void counted(const char* code, std::size_t count, const std::vector<Index>& faces) {
        rows(code, Element::face, faces);
        if (count > 0) out_.back().count = count;
    }
    void edges(const char* code, auto&& wanted) {
        const EdgeTable& table = g_.topology().edges();
        Finding finding{code, 0, Element::point, {}, {}};
        for (std::size_t e = 0; e < table.edges.size(); ++e) {
            if (!wanted(table, e)) continue;
            ++finding.count;
            if (finding.edges.size() < kMostFindingRows) finding.edges.push_back({table.edges[e].a, table.edges[e].b});
        }
        if (finding.count > 0) out_.push_back(std::move(finding));
    }

private:
    const Geometry& g_;
    std::vector<Finding> out_;
};

}  // namespace

std::vector<Finding> findingsOf(const Geometry& g, bool intersections) {
    FindingList out(g);
    const auto& positions = g.positions();
    out.edges("open_edges", [](const EdgeTable& t, std::size_t e) { return t.faceCount[e] == 1; });
    out.edges("nonmanifold_edges", [](const EdgeTable& t, std::size_t e) { return t.faceCount[e] > 2; });
    out.edges("winding", [](const EdgeTable& t, std::size_t e) { return t.faceCount[e] == 2 && t.balance[e] != 0; });
    out.rows("nonmanifold_points", Element::point, touchingPoints(g.topology()));
    std::vector<Index> rows;
    for (Index f = 0; f < g.faceCount(); ++f)
        if (hasNoArea(g.topology().face(f), positions)) rows.push_back(f);
    out.rows("degenerate_faces", Element::face, rows);
    rows.clear();
    const auto first = nearestEarlier(positions, boundsOf(positions).diagonal() * 1e-6);
    for (Index p = 0; p < first.size(); ++p)
        if (first[p] != p) rows.push_back(p);
    out.rows("doubled_points", Element::point, rows);
    rows.clear();
    for (Index p = 0; p < positions.size(); ++p)
        if (!isFinite(positions[p])) rows.push_back(p);
    out.rows("non_finite_points", Element::point, rows);
    out.rows("shading_breaks", Element::face, shadingBreaks(g));
    rows.clear();
    const Checkup facts = checkupOf(g);
    if (facts.closed && facts.consistentWinding && facts.volume < 0) {
        for (Index f = 0; f < g.faceCount(); ++f) rows.push_back(f);
        out.rows("inside_out", Element::face, rows);
        rows.clear();
    }
    if (intersections) {
        const Crossings crossings = crossingsOf(g);
        out.counted("self_intersections", crossings.pairs, crossings.faces);
        out.counted("touching_pieces", crossings.touching, crossings.touchingFaces);
    }
    return out.take();
}

}  // namespace seedloom
