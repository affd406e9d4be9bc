// Method: own: the axis onto a circle of the same length (after Barr, SIGGRAPH 1984).
#include "operators/OperatorCall.h"
#include "operators/deform/AlongAxis.h"

namespace seedloom {

namespace {

Vec3 unitAxis(int axis) {
    Vec3 out{};
    out[axis] = 1;
    return out;
}

Geometry computeBend(OperatorCall& call) {
    const Geometry& in = call.in();
    const AxisStretch stretch = axisStretch(call, in);
    const double angle = radians(call.number("angle")), length = stretch.length();
    if (angle == 0 || !(length > 0)) return in;
    const Vec3 along = unitAxis(stretch.axis);
    // Towards the next axis (y for x, z for y, x for z), turned about the axis by `direction`.
    const Vec3 towards = rotateAbout(unitAxis((stretch.axis + 1) % 3), along, float(radians(call.number("direction")))), about = cross(along, towards);
    const double curve = angle / length;
    const double middleT = double(dot(stretch.centre, towards));
    const auto to = [=](Vec3 p) {
        const double t = double(p[stretch.axis]), s = std::clamp(t - stretch.low, 0.0, length), beyond = t - stretch.low - s;
        const double side = double(dot(p, towards)) - middleT, turn = curve * s;
        // On a circle about a centre 1 / curve away; what lies beyond the stretch goes on straight.
        const double reach = (1 / curve - side) * std::sin(turn) + beyond * std::cos(turn);
        const double off = 1 / curve - (1 / curve - side) * std::cos(turn) + beyond * std::sin(turn);
        return along * float(stretch.low + reach) + towards * float(middleT + off) + about * dot(p, about);
    };
    const auto turn = [=](Vec3 p, Vec3 v) { return rotateAbout(v, about, float(curve * std::clamp(double(p[stretch.axis]) - stretch.low, 0.0, length))); };
    return deformed(call, in, to, turn);
}

}  // namespace

OperatorSpec bendOperator() {
    OperatorSpec spec;
    spec.id = "bend";
    spec.order = 530;
    spec.label = "Bend";
    spec.family = Family::deform;
    spec.sentence = "Bends the geometry into an arc along an axis.";
    spec.help =
        "Between start and end it follows a circle whose inner line keeps its length; before it nothing changes, beyond it the shape goes on straight. "
        "Directions such as normals are turned along.";
    spec.synonyms = {"curve", "arch", "arc", "curl", "bow"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = axisSettings("The axis along which it is straight before.");
    spec.settings.insert(
        spec.settings.begin() + 1,
        numberSetting("angle", "Angle", Unit::degree, 90).within(-36000, 36000).slider(-360, 360).helped("How far it is bent from start to end."));
    spec.settings.push_back(numberSetting("direction", "Direction", Unit::degree, 0)
                                .within(-36000, 36000)
                                .slider(-180, 180)
                                .helped("Which way it bends, turned about the axis; 0 bends x towards y, y towards z, z towards x."));
    spec.settings.push_back(whereSetting(Element::point));
    spec.settings.push_back(blendSetting(Element::point));
    spec.sample = sample::step(spec.id, {{"axis", "y"}, {"angle", 80}}, {sample::column()});
    spec.compute = computeBend;
    return spec;
}

}  // namespace seedloom
