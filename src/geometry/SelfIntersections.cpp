// The only file of this layer that includes CGAL: its headers cost a minute to compile.
#include "geometry/SelfIntersections.h"

#include "geometry/Triangulate.h"
#include "geometry/Weld.h"

#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/box_intersection_d.h>
#include <CGAL/intersections.h>

#include <algorithm>
#include <array>

namespace seedloom {

namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Place = Kernel::Point_3;
using Triangle = std::array<Index, 3>;
using Box = CGAL::Box_intersection_d::Box_with_handle_d<double, 3, const Triangle*>;

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
            return CGAL::do_intersect(opposite(a, i), triangle(b)) || CGAL::do_intersect(opposite(b, j), triangle(a));
        }
        return foldedFlat(a, b, inB);
    }

private:
    const Place& at(Index p) const { return places_[p]; }
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
    explicit Sorter(const std::vector<Index>& pieceOfPoint) : piece_(pieceOfPoint) {}

    void add(const Triangle& a, const Triangle& b, Index faceA, Index faceB) {
        const Index pieceA = piece_[a[0]], pieceB = piece_[b[0]];
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
    const std::vector<Index>& piece_;
    std::vector<std::pair<Index, Index>> touching_;
    Crossings out_;
};

/// All triangles with an area: their points as they are known to the surface, and as places, where points on top of each other are one.
struct Soup {
    std::vector<Triangle> points, places;
    std::vector<Index> faceOf;
};

Soup soupOf(const Geometry& geometry, const std::vector<Place>& at) {
    const auto same = nearestEarlier(geometry.positions(), 0);
    const Triangles triangles = triangulate(geometry);
    Soup out;
    out.places.reserve(triangles.count());
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        Triangle own, place;
        bool usable = true;
        for (std::size_t i = 0; i < 3; ++i) {
            own[i] = geometry.topology().cornerPoint()[triangles.corners[t * 3 + i]];
            place[i] = same[own[i]];
            usable &= isFinite(geometry.positions()[own[i]]);
        }
        if (!usable || CGAL::collinear(at[place[0]], at[place[1]], at[place[2]])) continue;
        out.points.push_back(own);
        out.places.push_back(place);
        out.faceOf.push_back(triangles.faceOf[t]);
    }
    return out;
}

}  // namespace

Crossings crossingsOf(const Geometry& geometry, const std::vector<Index>& pieceOfPoint) {
    std::vector<Place> at;
    at.reserve(geometry.pointCount());
    for (Vec3 p : geometry.positions()) at.emplace_back(double(p.x), double(p.y), double(p.z));
    const Soup soup = soupOf(geometry, at);
    std::vector<Box> boxes;
    boxes.reserve(soup.places.size());
    for (const Triangle& t : soup.places) boxes.emplace_back(at[t[0]].bbox() + at[t[1]].bbox() + at[t[2]].bbox(), &t);
    const PairTest meets(at);
    Sorter found(pieceOfPoint);
    CGAL::box_self_intersection_d(boxes.begin(), boxes.end(), [&](const Box& a, const Box& b) {
        if (!meets(*a.handle(), *b.handle())) return;
        const auto i = std::size_t(a.handle() - soup.places.data()), j = std::size_t(b.handle() - soup.places.data());
        found.add(soup.points[i], soup.points[j], soup.faceOf[i], soup.faceOf[j]);
    });
    return found.take();
}

Crossings crossingsOf(const Geometry& geometry) { return crossingsOf(geometry, geometry.topology().connection().pieceOfPoint); }

Crossings crossingsOfAll(const Geometry& geometry) { return crossingsOf(geometry, std::vector<Index>(geometry.pointCount(), 0)); }

}  // namespace seedloom
