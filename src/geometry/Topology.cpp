#include "geometry/Topology.h"

#include <algorithm>
#include <numeric>

namespace seedloom {

struct Topology::Derived {
    std::once_flag edgesOnce, rowsOnce, facesOnce, connectionOnce;
    EdgeTable edges;
    Rows corners;
    std::vector<Index> faceOfCorner;
    Connection connection;
};

Topology::Topology(std::size_t points, std::vector<Index> faceStart, std::vector<Index> cornerPoint, std::vector<Index> curveStart,
                   std::vector<Index> curvePoint, std::vector<std::uint8_t> curveClosed)
    : points_(points), faceStart_(std::move(faceStart)), cornerPoint_(std::move(cornerPoint)), curveStart_(std::move(curveStart)),
      curvePoint_(std::move(curvePoint)), curveClosed_(std::move(curveClosed)), derived_(std::make_shared<Derived>()) {
    if (faceStart_.empty()) faceStart_ = {0};
    if (curveStart_.empty()) curveStart_ = {0};
}

const char* Topology::problem() const {
    const auto rises = [](const std::vector<Index>& start, std::size_t end) {
        if (start.front() != 0 || start.back() != end) return false;
        for (std::size_t i = 1; i < start.size(); ++i)
            if (start[i] < start[i - 1]) return false;
        return true;
    };
    if (!rises(faceStart_, cornerPoint_.size())) return "face offsets do not rise to the number of corners";
    if (!rises(curveStart_, curvePoint_.size())) return "curve offsets do not rise to the number of curve points";
    if (curveClosed_.size() != curveCount()) return "one closed flag a curve is needed";
    for (Index p : cornerPoint_)
        if (p >= points_) return "a face uses a point that does not exist";
    for (Index p : curvePoint_)
        if (p >= points_) return "a curve uses a point that does not exist";
    return "";
}

namespace {

/// Counting sort of half-edges by their smaller point, then a short search in each bucket.
EdgeTable buildEdges(const Topology& t) {
    EdgeTable out;
    const auto& corner = t.cornerPoint();
    out.cornerEdge.resize(corner.size());
    std::vector<Index> start(t.pointCount() + 1, 0), other(corner.size()), which(corner.size());
    const auto eachSide = [&](auto&& use) {
        for (std::size_t f = 0; f < t.faceCount(); ++f) {
            const Index begin = t.faceStart()[f], end = t.faceStart()[f + 1];
            for (Index c = begin; c < end; ++c) use(c, corner[c], corner[c + 1 == end ? begin : c + 1]);
        }
    };
    eachSide([&](Index, Index a, Index b) { ++start[std::min(a, b) + 1]; });
    std::partial_sum(start.begin(), start.end(), start.begin());
    std::vector<Index> fill(start.begin(), start.end() - 1);
    eachSide([&](Index c, Index a, Index b) {
        const Index at = fill[std::min(a, b)]++;
        other[at] = std::max(a, b);
        which[at] = c;
    });
    out.edges.reserve(corner.size() / 2 + 1);
    for (Index p = 0; p < t.pointCount(); ++p) {
        const std::size_t first = out.edges.size();
        // A bucket is as small as a point's valence; a hub with thousands of spokes is sorted instead of searched.
        const bool large = start[p + 1] - start[p] > 32;
        if (large) {
            std::vector<std::pair<Index, Index>> sorted;
            for (Index i = start[p]; i < start[p + 1]; ++i) sorted.push_back({other[i], which[i]});
            std::sort(sorted.begin(), sorted.end());
            for (std::size_t i = 0; i < sorted.size(); ++i) {
                other[start[p] + i] = sorted[i].first;
                which[start[p] + i] = sorted[i].second;
            }
        }
        for (Index i = start[p]; i < start[p + 1]; ++i) {
            std::size_t e = large ? (out.edges.size() > first && out.edges.back().b == other[i] ? out.edges.size() - 1 : out.edges.size()) : first;
            if (!large)
                while (e < out.edges.size() && out.edges[e].b != other[i]) ++e;
            if (e == out.edges.size()) {
                out.edges.push_back({p, other[i]});
                out.faceCount.push_back(0);
                out.balance.push_back(0);
            }
            ++out.faceCount[e];
            out.balance[e] += corner[which[i]] == p ? 1 : -1;
            out.cornerEdge[which[i]] = static_cast<Index>(e);
        }
    }
    return out;
}

Rows buildCorners(const Topology& t) {
    Rows rows;
    const auto& corner = t.cornerPoint();
    rows.start.assign(t.pointCount() + 1, 0);
    rows.values.resize(corner.size());
    for (Index p : corner) ++rows.start[p + 1];
    std::partial_sum(rows.start.begin(), rows.start.end(), rows.start.begin());
    std::vector<Index> fill(rows.start.begin(), rows.start.end() - 1);
    for (Index c = 0; c < corner.size(); ++c) rows.values[fill[corner[c]]++] = c;
    return rows;
}

Connection buildConnection(const Topology& t) {
    std::vector<Index> parent(t.pointCount());
    std::iota(parent.begin(), parent.end(), 0u);
    const auto root = [&](Index p) {
        while (parent[p] != p) p = parent[p] = parent[parent[p]];
        return p;
    };
    const auto join = [&](std::span<const Index> run) {
        for (std::size_t i = 1; i < run.size(); ++i) {
            const Index a = root(run[i - 1]), b = root(run[i]);
            if (a != b) parent[std::max(a, b)] = std::min(a, b);
        }
    };
    for (std::size_t f = 0; f < t.faceCount(); ++f) join(t.face(f));
    for (std::size_t c = 0; c < t.curveCount(); ++c) join(t.curve(c));
    Connection out;
    out.pieceOfPoint.assign(t.pointCount(), 0);
    for (Index p = 0; p < t.pointCount(); ++p) out.pieceOfPoint[p] = root(p) == p ? out.parts++ : out.pieceOfPoint[root(p)];
    std::vector<std::uint8_t> hasFace(out.parts, 0);
    for (Index p : t.cornerPoint()) hasFace[out.pieceOfPoint[p]] = 1;
    out.pieces = static_cast<Index>(std::count(hasFace.begin(), hasFace.end(), 1));
    return out;
}

}  // namespace

const EdgeTable& Topology::edges() const {
    std::call_once(derived_->edgesOnce, [&] { derived_->edges = buildEdges(*this); });
    return derived_->edges;
}

const Rows& Topology::cornersOfPoint() const {
    std::call_once(derived_->rowsOnce, [&] { derived_->corners = buildCorners(*this); });
    return derived_->corners;
}

const std::vector<Index>& Topology::faceOfCorner() const {
    std::call_once(derived_->facesOnce, [&] {
        auto& out = derived_->faceOfCorner;
        out.resize(cornerCount());
        for (std::size_t f = 0; f < faceCount(); ++f) std::fill(out.begin() + faceStart_[f], out.begin() + faceStart_[f + 1], static_cast<Index>(f));
    });
    return derived_->faceOfCorner;
}

const Connection& Topology::connection() const {
    std::call_once(derived_->connectionOnce, [&] { derived_->connection = buildConnection(*this); });
    return derived_->connection;
}

std::size_t Topology::byteSize() const {
    // Edges, faces of corners and neighbours: about five numbers a corner, whenever they are asked for.
    constexpr std::size_t kDerived = 5;
    return sizeof(Topology) + sizeof(Index) * (faceStart_.size() + (1 + kDerived) * cornerPoint_.size() + curveStart_.size() + curvePoint_.size()) +
           curveClosed_.size();
}

}  // namespace seedloom
