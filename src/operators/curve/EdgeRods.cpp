// Method: a prism a rod and a ball a point; welded ones joined by convex hulls (Srinivasan, Mandal & Akleman, Bridges 2005).
#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "operators/OperatorCall.h"
#include "operators/Polyhedra.h"
#include "operators/curve/RodJoints.h"

#include <set>

namespace seedloom {

namespace {

/// Every edge of the faces and every stretch of the curves, once.
std::vector<std::array<Index, 2>> struts(const Geometry& in) {
    std::vector<std::array<Index, 2>> out;
    std::set<std::pair<Index, Index>> known;
    const auto add = [&](Index a, Index b) {
        if (a != b && in.positions()[a] != in.positions()[b] && known.insert(std::minmax(a, b)).second) out.push_back({a, b});
    };
    for (const auto& edge : in.topology().edges().edges) add(edge.a, edge.b);
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        for (std::size_t i = 1; i < curve.size(); ++i) add(curve[i - 1], curve[i]);
        if (in.topology().curveClosed(c) && curve.size() > 2) add(curve.back(), curve.front());
    }
    return out;
}

/// A mesh whose points come from points of the input.
struct Rods {
    std::vector<Vec3> positions;
    std::vector<Index> faceStart{0}, cornerPoint;
    RowMix points;
    std::vector<std::uint8_t> ball;
    std::vector<std::int32_t> piece;
    std::int32_t pieces = 0;

    Index add(Vec3 p, RowMix& mix, Index row) { return positions.push_back(p), mix.add(row); }
    void endFace(bool isBall) {
        faceStart.push_back(static_cast<Index>(cornerPoint.size()));
        ball.push_back(isBall);
        piece.push_back(pieces);
    }
};

void addRod(Rods& out, const Geometry& in, std::array<Index, 2> ends, const Field<float>& radius, int sides) {
    const Vec3 a = in.positions()[ends[0]], b = in.positions()[ends[1]];
    const Vec3 t = normalized(b - a), u = anyPerpendicular(t), v = cross(t, u);
    const auto first = static_cast<Index>(out.positions.size()), n = static_cast<Index>(sides);
    for (int end = 0; end < 2; ++end)
        for (int i = 0; i < sides; ++i) {
            const double angle = 2 * kPi * i / sides;
            out.add((end ? b : a) + (u * float(std::cos(angle)) + v * float(std::sin(angle))) * radius[ends[std::size_t(end)]], out.points,
                    ends[std::size_t(end)]);
        }
    for (Index i = 0; i < n; ++i) {
        const Index next = (i + 1) % n;
        for (Index p : {i, next, n + next, n + i}) out.cornerPoint.push_back(first + p);
        out.endFace(false);
    }
    for (Index i = n; i-- > 0;) out.cornerPoint.push_back(first + i);
    out.endFace(false);
    for (Index i = 0; i < n; ++i) out.cornerPoint.push_back(first + n + i);
    out.endFace(false);
    ++out.pieces;
}

void addBall(Rods& out, Vec3 at, Index row, float radius, const Geometry& unit) {
    const auto first = static_cast<Index>(out.positions.size());
    for (Vec3 p : unit.positions()) out.add(at + p * radius, out.points, row);
    for (std::size_t f = 0; f < unit.faceCount(); ++f) {
        for (Index p : unit.topology().face(f)) out.cornerPoint.push_back(first + p);
        out.endFace(true);
    }
    ++out.pieces;
}

/// A ball of triangles fine enough to look round beside rods with that many sides.
Geometry unitBall(int sides) {
    const int frequency = std::clamp(sides / 5, 1, 12);
    return seedloom::geodesicBall(frequency);
}

Geometry finished(const Geometry& in, Rods rods) {
    const std::size_t points = rods.positions.size();
    Geometry out(std::move(rods.positions), Topology(points, std::move(rods.faceStart), std::move(rods.cornerPoint), {0}, {}, {}));
    for (const auto& [name, column] : in.table(Element::point))
        if (name != "position" && name != "normal") out.setColumn(Element::point, name, rods.points.apply(column));
    for (const auto& [name, column] : in.table(Element::model)) out.setColumn(Element::model, name, column);
    out.setColumn(Element::face, "ball", Column(std::move(rods.ball)));
    out.setColumn(Element::face, "piece", Column(std::move(rods.piece)));
    return out;
}

Geometry computeEdgeRods(OperatorCall& call) {
    const Geometry& in = call.in();
    const bool rods = call.flag("rods"), balls = call.flag("balls");
    const int sides = call.integer("sides");
    const auto edges = struts(in);
    if (rods && !balls && edges.empty()) call.fail("rods.none", "There are no edges or curves to make rods of.");
    if (!rods && !balls) call.fail("rods.off", "Rods and Balls are both off, so there is nothing to make.", "rods");
    const Field<float> radius = call.each("radius", in), ballRadius = call.each("ball_radius", in);
    const auto positive = [&](const Field<float>& values, const char* setting) {
        for (std::size_t p = 0; p < in.pointCount(); ++p)
            if (!(values[p] > 0)) call.fail("setting.range", "The radius must be above 0 everywhere.", setting);
    };
    if (rods) positive(radius, "radius");
    if (balls) positive(ballRadius, "ball_radius");
    const Geometry ball = balls ? unitBall(sides) : Geometry();
    call.run().require((rods ? 6.0 * sides * double(edges.size()) : 0) + double(ball.cornerCount()) * double(in.pointCount()), "corners");
    for (Vec3 p : in.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point is no finite place, so no rod can be put there. Delete it first.");
    if (rods && call.flag("welded") && !balls) {
        JointReport report;
        Geometry welded = weldedRods(in, edges, radius, sides, call.run(), &report);
        if (report.crowded > 0)
            call.tell(NoticeLevel::warning, "rods.crowded",
                      "At some points the rods are too thick for the angle or the length between them, so that parts poke through. Make them thinner there.",
                      "radius");
        return welded;
    }
    Rods out;
    if (rods)
        for (const auto& edge : edges) {
            call.run().poll();
            addRod(out, in, edge, radius, sides);
        }
    if (balls)
        for (Index p = 0; p < in.pointCount(); ++p) {
            call.run().poll();
            addBall(out, in.positions()[p], p, ballRadius[p], ball);
        }
    return finished(in, std::move(out));
}

}  // namespace

OperatorSpec edgeRodsOperator() {
    OperatorSpec spec;
    spec.id = "edge_rods";
    spec.order = 260;
    spec.label = "Edge rods";
    spec.family = Family::curve;
    spec.sentence = "Makes a rod of every edge and curve, and a ball of every point.";
    spec.help =
        "Every rod and every ball is a closed piece of its own with a number, piece; balls have the tag ball. Welded joins the rods at their points into one "
        "closed solid, without balls. Attributes of the points are carried.";
    spec.synonyms = {"struts", "wireframe", "wires", "lattice", "cage", "bars", "berries", "molecule", "rope rail"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        flagSetting("rods", "Rods", true).helped("A round bar along every edge of the faces and every stretch of the curves."),
        numberSetting("radius", "Radius", Unit::metre, 0.02).within(0, 1e6).slider(0.001, 0.2).each().helped("Of the rods, at each of their ends."),
        integerSetting("sides", "Sides", 8).within(3, 1000).slider(3, 32).helped("Faces around a rod; balls are as fine."),
        flagSetting("welded", "Welded", false).helped("Joins the rods into one closed solid."),
        flagSetting("balls", "Balls", false).helped("A ball at every point."),
        numberSetting("ball_radius", "Ball radius", Unit::metre, 0.04).within(0, 1e6).slider(0.001, 0.4).each().helped("Of the balls."),
    };
    spec.sample = sample::step(spec.id, {{"radius", 0.035}, {"welded", true}}, {sample::step("box", {{"cells", {2, 2, 2}}})});
    spec.compute = computeEdgeRods;
    return spec;
}

}  // namespace seedloom
