#include "surface/PointsApart.h"

#include "geometry/Fans.h"
#include "geometry/Rows.h"

#include <limits>
#include <optional>

namespace seedloom {

namespace {

constexpr float kOfEdges = 0.25f, kFlat = 0.05f;

/// Where the tip of one fan goes; nothing where it has no way.
std::optional<Vec3> drawnBack(const Geometry& g, Index point, const std::vector<Index>& corners, float distance) {
    const Topology& t = g.topology();
    const Vec3 tip = g.positions()[point];
    Vec3 inwards{};
    float shortest = std::numeric_limits<float>::infinity();
    for (Index c : corners) {
        const Index face = t.faceOfCorner()[c], begin = t.faceStart()[face], end = t.faceStart()[face + 1];
        const Vec3 along = g.positions()[t.cornerPoint()[c + 1 == end ? begin : c + 1]] - tip;
        shortest = std::min(shortest, length(along));
        inwards += normalized(along, {}) / float(corners.size());
    }
    if (shortest * kOfEdges < distance || length(inwards) < kFlat) return std::nullopt;
    return tip + normalized(inwards) * distance;
}

}  // namespace

Geometry pointsApart(const Geometry& solid, double distance, std::vector<Vec3>& made) {
    const Topology& t = solid.topology();
    RowPlan plan;
    plan.faceStart = t.faceStart(), plan.cornerPoint = t.cornerPoint();
    for (Index p = 0; p < solid.pointCount(); ++p) plan.points.push_back(p);
    for (Index c = 0; c < t.cornerCount(); ++c) plan.corners.push_back(c);
    for (Index f = 0; f < t.faceCount(); ++f) plan.faces.push_back(f);
    std::vector<Vec3> places = solid.positions();
    Fans fans(t);
    for (Index p = 0; p < solid.pointCount(); ++p) {
        const std::size_t count = fans.at(p);
        if (count < 2) continue;
        std::vector<std::vector<Index>> fan(count);
        const std::vector<Index> fanOf = fans.ofCorners();
        for (std::size_t i = 0; i < fanOf.size(); ++i) fan[fanOf[i]].push_back(t.cornersOfPoint()[p][i]);
        std::size_t left = count;  // that still have the point itself
        for (const auto& corners : fan) {
            const auto place = drawnBack(solid, p, corners, float(distance));
            if (!place) continue;
            made.push_back(*place);
            if (left == 1) {
                places[p] = *place;
                continue;
            }
            --left;
            for (Index c : corners) plan.cornerPoint[c] = Index(places.size());
            plan.points.push_back(p);
            places.push_back(*place);
        }
    }
    if (places.size() == solid.pointCount()) return solid;
    Geometry out = takeRows(solid, std::move(plan));
    out.setPositions(std::move(places));
    return out;
}

}  // namespace seedloom
