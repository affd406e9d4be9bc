#include "geometry/PartTaker.h"

#include <utility>

namespace seedloom {

PartTaker::PartTaker(const Geometry& in) : in_(in), number_(in.pointCount()), part_(in.pointCount(), 0) { startPart(); }

void PartTaker::startPart() { ++current_; }

Index PartTaker::number(Index point) {
    if (part_[point] != current_) {
        part_[point] = current_;
        number_[point] = static_cast<Index>(plan_.points.size());
        plan_.points.push_back(point);
    }
    return number_[point];
}

void PartTaker::addFace(Index face) {
    const Topology& t = in_.topology();
    for (Index c = t.faceStart()[face]; c < t.faceStart()[face + 1]; ++c) plan_.addCorner(number(t.cornerPoint()[c]), c);
    plan_.endFace(face);
}

void PartTaker::addCurve(Index curve, std::span<const Index> points) {
    for (Index p : points) plan_.curvePoint.push_back(number(p));
    plan_.endCurve(curve, in_.topology().curveClosed(curve));
}

Geometry PartTaker::take() {
    startPart();
    return takeRows(in_, std::exchange(plan_, RowPlan{}));
}

}  // namespace seedloom
