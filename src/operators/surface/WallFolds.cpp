#include "operators/surface/WallFolds.h"

#include "breaking/PieceCrossings.h"
#include "geometry/PartTaker.h"

namespace seedloom {

namespace {

constexpr float kSteep = 0.5f;  ///< change of the offset along an edge, part of its length, from which on faces may fold
constexpr int kRings = 5;       ///< of faces around such places

/// Points at edges along which the offset changes much, and those around; nothing where there are none.
std::vector<std::uint8_t> doubtfulPoints(const Geometry& surface, const std::vector<Vec3>& wall) {
    const Topology& t = surface.topology();
    const std::size_t points = surface.pointCount();
    std::vector<std::uint8_t> out(points, 0);
    bool any = false;
    for (const auto& e : t.edges().edges) {
        const Vec3 there = wall[e.a] - wall[e.a + points], here = wall[e.b] - wall[e.b + points];
        const float apart = std::min(distance(wall[e.a], wall[e.b]), distance(wall[e.a + points], wall[e.b + points]));
        if (distance(there, here) > kSteep * apart) out[e.a] = out[e.b] = 1, any = true;
    }
    if (!any) return {};
    for (int ring = 0; ring < kRings; ++ring) {
        const std::vector<std::uint8_t> before = out;
        for (const auto& e : t.edges().edges)
            if (before[e.a] || before[e.b]) out[e.a] = out[e.b] = 1;
    }
    return out;
}

}  // namespace

std::vector<std::uint8_t> foldsOf(const Geometry& surface, const Geometry& wall, const RunContext& run) {
    const std::size_t points = surface.pointCount();
    const auto ofSurface = [&](Index p) { return p < points ? p : p - Index(points); };
    std::vector<std::uint8_t> out(points, 0);
    const std::vector<std::uint8_t> doubtful = doubtfulPoints(surface, wall.positions());
    if (doubtful.empty()) return out;
    const Topology& t = wall.topology();
    const Connection& parts = surface.topology().connection();
    PartTaker taker(wall);
    std::vector<Index> source;
    std::vector<std::int32_t> part;
    for (Index f = 0; f < t.faceCount(); ++f) {
        const auto face = t.face(f);
        if (std::none_of(face.begin(), face.end(), [&](Index p) { return doubtful[ofSurface(p)]; })) continue;
        taker.addFace(f);
        source.push_back(f);
        part.push_back(std::int32_t(parts.pieceOfPoint[ofSurface(face[0])]));
    }
    for (Index i : crossingFaces(taker.take(), part, std::vector<std::uint8_t>(parts.parts, 1), run))
        for (Index p : t.face(source[i])) out[ofSurface(p)] = 1;
    return out;
}

}  // namespace seedloom
