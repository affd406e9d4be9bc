// Method: own: points by a grid of the distance, the first stays.
#include "geometry/Weld.h"

#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry computeWeld(OperatorCall& call) {
    const Geometry& in = call.in();
    const double distance = call.number("distance");
    const Field<float> where = call.each("where", in);
    std::vector<std::uint8_t> joins;
    if (!where.uniform || where.value <= 0.5f) {
        joins.resize(in.pointCount());
        for (std::size_t p = 0; p < joins.size(); ++p) joins[p] = where[p] > 0.5f;
    }
    WeldResult result = weld(in, distance, joins);
    if (result.joinedPoints > 0)
        call.tell(NoticeLevel::info, "weld.joined", fmt::format("Joined {} points and removed {} collapsed faces.", result.joinedPoints, result.removedFaces));
    return std::move(result.geometry);
}

}  // namespace

OperatorSpec weldOperator() {
    OperatorSpec spec;
    spec.id = "weld";
    spec.order = 320;
    spec.label = "Weld";
    spec.family = Family::surface;
    spec.sentence = "Joins points that lie on top of each other, and removes faces that collapse by it.";
    spec.help = "Of points within the distance the first stays where it is. Corners keep their own attributes, so texture seams stay.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"fuse", "close gaps", "remove doubles", "stitch", "join points", "merge points", "seam"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        numberSetting("distance", "Distance", Unit::metre, 0.0001).within(0, 1e6).slider(0, 0.05).helped("Points at most this far apart are joined."),
        whereSetting(Element::point).helped("Which points may be joined (above 0.5); all by default."),
    };
    spec.compute = computeWeld;
    return spec;
}

}  // namespace seedloom
