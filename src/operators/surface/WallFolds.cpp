#include "operators/surface/WallFolds.h"

#include "geometry/Checkup.h"
#include "geometry/SelfIntersections.h"

namespace seedloom {

namespace {

/// Whether a face looks the other way in the wall, or all its edges run backwards: it went through what lies opposite, on one side or on two at once.
bool turned(std::span<const Index> face, const std::vector<Vec3>& surface, std::span<const Vec3> wall) {
    bool backwards = true;
    Vec3 before{}, after{};
    for (std::size_t k = 0; k < face.size(); ++k) {
        const Index a = face[k], b = face[(k + 1) % face.size()];
        backwards &= !(dot(surface[b] - surface[a], wall[b] - wall[a]) > 0);
        before += cross(surface[a] - surface[face[0]], surface[b] - surface[face[0]]);
        after += cross(wall[a] - wall[face[0]], wall[b] - wall[face[0]]);
    }
    return backwards || !(dot(before, after) > 0);
}

}  // namespace

std::vector<std::uint8_t> foldsOf(const Geometry& surface, const Geometry& wall, const RunContext& run) {
    const std::size_t points = surface.pointCount();
    const std::vector<Index>& piece = surface.topology().connection().pieceOfPoint;
    std::vector<Index> pieceOfWall(wall.pointCount());
    for (std::size_t p = 0; p < pieceOfWall.size(); ++p) pieceOfWall[p] = piece[p % points];
    std::vector<std::uint8_t> out(points, 0);
    const std::span<const Vec3> front(wall.positions().data(), points), back(wall.positions().data() + points, points);
    for (Index f = 0; f < surface.faceCount(); ++f) {
        const auto face = surface.topology().face(f);
        if (!turned(face, surface.positions(), front) && !turned(face, surface.positions(), back)) continue;
        for (Index p : face) out[p] = 1;
    }
    const auto mark = [&](Index f) {
        for (Index p : wall.topology().face(f)) out[p % points] = 1;
    };
    for (Index f : crossingsOf(wall, pieceOfWall, run).faces) mark(f);
    for (Index f = 0; f < wall.faceCount(); ++f)
        if (hasNoArea(wall.topology().face(f), wall.positions())) mark(f);
    return out;
}

}  // namespace seedloom
