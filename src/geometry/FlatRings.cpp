#include "geometry/FlatRings.h"

#include "geometry/Measures.h"

#include <algorithm>
#include <numeric>

namespace seedloom {

namespace {

std::vector<std::vector<FlatPoint>> flattened(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal) {
    const Vec3 u = anyPerpendicular(normal), v = cross(normal, u);
    std::vector<std::vector<FlatPoint>> out;
    for (const auto& ring : rings) {
        auto& flat = out.emplace_back();
        for (Index p : ring) flat.push_back({double(dot(positions[p], u)), double(dot(positions[p], v))});
    }
    return out;
}

double areaOf(const std::vector<FlatPoint>& ring) {
    double sum = 0;
    for (std::size_t i = 0; i < ring.size(); ++i) {
        const FlatPoint a = ring[i], b = ring[i + 1 == ring.size() ? 0 : i + 1];
        sum += a.x * b.y - b.x * a.y;
    }
    return sum / 2;
}

std::vector<Box> boundsOfRings(const std::vector<std::vector<FlatPoint>>& rings) {
    std::vector<Box> out;
    for (const auto& ring : rings) {
        const auto at = [](FlatPoint p) { return Vec3{float(p.x), float(p.y), 0}; };
        Box box{at(ring.front()), at(ring.front())};
        for (FlatPoint p : ring) box.add({at(p), at(p)});
        out.push_back(box);
    }
    return out;
}

std::vector<Index> allOf(std::size_t count) {
    std::vector<Index> out(count);
    std::iota(out.begin(), out.end(), Index{0});
    return out;
}

}  // namespace

FlatRings::FlatRings(const std::vector<Vec3>& positions, const std::vector<std::vector<Index>>& rings, Vec3 normal)
    : rings_(flattened(positions, rings, normal)), boxes_(boundsOfRings(rings_)), tree_(boxes_, allOf(rings.size())) {
    for (const auto& ring : rings_) area_.push_back(areaOf(ring));
}

std::vector<std::size_t> FlatRings::around(std::size_t r) const {
    const FlatPoint first = rings_[r].front();
    const Vec3 at{float(first.x), float(first.y), 0};
    std::vector<std::size_t> out;
    tree_.meeting({at, at}, [&](Index other) {
        if (other != r && holds(other, first)) out.push_back(other);
    });
    std::sort(out.begin(), out.end());
    return out;
}

bool FlatRings::holds(std::size_t r, FlatPoint p) const {
    const auto& ring = rings_[r];
    bool inside = false;
    for (std::size_t i = 0, j = ring.size() - 1; i < ring.size(); j = i++) {
        const FlatPoint a = ring[i], b = ring[j];
        if ((a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x) inside = !inside;
    }
    return inside;
}

}  // namespace seedloom
