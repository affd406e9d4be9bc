// Method: own: elements by a mask to two outputs.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computeSplit(OperatorCall& call) {
    const Geometry& in = call.in();
    const Topology& t = in.topology();
    const Field<float> onFaces = call.each("where", in, Element::face), onCurves = call.each("where", in, Element::curve),
                       onPoints = call.each("where", in, Element::point);
    PartTaker chosen(in), rest(in);
    const auto part = [&](float weight) -> PartTaker& { return weight > 0.5f ? chosen : rest; };
    std::vector<std::uint8_t> used(in.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index f = 0; f < in.faceCount(); ++f) part(onFaces[f]).addFace(f);
    for (Index c = 0; c < in.curveCount(); ++c) {
        for (Index p : t.curve(c)) used[p] = 1;
        part(onCurves[c]).addCurve(c, t.curve(c));
    }
    for (Index p = 0; p < in.pointCount(); ++p)
        if (!used[p]) part(onPoints[p]).addPoint(p);
    Geometry others = rest.take();
    // Copies are no elements of their own here: they stay with what was chosen.
    others.setCopies(nullptr);
    Geometry out = chosen.take();
    if (out.empty() && !in.empty()) call.tell(NoticeLevel::info, "split.nothing", "Where chose nothing, so everything goes out of the lower output.", "where");
    call.give(1, std::move(others));
    return out;
}

}  // namespace

OperatorSpec splitOperator() {
    OperatorSpec spec;
    spec.id = "split";
    spec.order = 880;
    spec.label = "Split";
    spec.family = Family::flow;
    spec.sentence = "Parts a geometry in two: what a mask chooses, and the rest.";
    spec.help =
        "Faces, curves and loose points for which Where is over a half go out of the upper output, all others out of the lower one. Points that "
        "both sides use are doubled; merge and weld join the sides again.";
    spec.synonyms = {"separate", "divide", "part", "filter", "two outputs", "take apart", "select faces"};
    spec.inputs = {{"in", "Geometry"}};
    spec.outputs = {{"out", "Chosen"}, {"rest", "Rest"}};
    spec.settings = {whereSetting(Element::face)};
    spec.compute = computeSplit;
    return spec;
}

}  // namespace seedloom
