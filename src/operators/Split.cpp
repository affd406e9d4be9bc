#include "geometry/Rows.h"
#include "operators/AllOperators.h"

namespace seedloom {

namespace {

/// Faces, curves and loose points that are taken, with the points that they use.
class Part {
public:
    explicit Part(const Geometry& in) : in_(in), number_(in.pointCount(), kNone) {}

    void addFace(Index f) {
        const Topology& t = in_.topology();
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) plan_.addCorner(point(t.cornerPoint()[c]), c);
        plan_.endFace(f);
    }
    void addCurve(Index c) {
        for (Index p : in_.topology().curve(c)) plan_.curvePoint.push_back(point(p));
        plan_.endCurve(c, in_.topology().curveClosed(c));
    }
    void addPoint(Index p) { point(p); }
    Geometry take() { return takeRows(in_, std::move(plan_)); }

private:
    static constexpr Index kNone = ~Index(0);
    Index point(Index p) {
        if (number_[p] == kNone) {
            number_[p] = Index(plan_.points.size());
            plan_.points.push_back(p);
        }
        return number_[p];
    }
    const Geometry& in_;
    std::vector<Index> number_;
    RowPlan plan_;
};

Geometry compute(OperatorCall& call) {
    const Geometry& in = call.in();
    const Topology& t = in.topology();
    const Field<float> onFaces = call.each("where", in, Element::face), onCurves = call.each("where", in, Element::curve), onPoints = call.each("where", in, Element::point);
    Part chosen(in), rest(in);
    const auto part = [&](float weight) -> Part& { return weight > 0.5f ? chosen : rest; };
    std::vector<std::uint8_t> used(in.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index f = 0; f < in.faceCount(); ++f) part(onFaces[f]).addFace(f);
    for (Index c = 0; c < in.curveCount(); ++c) {
        for (Index p : t.curve(c)) used[p] = 1;
        part(onCurves[c]).addCurve(c);
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
    spec.label = "Split";
    spec.family = Family::flow;
    spec.sentence = "Parts a geometry in two: what a mask chooses, and the rest.";
    spec.help = "Faces, curves and loose points for which Where is over a half go out of the upper output, all others out of the lower one. Points that "
                "both sides use are doubled; merge and weld join the sides again.";
    spec.synonyms = {"separate", "divide", "part", "filter", "two outputs", "take apart", "select faces"};
    spec.inputs = {{"in", "Geometry"}};
    spec.outputs = {{"out", "Chosen"}, {"rest", "Rest"}};
    spec.settings = {whereSetting(Element::face)};
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom
