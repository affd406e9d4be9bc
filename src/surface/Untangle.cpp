#include "surface/Untangle.h"

#include "geometry/SelfIntersections.h"

namespace seedloom {

namespace {

/// Marks all corners of faces with a marked corner.
void grow(const Topology& t, std::vector<std::uint8_t>& points) {
    const std::vector<std::uint8_t> before = points;
    for (Index f = 0; f < t.faceCount(); ++f) {
        const auto face = t.face(f);
        if (std::none_of(face.begin(), face.end(), [&](Index p) { return before[p]; })) continue;
        for (Index p : face) points[p] = 1;
    }
}

}  // namespace

std::vector<Vec3> movedWithoutCrossing(const Geometry& surface, const std::vector<Vec3>& wanted, const RunContext& run) {
    constexpr int kMostRounds = 16, kPartWay = 3;
    Geometry moved = surface;
    std::vector<float> part(surface.pointCount(), 1);
    std::vector<Vec3> at = wanted;
    for (int round = 0; round < kMostRounds; ++round) {
        run.poll();
        moved.setPositions(at);
        const std::vector<Index> crossing = crossingsOfAll(moved, run).faces;
        if (crossing.empty()) return at;
        std::vector<std::uint8_t> back(part.size(), 0);
        for (Index f : crossing)
            for (Index p : surface.topology().face(f)) back[p] = 1;
        for (int ring = 0; ring < round - kPartWay; ++ring) grow(surface.topology(), back);
        for (std::size_t p = 0; p < part.size(); ++p) {
            if (!back[p] || part[p] == 0) continue;
            part[p] = round < kPartWay ? part[p] / 2 : 0;
            at[p] = part[p] == 0 ? surface.positions()[p] : mix(surface.positions()[p], wanted[p], part[p]);
        }
    }
    return surface.positions();
}

}  // namespace seedloom
