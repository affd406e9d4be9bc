#include "breaking/BreakLines.h"

#include "geometry/Measures.h"
#include "geometry/Weld.h"

#include <set>

namespace seedloom {

std::vector<BreakEdge> breakEdges(const Geometry& g) {
    const auto* inside = g.values<std::uint8_t>(Element::face, "inside");
    if (!inside) return {};
    const Topology& t = g.topology();
    const EdgeTable& edges = t.edges();
    std::vector<Index> skin(edges.edges.size(), kNone);
    std::vector<std::uint8_t> broken(edges.edges.size(), 0);
    for (Index c = 0; c < t.cornerCount(); ++c) {
        const Index e = edges.cornerEdge[c], f = t.faceOfCorner()[c];
        if ((*inside)[f]) broken[e] = 1;
        else if (skin[e] == kNone) skin[e] = f;
    }
    const std::vector<Index> place = nearestEarlier(g.positions(), 0);
    std::set<std::pair<Index, Index>> known;
    std::vector<BreakEdge> out;
    for (Index e = 0; e < edges.edges.size(); ++e) {
        if (!broken[e] || skin[e] == kNone) continue;
        const auto [a, b] = edges.edges[e];
        if (!known.insert({std::min(place[a], place[b]), std::max(place[a], place[b])}).second) continue;
        out.push_back({a, b, normalized(areaVector(t.face(skin[e]), g.positions()), {0, 1, 0})});
    }
    return out;
}

}  // namespace seedloom
