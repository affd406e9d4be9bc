// Method: frames without twist by double reflection (Wang, Jüttler, Zheng & Liu, ACM TOG 27(1), 2008).
#include "operators/OperatorCall.h"
#include "operators/curve/CurveFrames.h"

namespace seedloom {

namespace {

struct Directions {
    std::vector<Vec3> tangent, side, up;
    std::vector<float> along;
    std::vector<float> length;
};

void addCurve(const Geometry& in, std::size_t c, Vec3 hint, Directions& out) {
    const CurveFrames frames = framesOf(in, c, hint);
    const auto curve = in.topology().curve(c);
    for (std::size_t i = 0; i < curve.size(); ++i) {
        const Index p = curve[i];
        out.tangent[p] = frames.tangent[i], out.side[p] = frames.side[i], out.up[p] = frames.up[i], out.along[p] = frames.along[i];
    }
    out.length[c] = static_cast<float>(frames.length);
}

Geometry computeCurveDirections(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Curve directions needs a curve, and none is plugged in.");
    const Vec3 hint = call.vec3("up");
    const std::size_t n = in.pointCount();
    Directions directions{std::vector<Vec3>(n), std::vector<Vec3>(n), std::vector<Vec3>(n), std::vector<float>(n), std::vector<float>(in.curveCount())};
    for (std::size_t c = 0; c < in.curveCount(); ++c) {
        call.run().poll();
        addCurve(in, c, normalized(hint), directions);
    }
    Geometry out = in;
    out.setColumn(Element::point, "tangent", Column(std::move(directions.tangent)));
    out.setColumn(Element::point, "side", Column(std::move(directions.side)));
    out.setColumn(Element::point, "up", Column(std::move(directions.up)));
    out.setColumn(Element::point, "along", Column(std::move(directions.along)));
    out.setColumn(Element::curve, "length", Column(std::move(directions.length)));
    return out;
}

}  // namespace

OperatorSpec curveDirectionsOperator() {
    OperatorSpec spec;
    spec.id = "curve_directions";
    spec.order = 190;
    spec.label = "Curve directions";
    spec.family = Family::curve;
    spec.sentence = "Writes tangent, side and up along curves, without twist.";
    spec.help =
        "The three stand at right angles to each other; side is tangent × up. Also writes along (0–1) on points and length (m) on "
        "curves. On closed curves the directions meet at the seam.";
    spec.takes = Takes::curves;
    spec.synonyms = {"frame", "orientation", "tangent", "normal", "side", "up vector", "twist"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {vec3Setting("up", "Up hint", Unit::none, {0, 1, 0}).helped("Up at the first point leans towards this direction.")};
    spec.sample = sample::step(spec.id, Json::object(), {sample::way()});
    spec.compute = computeCurveDirections;
    return spec;
}

}  // namespace seedloom
