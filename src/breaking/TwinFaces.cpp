#include "breaking/TwinFaces.h"

#include "scatter/Streams.h"

#include <bit>
#include <tuple>

namespace seedloom {

namespace {

/// A number that a face has in common with every other at the same places.
std::vector<std::uint64_t> placeKeys(const Geometry& g) {
    const auto before = [&](Index a, Index b) {
        const Vec3 p = g.positions()[a], q = g.positions()[b];
        return std::tie(p.x, p.y, p.z) < std::tie(q.x, q.y, q.z);
    };
    std::vector<std::uint64_t> out;
    for (Index f = 0; f < g.faceCount(); ++f) {
        const auto face = g.topology().face(f);
        const std::size_t n = face.size();
        const auto first = std::size_t(std::min_element(face.begin(), face.end(), before) - face.begin());
        const bool turned = before(face[(first + n - 1) % n], face[(first + 1) % n]);
        std::uint64_t key = n;
        for (std::size_t k = 0; k < n; ++k) {
            const Vec3 p = g.positions()[face[(turned ? first + n - k : first + k) % n]];
            for (float v : {p.x, p.y, p.z}) key = mixBits(key ^ (std::bit_cast<std::uint32_t>(v + 0.0f) + 0x9E3779B97F4A7C15ull));
        }
        out.push_back(key);
    }
    return out;
}

}  // namespace

std::vector<std::uint8_t> haveTwins(const Geometry& g) {
    const std::vector<std::uint64_t> keys = placeKeys(g);
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
