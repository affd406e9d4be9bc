#include "surface/ArrangedFaces.h"

#include "geometry/Measures.h"
#include "geometry/Weld.h"

#include <cstring>

namespace seedloom {

namespace {

constexpr float kRounding = 4e-7f;  ///< of the greatest coordinate: what keeps a face from being flat in numbers only
constexpr float kShort = 3e-3f;     ///< of the same: edges along which rounding turns the outline by a few hundred thousandths

std::uint64_t edgeKey(Index a, Index b) { return a < b ? std::uint64_t(a) << 32 | b : std::uint64_t(b) << 32 | a; }

std::uint64_t placeHash(Vec3 at) {
    std::uint64_t h = 1469598103934665603ULL;
    for (int c = 0; c < 3; ++c) {
        std::uint32_t bits;
        const float v = at[c] == 0 ? 0.0f : at[c];
        std::memcpy(&bits, &v, sizeof bits);
        h = (h ^ bits) * 1099511628211ULL;
    }
    return h;
}

bool sameSense(const std::array<Index, 3>& a, const std::array<Index, 3>& b) {
    const auto at = std::size_t(std::find(b.begin(), b.end(), a[0]) - b.begin());
    return b[(at + 1) % 3] == a[1];
}

}  // namespace

ArrangedFaces::ArrangedFaces(const Geometry& in, const Triangles& triangles, const TrianglePairs& pairs, const std::vector<std::uint8_t>& kind,
                             std::optional<double> joined, const RunContext& run)
    : in_(in), triangles_(triangles), arrangement_(arrange(in, triangles, pairs, run)) {
    if (joined) joinPlaces(*joined);
    makePanels();
    run.poll();
    joinPanels(kind);
    run.poll();
}

std::size_t ArrangedFaces::cutTriangles() const { return std::size_t(std::count(arrangement_.cut.begin(), arrangement_.cut.end(), 1)); }

Index ArrangedFaces::standing(Index p) const {
    if (p < in_.pointCount()) p = arrangement_.standsFor[p];
    const auto it = sameAs_.find(p);
    return it == sameAs_.end() ? p : it->second;
}

/// New points that rounding has put onto others, or that lie within the distance, count as these.
void ArrangedFaces::joinPlaces(double distance) {
    std::vector<Index> points;
    for (const Facet& f : arrangement_.facets)
        for (Index p : f.points)
            if (p < in_.pointCount()) points.push_back(arrangement_.standsFor[p]);
    std::sort(points.begin(), points.end());
    points.erase(std::unique(points.begin(), points.end()), points.end());
    for (Index p = 0; p < arrangement_.newPoints.size(); ++p) points.push_back(Index(in_.pointCount() + p));
    if (distance > 0) {
        std::vector<Vec3> places;
        for (Index p : points) places.push_back(place(p));
        const std::vector<Index> first = nearestEarlier(places, distance);
        for (std::size_t i = 0; i < points.size(); ++i)
            if (first[i] != i && points[i] >= in_.pointCount()) sameAs_[points[i]] = points[first[i]];
        return;
    }
    std::unordered_map<std::uint64_t, std::vector<Index>> byPlace;
    for (Index p : points) {
        auto& list = byPlace[placeHash(place(p))];
        const auto other = std::find_if(list.begin(), list.end(), [&](Index q) { return place(q) == place(p); });
        if (other != list.end()) sameAs_[p] = *other;
        else list.push_back(p);
    }
}

void ArrangedFaces::makePanels() {
    panelOf_.assign(triangles_.count(), kNone);
    panels_.reserve(triangles_.count() + arrangement_.facets.size());
    for (Index t = 0; t < triangles_.count(); ++t) {
        if (arrangement_.cut[t]) continue;
        panelOf_[t] = Index(panels_.size());
        panels_.push_back(
            {{{standing(pointAt(3 * t)), standing(pointAt(3 * t + 1)), standing(pointAt(3 * t + 2))}, t, {{{1, 0, 0}, {0, 1, 0}, {0, 0, 1}}}}, {}});
    }
    firstCut_ = Index(panels_.size());
    std::map<std::array<Index, 3>, Index> known;
    for (Index facet = 0; facet < arrangement_.facets.size(); ++facet) {
        const Facet& f = arrangement_.facets[facet];
        const TrianglePiece piece{{standing(f.points[0]), standing(f.points[1]), standing(f.points[2])}, f.triangle, f.weights};
        if (piece.points[0] == piece.points[1] || piece.points[1] == piece.points[2] || piece.points[2] == piece.points[0]) continue;
        std::array<Index, 3> sorted = piece.points;
        std::sort(sorted.begin(), sorted.end());
        const auto [it, isNew] = known.try_emplace(sorted, Index(panels_.size()));
        if (isNew) panels_.push_back({piece, {}}), facetOf_.push_back(facet);
        else panels_[it->second].more.push_back({piece, sameSense(panels_[it->second].piece.points, piece.points) ? 1 : -1});
    }
}

std::array<FinePlace, 3> ArrangedFaces::finePlaces(Index panel) const {
    const bool cut = panel >= firstCut_;
    const auto& points = cut ? arrangement_.facets[facetOf_[panel - firstCut_]].points : panels_[panel].piece.points;
    std::array<FinePlace, 3> out;
    for (std::size_t k = 0; k < 3; ++k)
        out[k] = points[k] < in_.pointCount() ? fine(in_.positions()[points[k]]) : arrangement_.newPoints[points[k] - in_.pointCount()];
    return out;
}

void ArrangedFaces::joinPanels(const std::vector<std::uint8_t>& kind) {
    Groups joins(panels_.size());
    std::unordered_map<std::uint64_t, std::vector<Index>> byEdge;
    for (Index s = firstCut_; s < panels_.size(); ++s)
        for (std::size_t k = 0; k < 3; ++k) byEdge[edgeKey(panels_[s].piece.points[k], panels_[s].piece.points[(k + 1) % 3])].push_back(s);
    const auto mayJoin = [&](Index a, Index b) { return kind.empty() || kind[panels_[a].piece.triangle] == kind[panels_[b].piece.triangle]; };
    const auto lone = [&](Index panel, std::uint64_t key) { byEdge[key].push_back(panel); };
    // Of edges of whole triangles, those at cut ones are looked up; the others are known by the topology.
    eachWholeEdge(
        [&](Index a, Index b, std::uint64_t key) {
            if (a != kNone && b != kNone && mayJoin(a, b)) return joins.join(a, b);
            for (Index panel : {a, b})
                if (panel != kNone) lone(panel, key);
        },
        lone);
    for (auto& [key, list] : byEdge) {
        if (list.size() == 2 && mayJoin(list[0], list[1])) joins.join(list[0], list[1]);
        else edges_.push_back({Index(key >> 32), Index(key), std::move(list)});
    }
    std::sort(edges_.begin(), edges_.end(), [](const Edge& x, const Edge& y) { return std::tie(x.a, x.b) < std::tie(y.a, y.b); });
    patch_.resize(panels_.size());
    for (Index s = 0; s < panels_.size(); ++s) patch_[s] = joins.find(s);
}

/// Tells `meet` of two triangles with a common edge, by their panels, where one is whole, and `lone` of whole ones at edges of one or many faces.
void ArrangedFaces::eachWholeEdge(const std::function<void(Index, Index, std::uint64_t)>& meet, const std::function<void(Index, std::uint64_t)>& lone) const {
    const Topology& t = in_.topology();
    std::vector<Index> triangleOfCorner(t.cornerCount(), kNone);  // that has the edge from the corner to the next
    std::map<std::uint64_t, Index> inner;                         // edges inside of the face at hand
    Index face = kNone;
    for (Index i = 0; i < triangles_.count(); ++i) {
        if (triangles_.faceOf[i] != face) face = triangles_.faceOf[i], inner.clear();
        for (std::size_t k = 0; k < 3; ++k) {
            const Index a = triangles_.corners[3 * i + k], b = triangles_.corners[3 * i + (k + 1) % 3];
            const Index next = a + 1 == t.faceStart()[face + 1] ? t.faceStart()[face] : a + 1;
            if (b == next) {
                triangleOfCorner[a] = i;
                continue;
            }
            const auto [it, isNew] = inner.try_emplace(edgeKey(a, b), i);
            if (!isNew) meet(panelOf_[it->second], panelOf_[i], edgeKey(standing(t.cornerPoint()[a]), standing(t.cornerPoint()[b])));
        }
    }
    const EdgeTable& table = t.edges();
    std::vector<Index> first(table.edges.size(), kNone);
    for (Index c = 0; c < t.cornerCount(); ++c) {
        const Index e = table.cornerEdge[c];
        if (triangleOfCorner[c] == kNone) continue;
        const std::uint64_t key = edgeKey(standing(table.edges[e].a), standing(table.edges[e].b));
        if (table.faceCount[e] != 2) {
            if (panelOf_[triangleOfCorner[c]] != kNone) lone(panelOf_[triangleOfCorner[c]], key);
        } else if (first[e] == kNone) {
            first[e] = triangleOfCorner[c];
        } else {
            meet(panelOf_[first[e]], panelOf_[triangleOfCorner[c]], key);
        }
    }
}

void ArrangedFaces::addMixed(RowMix& rows, const TrianglePiece& piece, std::size_t corner, bool points) const {
    const auto row = [&](std::size_t i) {
        const Index c = triangles_.corners[3 * piece.triangle + i];
        return points ? in_.topology().cornerPoint()[c] : c;
    };
    for (std::size_t i = 0; i < 3; ++i)
        if (piece.weights[corner][i] == 1) return void(rows.add(row(i)));
    for (std::size_t i = 0; i < 3; ++i)
        if (piece.weights[corner][i] != 0) rows.part(row(i), piece.weights[corner][i]);
    rows.close();
}

/// The face as it was, where all its triangles are there and whole; nothing where they are not.
std::vector<RingCorner> ArrangedFaces::wholeFace(Index f, const std::vector<KeptPiece>& kept) const {
    const Index start = in_.topology().faceStart()[f], end = in_.topology().faceStart()[f + 1];
    if (kept.size() + 2 != end - start) return {};
    std::vector<RingCorner> ring(end - start);
    const bool turned = kept.front().turned;
    for (const KeptPiece& k : kept) {
        if (panelOf_[k.piece.triangle] == kNone || k.turned != turned) return {};
        for (std::size_t i = 0; i < 3; ++i) {
            // Each corner by the piece that has the side from it to the next.
            const std::size_t j = (i + 1) % 3;
            const Index from = triangles_.corners[3 * k.piece.triangle + i] - start, to = triangles_.corners[3 * k.piece.triangle + j] - start;
            if (to != (from + 1 == ring.size() ? 0 : from + 1)) continue;
            if (turned) ring[to] = {k.piece.points[j], &k.piece, j, std::size_t(&k - kept.data())};
            else ring[from] = {k.piece.points[i], &k.piece, i, std::size_t(&k - kept.data())};
        }
    }
    if (turned) std::reverse(ring.begin(), ring.end());
    return ring;
}

std::vector<std::vector<RingCorner>> ArrangedFaces::triangles(Index f, const std::vector<KeptPiece>& kept) const {
    std::vector<std::vector<RingCorner>> out;
    if (auto whole = wholeFace(f, kept); !whole.empty()) return out.push_back(std::move(whole)), out;
    for (const KeptPiece& k : kept) {
        auto& ring = out.emplace_back();
        for (std::size_t i = 0; i < 3; ++i) ring.push_back({k.piece.points[i], &k.piece, i, std::size_t(&k - kept.data())});
        if (k.turned) std::reverse(ring.begin(), ring.end());
    }
    return out;
}

std::vector<std::vector<RingCorner>> ArrangedFaces::polygons(Index f, const std::vector<KeptPiece>& kept) const {
    std::vector<std::vector<RingCorner>> out = triangles(f, kept);
    if (out.size() < 2 || !flat(f)) return out;
    std::map<std::pair<Index, Index>, RingCorner> edges;
    for (const auto& ring : out)
        for (std::size_t i = 0; i < 3; ++i) {
            const Index a = ring[i].point, b = ring[(i + 1) % 3].point;
            if (edges.erase({b, a}) == 0) edges.insert({{a, b}, ring[i]});
        }
    std::map<Index, std::pair<Index, RingCorner>> leave;
    for (const auto& [ends, from] : edges)
        if (!leave.try_emplace(ends.first, ends.second, from).second) return out;  // two outlines touch here
    if (leave.size() < 3) return out;
    std::vector<RingCorner> ring;
    const Index start = leave.begin()->first;
    for (Index at = start;;) {
        const auto it = leave.find(at);
        if (it == leave.end()) return out;
        ring.push_back(it->second.second);
        at = it->second.first;
        if (at == start) break;
    }
    if (ring.size() != leave.size()) return out;  // holes
    if (!clearlyTurned(ring)) return out;
    return {std::move(ring)};
}

/// Whether rounding leaves no doubt of the way along an outline: at short edges it does, and whoever cuts the polygon into triangles then gets others than
/// those beside it were made for.
bool ArrangedFaces::clearlyTurned(const std::vector<RingCorner>& ring) const {
    float most = 0;
    for (const RingCorner& c : ring) {
        const Vec3 at = place(c.point);
        most = std::max({most, std::abs(at.x), std::abs(at.y), std::abs(at.z)});
    }
    for (std::size_t k = 0; k < ring.size(); ++k)
        if (distance(place(ring[k].point), place(ring[(k + 1) % ring.size()].point)) < kShort * most) return false;
    return true;
}

bool ArrangedFaces::flat(Index f) const {
    const auto face = in_.topology().face(f);
    if (face.size() == 3) return true;
    const Vec3 n = normalized(areaVector(face, in_.positions()), {}), at = in_.positions()[face[0]];
    float most = 0, off = 0;
    for (Index p : face) {
        const Vec3 v = in_.positions()[p];
        most = std::max({most, std::abs(v.x), std::abs(v.y), std::abs(v.z)});
        off = std::max(off, std::abs(dot(v - at, n)));
    }
    return off <= kRounding * most;
}

}  // namespace seedloom
