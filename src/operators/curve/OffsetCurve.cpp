// Method: own: parallels that meet in mitres.
#include "geometry/LeastOffset.h"
#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr double kLongestMitre = 8;

/// The direction that a curve is seen from: of its own plane for closed ones and for those that stand upright in a plane, else the hint, so that a way
/// over hills is moved sideways and stays at its height.
Vec3 facing(const Geometry& in, Index c, Vec3 hint, double size) {
    const auto curve = in.topology().curve(c);
    const Vec3 own = areaVector(curve, in.positions());
    if (double(length(own)) < 1e-9 * size * size) return hint;
    const Vec3 n = normalized(own, hint);
    if (in.topology().curveClosed(c)) return n;
    const Vec3 origin = in.positions()[curve[0]];
    const bool flat = std::all_of(curve.begin(), curve.end(), [&](Index p) { return std::abs(double(dot(in.positions()[p] - origin, n))) < 1e-4 * size; });
    if (!flat || std::abs(dot(n, hint)) > 0.05f) return hint;
    return n;
}

struct Moved {
    std::vector<Vec3> by;
    bool turned = false;  ///< a stretch runs backwards now
};

/// To the right of the curve, seen from `normal`.
Moved offsets(const Geometry& in, Index c, Vec3 normal, const Field<float>& distance, float sign) {
    const auto curve = in.topology().curve(c);
    const bool closed = in.topology().curveClosed(c) && curve.size() > 2;
    const std::size_t n = curve.size(), spans = closed ? n : n - 1;
    std::vector<LeastOffset> solve(n);
    std::vector<double> longest(n, 0);
    for (std::size_t s = 0; s < spans; ++s) {
        const std::size_t e = (s + 1) % n;
        const Vec3 right = cross(normalized(in.positions()[curve[e]] - in.positions()[curve[s]], {}), normal);
        for (std::size_t i : {s, e}) {
            const double d = double(distance[curve[i]] * sign);
            solve[i].add(normalized(right, {}), d), solve[i].add(normal, 0);
            longest[i] = std::abs(d) * kLongestMitre;
        }
    }
    Moved out;
    for (std::size_t i = 0; i < n; ++i) out.by.push_back(solve[i].solve(longest[i]));
    for (std::size_t s = 0; s < spans; ++s) {
        const std::size_t e = (s + 1) % n;
        const Vec3 before = in.positions()[curve[e]] - in.positions()[curve[s]];
        out.turned |= dot(before, before + out.by[e] - out.by[s]) < 0;
    }
    return out;
}

Geometry computeOffsetCurve(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Offset curve needs a curve, and none is plugged in.");
    call.run().require(3 * double(in.topology().curvePoint().size() + in.pointCount()), "points");
    const Field<float> distance = call.each("distance", in);
    const std::string form = call.choice("form");
    const Vec3 hint = normalized(call.vec3("up"));
    MixPlan plan;
    std::vector<Vec3> positions;
    const auto add = [&](Index p, Vec3 by) {
        plan.curvePoint.push_back(plan.points.add(p));
        positions.push_back(in.positions()[p] + by);
    };
    std::size_t turned = 0;
    const double size = boundsOf(in.positions()).diagonal();
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        if (curve.size() < 2) continue;
        call.run().poll();
        const Vec3 normal = facing(in, c, hint, size);
        const bool closed = in.topology().curveClosed(c) && curve.size() > 2;
        const Moved right = offsets(in, c, normal, distance, 1);
        turned += right.turned;
        if (form == "keep both")
            for (Index p : curve) add(p, {});
        if (form == "keep both") plan.endCurve(c, closed);
        for (std::size_t i = 0; i < curve.size(); ++i) add(curve[i], right.by[i]);
        if (form != "outline") {
            plan.endCurve(c, closed);
            continue;
        }
        const Moved left = offsets(in, c, normal, distance, -1);
        if (closed) plan.endCurve(c, true);
        for (std::size_t i = curve.size(); i-- > 0;) add(curve[i], left.by[i]);
        plan.endCurve(c, true);
    }
    if (turned > 0)
        call.tell(NoticeLevel::warning, "offset.turned",
                  fmt::format("The distance is larger than {} curves have room for, so that parts of them run backwards. Make it smaller.", turned),
                  "distance");
    return takeMixed(in, std::move(plan), std::move(positions));
}

}  // namespace

OperatorSpec offsetCurveOperator() {
    OperatorSpec spec;
    spec.id = "offset_curve";
    spec.order = 200;
    spec.label = "Offset curve";
    spec.family = Family::curve;
    spec.sentence = "Moves curves sideways in their plane, at an even distance, or makes an outline around them.";
    spec.help =
        "Outwards for a closed curve that runs counter-clockwise, else to its right. Corners are mitred. An outline goes along one side and back along the "
        "other: the plan of a wall. Faces and loose points are left out.";
    spec.takes = Takes::curves;
    spec.synonyms = {"parallel", "inset", "outline", "contour", "wall plan", "buffer"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {
        numberSetting("distance", "Distance", Unit::metre, 0.1)
            .within(-1e6, 1e6)
            .slider(-1, 1)
            .each()
            .helped("How far; negative goes to the other side. An outline goes this far to both."),
        choiceSetting("form", "Form", {"moved", "keep both", "outline"}, "moved")
            .helped("The moved curve, with the old one beside it, or a closed outline around it."),
        vec3Setting("up", "Up", Unit::none, {0, 1, 0}).helped("Where a straight or open curve is looked at from."),
    };
    spec.sample = sample::step(spec.id, {{"form", "outline"}, {"distance", 0.1}}, {sample::zigzag()});
    spec.compute = computeOffsetCurve;
    return spec;
}

}  // namespace seedloom
