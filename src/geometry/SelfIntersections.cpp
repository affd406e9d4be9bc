// The only file of this layer that includes CGAL: its headers cost a minute to compile.
#include "geometry/SelfIntersections.h"

#include "geometry/Weld.h"
#include "parallel/Loops.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/intersections.h>

#include <algorithm>
#include <array>

namespace seedloom {

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Place = Kernel::Point_3;
using Triangle = std::array<Index, 3>;
constexpr std::size_t kBranchesAtOnce = 16;

class PairTest {
public:
    explicit PairTest(const std::vector<Place>& places) : places_(places) {}

    /// Whether two triangles meet elsewhere than in the points and edges they share.
    bool operator()(const Triangle& a, const Triangle& b) const {
        std::array<int, 3> inB{};
        int shared = 0;
        for (int i = 0; i < 3; ++i) {
            inB[std::size_t(i)] = int(std::find(b.begin(), b.end(), a[std::size_t(i)]) - b.begin());
            shared += inB[std::size_t(i)] < 3;
        }
        if (shared == 3) return true;
        if (shared == 0) return CGAL::do_intersect(triangle(a), triangle(b));
        if (shared == 1) {
            const auto i = std::size_t(std::find_if(inB.begin(), inB.end(), [](int k) { return k < 3; }) - inB.begin());
            const auto j = std::size_t(inB[i]);
            const int one = side(b, a[(i + 1) % 3]), other = side(b, a[(i + 2) % 3]);
            if (one * other > 0) return false;  // it only comes down to the common point
            return CGAL::do_intersect(opposite(a, i), triangle(b)) || CGAL::do_intersect(opposite(b, j), triangle(a));
        }
        return foldedFlat(a, b, inB);
    }

private:
    const Place& at(Index p) const { return places_[p]; }
    int side(const Triangle& plane, Index p) const { return int(CGAL::orientation(at(plane[0]), at(plane[1]), at(plane[2]), at(p))); }
    Kernel::Triangle_3 triangle(const Triangle& t) const { return {at(t[0]), at(t[1]), at(t[2])}; }
    Kernel::Segment_3 opposite(const Triangle& t, std::size_t i) const { return {at(t[(i + 1) % 3]), at(t[(i + 2) % 3])}; }
    /// Two triangles over one edge overlap only where both lie in one plane, on the same side of the edge.
    bool foldedFlat(const Triangle& a, const Triangle& b, const std::array<int, 3>& inB) const {
        const auto own = std::size_t(std::find(inB.begin(), inB.end(), 3) - inB.begin());
        const Place &apex = at(a[own]), &from = at(a[(own + 1) % 3]), &to = at(a[(own + 2) % 3]);
        const Index other = *std::find_if(b.begin(), b.end(), [&](Index p) { return std::find(a.begin(), a.end(), p) == a.end(); });
        if (CGAL::orientation(from, to, apex, at(other)) != CGAL::COPLANAR) return false;
        return CGAL::coplanar_orientation(from, to, apex, at(other)) == CGAL::POSITIVE;
    }
    const std::vector<Place>& places_;
};

/// What crosses, sorted into the two kinds.
class Sorter {
public:
    void add(Index pieceA, Index pieceB, Index faceA, Index faceB) {
        auto& faces = pieceA == pieceB ? out_.faces : out_.touchingFaces;
        faces.push_back(faceA), faces.push_back(faceB);
        if (pieceA == pieceB) ++out_.pairs;
        else touching_.push_back(std::minmax(pieceA, pieceB));
    }
    Crossings take() {
        inOrder(out_.faces), inOrder(out_.touchingFaces), inOrder(touching_);
        out_.touching = touching_.size();
        return std::move(out_);
    }

private:
    template <class T> static void inOrder(std::vector<T>& list) {
        std::sort(list.begin(), list.end());
        list.erase(std::unique(list.begin(), list.end()), list.end());
    }
    std::vector<std::pair<Index, Index>> touching_;
    Crossings out_;
};

TrianglePairs inOneOrder(const std::vector<TrianglePairs>& lists) {
    TrianglePairs out;
    for (const auto& list : lists) out.insert(out.end(), list.begin(), list.end());
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace

TrianglePairs crossingTriangles(const Geometry& geometry, const Triangles& triangles, const BoxTree& tree, const std::function<bool(Index, Index)>& asked,
                                const RunContext& run, TrianglePairs* others) {
    const auto& positions = geometry.positions();
    std::vector<Place> at;
    at.reserve(positions.size());
    for (Vec3 p : positions) at.emplace_back(double(p.x), double(p.y), double(p.z));
    const std::vector<Index> same = nearestEarlier(positions, 0);
    run.poll();
    std::vector<Triangle> places(triangles.count());
    std::vector<std::uint8_t> usable(places.size());
    forEach(places.size(), run, [&](std::size_t t) {
        bool finite = true;
        for (std::size_t i = 0; i < 3; ++i) {
            const Index p = places[t][i] = same[geometry.topology().cornerPoint()[triangles.corners[t * 3 + i]]];
            finite &= isFinite(positions[p]);
        }
        usable[t] = finite && !CGAL::collinear(at[places[t][0]], at[places[t][1]], at[places[t][2]]);
    });
    const PairTest meets(at);
    const std::vector<BoxTree::Branches> branches = tree.branches();
    std::vector<TrianglePairs> met(branches.size()), left(branches.size());
    forEach(
        branches.size(), run,
        [&](std::size_t b) {
            tree.pairsIn(branches[b], [&](Index i, Index j) {
                if (!usable[i] || !usable[j]) return;
                if (asked && !asked(i, j)) {
                    if (others) left[b].push_back(std::minmax(i, j));
                } else if (meets(places[i], places[j])) {
                    met[b].push_back(std::minmax(i, j));
                }
            });
        },
        kBranchesAtOnce);
    if (others) *others = inOneOrder(left);
    return inOneOrder(met);
}

Crossings crossingsOf(const Geometry& geometry, const std::vector<Index>& pieceOfPoint, const RunContext& run) {
    const Triangles triangles = triangulate(geometry);
    const auto piece = [&](Index t) { return pieceOfPoint[geometry.topology().cornerPoint()[triangles.corners[3 * t]]]; };
    const BoxTree tree(boxesOf(geometry, triangles));
    Sorter found;
    for (const auto& [t, u] : crossingTriangles(geometry, triangles, tree, {}, run)) found.add(piece(t), piece(u), triangles.faceOf[t], triangles.faceOf[u]);
    return found.take();
}

Crossings crossingsOf(const Geometry& geometry, const RunContext& run) { return crossingsOf(geometry, geometry.topology().connection().pieceOfPoint, run); }

namespace {

TrianglePairs pairsWithinPieces(const Geometry& geometry, const Triangles& triangles, const RunContext& run) {
    const std::vector<Index>& pieceOfPoint = geometry.topology().connection().pieceOfPoint;
    const auto piece = [&](Index t) { return pieceOfPoint[geometry.topology().cornerPoint()[triangles.corners[3 * t]]]; };
    return crossingTriangles(
        geometry, triangles, BoxTree(boxesOf(geometry, triangles)), [&](Index t, Index u) { return piece(t) == piece(u); }, run);
}

}  // namespace

std::size_t crossingsWithinPieces(const Geometry& geometry, const RunContext& run) { return pairsWithinPieces(geometry, triangulate(geometry), run).size(); }

std::vector<Index> facesCrossingWithinPieces(const Geometry& geometry, const RunContext& run) {
    const Triangles triangles = triangulate(geometry);
    std::vector<Index> out;
    for (const auto& [t, u] : pairsWithinPieces(geometry, triangles, run)) out.push_back(triangles.faceOf[t]), out.push_back(triangles.faceOf[u]);
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

Crossings crossingsOfAll(const Geometry& geometry, const RunContext& run) { return crossingsOf(geometry, std::vector<Index>(geometry.pointCount(), 0), run); }

}  // namespace seedloom
