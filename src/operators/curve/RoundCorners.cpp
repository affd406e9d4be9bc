// Method: own: circular arcs tangent to both sides.
#include "geometry/MixPlan.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Replaces corners by arcs that touch both sides.
class CornerRounder {
public:
    CornerRounder(const Geometry& in, int segments, bool arc) : in_(in), segments_(arc ? segments : 1) {}

    void addCurve(Index c, const Field<float>& radius) {
        const auto curve = in_.topology().curve(c);
        const bool closed = in_.topology().curveClosed(c) && curve.size() > 2;
        const std::size_t n = curve.size();
        for (std::size_t i = 0; i < n; ++i) {
            if (!closed && (i == 0 || i + 1 == n)) keep(curve[i]);
            else corner(curve[(i + n - 1) % n], curve[i], curve[(i + 1) % n], double(radius[curve[i]]));
        }
        plan_.endCurve(c, in_.topology().curveClosed(c));
    }
    Geometry finish() {
        std::vector<Index> number(in_.pointCount(), kNone);
        addFaces(number);
        addLoose(number);
        return takeMixed(in_, std::move(plan_), std::move(positions_));
    }
    std::size_t held() const { return held_; }

private:
    void keep(Index p) {
        plan_.curvePoint.push_back(plan_.points.add(p));
        positions_.push_back(in_.positions()[p]);
    }
    void corner(Index before, Index p, Index after, double radius) {
        const Vec3 a = in_.positions()[before], at = in_.positions()[p], b = in_.positions()[after];
        const Vec3 in = normalized(at - a, {}), out = normalized(b - at, {});
        const double turn = std::acos(std::clamp(double(dot(in, out)), -1.0, 1.0));
        if (!(radius > 0) || turn < 1e-4 || turn > kPi - 1e-4 || !std::isfinite(turn)) return keep(p);
        const double wanted = radius * std::tan(turn / 2), room = 0.5 * std::min(double(distance(a, at)), double(distance(at, b)));
        const double reach = std::min(wanted, room);
        held_ += wanted > room * (1 + 1e-6);
        const float partIn = float(reach / double(distance(a, at))), partOut = float(reach / double(distance(at, b)));
        const Vec3 start = mix(at, a, partIn), end = mix(at, b, partOut);
        const Vec3 inwards = normalized(out - in, {});
        const double r = reach / std::tan(turn / 2);
        const Vec3 centre = at + inwards * float(r / std::cos(turn / 2));
        const Vec3 axis = normalized(cross(in, out), {});
        for (int s = 0; s <= segments_; ++s) {
            const float t = float(s) / float(segments_);
            // Attributes go from one tangent point over the corner's to the other.
            plan_.points.part(p, 1 - partIn * (1 - t) - partOut * t).part(before, partIn * (1 - t)).part(after, partOut * t).close();
            positions_.push_back(s == 0 ? start : s == segments_ ? end : centre + rotateAbout(start - centre, axis, float(turn) * t));
            plan_.curvePoint.push_back(plan_.points.size() - 1);
        }
    }
    Index pointOf(Index p, std::vector<Index>& number) {
        if (number[p] == kNone) {
            number[p] = plan_.points.add(p);
            positions_.push_back(in_.positions()[p]);
        }
        return number[p];
    }
    void addFaces(std::vector<Index>& number) {
        const Topology& t = in_.topology();
        for (Index f = 0; f < t.faceCount(); ++f) {
            for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
                plan_.cornerPoint.push_back(pointOf(t.cornerPoint()[c], number));
                plan_.corners.add(c);
            }
            plan_.endFace(f);
        }
    }
    void addLoose(std::vector<Index>& number) {
        std::vector<std::uint8_t> used(in_.pointCount(), 0);
        for (Index p : in_.topology().curvePoint()) used[p] = 1;
        for (Index p = 0; p < used.size(); ++p)
            if (!used[p]) pointOf(p, number);
    }

    const Geometry& in_;
    int segments_;
    MixPlan plan_;
    std::vector<Vec3> positions_;
    std::size_t held_ = 0;
};

Geometry computeRoundCorners(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Round corners needs a curve, and none is plugged in. For the edges of a solid use Bevel.");
    Field<float> radius = call.each("radius", in);
    const Field<float> weights = call.weights(in, Element::point);
    if (!weights.uniform || weights.value != 1) {
        std::vector<float> values(in.pointCount());
        for (std::size_t p = 0; p < values.size(); ++p) values[p] = radius[p] * weights[p];
        radius = {false, 0, std::move(values)};
    }
    const int segments = call.integer("segments");
    call.run().require(double(in.topology().curvePoint().size()) * (segments + 1.0), "points");
    CornerRounder rounder(in, segments, call.choice("form") == "arc");
    for (Index c = 0; c < in.curveCount(); ++c) {
        call.run().poll();
        rounder.addCurve(c, radius);
    }
    if (rounder.held() > 0)
        call.tell(NoticeLevel::info, "round.held",
                  fmt::format("{} corners are rounder than their sides have room for; there the arc ends in the middle of the side.", rounder.held()),
                  "radius");
    return rounder.finish();
}

}  // namespace

OperatorSpec roundCornersOperator() {
    OperatorSpec spec;
    spec.id = "round_corners";
    spec.order = 180;
    spec.label = "Round corners";
    spec.family = Family::curve;
    spec.sentence = "Replaces the corners of curves by arcs or straight cuts.";
    spec.help =
        "An arc touches both sides at its ends. Where a side is too short for the radius, the arc is smaller and ends in the middle of the side. Ends of open "
        "curves stay.";
    spec.takes = Takes::curves;
    spec.synonyms = {"fillet", "chamfer", "arc", "soften", "corner radius"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {
        numberSetting("radius", "Radius", Unit::metre, 0.1).within(0, 1e6).slider(0, 1).each().helped("Of the arcs."),
        integerSetting("segments", "Segments", 6).within(1, 10000).slider(1, 24).helped("Straight pieces that stand for one arc.").when("form", {"arc"}),
        choiceSetting("form", "Form", {"arc", "straight"}, "arc").helped("A round corner, or one cut off straight."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"radius", 0.3}, {"segments", 8}}, {sample::zigzag()});
    spec.compute = computeRoundCorners;
    return spec;
}

}  // namespace seedloom
