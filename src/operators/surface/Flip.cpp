// Method: own.
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

Geometry computeFlip(OperatorCall& call) {
    const Geometry& in = call.in();
    const Field<float> where = call.each("where", in);
    std::vector<std::uint8_t> which(in.faceCount());
    for (std::size_t f = 0; f < which.size(); ++f) which[f] = where[f] > 0.5f;
    return flipped(in, which);
}

}  // namespace

OperatorSpec flipOperator() {
    OperatorSpec spec;
    spec.id = "flip";
    spec.order = 330;
    spec.label = "Flip faces";
    spec.family = Family::surface;
    spec.sentence = "Turns faces over, so that their front becomes their back.";
    spec.help = "Corners run the other way round; stored normals of turned faces are negated.";
    spec.takes = Takes::faces;
    spec.synonyms = {"reverse", "turn over", "inside out", "invert normals", "winding"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {whereSetting(Element::face).helped("Which faces to turn over (above 0.5); all by default.")};
    spec.compute = computeFlip;
    return spec;
}

}  // namespace seedloom
