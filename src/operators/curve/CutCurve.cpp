// Method: own: cuts by length along the curve.
#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Takes stretches of a curve, given by their metres from its start.
class CurveCutter {
public:
    explicit CurveCutter(const Geometry& in) : in_(in) {}

    /// Precondition: at least two points.
    void measure(Index c) {
        curve_ = c;
        const auto curve = in_.topology().curve(c);
        points_.assign(curve.begin(), curve.end());
        closed_ = in_.topology().curveClosed(c) && points_.size() > 2;
        if (closed_) points_.push_back(points_.front());
        at_.assign(1, 0);
        for (std::size_t i = 1; i < points_.size(); ++i)
            at_.push_back(at_.back() + double(distance(in_.positions()[points_[i - 1]], in_.positions()[points_[i]])));
    }
    double length() const { return at_.back(); }
    bool closed() const { return closed_; }
    const std::vector<double>& pointsAt() const { return at_; }
    Vec3 place(std::size_t i) const { return in_.positions()[points_[i]]; }
    std::size_t points() const { return points_.size(); }

    void takeWhole() {
        for (std::size_t i = 0; i + (closed_ ? 1 : 0) < points_.size(); ++i) plan_.curvePoint.push_back(plan_.points.add(points_[i]));
        end(closed_);
    }
    void take(double from, double to) {
        const double least = 1e-7 * std::max(length(), 1e-30);
        if (to - from <= least) return;
        add(from);
        for (std::size_t i = 0; i < at_.size(); ++i)
            if (at_[i] > from + least && at_[i] < to - least) plan_.curvePoint.push_back(plan_.points.add(points_[i]));
        add(to);
        end(false);
    }
    Geometry finish() {
        std::vector<std::int32_t> piece = std::move(piece_);
        Geometry out = takeMixed(in_, std::move(plan_));
        out.setColumn(Element::curve, "piece", Column(std::move(piece)));
        return out;
    }

private:
    void add(double metres) {
        std::size_t i = std::size_t(std::upper_bound(at_.begin(), at_.end(), metres) - at_.begin());
        i = std::clamp<std::size_t>(i, 1, at_.size() - 1);
        const double span = at_[i] - at_[i - 1];
        plan_.curvePoint.push_back(plan_.points.add(points_[i - 1], points_[i], span > 0 ? float((metres - at_[i - 1]) / span) : 0));
    }
    void end(bool closed) {
        plan_.endCurve(curve_, closed);
        piece_.push_back(static_cast<std::int32_t>(piece_.size()));
    }

    const Geometry& in_;
    Index curve_ = 0;
    bool closed_ = false;
    std::vector<Index> points_;
    std::vector<double> at_;
    MixPlan plan_;
    std::vector<std::int32_t> piece_;
};

/// Where to cut, in metres, both ends included.
std::vector<double> evenCuts(const OperatorCall& call, const std::string& mode, double length) {
    std::vector<double> cuts{0};
    if (mode == "count") {
        const int count = call.integer("count");
        for (int i = 1; i < count; ++i) cuts.push_back(length * i / count);
    } else {
        const double each = call.number("length");
        call.run().require(length / each, "curves");
        if (call.choice("rest") == "share") {
            const double count = std::max(1.0, std::round(length / each));
            for (double i = 1; i < count; ++i) cuts.push_back(length * i / count);
        } else {
            for (double i = 1; i * each < length * (1 - 1e-9); ++i) cuts.push_back(i * each);
        }
    }
    cuts.push_back(length);
    return cuts;
}

void cutAtCorners(CurveCutter& cutter, double degrees) {
    const double least = std::cos(radians(degrees)) - 1e-6;
    const std::size_t n = cutter.points();
    const auto sharp = [&](std::size_t before, std::size_t i, std::size_t after) {
        return double(dot(normalized(cutter.place(i) - cutter.place(before), {}), normalized(cutter.place(after) - cutter.place(i), {}))) < least;
    };
    std::vector<double> cuts{0};
    for (std::size_t i = 1; i + 1 < n; ++i)
        if (sharp(i - 1, i, i + 1)) cuts.push_back(cutter.pointsAt()[i]);
    if (cutter.closed() && cuts.size() == 1 && !sharp(n - 2, 0, 1)) return cutter.takeWhole();
    cuts.push_back(cutter.length());
    for (std::size_t i = 1; i < cuts.size(); ++i) cutter.take(cuts[i - 1], cuts[i]);
}

Geometry computeCutCurve(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Cut curve needs a curve, and none is plugged in.");
    const std::string mode = call.choice("mode");
    const double start = call.number("start"), end = call.number("end"), gap = call.number("gap");
    if (mode == "trim" && start >= end) {
        call.offer(end > 0 ? setFix("Set Start back", "start", Json()) : setFix("Set End back", "end", Json()));
        call.fail("setting.range", "Start is not before End, so nothing would be left.", "start");
    }
    if (mode == "count") call.run().require(double(call.integer("count")) * double(in.curveCount()), "curves");
    CurveCutter cutter(in);
    for (Index c = 0; c < in.curveCount(); ++c) {
        if (in.topology().curve(c).size() < 2) continue;
        call.run().poll();
        cutter.measure(c);
        if (!std::isfinite(cutter.length())) continue;
        if (mode == "trim") {
            if (start <= 0 && end >= 1) cutter.takeWhole();
            else cutter.take(start * cutter.length(), end * cutter.length());
        } else if (mode == "corners") {
            cutAtCorners(cutter, call.number("angle"));
        } else {
            const auto cuts = evenCuts(call, mode, cutter.length());
            for (std::size_t i = 1; i < cuts.size(); ++i) cutter.take(cuts[i - 1] + gap / 2, cuts[i] - gap / 2);
        }
    }
    return cutter.finish();
}

}  // namespace

OperatorSpec cutCurveOperator() {
    OperatorSpec spec;
    spec.id = "cut_curve";
    spec.order = 220;
    spec.label = "Cut curve";
    spec.family = Family::curve;
    spec.sentence = "Trims curves, or cuts them into pieces by number, by length or at their corners.";
    spec.help =
        "New ends are mixed from the points beside them, attributes included. Pieces have points of their own and a number, piece. A gap takes half of it from "
        "both ends of every piece. Faces and loose points are left out.";
    spec.takes = Takes::curves;
    spec.synonyms = {"split", "trim", "divide", "shorten", "segment", "lengths", "pieces"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {
        choiceSetting("mode", "Mode", {"trim", "count", "length", "corners"}, "trim")
            .helped("Keep one stretch, cut into equal pieces, into pieces of a length, or at sharp corners."),
        numberSetting("start", "Start", Unit::part, 0)
            .within(0, 1)
            .slider(0, 1)
            .helped("Where the kept stretch starts, as a part of the length.")
            .when("mode", {"trim"}),
        numberSetting("end", "End", Unit::part, 1).within(0, 1).slider(0, 1).helped("Where it ends.").when("mode", {"trim"}),
        integerSetting("count", "Count", 4).within(1, 1000000).slider(1, 50).helped("Pieces of every curve.").when("mode", {"count"}),
        numberSetting("length", "Length", Unit::metre, 0.5).within(1e-6, 1e9).slider(0.05, 5).helped("Of each piece.").when("mode", {"length"}),
        choiceSetting("rest", "Rest", {"share", "leave"}, "share")
            .helped("Make all pieces equal and about that long, or leave a shorter one at the end.")
            .when("mode", {"length"}),
        numberSetting("gap", "Gap", Unit::metre, 0).within(0, 1e6).slider(0, 0.2).helped("Left free between two pieces.").when("mode", {"count", "length"}),
        numberSetting("angle", "Angle", Unit::degree, 30)
            .within(0, 180)
            .slider(0, 90)
            .helped("Corners that turn by more than this are cut.")
            .when("mode", {"corners"}),
    };
    spec.sample = sample::step(spec.id, {{"mode", "count"}, {"count", 5}, {"gap", 0.12}}, {sample::zigzag()});
    spec.compute = computeCutCurve;
    return spec;
}

}  // namespace seedloom
