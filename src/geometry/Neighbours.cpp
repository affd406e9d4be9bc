#include "geometry/Neighbours.h"

#include <algorithm>
#include <numeric>

namespace seedloom {

namespace {

/// Both directions of each pair, sorted and without repeats.
Rows rowsOf(std::size_t count, const std::vector<std::pair<Index, Index>>& pairs) {
    Rows rows;
    rows.start.assign(count + 1, 0);
    for (const auto& [a, b] : pairs) ++rows.start[a + 1], ++rows.start[b + 1];
    std::partial_sum(rows.start.begin(), rows.start.end(), rows.start.begin());
    rows.values.resize(2 * pairs.size());
    std::vector<Index> fill(rows.start.begin(), rows.start.end() - 1);
    for (const auto& [a, b] : pairs) rows.values[fill[a]++] = b, rows.values[fill[b]++] = a;
    Index kept = 0, begin = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const Index end = rows.start[i + 1];
        const auto first = rows.values.begin() + begin, last = rows.values.begin() + end;
        std::sort(first, last);
        const auto stop = std::unique(first, last);
        kept = static_cast<Index>(std::copy(first, stop, rows.values.begin() + kept) - rows.values.begin());
        begin = end;
        rows.start[i + 1] = kept;
    }
    rows.values.resize(kept);
    return rows;
}

}  // namespace

Rows pointNeighbours(const Topology& topology) {
    std::vector<std::pair<Index, Index>> pairs;
    for (const auto& edge : topology.edges().edges)
        if (edge.a != edge.b) pairs.push_back({edge.a, edge.b});
    for (std::size_t c = 0; c < topology.curveCount(); ++c) {
        const auto curve = topology.curve(c);
        for (std::size_t i = 0; i + 1 < curve.size(); ++i)
            if (curve[i] != curve[i + 1]) pairs.push_back({curve[i], curve[i + 1]});
        if (topology.curveClosed(c) && curve.size() > 2 && curve.front() != curve.back()) pairs.push_back({curve.back(), curve.front()});
    }
    return rowsOf(topology.pointCount(), pairs);
}

Rows faceNeighbours(const Topology& topology) {
    const EdgeTable& edges = topology.edges();
    std::vector<std::pair<Index, Index>> byEdge;  // (edge, face)
    for (std::size_t c = 0; c < topology.cornerCount(); ++c) byEdge.push_back({edges.cornerEdge[c], topology.faceOfCorner()[c]});
    std::sort(byEdge.begin(), byEdge.end());
    std::vector<std::pair<Index, Index>> pairs;
    // Of many faces at one edge each meets the next: enough to hang together, and never quadratic.
    for (std::size_t i = 0; i + 1 < byEdge.size(); ++i)
        if (byEdge[i].first == byEdge[i + 1].first && byEdge[i].second != byEdge[i + 1].second) pairs.push_back({byEdge[i].second, byEdge[i + 1].second});
    return rowsOf(topology.faceCount(), pairs);
}

std::vector<std::uint8_t> borderPoints(const Topology& topology) {
    std::vector<std::uint8_t> out(topology.pointCount(), 0);
    const EdgeTable& edges = topology.edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e)
        if (edges.faceCount[e] == 1) out[edges.edges[e].a] = out[edges.edges[e].b] = 1;
    for (std::size_t c = 0; c < topology.curveCount(); ++c)
        if (const auto curve = topology.curve(c); !topology.curveClosed(c) && !curve.empty()) out[curve.front()] = out[curve.back()] = 1;
    return out;
}

}  // namespace seedloom
