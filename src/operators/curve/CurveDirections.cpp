#include "geometry/Measures.h"
#include "operators/AllOperators.h"

namespace seedloom {

namespace {

/// Carries `up` from one point to the next by two reflections. Source: Wang, Jüttler, Zheng, Liu, "Computation of Rotation
/// Minimizing Frames", ACM TOG 27(1), 2008.
Vec3 carried(Vec3 up, Vec3 fromPlace, Vec3 fromTangent, Vec3 toPlace, Vec3 toTangent) {
    const Vec3 v1 = toPlace - fromPlace;
    const float c1 = dot(v1, v1);
    if (c1 < 1e-24f) return up;
    const Vec3 upL = up - v1 * (2 / c1 * dot(v1, up)), tangentL = fromTangent - v1 * (2 / c1 * dot(v1, fromTangent));
    const Vec3 v2 = toTangent - tangentL;
    const float c2 = dot(v2, v2);
    return c2 < 1e-24f ? upL : upL - v2 * (2 / c2 * dot(v2, upL));
}

Vec3 squareTo(Vec3 v, Vec3 axis) { return normalized(v - axis * dot(v, axis), anyPerpendicular(axis)); }

struct Directions {
    std::vector<Vec3> tangent, side, up;
    std::vector<float> along;
    std::vector<float> length;
};

void addCurve(const Geometry& in, std::size_t c, Vec3 hint, Directions& out) {
    const auto curve = in.topology().curve(c);
    const bool closed = in.topology().curveClosed(c) && curve.size() > 2;
    const auto& positions = in.positions();
    const std::size_t n = curve.size();
    if (n == 0) return;
    std::vector<Vec3> tangent(n), up(n);
    for (std::size_t i = 0; i < n; ++i) tangent[i] = curveTangent(curve, closed, i, positions);
    up[0] = squareTo(hint, tangent[0]);
    for (std::size_t i = 1; i < n; ++i)
        up[i] = squareTo(carried(up[i - 1], positions[curve[i - 1]], tangent[i - 1], positions[curve[i]], tangent[i]), tangent[i]);
    float gap = 0;
    if (closed) {
        // What is left after one round is spread over all points, so that the directions meet at the seam.
        const Vec3 back = squareTo(carried(up[n - 1], positions[curve[n - 1]], tangent[n - 1], positions[curve[0]], tangent[0]), tangent[0]);
        gap = std::atan2(dot(cross(back, up[0]), tangent[0]), dot(back, up[0]));
    }
    double length = 0;
    const double whole = curveLength(in, c);
    for (std::size_t i = 0; i < n; ++i) {
        if (i > 0) length += double(distance(positions[curve[i - 1]], positions[curve[i]]));
        const Index p = curve[i];
        out.tangent[p] = tangent[i];
        out.up[p] = rotateAbout(up[i], tangent[i], gap * float(i) / float(n));
        out.side[p] = cross(out.tangent[p], out.up[p]);
        out.along[p] = whole > 0 ? static_cast<float>(length / whole) : 0;
    }
    out.length[c] = static_cast<float>(whole);
}

Geometry compute(OperatorCall& call) {
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
    spec.label = "Curve directions";
    spec.family = Family::curve;
    spec.sentence = "Writes tangent, side and up along curves, without twist.";
    spec.help = "The three stand at right angles to each other; side is tangent × up. Also writes along (0–1) on points and length (m) on "
                "curves. On closed curves the directions meet at the seam.";
    spec.takes = Takes::curves;
    spec.synonyms = {"frame", "orientation", "tangent", "normal", "side", "up vector", "twist"};
    spec.inputs = {{"in", "Curves"}};
    spec.settings = {vec3Setting("up", "Up hint", Unit::none, {0, 1, 0}).helped("Up at the first point leans towards this direction.")};
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom
