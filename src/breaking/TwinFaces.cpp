#include "breaking/TwinFaces.h"

#include "breaking/RingOrder.h"
#include "geometry/Weld.h"
#include "scatter/Streams.h"

namespace seedloom {

std::vector<std::uint8_t> haveTwins(const Geometry& g) {
    // Points at the same place, bit for bit, have one number.
    const std::vector<Index> place = nearestEarlier(g.positions(), 0);
    std::vector<std::uint64_t> keys;
    for (Index f = 0; f < g.faceCount(); ++f) {
        const auto face = g.topology().face(f);
        const auto n = Index(face.size());
        const RingOrder order = ringOrder(face, [&](Index a, Index b) { return place[a] < place[b]; });
        std::uint64_t key = n;
        for (Index k = 0; k < n; ++k) key = mixThree(key, place[face[order.corner(k, n)]], 0);
        keys.push_back(key);
    }
    std::vector<std::uint64_t> sorted = keys;
    std::sort(sorted.begin(), sorted.end());
    std::vector<std::uint8_t> out;
    for (std::uint64_t key : keys) {
        const auto [from, to] = std::equal_range(sorted.begin(), sorted.end(), key);
        out.push_back(to - from == 2);
    }
    return out;
}

}  // namespace seedloom
