#include "surface/Arrangement.h"

#include "geometry/BoxTree.h"

#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Constrained_triangulation_face_base_2.h>
#include <CGAL/Exact_predicates_exact_constructions_kernel.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>
#include <CGAL/intersections.h>

#include <map>
#include <unordered_map>

namespace seedloom {

namespace {

using Quick = CGAL::Exact_predicates_inexact_constructions_kernel;
using Exact = CGAL::Exact_predicates_exact_constructions_kernel;
using ExactPlace = Exact::Point_3;
using Corners = std::array<Index, 3>;

/// A point by what makes it: an old point, an edge through a triangle, or two edges that cross.
struct PointKey {
    enum class Kind : std::uint8_t { old, edgeTriangle, edgeEdge } kind;
    std::array<Index, 4> of;
    auto operator<=>(const PointKey&) const = default;
};

using Traits = CGAL::Exact_predicates_exact_constructions_kernel;
using VertexBase = CGAL::Triangulation_vertex_base_with_info_2<Index, Traits>;
using FaceBase = CGAL::Constrained_triangulation_face_base_2<Traits>;
using Structure = CGAL::Triangulation_data_structure_2<VertexBase, FaceBase>;
using Plan = CGAL::Constrained_Delaunay_triangulation_2<Traits, Structure, CGAL::Exact_intersections_tag>;

class Arranger {
public:
    Arranger(const Geometry& geometry, const Triangles& triangles, const TrianglePairs& pairs, const RunContext& run)
        : geometry_(geometry), triangles_(triangles), run_(run), pairs_(pairs), cluster_(triangles.count()), points_(geometry.pointCount()) {
        out_.cut.assign(triangles.count(), 0);
        out_.standsFor.resize(geometry.pointCount());
        for (Index p = 0; p < out_.standsFor.size(); ++p) out_.standsFor[p] = p;
        for (Index t = 0; t < cluster_.size(); ++t) cluster_[t] = t;
    }

    Arrangement run() {
        unifyOldPoints();
        for (std::size_t i = 0; i < pairs_.size(); ++i) {
            if (i % 256 == 0) run_.poll();
            meet(pairs_[i].first, pairs_[i].second);
        }
        cutClusters();
        return std::move(out_);
    }

private:
    Corners cornersOf(Index t) const {
        const auto& points = geometry_.topology().cornerPoint();
        return {out_.standsFor[points[triangles_.corners[3 * t]]], out_.standsFor[points[triangles_.corners[3 * t + 1]]],
                out_.standsFor[points[triangles_.corners[3 * t + 2]]]};
    }
    Quick::Point_3 quick(Index p) const {
        const Vec3 at = geometry_.positions()[p];
        return {double(at.x), double(at.y), double(at.z)};
    }

    /// Points at the same place count as one.
    void unifyOldPoints() {
        std::vector<Index> used;
        std::vector<std::uint8_t> seen(geometry_.pointCount(), 0);
        for (const auto& [t, u] : pairs_)
            for (Index triangle : {t, u})
                for (Index c = 3 * triangle; c < 3 * triangle + 3; ++c)
                    if (const Index p = geometry_.topology().cornerPoint()[triangles_.corners[c]]; !seen[p]++) used.push_back(p);
        const auto& at = geometry_.positions();
        std::stable_sort(used.begin(), used.end(), [&](Index a, Index b) { return std::tie(at[a].x, at[a].y, at[a].z) < std::tie(at[b].x, at[b].y, at[b].z); });
        for (std::size_t i = 1; i < used.size(); ++i)
            if (at[used[i]] == at[used[i - 1]]) out_.standsFor[used[i]] = out_.standsFor[used[i - 1]];
        for (Index p : used)
            if (out_.standsFor[p] == p) atPlace_.emplace(points_.exact(p, *this), p);
    }
    /// The number of a place: that of the point which is there already, whatever made it, or a new one.
    Index numberOf(const ExactPlace& place) {
        const auto [it, isNew] = atPlace_.try_emplace(place, kNone);
        if (isNew) it->second = points_.add(place);
        return it->second;
    }

    Index root(Index t) {
        while (cluster_[t] != t) t = cluster_[t] = cluster_[cluster_[t]];
        return t;
    }

    int side(const Corners& plane, Index p) const { return int(CGAL::orientation(quick(plane[0]), quick(plane[1]), quick(plane[2]), quick(p))); }

    /// Where two triangles meet: a shared stretch or point for both, or one plane in which they overlap.
    void meet(Index t, Index u) {
        const Corners a = cornersOf(t), b = cornersOf(u);
        if (flat(a) || flat(b)) return;
        std::array<int, 3> sideOfA{}, sideOfB{};
        for (std::size_t i = 0; i < 3; ++i) sideOfA[i] = side(b, a[i]);
        if (sameSide(sideOfA)) return;
        for (std::size_t i = 0; i < 3; ++i) sideOfB[i] = side(a, b[i]);
        if (sameSide(sideOfB)) return;
        if (sideOfA == std::array<int, 3>{}) {
            if (!CGAL::do_intersect(quickTriangle(a), quickTriangle(b))) return;
            markCut(t), markCut(u);
            const Index x = root(t), y = root(u);
            cluster_[std::max(x, y)] = std::min(x, y);
            return;
        }
        std::vector<PointKey> keys;
        cornersIn(a, sideOfA, b, keys), cornersIn(b, sideOfB, a, keys);
        edgesThrough(a, sideOfA, u, b, keys), edgesThrough(b, sideOfB, t, a, keys);
        std::sort(keys.begin(), keys.end());
        keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
        if (keys.empty()) return;
        markCut(t), markCut(u);
        std::vector<Index> ids;
        for (const PointKey& key : keys) ids.push_back(pointOf(key));
        // All lie on one line; more than two where edges run along it.
        if (ids.size() > 2) std::sort(ids.begin(), ids.end(), [&](Index p, Index q) { return points_.exact(p, *this) < points_.exact(q, *this); });
        for (Index triangle : {t, u}) {
            auto& list = constraints_[triangle];
            if (ids.size() == 1) list.push_back({ids[0], ids[0]});
            for (std::size_t i = 1; i < ids.size(); ++i) list.push_back({ids[i - 1], ids[i]});
        }
    }
    static bool sameSide(const std::array<int, 3>& s) { return s[0] != 0 && s[0] == s[1] && s[1] == s[2]; }
    bool flat(const Corners& t) const { return CGAL::collinear(quick(t[0]), quick(t[1]), quick(t[2])); }
    Quick::Triangle_3 quickTriangle(const Corners& t) const { return {quick(t[0]), quick(t[1]), quick(t[2])}; }
    void markCut(Index t) { out_.cut[t] = 1; }

    /// Corners of `a` that lie on `b`.
    void cornersIn(const Corners& a, const std::array<int, 3>& sides, const Corners& b, std::vector<PointKey>& keys) const {
        for (std::size_t i = 0; i < 3; ++i)
            if (sides[i] == 0 && (a[i] == b[0] || a[i] == b[1] || a[i] == b[2] || holds(b, a[i]))) keys.push_back({PointKey::Kind::old, {a[i], 0, 0, 0}});
    }
    /// Whether a point in the triangle's plane lies in the triangle.
    bool holds(const Corners& b, Index p) const {
        for (std::size_t i = 0; i < 3; ++i)
            if (CGAL::coplanar_orientation(quick(b[i]), quick(b[(i + 1) % 3]), quick(b[(i + 2) % 3]), quick(p)) == CGAL::NEGATIVE) return false;
        return true;
    }
    static PointKey edgeEdge(Index a, Index b, Index c, Index d) {
        std::pair<Index, Index> one = std::minmax(a, b), two = std::minmax(c, d);
        if (two < one) std::swap(one, two);
        return {PointKey::Kind::edgeEdge, {one.first, one.second, two.first, two.second}};
    }
    /// Places inside of edges of `a` that lie on `b` (the triangle number `u`), but for corners of `b`.
    void edgesThrough(const Corners& a, const std::array<int, 3>& sides, Index u, const Corners& b, std::vector<PointKey>& keys) const {
        for (std::size_t i = 0; i < 3; ++i) {
            const std::size_t j = (i + 1) % 3;
            const Index p = a[i], q = a[j];
            if (sides[i] == 0 && sides[j] == 0) {
                for (std::size_t k = 0; k < 3; ++k) crossInPlane(p, q, b[k], b[(k + 1) % 3], b[(k + 2) % 3], keys);
                continue;
            }
            if (sides[i] * sides[j] >= 0) continue;
            int zeros = 0, sense = 0;
            std::size_t zero = 0;
            bool inside = true;
            for (std::size_t k = 0; k < 3; ++k) {
                const int o = int(CGAL::orientation(quick(p), quick(q), quick(b[k]), quick(b[(k + 1) % 3])));
                if (o == 0) ++zeros, zero = k;
                else if (sense == 0) sense = o;
                else inside &= o == sense;
            }
            if (!inside || zeros > 1) continue;  // outside, or through a corner, which the corners tell
            const auto [low, high] = std::minmax(p, q);
            if (zeros == 0) keys.push_back({PointKey::Kind::edgeTriangle, {low, high, u, 0}});
            else keys.push_back(edgeEdge(p, q, b[zero], b[(zero + 1) % 3]));
        }
    }
    /// Two edges in one plane that cross inside of both. `r` is a point of that plane beside the second edge.
    void crossInPlane(Index p, Index q, Index s, Index e, Index r, std::vector<PointKey>& keys) const {
        const auto turn = [&](Index x, Index y, Index z) { return planarTurn(x, y, z, s, e, r); };
        const int a = turn(s, e, p), b = turn(s, e, q), c = turn(p, q, s), d = turn(p, q, e);
        if (a * b < 0 && c * d < 0) keys.push_back(edgeEdge(p, q, s, e));
    }
    /// Orientation of x, y, z in the plane of s, e, r: by dropping the coordinate in which that triangle has most area.
    int planarTurn(Index x, Index y, Index z, Index s, Index e, Index r) const {
        const int drop = dropped({s, e, r});
        const auto flatten = [&](Index p) {
            const Vec3 at = geometry_.positions()[p];
            const int u = (drop + 1) % 3, v = (drop + 2) % 3;
            return Quick::Point_2(double(at[u]), double(at[v]));
        };
        return int(CGAL::orientation(flatten(x), flatten(y), flatten(z)));
    }
    int dropped(const Corners& t) const {
        const auto& at = geometry_.positions();
        const auto d = [&](Index p, int c) { return double(at[p][c]) - double(at[t[0]][c]); };
        double best = -1;
        int out = 2;
        for (int c = 0; c < 3; ++c) {
            const int u = (c + 1) % 3, v = (c + 2) % 3;
            const double area = std::abs(d(t[1], u) * d(t[2], v) - d(t[1], v) * d(t[2], u));
            if (area > best) best = area, out = c;
        }
        return out;
    }

    /// Exact places by number: old points, made when they are asked for, then new ones.
    class Points {
    public:
        explicit Points(std::size_t old) : old_(old) {}
        const ExactPlace& exact(Index p, const Arranger& arranger) {
            if (p >= old_) return new_[p - old_];
            const auto [it, isNew] = made_.try_emplace(p);
            if (isNew) {
                const Vec3 at = arranger.geometry_.positions()[p];
                it->second = ExactPlace(double(at.x), double(at.y), double(at.z));
            }
            return it->second;
        }
        Index add(ExactPlace place) {
            new_.push_back(std::move(place));
            return Index(old_ + new_.size() - 1);
        }
        std::size_t old_;
        std::vector<ExactPlace> new_;

    private:
        std::unordered_map<Index, ExactPlace> made_;
    };
    Index pointOf(const PointKey& key) {
        if (key.kind == PointKey::Kind::old) return key.of[0];
        const auto [it, isNew] = numbers_.try_emplace(key, kNone);
        if (!isNew) return it->second;
        it->second = newPoint(key);
        auto& edges = edgesOf_[it->second];
        edges.push_back({key.of[0], key.of[1]});
        if (key.kind == PointKey::Kind::edgeEdge) edges.push_back({key.of[2], key.of[3]});
        return it->second;
    }
    Index newPoint(const PointKey& key) {
        const auto at = [&](Index p) { return points_.exact(p, *this); };
        const Exact::Line_3 line(at(key.of[0]), at(key.of[1]));
        ExactPlace place;
        if (key.kind == PointKey::Kind::edgeTriangle) {
            const Corners c = cornersOf(key.of[2]);
            const auto met = CGAL::intersection(line, Exact::Plane_3(at(c[0]), at(c[1]), at(c[2])));
            place = *boost::get<ExactPlace>(&*met);
        } else {
            const auto met = CGAL::intersection(line, Exact::Line_3(at(key.of[2]), at(key.of[3])));
            place = *boost::get<ExactPlace>(&*met);
        }
        return numberOf(place);
    }

    void cutClusters() {
        std::map<Index, std::vector<Index>> clusters;
        for (Index t = 0; t < out_.cut.size(); ++t)
            if (out_.cut[t]) clusters[root(t)].push_back(t);
        std::size_t count = 0;
        for (const auto& [first, members] : clusters) {
            if (++count % 64 == 0) run_.poll();
            if (members.size() > 1 || !cutAcross(members.front())) cutTogether(members);
        }
        out_.newPoints.reserve(points_.new_.size());
        for (const ExactPlace& p : points_.new_) out_.newPoints.push_back({CGAL::to_double(p.x()), CGAL::to_double(p.y()), CGAL::to_double(p.z())});
    }

    /// The edge of a triangle (to the next corner) that a new point is known to lie on inside; 3 where none is.
    std::size_t edgeUnder(Index p, const Corners& c) const {
        const auto found = edgesOf_.find(p);
        for (std::size_t k = 0; found != edgesOf_.end() && k < 3; ++k) {
            const std::pair<Index, Index> edge = std::minmax(c[k], c[(k + 1) % 3]);
            if (std::find(found->second.begin(), found->second.end(), edge) != found->second.end()) return k;
        }
        return 3;
    }
    /// Most triangles are cut once, from edge to edge or to a corner: their pieces are known without a plan. False where it is not so.
    bool cutAcross(Index t) {
        const auto found = constraints_.find(t);
        if (found == constraints_.end() || found->second.size() != 1) return false;
        auto [p, q] = found->second.front();
        if (p == q) return false;
        const Corners c = cornersOf(t);
        std::size_t onP = edgeUnder(p, c), onQ = edgeUnder(q, c);
        if (onP == 3) std::swap(p, q), std::swap(onP, onQ);
        if (onP == 3) return false;
        const Index a = c[onP], b = c[(onP + 1) % 3], far = c[(onP + 2) % 3];
        if (q == far) {
            addKnown(t, c, {a, p, far}), addKnown(t, c, {p, b, far});
        } else if (onQ == (onP + 1) % 3) {  // around b
            addKnown(t, c, {p, b, q}), addFour(t, c, {a, p, q, far});
        } else if (onQ == (onP + 2) % 3) {  // around a
            addKnown(t, c, {q, a, p}), addFour(t, c, {p, b, far, q});
        } else {
            return false;
        }
        return true;
    }
    /// A piece of four corners as two, along the diagonal that leaves neither of them thin.
    void addFour(Index t, const Corners& c, const std::array<Index, 4>& ids) {
        const auto area = [&](std::size_t i, std::size_t j, std::size_t k) {
            return length(cross(roundedPlace(ids[j]) - roundedPlace(ids[i]), roundedPlace(ids[k]) - roundedPlace(ids[i])));
        };
        const bool first = std::min(area(0, 1, 2), area(0, 2, 3)) >= std::min(area(0, 1, 3), area(1, 2, 3));
        if (first) addKnown(t, c, {ids[0], ids[1], ids[2]}), addKnown(t, c, {ids[0], ids[2], ids[3]});
        else addKnown(t, c, {ids[0], ids[1], ids[3]}), addKnown(t, c, {ids[1], ids[2], ids[3]});
    }
    void addKnown(Index t, const Corners& c, const Corners& ids) {
        Facet facet{ids, t, {}};
        for (std::size_t k = 0; k < 3; ++k) facet.weights[k] = weightsIn(c, ids[k]);
        out_.facets.push_back(facet);
    }

    Exact::Point_2 flattened(const ExactPlace& p, int drop) const {
        const auto component = [&](int c) { return c == 0 ? p.x() : c == 1 ? p.y() : p.z(); };
        return {component((drop + 1) % 3), component((drop + 2) % 3)};
    }

    /// Triangles in one plane: all their borders and cuts in one triangulation.
    void cutTogether(const std::vector<Index>& members) {
        const Corners first = cornersOf(members.front());
        const int drop = dropped(first);
        Plan plan;
        std::unordered_map<Index, Plan::Vertex_handle> vertexOf;
        const auto vertex = [&](Index p) {
            const auto [it, isNew] = vertexOf.try_emplace(p);
            if (isNew) {
                const std::size_t before = plan.number_of_vertices();
                it->second = plan.insert(flattened(points_.exact(p, *this), drop));
                if (plan.number_of_vertices() > before) it->second->info() = p;
            }
            return it->second;
        };
        const auto line = [&](Index p, Index q) {
            const auto a = vertex(p), b = vertex(q);
            if (a != b) plan.insert_constraint(a, b);
        };
        std::vector<Corners> corners;
        for (Index t : members) {
            corners.push_back(cornersOf(t));
            for (Index p : corners.back()) vertex(p);
        }
        // Borders of a lone triangle need no constraint: they are the hull.
        if (members.size() > 1)
            for (const Corners& c : corners)
                for (std::size_t k = 0; k < 3; ++k) line(c[k], c[(k + 1) % 3]);
        for (Index t : members)
            if (const auto found = constraints_.find(t); found != constraints_.end())
                for (const auto& [p, q] : found->second) line(p, q);
        const Exact::Plane_3 plane(points_.exact(first[0], *this), points_.exact(first[1], *this), points_.exact(first[2], *this));
        for (auto v = plan.finite_vertices_begin(); v != plan.finite_vertices_end(); ++v)
            if (isFresh(v, vertexOf)) v->info() = lifted(v->point(), plane, drop);
        std::size_t count = 0;
        for (auto f = plan.finite_faces_begin(); f != plan.finite_faces_end(); ++f) {
            if (++count % 256 == 0) run_.poll();
            const Corners ids{f->vertex(0)->info(), f->vertex(1)->info(), f->vertex(2)->info()};
            for (std::size_t m = 0; m < members.size(); ++m)
                if (members.size() == 1 || covers(corners[m], f, drop)) addFacet(members[m], corners[m], ids, drop);
        }
    }
    /// Where cuts cross, the triangulation has made a vertex of its own.
    static bool isFresh(const Plan::Finite_vertices_iterator& v, const std::unordered_map<Index, Plan::Vertex_handle>& known) {
        const auto it = known.find(v->info());
        return it == known.end() || it->second != Plan::Vertex_handle(v);
    }
    Index lifted(const Exact::Point_2& at, const Exact::Plane_3& plane, int drop) {
        const int u = (drop + 1) % 3, v = (drop + 2) % 3;
        const std::array<Exact::FT, 3> normal{plane.a(), plane.b(), plane.c()};
        std::array<Exact::FT, 3> place;
        place[std::size_t(u)] = at.x(), place[std::size_t(v)] = at.y();
        place[std::size_t(drop)] = -(normal[std::size_t(u)] * at.x() + normal[std::size_t(v)] * at.y() + plane.d()) / normal[std::size_t(drop)];
        return numberOf(ExactPlace(place[0], place[1], place[2]));
    }
    bool covers(const Corners& c, const Plan::Finite_faces_iterator& f, int drop) {
        const Exact::Point_2 middle = CGAL::centroid(f->vertex(0)->point(), f->vertex(1)->point(), f->vertex(2)->point());
        const auto at = [&](std::size_t k) { return flattened(points_.exact(c[k % 3], *this), drop); };
        const auto sense = CGAL::orientation(at(0), at(1), at(2));
        for (std::size_t k = 0; k < 3; ++k)
            if (CGAL::orientation(at(k), at(k + 1), middle) != sense) return false;
        return true;
    }
    Vec3 roundedPlace(Index p) { return rounded(placeOf(p)); }
    void addFacet(Index t, const Corners& c, Corners ids, int drop) {
        // The plan's triangles run anticlockwise in the dropped plane; the source may run the other way.
        const auto at = [&](std::size_t k) { return flattened(points_.exact(c[k], *this), drop); };
        if (CGAL::orientation(at(0), at(1), at(2)) == CGAL::CLOCKWISE) std::swap(ids[1], ids[2]);
        addKnown(t, c, ids);
    }
    /// As exact as doubles are: rounded to a float, a place may lie outside of a thin triangle.
    FinePlace placeOf(Index p) {
        if (p < geometry_.pointCount()) return fine(geometry_.positions()[p]);
        const ExactPlace& e = points_.exact(p, *this);
        return {CGAL::to_double(e.x()), CGAL::to_double(e.y()), CGAL::to_double(e.z())};
    }
    std::array<float, 3> weightsIn(const Corners& c, Index p) {
        for (std::size_t k = 0; k < 3; ++k)
            if (c[k] == p) {
                std::array<float, 3> one{};
                one[k] = 1;
                return one;
            }
        const FinePlace a = placeOf(c[0]), v0 = minus(placeOf(c[1]), a), v1 = minus(placeOf(c[2]), a), v2 = minus(placeOf(p), a);
        const FinePlace n = cross(v0, v1);
        const double whole = dot(n, n);
        if (!(whole > 0)) return {1, 0, 0};
        const double v = std::clamp(dot(cross(v2, v1), n) / whole, 0.0, 1.0), w = std::clamp(dot(cross(v0, v2), n) / whole, 0.0, 1.0 - v);
        return {float(1 - v - w), float(v), float(w)};
    }

    const Geometry& geometry_;
    const Triangles& triangles_;
    const RunContext& run_;
    Arrangement out_;
    const TrianglePairs& pairs_;
    std::vector<Index> cluster_;
    Points points_;
    std::map<PointKey, Index> numbers_;
    std::unordered_map<Index, std::vector<std::pair<Index, Index>>> edgesOf_;  ///< that a new point is known to lie on, by their ends
    std::map<ExactPlace, Index> atPlace_;                                      ///< exact comparison: a place is one point, however it came about
    std::unordered_map<Index, std::vector<std::pair<Index, Index>>> constraints_;
};

}  // namespace

Arrangement arrange(const Geometry& geometry, const Triangles& triangles, const TrianglePairs& pairs, const RunContext& run) {
    return Arranger(geometry, triangles, pairs, run).run();
}

}  // namespace seedloom
