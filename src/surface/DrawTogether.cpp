#include "surface/DrawTogether.h"

#include "geometry/PartTaker.h"
#include "geometry/Weld.h"
#include "surface/PlaceOrder.h"

#include <map>

namespace seedloom {

namespace {

/// Faces with the same points that look away from each other, those at the places (in order), are gone: between them is nothing.
Geometry withoutFolded(const Geometry& g, const std::vector<Vec3>& places) {
    const Topology& t = g.topology();
    std::vector<std::uint8_t> at(g.pointCount());
    for (Index p = 0; p < at.size(); ++p) at[p] = std::binary_search(places.begin(), places.end(), g.positions()[p], inOrder);
    std::map<std::vector<Index>, std::vector<Index>> open;  // by the ring, from its least point on
    std::vector<std::uint8_t> gone(g.faceCount(), 0);
    const auto fromLeast = [](std::vector<Index> ring) {
        std::rotate(ring.begin(), std::min_element(ring.begin(), ring.end()), ring.end());
        return ring;
    };
    for (Index f = 0; f < g.faceCount(); ++f) {
        const auto face = t.face(f);
        if (std::none_of(face.begin(), face.end(), [&](Index p) { return at[p] != 0; })) continue;
        const auto other = open.find(fromLeast({face.rbegin(), face.rend()}));
        if (other != open.end() && !other->second.empty()) {
            gone[f] = gone[other->second.back()] = 1;
            other->second.pop_back();
        } else {
            open[fromLeast({face.begin(), face.end()})].push_back(f);
        }
    }
    if (std::find(gone.begin(), gone.end(), 1) == gone.end()) return g;
    PartTaker left(g);
    for (Index f = 0; f < g.faceCount(); ++f)
        if (!gone[f]) left.addFace(f);
    return left.take();
}

}  // namespace

std::size_t oddEdges(const Geometry& g) {
    const auto& beside = g.topology().edges().faceCount;
    return std::size_t(std::count_if(beside.begin(), beside.end(), [](auto n) { return n != 2; }));
}

std::optional<Geometry> drawnTogether(const Geometry& g, double distance, const std::vector<std::uint8_t>& joins) {
    const std::vector<Index> first = nearestEarlier(g.positions(), distance, joins);
    std::vector<Vec3> places;
    for (Index p = 0; p < first.size(); ++p)
        if (first[p] != p) places.push_back(g.positions()[first[p]]);
    if (places.empty()) return std::nullopt;
    putInOrder(places);
    return withoutFolded(weld(g, distance, joins).geometry, places);
}

}  // namespace seedloom
