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

}  // namespace

std::size_t selfIntersections(const Geometry& geometry, std::vector<Index>* faces) {
    const auto& positions = geometry.positions();
    std::vector<Place> places;
    places.reserve(positions.size());
    for (Vec3 p : positions) places.emplace_back(double(p.x), double(p.y), double(p.z));
    const auto same = nearestEarlier(positions, 0);
    const Triangles triangles = triangulate(geometry);
    std::vector<Triangle> soup;
    std::vector<Index> faceOf;
    soup.reserve(triangles.count());
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        Triangle triangle;
        bool usable = true;
        for (std::size_t i = 0; i < 3; ++i) {
            const Index p = geometry.topology().cornerPoint()[triangles.corners[t * 3 + i]];
            triangle[i] = same[p];
            usable &= isFinite(positions[p]);
        }
        if (usable && !CGAL::collinear(places[triangle[0]], places[triangle[1]], places[triangle[2]])) {
            soup.push_back(triangle);
            faceOf.push_back(triangles.faceOf[t]);
        }
    }
    std::vector<Box> boxes;
    boxes.reserve(soup.size());
    for (const Triangle& t : soup) boxes.emplace_back(places[t[0]].bbox() + places[t[1]].bbox() + places[t[2]].bbox(), &t);
    std::size_t count = 0;
    const PairTest meets(places);
    CGAL::box_self_intersection_d(boxes.begin(), boxes.end(), [&](const Box& a, const Box& b) {
        if (!meets(*a.handle(), *b.handle())) return;
        ++count;
        if (faces)
            for (const Triangle* t : {a.handle(), b.handle()}) faces->push_back(faceOf[std::size_t(t - soup.data())]);
    });
    if (faces) {
        std::sort(faces->begin(), faces->end());
        faces->erase(std::unique(faces->begin(), faces->end()), faces->end());
    }
    return count;
}

}  // namespace seedloom
