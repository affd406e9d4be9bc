#include "operators/surface/WallFolds.h"

#include "breaking/PieceCrossings.h"
#include "geometry/PartTaker.h"

namespace seedloom {

namespace {

constexpr float kSteep = 0.5f;  ///< change of the offset along an edge, part of its length, from which on faces may fold
constexpr int kRings = 5;       ///< of faces around such places

/// Faces of the wall at points where it may fold.
std::vector<std::uint8_t> doubtfulFaces(const Geometry& solid, std::size_t points) {
    const Topology& t = solid.topology();
    const std::vector<Vec3>& at = solid.positions();
    const auto ofSurface = [&](Index p) { return p < points ? p : p - Index(points); };
    std::vector<std::uint8_t> doubtful(points, 0);
    for (const auto& e : t.edges().edges) {
        const Index a = ofSurface(e.a), b = ofSurface(e.b);
        if (a == b) continue;
        const Vec3 there = at[a] - at[a + points], here = at[b] - at[b + points];
        const float apart = std::min(distance(at[a], at[b]), distance(at[a + points], at[b + points]));
        if (distance(there, here) > kSteep * apart) doubtful[a] = doubtful[b] = 1;
    }
    std::vector<std::uint8_t> faces(solid.faceCount(), 0);
    for (int ring = 0; ring <= kRings; ++ring) {
        for (Index f = 0; f < faces.size(); ++f)
            for (Index p : t.face(f)) faces[f] |= doubtful[ofSurface(p)];
        for (Index f = 0; ring < kRings && f < faces.size(); ++f)
            if (faces[f])
                for (Index p : t.face(f)) doubtful[ofSurface(p)] = 1;
    }
    return faces;
}

}  // namespace

std::vector<std::uint8_t> foldsOf(const Wall& wall, const RunContext& run) {
    const std::size_t points = wall.solid.pointCount() / 2;
    const std::vector<std::uint8_t> doubtful = doubtfulFaces(wall.solid, points);
    std::vector<std::uint8_t> out(points, 0), asked(wall.solid.topology().connection().parts, 1);
    PartTaker taker(wall.solid);
    std::vector<Index> source;
    std::vector<std::int32_t> part;
    for (Index f = 0; f < doubtful.size(); ++f) {
        if (!doubtful[f]) continue;
        taker.addFace(f);
        source.push_back(f);
        part.push_back(std::int32_t(wall.solid.topology().connection().pieceOfPoint[wall.solid.topology().face(f)[0]]));
    }
    for (Index i : crossingFaces(taker.take(), part, asked, run))
        for (Index p : wall.solid.topology().face(source[i])) out[p < points ? p : p - Index(points)] = 1;
    return out;
}

}  // namespace seedloom
