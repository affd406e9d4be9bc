// Method: own: each point towards the middle of its neighbours.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

/// One round: every point goes part of the way to the middle of its neighbours.
std::vector<Vec3> smoothed(const Geometry& in, const std::vector<Vec3>& from, const Field<float>& amount, bool holdEnds) {
    std::vector<Vec3> out = from;
    const Topology& t = in.topology();
    for (std::size_t c = 0; c < t.curveCount(); ++c) {
        const auto curve = t.curve(c);
        const std::size_t n = curve.size();
        if (n < 3) continue;
        const bool closed = t.curveClosed(c);
        for (std::size_t i = 0; i < n; ++i) {
            const bool end = !closed && (i == 0 || i + 1 == n);
            if (end && holdEnds) continue;
            const Vec3 before = from[curve[i > 0 ? i - 1 : closed ? n - 1 : i + 1]], after = from[curve[i + 1 < n ? i + 1 : closed ? 0 : i - 1]];
            out[curve[i]] = mix(from[curve[i]], (before + after) * 0.5f, amount[curve[i]]);
        }
    }
    return out;
}

Geometry computeSmoothCurve(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Smooth curve needs a curve, and none is plugged in.");
    const Field<float> amount = call.each("amount", in);
    const int iterations = call.integer("iterations");
    const bool holdEnds = call.flag("hold_ends");
    const Field<float> weights = call.weights(in, Element::point);
    std::vector<Vec3> positions = in.positions();
    for (int i = 0; i < iterations; ++i) {
        call.run().poll();
        call.run().setProgress(float(i) / float(iterations));
        positions = smoothed(in, positions, amount, holdEnds);
    }
    std::vector<float> each(in.pointCount());
    for (std::size_t p = 0; p < each.size(); ++p) each[p] = weights[p];
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(positions), each));
    return out;
}

}  // namespace

OperatorSpec smoothCurveOperator() {
    OperatorSpec spec;
    spec.id = "smooth_curve";
    spec.order = 170;
    spec.label = "Smooth curve";
    spec.family = Family::curve;
    spec.sentence = "Evens out kinks by moving each point towards the middle of its neighbours.";
    spec.help = "Closed curves shrink a little with every round. Points keep their number and attributes.";
    spec.takes = Takes::curves;
    spec.synonyms = {"soften", "relax", "round", "even out", "calm"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {
        numberSetting("amount", "Amount", Unit::part, 0.5).within(0, 1).slider(0, 1).each().helped("How far each point moves in one round."),
        integerSetting("iterations", "Rounds", 5).within(0, 10000).slider(0, 100).helped("How often it is repeated."),
        flagSetting("hold_ends", "Hold ends", true).helped("Leaves both ends of open curves where they are."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, Json::object(), {sample::way()});
    spec.compute = computeSmoothCurve;
    return spec;
}

}  // namespace seedloom
