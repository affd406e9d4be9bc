// Method: own.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

Geometry computeMovePoints(OperatorCall& call) {
    const Geometry& in = call.in();
    const bool to = call.choice("mode") == "to";
    const Field<Vec3> where = call.each3(to ? "to" : "by", in, Element::point);
    const Field<float> weights = call.weights(in, Element::point);
    std::vector<Vec3> after(in.pointCount());
    std::vector<float> each(in.pointCount());
    forEach(after.size(), call.run(), [&](std::size_t i) {
        each[i] = weights[i];
        after[i] = to ? where[i] : in.positions()[i] + where[i];
    });
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(after), each));
    return out;
}

}  // namespace

OperatorSpec movePointsOperator() {
    OperatorSpec spec;
    spec.id = "move_points";
    spec.order = 570;
    spec.label = "Move points";
    spec.family = Family::deform;
    spec.sentence = "Moves each point by a way, or to a place, that may differ from point to point.";
    spec.help = "By and To take any source with three components, such as normal * 0.1 or an attribute with stored places.";
    spec.synonyms = {"offset", "displace", "place points", "push", "shift"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("mode", "Mode", {"by", "to"}, "by").helped("By a way from where it is, or to a place."),
        vec3Setting("by", "By", Unit::metre, {0, 0.1f, 0}).each().helped("The way along x, y and z.").when("mode", {"by"}),
        vec3Setting("to", "To", Unit::metre, {0, 0, 0}).each().helped("The place to go to.").when("mode", {"to"}),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.compute = computeMovePoints;
    return spec;
}

}  // namespace seedloom
