// Method: a few points on the ball, the others put back without folds (Praun & Hoppe, SIGGRAPH 2003).
#include "geometry/Measures.h"
#include "geometry/Triangulate.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "surface/SphereEmbedding.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Polygons as triangles over the same points, for the method that needs them.
Geometry inTriangles(const Geometry& in) {
    const Triangles triangles = triangulate(in);
    std::vector<Index> start{0}, corners;
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        for (std::size_t k = 0; k < 3; ++k) corners.push_back(in.topology().cornerPoint()[triangles.corners[3 * t + k]]);
        start.push_back(Index(corners.size()));
    }
    return Geometry(in.positions(), Topology(in.pointCount(), std::move(start), std::move(corners), {0}, {}, {}));
}

std::vector<Vec3> pushedStraight(const Geometry& in, Vec3 middle) {
    std::vector<Vec3> out = in.positions();
    for (Vec3& p : out) p = normalized(p - middle);
    return out;
}

/// Even steps on the ball, folds or not.
void smoothed(const Geometry& in, std::vector<Vec3>& at, int rounds, const RunContext& run) {
    const auto& edges = in.topology().edges().edges;
    for (int round = 0; round < rounds; ++round) {
        run.poll();
        std::vector<Vec3> sum(at.size());
        std::vector<float> count(at.size(), 0);
        for (const auto& e : edges) sum[e.a] += at[e.b], sum[e.b] += at[e.a], count[e.a] += 1, count[e.b] += 1;
        for (std::size_t p = 0; p < at.size(); ++p)
            if (count[p] > 0) at[p] = normalized(mix(at[p], sum[p] / count[p], 0.5f), at[p]);
    }
}

double meanDistance(const Geometry& in, Vec3 middle) {
    double out = 0;
    for (Vec3 p : in.positions()) out += double(distance(p, middle)) / double(in.pointCount());
    return out;
}

Geometry computeMorphToSphere(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Morph to sphere needs a surface, and there are no faces here.");
    for (Vec3 p : in.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point is no finite place. Delete it first.");
    const int relax = call.integer("relax_rounds"), smooth = call.integer("smooth_rounds");
    const Field<float> amount = call.each("amount", in), weights = call.weights(in, Element::point);
    const Vec3 middle = boundsOf(in.positions()).centre();
    std::vector<Vec3> ball = pushedStraight(in, middle);
    const std::size_t before = foldedFaces(in, ball, {});
    if (relax > 0) {
        if (auto even = sphereEmbedding(inTriangles(in), relax, call.run())) ball = std::move(*even);
        else
            call.tell(NoticeLevel::warning, "morph.no_ball",
                      "Relaxing needs one closed surface without handles; this is pushed straight. Fill holes, and unite the parts first.", "relax_rounds");
    }
    smoothed(in, ball, smooth, call.run());
    const std::size_t after = foldedFaces(in, ball, {});
    if (before > 0 || after > 0)
        call.tell(after > 0 ? NoticeLevel::warning : NoticeLevel::info, "morph.overlap",
                  fmt::format("Faces folded over on the ball: {} when pushed straight, {} now.", before, after), "relax_rounds");
    const double given = call.number("radius");
    const float radius = float(given > 0 ? given : meanDistance(in, middle));
    std::vector<Vec3> places(ball.size());
    std::vector<float> weight(ball.size());
    for (std::size_t p = 0; p < ball.size(); ++p) {
        places[p] = middle + ball[p] * radius;
        weight[p] = std::clamp(amount[p], 0.0f, 1.0f) * weights[p];
    }
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(places), weight));
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    out.setColumn(Element::model, "overlap_before", Column(std::vector<std::int32_t>{std::int32_t(before)}));
    out.setColumn(Element::model, "overlap_after", Column(std::vector<std::int32_t>{std::int32_t(after)}));
    return out;
}

}  // namespace

OperatorSpec morphToSphereOperator() {
    OperatorSpec spec;
    spec.id = "morph_to_sphere";
    spec.order = 600;
    spec.label = "Morph to sphere";
    spec.family = Family::deform;
    spec.sentence = "Moves a surface towards a ball; relaxing spreads its points so that overhangs do not fold over.";
    spec.help =
        "Without relaxing every point goes straight out from the middle, and what overhangs is folded. Relaxing lays the surface onto the ball piece by piece "
        "without folds, then evens it out; it needs one closed surface without handles. Long tubes need some hundred rounds to look even. "
        "How many faces are folded is told, and written to the model as overlap_before and overlap_after.";
    spec.takes = Takes::faces;
    spec.synonyms = {"ball", "spherify", "inflate", "round", "unfold", "sphere map"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        numberSetting("amount", "Amount", Unit::part, 1).within(0, 1).slider(0, 1).each().helped("0 leaves the shape, 1 is the ball."),
        integerSetting("relax_rounds", "Relax rounds", 40)
            .within(0, 10000)
            .slider(0, 200)
            .helped("How often points are evened out on the ball; 0 pushes straight."),
        integerSetting("smooth_rounds", "Smooth rounds", 0).within(0, 10000).slider(0, 100).helped("Further rounds that also smooth over folds."),
        numberSetting("radius", "Radius", Unit::metre, 0).within(0, 1e6).slider(0, 5).helped("Of the ball; 0 takes the mean distance from the middle."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"amount", 0.75}}, {sample::ball()});
    spec.compute = computeMorphToSphere;
    return spec;
}

}  // namespace seedloom
