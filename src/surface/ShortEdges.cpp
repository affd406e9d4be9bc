#include "surface/ShortEdges.h"

#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "surface/NearCrossings.h"

#include <algorithm>
#include <numeric>
#include <set>

namespace seedloom {

namespace {

constexpr float kTurns = 0.5f;     // cosine of how far a face may turn
constexpr double kOffPlane = 0.1;  // of the shortest edge: how far a face of more corners may leave its plane
constexpr int kTries = 3;

class Shortener {
public:
    Shortener(const Geometry& in, double shortest, const std::vector<std::uint8_t>& old, const std::vector<std::uint8_t>& held)
        : in_(in), t_(in.topology()), shortest_(shortest), old_(old), held_(held), into_(in.pointCount()), faces_(in.pointCount()) {
        std::iota(into_.begin(), into_.end(), Index{0});
    }

    /// Whether any was drawn together.
    bool run(const RunContext& run) {
        std::vector<std::pair<float, Index>> edges;
        const auto& all = t_.edges().edges;
        for (Index e = 0; e < all.size(); ++e) {
            const auto [a, b] = all[e];
            const float length = seedloom::length(at(a) - at(b));
            if (double(length) < shortest_ && !(old_[a] && old_[b]) && !held_[a] && !held_[b]) edges.emplace_back(length, e);
        }
        if (edges.empty()) return false;
        std::sort(edges.begin(), edges.end());
        for (Index c = 0; c < t_.cornerCount(); ++c) faces_[t_.cornerPoint()[c]].push_back(t_.faceOfCorner()[c]);
        bool any = false;
        for (const auto& [length, e] : edges) {
            run.poll();
            any |= drawTogether(root(all[e].a), root(all[e].b));
        }
        return any;
    }

    Geometry result() {
        RowPlan plan;
        std::vector<Index> number(in_.pointCount(), kNone);
        const auto numberOf = [&](Index p) {
            if (number[p] == kNone) number[p] = Index(plan.points.size()), plan.points.push_back(p);
            return number[p];
        };
        // In the order of the points, so that what was not touched stays where it was.
        for (Index p = 0; p < number.size(); ++p)
            if (root(p) == p) numberOf(p);
        for (Index f = 0; f < t_.faceCount(); ++f) {
            const auto corners = cornersOf(f);
            if (corners.size() < 3) continue;
            for (Index c : corners) plan.addCorner(numberOf(root(t_.cornerPoint()[c])), c);
            plan.endFace(f);
        }
        return takeRows(in_, std::move(plan));
    }
    /// The point that a point was drawn to.
    Index root(Index p) {
        while (into_[p] != p) p = into_[p] = into_[into_[p]];
        return p;
    }
    /// Points that others were drawn to, and those others.
    std::vector<Index> changed() {
        std::vector<Index> out;
        for (Index p = 0; p < into_.size(); ++p)
            if (into_[p] != p) out.push_back(p), out.push_back(root(p));
        return out;
    }

private:
    Vec3 at(Index p) const { return in_.positions()[p]; }
    /// Of the face as it is now, without what has become one.
    std::vector<Index> cornersOf(Index f) {
        std::vector<Index> out;
        const auto pointOf = [&](Index c) { return root(t_.cornerPoint()[c]); };
        for (Index c = t_.faceStart()[f]; c < t_.faceStart()[f + 1]; ++c)
            if (out.empty() || pointOf(out.back()) != pointOf(c)) out.push_back(c);
        while (out.size() > 1 && pointOf(out.front()) == pointOf(out.back())) out.pop_back();
        return out;
    }
    std::vector<Index> ringOf(Index f) {
        std::vector<Index> out = cornersOf(f);
        for (Index& c : out) c = root(t_.cornerPoint()[c]);
        if (out.size() < 3) out.clear();
        return out;
    }
    std::set<Index> besideOf(Index p) {
        std::set<Index> out;
        for (Index f : faces_[p]) {
            const std::vector<Index> ring = ringOf(f);
            for (std::size_t i = 0; i < ring.size(); ++i) {
                const Index next = ring[(i + 1) % ring.size()];
                if (ring[i] == p) out.insert(next);
                if (next == p) out.insert(ring[i]);
            }
        }
        return out;
    }

    bool drawTogether(Index a, Index b) {
        if (a == b || (old_[a] && old_[b])) return false;
        const Index keep = old_[b] || (!old_[a] && b < a) ? b : a, go = keep == a ? b : a;
        if (!(double(length(at(a) - at(b))) < shortest_) || !staysSound(keep, go)) return false;
        into_[go] = keep;
        std::vector<Index>& faces = faces_[keep];
        faces.insert(faces.end(), faces_[go].begin(), faces_[go].end());
        std::sort(faces.begin(), faces.end());
        faces.erase(std::unique(faces.begin(), faces.end()), faces.end());
        faces_[go].clear();
        return true;
    }
    bool staysSound(Index keep, Index go) {
        std::set<Index> opposite;
        for (Index f : faces_[go]) {
            const std::vector<Index> ring = ringOf(f);
            if (ring.empty()) continue;
            const auto here = std::find(ring.begin(), ring.end(), go), there = std::find(ring.begin(), ring.end(), keep);
            if (there == ring.end()) {
                if (!keepsItsPlane(ring, keep, go)) return false;
                continue;
            }
            const auto apart = std::size_t(std::abs(here - there));
            if (apart != 1 && apart != ring.size() - 1) return false;
            if (ring.size() > 3 && !keepsItsPlane(ring, keep, go)) return false;
            if (ring.size() == 3)
                for (Index p : ring)
                    if (p != keep && p != go) opposite.insert(p);
        }
        const std::set<Index> a = besideOf(keep), b = besideOf(go);
        std::vector<Index> common;
        std::set_intersection(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(common));
        return std::equal(common.begin(), common.end(), opposite.begin(), opposite.end()) && !foldsUp(keep, go);
    }
    /// Whether two faces would have the same points then, as those of a tetrahedron.
    bool foldsUp(Index keep, Index go) {
        std::set<Index> faces(faces_[keep].begin(), faces_[keep].end());
        faces.insert(faces_[go].begin(), faces_[go].end());
        std::set<std::vector<Index>> seen;
        for (Index f : faces) {
            std::vector<Index> points = ringOf(f);
            std::replace(points.begin(), points.end(), go, keep);
            std::sort(points.begin(), points.end());
            points.erase(std::unique(points.begin(), points.end()), points.end());
            if (points.size() > 2 && !seen.insert(points).second) return true;
        }
        return false;
    }
    /// A face with `keep` in the place of `go` still looks the same way, and is as flat as it was.
    bool keepsItsPlane(std::vector<Index> ring, Index keep, Index go) {
        const Vec3 before = normalized(areaVector(ring, in_.positions()), {});
        if (ring.size() > 3 && std::abs(double(dot(at(keep) - at(go), before))) > kOffPlane * shortest_) return false;
        std::replace(ring.begin(), ring.end(), go, keep);
        const Vec3 after = normalized(areaVector(ring, in_.positions()), {});
        // What had no area can only get better.
        return length(before) < 0.5f || dot(before, after) > kTurns;
    }

    const Geometry& in_;
    const Topology& t_;
    double shortest_;
    const std::vector<std::uint8_t>&old_, &held_;
    std::vector<Index> into_;
    std::vector<std::vector<Index>> faces_;  ///< by point, of those drawn to it as well
};

}  // namespace

Geometry withoutShortEdges(const Geometry& surface, double shortest, const std::vector<std::uint8_t>& old, const RunContext& run) {
    std::vector<std::uint8_t> held(surface.pointCount(), 0);
    for (int i = 0; i < kTries; ++i) {
        Shortener shortener(surface, shortest, old, held);
        if (!shortener.run(run)) break;
        Geometry out = shortener.result();
        const std::vector<Index> changed = shortener.changed();
        PlaceSet places;
        for (Index p : changed) places.insert(placeKey(surface.positions()[p]));
        const PlaceSet crossing = crossingNear(out, places, run);
        if (crossing.empty()) return out;
        for (Index p : changed)
            if (crossing.contains(placeKey(surface.positions()[shortener.root(p)]))) held[p] = 1;
    }
    return surface;
}

}  // namespace seedloom
