#include "operators/Shapes.h"

#include "geometry/Turning.h"

#include <numeric>

namespace seedloom {

Geometry curveThrough(std::vector<Vec3> positions, bool closed) {
    const auto n = static_cast<Index>(positions.size());
    if (n == 0) return {};
    std::vector<Index> order(n);
    std::iota(order.begin(), order.end(), 0u);
    return Geometry(std::move(positions), Topology(n, {0}, {}, {0, n}, std::move(order), {std::uint8_t(closed)}));
}

Geometry faceThrough(std::vector<Vec3> positions) {
    const auto n = static_cast<Index>(positions.size());
    std::vector<Index> order(n);
    std::iota(order.begin(), order.end(), 0u);
    return Geometry(std::move(positions), Topology(n, {0, n}, std::move(order), {0}, {}, {}));
}

std::vector<Vec3> blendPositions(const std::vector<Vec3>& before, std::vector<Vec3> after, const std::vector<float>& weights) {
    for (std::size_t i = 0; i < after.size(); ++i) {
        if (weights[i] == 0) after[i] = before[i];  // Exactly: a masked point must not move by a rounding error.
        else if (weights[i] != 1) after[i] = mix(before[i], after[i], weights[i]);
    }
    return after;
}

Geometry movedParts(const Geometry& geometry, const std::vector<Index>& partOfPoint, const std::vector<Affine>& maps) {
    Geometry out = geometry;
    std::vector<Vec3> positions = geometry.positions();
    for (std::size_t p = 0; p < positions.size(); ++p) positions[p] = maps[partOfPoint[p]].point(positions[p]);
    out.setPositions(std::move(positions));
    const auto turn = [&](Element element, auto&& partOf) {
        for (const char* name : kTurningNames) {
            const auto* values = geometry.values<Vec3>(element, name);
            if (!values) continue;
            std::vector<Vec3> after = *values;
            for (std::size_t i = 0; i < after.size(); ++i) after[i] = turned(maps[partOf(i)], turnsOf(name), after[i]);
            out.setColumn(element, name, Column(std::move(after)));
        }
    };
    const Topology& t = geometry.topology();
    turn(Element::point, [&](std::size_t p) { return partOfPoint[p]; });
    turn(Element::corner, [&](std::size_t c) { return partOfPoint[t.cornerPoint()[c]]; });
    turn(Element::face, [&](std::size_t f) { return partOfPoint[t.face(f)[0]]; });
    turn(Element::curve, [&](std::size_t c) { return partOfPoint[t.curve(c)[0]]; });
    return out;
}

Geometry withCopiesOf(const Geometry& from, Geometry geometry) {
    geometry.setCopies(from.sharedCopies());
    for (const auto& [name, column] : from.table(Element::copy)) geometry.setColumn(Element::copy, name, column);
    return geometry;
}

Geometry withoutCurves(const Geometry& geometry) {
    const Topology& t = geometry.topology();
    if (t.curveCount() == 0) return geometry;
    std::vector<std::uint8_t> keep(geometry.pointCount(), 1);
    for (Index p : t.curvePoint()) keep[p] = 0;
    for (Index p : t.cornerPoint()) keep[p] = 1;
    RowPlan plan;
    std::vector<Index> number(geometry.pointCount());
    for (Index p = 0; p < keep.size(); ++p)
        if (keep[p]) {
            number[p] = static_cast<Index>(plan.points.size());
            plan.points.push_back(p);
        }
    plan.faceStart = t.faceStart();
    for (Index c = 0; c < t.cornerCount(); ++c) plan.addCorner(number[t.cornerPoint()[c]], c);
    plan.faces.resize(t.faceCount());
    std::iota(plan.faces.begin(), plan.faces.end(), 0u);
    return takeRows(geometry, std::move(plan));
}

RowPlan planOfPointsAndCurves(const Geometry& geometry) {
    const Topology& t = geometry.topology();
    RowPlan plan;
    plan.points.resize(geometry.pointCount());
    std::iota(plan.points.begin(), plan.points.end(), 0u);
    plan.curveStart = t.curveStart();
    plan.curvePoint = t.curvePoint();
    plan.curveClosed = t.curveClosed();
    plan.curves.resize(t.curveCount());
    std::iota(plan.curves.begin(), plan.curves.end(), 0u);
    return plan;
}

void addFaceAsItIs(RowPlan& plan, const Geometry& geometry, Index face) {
    const Topology& t = geometry.topology();
    for (Index c = t.faceStart()[face]; c < t.faceStart()[face + 1]; ++c) plan.addCorner(t.cornerPoint()[c], c);
    plan.endFace(face);
}

}  // namespace seedloom
