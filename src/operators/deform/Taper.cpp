// Method: own: widths linear along the axis (after Barr, SIGGRAPH 1984), or by a ramp.
#include "operators/OperatorCall.h"
#include "operators/deform/AlongAxis.h"

namespace seedloom {

namespace {

/// Scales at a right angle to an axis by a factor that depends on how far along it a point lies. Turned directions follow the slope only
/// where it is even, so normals are those of the stretched shape: by the inverse of the two factors.
Geometry widened(OperatorCall& call, const Geometry& in, const AxisStretch& stretch, const std::function<double(double)>& factorAt) {
    const auto scaled = [=](Vec3 v, float factor) {
        const float kept = v[stretch.axis];
        v = v * factor;
        v[stretch.axis] = kept;
        return v;
    };
    const auto factor = [=](Vec3 p) { return float(factorAt(stretch.partOf(p))); };
    return deformed(
        call, in, [=](Vec3 p) { return stretch.centre + scaled(p - stretch.centre, factor(p)); },
        [=](Vec3 p, Vec3 v) {
            const float f = factor(p);
            return f != 0 ? normalized(scaled(v, 1 / f), v) : v;
        });
}

Geometry computeTaper(OperatorCall& call) {
    const double first = call.number("scale_start"), last = call.number("scale_end");
    return widened(call, call.in(), axisStretch(call, call.in()), [=](double t) { return first + (last - first) * t; });
}

Geometry computeProfile(OperatorCall& call) {
    const Ramp ramp = call.ramp("ramp");
    const double scale = call.number("scale");
    return widened(call, call.in(), axisStretch(call, call.in()), [=](double t) { return scale * ramp.at(t); });
}

OperatorSpec shared(std::string id, std::string label) {
    OperatorSpec spec;
    spec.id = std::move(id);
    spec.label = std::move(label);
    spec.family = Family::deform;
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = axisSettings("The axis along which the width changes.");
    return spec;
}

void addMask(OperatorSpec& spec) {
    spec.settings.push_back(whereSetting(Element::point));
    spec.settings.push_back(blendSetting(Element::point));
}

}  // namespace

OperatorSpec taperOperator() {
    OperatorSpec spec = shared("taper", "Taper");
    spec.order = 540;
    spec.sentence = "Makes the geometry narrower or wider along an axis.";
    spec.help = "The width changes evenly from start to end about the middle of the bounds, and stays beyond them. Lengths along the axis stay.";
    spec.synonyms = {"narrow", "cone", "wedge", "pointed", "widen"};
    spec.settings.insert(
        spec.settings.begin() + 1,
        {numberSetting("scale_start", "Width at the start", Unit::none, 1).within(-1e6, 1e6).slider(0, 3).helped("Factor for the width there."),
         numberSetting("scale_end", "Width at the end", Unit::none, 0.5).within(-1e6, 1e6).slider(0, 3).helped("Factor for the width there.")});
    addMask(spec);
    spec.sample = sample::step(spec.id, {{"scale_end", 0.3}}, {sample::column()});
    spec.compute = computeTaper;
    return spec;
}

OperatorSpec profileScaleOperator() {
    OperatorSpec spec = shared("profile_scale", "Profile scale");
    spec.order = 560;
    spec.sentence = "Makes the geometry as wide along an axis as a drawn ramp says.";
    spec.help = "The ramp runs over the bounds along the axis; where it is 1 the width stays as it was.";
    spec.synonyms = {"width", "bulge", "waist", "silhouette", "contour", "shape by curve"};
    spec.settings.insert(spec.settings.begin() + 1,
                         {rampSetting("ramp", "Width").helped("Factor for the width along the axis."),
                          numberSetting("scale", "Times", Unit::none, 1).within(-1e6, 1e6).slider(0, 3).helped("Multiplies the ramp.")});
    addMask(spec);
    spec.sample = sample::step(spec.id, {{"ramp", {{"knots", {{0, 1.2, "smooth"}, {0.5, 0.5, "smooth"}, {1, 1}}}}}}, {sample::column()});
    spec.compute = computeProfile;
    return spec;
}

}  // namespace seedloom
