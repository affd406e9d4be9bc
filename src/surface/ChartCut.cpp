#include "surface/ChartCut.h"

#include "geometry/Groups.h"

#include <cmath>
#include <limits>
#include <queue>
#include <unordered_map>

namespace seedloom {

namespace {

/// Faces of a chart by their numbers in the geometry, and who is beside whom.
class ChartGraph {
public:
    explicit ChartGraph(const Geometry& geometry, const ChartFaces& chart) : geometry_(geometry) {
        for (Index i = 0; i < chart.faces.size(); ++i) local_.emplace(chart.faces[i], i);
        const auto& faceOf = geometry.topology().faceOfCorner();
        rows_.start.assign(chart.faces.size() + 1, 0);
        for (const InnerEdge& e : chart.inner)
            for (Index corner : {e.cornerA, e.cornerB}) ++rows_.start[local_.at(faceOf[corner]) + 1];
        for (std::size_t i = 0; i < chart.faces.size(); ++i) rows_.start[i + 1] += rows_.start[i];
        rows_.values.resize(rows_.start.back());
        std::vector<Index> at(rows_.start.begin(), rows_.start.end() - 1);
        for (Index k = 0; k < chart.inner.size(); ++k)
            for (Index corner : {chart.inner[k].cornerA, chart.inner[k].cornerB}) rows_.values[at[local_.at(faceOf[corner])]++] = k;
    }
    Index local(Index face) const { return local_.at(face); }
    /// Numbers of inner edges at a face.
    std::span<const Index> edgesAt(Index face) const { return rows_[face]; }
    Index across(const InnerEdge& e, Index from) const {
        const auto& faceOf = geometry_.topology().faceOfCorner();
        const Index a = local(faceOf[e.cornerA]), b = local(faceOf[e.cornerB]);
        return a == from ? b : a;
    }

private:
    const Geometry& geometry_;
    std::unordered_map<Index, Index> local_;
    Rows rows_;
};

Vec3 middleOf(const Geometry& g, Index face) {
    Vec3 sum{};
    const auto points = g.topology().face(face);
    for (Index p : points) sum += g.positions()[p];
    return sum * (1.0f / float(points.size()));
}

/// Along the surface from face middle to face middle, from several faces at once; `nearest` says from which.
struct Reached {
    std::vector<double> distance;
    std::vector<Index> nearest;
};
Reached reach(const ChartFaces& chart, const ChartGraph& graph, const std::vector<Vec3>& middles, const std::vector<Index>& from) {
    Reached out{std::vector<double>(chart.faces.size(), std::numeric_limits<double>::infinity()), std::vector<Index>(chart.faces.size(), 0)};
    using Entry = std::pair<double, Index>;
    std::priority_queue<Entry, std::vector<Entry>, std::greater<>> open;
    for (Index k = 0; k < from.size(); ++k) {
        out.distance[from[k]] = 0, out.nearest[from[k]] = k;
        open.emplace(0.0, from[k]);
    }
    while (!open.empty()) {
        const auto [far, at] = open.top();
        open.pop();
        if (far > out.distance[at]) continue;
        for (Index k : graph.edgesAt(at)) {
            const Index other = graph.across(chart.inner[k], at);
            // A point that is no number must not keep the search from ending.
            const double step = double(length(middles[other] - middles[at])), next = far + (std::isfinite(step) ? step : 0.0);
            if (next >= out.distance[other]) continue;
            out.distance[other] = next, out.nearest[other] = out.nearest[at];
            open.emplace(next, other);
        }
    }
    return out;
}

/// The inner edges that a search over faces, begun at the first, does not cross.
std::vector<std::uint8_t> notCrossed(const ChartFaces& chart, const ChartGraph& graph) {
    std::vector<std::uint8_t> cut(chart.inner.size(), 1), seen(chart.faces.size(), 0);
    std::vector<Index> queue{0};
    seen[0] = 1;
    for (std::size_t at = 0; at < queue.size(); ++at)
        for (Index k : graph.edgesAt(queue[at])) {
            const Index other = graph.across(chart.inner[k], queue[at]);
            if (seen[other]) continue;
            seen[other] = 1, cut[k] = 0;
            queue.push_back(other);
        }
    return cut;
}

/// Closes cuts from their loose ends, as long as there are any. True where something of a cut or a border is left.
bool zip(const Geometry& g, const ChartFaces& chart, std::vector<std::uint8_t>& cut) {
    const Topology& t = g.topology();
    std::unordered_map<Index, Index> ends;  // cut and border edges at a point
    std::unordered_map<Index, std::vector<Index>> cutsAt;
    std::unordered_map<Index, Index> uses;  // of edges, by faces of the chart
    for (Index f : chart.faces)
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) ++uses[t.edges().cornerEdge[c]];
    for (const InnerEdge& e : chart.inner) uses.erase(e.edge);
    for (const auto& [edge, count] : uses)
        for (Index p : {t.edges().edges[edge].a, t.edges().edges[edge].b}) ends[p] += count;
    std::size_t left = uses.size();
    for (Index k = 0; k < chart.inner.size(); ++k) {
        if (!cut[k]) continue;
        ++left;
        const auto& e = t.edges().edges[chart.inner[k].edge];
        for (Index p : {e.a, e.b}) ++ends[p], cutsAt[p].push_back(k);
    }
    std::vector<Index> open;
    for (const auto& [p, list] : cutsAt)
        if (ends[p] == 1) open.push_back(p);
    while (!open.empty()) {
        const Index p = open.back();
        open.pop_back();
        for (Index k : cutsAt[p]) {
            if (!cut[k]) continue;
            cut[k] = 0, --left;
            const auto& e = t.edges().edges[chart.inner[k].edge];
            for (Index q : {e.a, e.b})
                if (--ends[q] == 1 && q != p) open.push_back(q);
        }
    }
    return left > 0;
}

}  // namespace

std::optional<std::vector<Index>> diskVertices(const Geometry& g, const ChartFaces& chart) {
    const Topology& t = g.topology();
    const ChartGraph graph(g, chart);
    std::vector<std::uint8_t> cut = notCrossed(chart, graph);
    if (!zip(g, chart, cut)) return std::nullopt;
    std::vector<Index> first(chart.faces.size() + 1, 0);  // corner of the chart that a face begins with
    for (Index i = 0; i < chart.faces.size(); ++i) first[i + 1] = first[i] + Index(t.face(chart.faces[i]).size());
    const auto place = [&](Index corner) {
        const Index f = t.faceOfCorner()[corner];
        return first[graph.local(f)] + corner - t.faceStart()[f];
    };
    const auto following = [&](Index corner) {
        const Index f = t.faceOfCorner()[corner];
        return corner + 1 < t.faceStart()[f + 1] ? corner + 1 : t.faceStart()[f];
    };
    Groups same(first.back());
    for (Index k = 0; k < chart.inner.size(); ++k) {
        if (cut[k]) continue;
        // The faces wind alike, so they run along their edge in opposite directions.
        const auto [edge, a, b] = chart.inner[k];
        same.join(place(a), place(following(b)));
        same.join(place(following(a)), place(b));
    }
    std::vector<Index> out(first.back()), number(first.back(), ~Index{0});
    Index count = 0;
    for (Index c = 0; c < out.size(); ++c) {
        Index& n = number[same.find(c)];
        if (n == ~Index{0}) n = count++;
        out[c] = n;
    }
    return out;
}

std::pair<ChartFaces, ChartFaces> splitChart(const Geometry& g, const ChartFaces& chart) {
    const ChartGraph graph(g, chart);
    std::vector<Vec3> middles(chart.faces.size());
    for (Index i = 0; i < middles.size(); ++i) middles[i] = middleOf(g, chart.faces[i]);
    const auto farthest = [&](Index from) {
        const Reached r = reach(chart, graph, middles, {from});
        return Index(std::max_element(r.distance.begin(), r.distance.end()) - r.distance.begin());
    };
    const Index one = farthest(0);
    Index other = farthest(one);
    if (other == one) other = one == 0 ? 1 : 0;  // all in one place
    const Reached r = reach(chart, graph, middles, {one, other});
    std::pair<ChartFaces, ChartFaces> out;
    for (Index i = 0; i < chart.faces.size(); ++i) (r.nearest[i] == 0 ? out.first : out.second).faces.push_back(chart.faces[i]);
    const auto& faceOf = g.topology().faceOfCorner();
    for (const InnerEdge& e : chart.inner) {
        const Index a = r.nearest[graph.local(faceOf[e.cornerA])], b = r.nearest[graph.local(faceOf[e.cornerB])];
        if (a == b) (a == 0 ? out.first : out.second).inner.push_back(e);
    }
    return out;
}

}  // namespace seedloom
