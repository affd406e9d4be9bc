// Method: walk over shared edges; outside by signed volume.
#include "surface/Orient.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

Geometry computeOrient(OperatorCall& call) {
    const Geometry& in = call.in();
    bool oneSided = false;
    std::vector<std::uint8_t> which = facesToTurn(in, call.run(), &oneSided);
    if (oneSided)
        call.tell(NoticeLevel::warning, "orient.one_sided",
                  "A part has only one side, like a band with half a twist: no winding is consistent there. Cut it open first.");
    const Field<float> where = call.each("where", in);
    std::size_t count = 0;
    for (std::size_t f = 0; f < which.size(); ++f) count += which[f] = which[f] && where[f] > 0.5f;
    if (count > 0) call.tell(NoticeLevel::info, "orient.turned", fmt::format("Turned {} of {} faces.", count, which.size()));
    return flipped(in, which);
}

}  // namespace

OperatorSpec orientOperator() {
    OperatorSpec spec;
    spec.id = "orient";
    spec.order = 340;
    spec.label = "Make winding consistent";
    spec.family = Family::surface;
    spec.sentence = "Turns faces over until neighbours agree, and closed parts look outward.";
    spec.help = "Faces are followed across edges that two of them share. Of an open part the side stays that most of its area shows already.";
    spec.takes = Takes::faces;
    spec.synonyms = {"repair", "flip", "normals", "outward", "inside out", "unify", "winding"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {whereSetting(Element::face).helped("Which faces may be turned over (above 0.5); all by default.")};
    spec.compute = computeOrient;
    return spec;
}

}  // namespace seedloom
