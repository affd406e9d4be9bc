// Method: own: turn linear along the axis (after Barr, SIGGRAPH 1984).
#include "operators/OperatorCall.h"
#include "operators/deform/AlongAxis.h"

namespace seedloom {

namespace {

Geometry computeTwist(OperatorCall& call) {
    const Geometry& in = call.in();
    const AxisStretch stretch = axisStretch(call, in);
    const double angle = radians(call.number("angle"));
    if (angle == 0) return in;
    Vec3 axis{};
    axis[stretch.axis] = 1;
    const Vec3 centre = call.choice("about") == "middle" ? stretch.centre : Vec3{};
    const auto turnAt = [=](Vec3 p, Vec3 v) { return rotateAbout(v, axis, float(angle * stretch.partOf(p))); };
    return deformed(
        call, in, [=](Vec3 p) { return centre + turnAt(p, p - centre); }, turnAt);
}

}  // namespace

OperatorSpec twistOperator() {
    OperatorSpec spec;
    spec.id = "twist";
    spec.order = 550;
    spec.label = "Twist";
    spec.family = Family::deform;
    spec.sentence = "Turns the geometry about an axis, farther and farther along it.";
    spec.help =
        "At the start nothing is turned, at the end by the whole angle; beyond the end everything is turned as far as there. Distances from the axis stay.";
    spec.synonyms = {"wring", "screw", "spiral", "corkscrew", "rope"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = axisSettings("The axis to turn about.");
    spec.settings.insert(
        spec.settings.begin() + 1,
        numberSetting("angle", "Angle", Unit::degree, 90).within(-360000, 360000).slider(-720, 720).helped("How far the end is turned against the start."));
    spec.settings.push_back(choiceSetting("about", "About", {"middle", "origin"}, "middle")
                                .helped("Where the axis runs: through the middle of the bounds, or through the origin."));
    spec.settings.push_back(whereSetting(Element::point));
    spec.settings.push_back(blendSetting(Element::point));
    spec.sample = sample::step(spec.id, {{"angle", 120}}, {sample::column()});
    spec.compute = computeTwist;
    return spec;
}

}  // namespace seedloom
