// Method: own: the axis onto frames without twist along a curve.
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "operators/curve/CurvePath.h"

namespace seedloom {

namespace {

Geometry computeStretchToCurve(OperatorCall& call) {
    const Geometry& in = call.in();
    const Geometry& guide = call.port(1).front();
    std::size_t c = 0;
    while (c < guide.curveCount() && guide.topology().curve(c).size() < 2) ++c;
    if (c == guide.curveCount()) call.fail("curve.none", "There is no curve at the input Curve to stretch along.");
    const int axis = call.choice("axis")[0] - 'x';
    const bool whole = call.flag("whole_length");
    const CurvePath path(guide, c, normalized(call.vec3("up")), call.flag("level"));
    if (!std::isfinite(path.length())) call.fail("mesh.non_finite", "The curve has a point that is no finite place. Delete it first.");
    const Field<float> weights = call.weights(in, Element::point);
    const Bounds bounds = boundsOf(in.positions());
    const float low = bounds.min[axis], size = bounds.size()[axis], stretch = whole && size > 0 ? path.length() / size : 1;
    const int upAxis = axis == 1 ? 2 : 1, sideAxis = 3 - axis - upAxis;
    // The side that keeps left left: the three axes stay right-handed.
    const float sense = (axis == 0 && upAxis == 1) || (axis == 1 && upAxis == 2) || (axis == 2 && upAxis == 0) ? 1.0f : -1.0f;
    std::vector<Vec3> after = in.positions();
    std::vector<float> weight(after.size());
    for (std::size_t p = 0; p < after.size(); ++p) {
        const Vec3 from = after[p];
        if (isFinite(from)) after[p] = path.place((from[axis] - low) * stretch, from[upAxis], from[sideAxis] * sense);
        weight[p] = weights[p];
    }
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(after), weight));
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    return out;
}

}  // namespace

OperatorSpec stretchToCurveOperator() {
    OperatorSpec spec;
    spec.id = "stretch_to_curve";
    spec.order = 610;
    spec.label = "Stretch to curve";
    spec.family = Family::deform;
    spec.sentence = "Lays a geometry along a curve, bent with it.";
    spec.help =
        "One axis runs along the first curve, the others stand up and to the side of it without twist. With Whole length the geometry is stretched from end to "
        "end; else it keeps its length and goes on straight beyond the end.";
    spec.synonyms = {"bend along", "path deform", "follow", "wrap along", "rope", "rail"};
    spec.inputs = {{"in", "Geometry"}, {"curve", "Curve"}};
    spec.settings = {
        choiceSetting("axis", "Axis", {"x", "y", "z"}, "x").helped("What of the geometry runs along the curve."),
        flagSetting("whole_length", "Whole length", true).helped("Stretches it over the whole curve."),
        flagSetting("level", "Keep level", false).helped("Holds up as near to the direction below as the curve lets it, at every point."),
        vec3Setting("up", "Up", Unit::none, {0, 1, 0}).helped("Up leans towards this direction where the curve starts, or everywhere."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::plugged(sample::step(spec.id, Json::object(), {sample::step("box", {{"size", {1.4, 0.2, 0.3}}, {"cells", {24, 2, 3}}})}), "curve",
                                  sample::smoothWay(40));
    spec.compute = computeStretchToCurve;
    return spec;
}

}  // namespace seedloom
