// Method: own: ends matched by a grid of the join distance.
#include "geometry/MixPlan.h"
#include "geometry/Weld.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// One end of a curve, and the end it hangs on.
struct End {
    Index curve;
    bool atEnd;
    std::ptrdiff_t partner = -1;
};

/// Ends within `distance` of each other, paired in order; each end once.
std::vector<End> pairedEnds(const Geometry& in, double distance) {
    std::vector<End> ends;
    std::vector<Vec3> places;
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        if (in.topology().curveClosed(c) || curve.size() < 2) continue;
        ends.push_back({c, false}), places.push_back(in.positions()[curve.front()]);
        ends.push_back({c, true}), places.push_back(in.positions()[curve.back()]);
    }
    const std::vector<Index> earlier = nearestEarlier(places, distance);
    std::vector<std::vector<std::size_t>> waiting(ends.size());
    for (std::size_t e = 0; e < ends.size(); ++e) {
        auto& list = waiting[earlier[e]];
        // An end of another curve comes first: a curve closes on itself only where nothing else is there.
        const auto other = std::find_if(list.begin(), list.end(), [&](std::size_t o) { return ends[o].curve != ends[e].curve; });
        const auto met = other != list.end() ? other : list.begin();
        if (list.empty()) {
            list.push_back(e);
            continue;
        }
        ends[e].partner = std::ptrdiff_t(*met), ends[*met].partner = std::ptrdiff_t(e);
        list.erase(met);
    }
    return ends;
}

class Joiner {
public:
    explicit Joiner(const Geometry& in) : in_(in), done_(in.curveCount(), 0) {}

    void byEnds(double distance) {
        const auto ends = pairedEnds(in_, distance);
        std::vector<std::array<std::ptrdiff_t, 2>> endOf(in_.curveCount(), {-1, -1});
        for (std::size_t e = 0; e < ends.size(); ++e) endOf[ends[e].curve][ends[e].atEnd] = std::ptrdiff_t(e);
        const auto walk = [&](Index start, bool backwards) {
            Index c = start;
            bool reversed = backwards, first = true;
            while (true) {
                append(c, reversed, !first);
                done_[c] = 1, first = false;
                const std::ptrdiff_t leave = endOf[c][reversed ? 0 : 1], partner = leave < 0 ? -1 : ends[std::size_t(leave)].partner;
                if (partner < 0) return finishCurve(start, false);
                const End& met = ends[std::size_t(partner)];
                if (done_[met.curve]) return closeUp(start);
                c = met.curve, reversed = met.atEnd;
                ++joined_;
            }
        };
        for (Index c = 0; c < in_.curveCount(); ++c) {
            if (done_[c]) continue;
            if (endOf[c][0] < 0) {
                append(c, false, false);
                done_[c] = 1;
                finishCurve(c, in_.topology().curveClosed(c));
            } else if (ends[std::size_t(endOf[c][0])].partner < 0) {
                walk(c, false);
            } else if (ends[std::size_t(endOf[c][1])].partner < 0) {
                walk(c, true);
            }
        }
        for (Index c = 0; c < in_.curveCount(); ++c)
            if (!done_[c]) walk(c, false);
    }
    void inOrder(bool close) {
        Index first = 0;
        bool any = false;
        for (Index c = 0; c < in_.curveCount(); ++c) {
            if (in_.topology().curve(c).empty()) continue;
            joined_ += any;
            if (!any) first = c, any = true;
            append(c, false, false);
        }
        if (any) finishCurve(first, close);
    }
    Geometry take() {
        std::vector<Index> number(in_.pointCount(), ~Index{0});
        MixPlan& plan = plan_;
        const Topology& t = in_.topology();
        const auto pointOf = [&](Index p) { return number[p] == ~Index{0} ? number[p] = plan.points.add(p) : number[p]; };
        for (Index f = 0; f < t.faceCount(); ++f) {
            for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) plan.cornerPoint.push_back(pointOf(t.cornerPoint()[c])), plan.corners.add(c);
            plan.endFace(f);
        }
        return takeMixed(in_, std::move(plan_));
    }
    std::size_t joined() const { return joined_; }

private:
    void append(Index c, bool reversed, bool skipFirst) {
        const auto curve = in_.topology().curve(c);
        for (std::size_t i = skipFirst ? 1 : 0; i < curve.size(); ++i) plan_.curvePoint.push_back(plan_.points.add(curve[reversed ? curve.size() - 1 - i : i]));
    }
    void finishCurve(Index like, bool closed) { plan_.endCurve(like, closed); }
    /// The last point lies on the first.
    void closeUp(Index like) {
        ++joined_;
        if (plan_.curvePoint.size() - plan_.curveStart.back() > 3) {
            plan_.curvePoint.pop_back();
            plan_.points.dropLast();
            finishCurve(like, true);
        } else {
            finishCurve(like, false);
        }
    }

    const Geometry& in_;
    std::vector<std::uint8_t> done_;
    MixPlan plan_;
    std::size_t joined_ = 0;
};

Geometry computeJoinCurves(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Join curves needs curves, and none are plugged in.");
    Joiner joiner(in);
    if (call.choice("by") == "in order") joiner.inOrder(call.flag("close"));
    else joiner.byEnds(call.number("distance"));
    call.tell(NoticeLevel::info, "join.count", fmt::format("{} ends were joined.", joiner.joined()));
    return joiner.take();
}

}  // namespace

OperatorSpec joinCurvesOperator() {
    OperatorSpec spec;
    spec.id = "join_curves";
    spec.order = 210;
    spec.label = "Join curves";
    spec.family = Family::curve;
    spec.sentence = "Makes longer curves of those whose ends meet, or one of all in their order.";
    spec.help =
        "Ends that touch become one point, and curves are turned round where it takes that; where an end meets itself the curve closes. In order, each curve's "
        "end is linked to the next one's start by a straight stretch. Loose points are left out.";
    spec.takes = Takes::curves;
    spec.synonyms = {"connect", "chain", "merge curves", "close", "link ends", "polyline"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {
        choiceSetting("by", "By", {"touching ends", "in order"}, "touching ends").helped("Ends that lie on top of each other, or one curve after the other."),
        numberSetting("distance", "Distance", Unit::metre, 0.001)
            .within(0, 1e6)
            .slider(0, 0.1)
            .helped("Ends nearer than this count as touching.")
            .when("by", {"touching ends"}),
        flagSetting("close", "Close", false).helped("Links the last end to the first start.").when("by", {"in order"}),
    };
    spec.sample = sample::step(spec.id, Json::object(), {sample::zigzag()});
    spec.compute = computeJoinCurves;
    return spec;
}

}  // namespace seedloom
