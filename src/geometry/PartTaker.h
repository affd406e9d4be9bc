#pragma once
// Parts of a geometry as geometries of their own.
#include "geometry/Rows.h"

#include <span>

namespace seedloom {

/// Takes parts of a geometry, each point once: where it was used by a part that is taken.
class PartTaker {
public:
    explicit PartTaker(const Geometry& in);
    void addFace(Index face);
    /// `points` are those of the curve that stay, in order.
    void addCurve(Index curve, std::span<const Index> points);
    void addPoint(Index point) { number(point); }
    /// From here on points are made anew, also where a part before used them.
    void startPart();
    /// What was added since the last time; what comes next is another part. Cost: O(its elements), whatever the whole has.
    Geometry take();
    std::size_t faceCount() const { return plan_.faces.size(); }
    std::size_t pointCount() const { return plan_.points.size(); }

private:
    Index number(Index point);
    const Geometry& in_;
    std::vector<Index> number_, part_;
    Index current_ = 0;
    RowPlan plan_;
};

}  // namespace seedloom
