// Method: split, collapse, flip, relax (Botsch & Kobbelt, SGP 2004), with kept feature edges.
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "geometry/Triangulate.h"
#include "operators/OperatorCall.h"
#include "surface/EvenRemesh.h"
#include "surface/ScanFacts.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// The same surface in triangles that have an area, without curves and loose points.
Geometry trianglesOf(const Geometry& in) {
    const Triangles triangles = triangulate(in);
    RowPlan plan;
    std::vector<Index> number(in.pointCount(), ~Index{0});
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        const Index* c = &triangles.corners[3 * t];
        const auto point = [&](int k) { return in.topology().cornerPoint()[c[k]]; };
        if (point(0) == point(1) || point(1) == point(2) || point(2) == point(0)) continue;
        for (int k = 0; k < 3; ++k) {
            const Index p = point(k);
            if (number[p] == ~Index{0}) number[p] = Index(plan.points.size()), plan.points.push_back(p);
            plan.addCorner(number[p], c[k]);
        }
        plan.endFace(triangles.faceOf[t]);
    }
    Geometry out = takeRows(in, std::move(plan));
    out.setCopies(nullptr);
    return out;
}

Geometry computeRemesh(OperatorCall& call) {
    const Geometry in = trianglesOf(call.in());
    if (in.faceCount() == 0) call.fail("surface.none", "Remesh needs a surface, and there are no faces here.");
    for (Vec3 p : in.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point is no finite place. Delete it first.");
    const EdgeTable& edges = in.topology().edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e) {
        if (edges.faceCount[e] > 2) call.fail("mesh.non_manifold_edge", "Three or more faces meet at one edge. Use Voxel remesh, or remove one of them first.");
        if (edges.faceCount[e] == 2 && edges.balance[e] != 0)
            call.fail("mesh.winding", "Neighbouring faces look to opposite sides. Put Make winding consistent before this.");
    }
    Field<float> length = call.each("edge_length", in);
    const double automatic = edgeOfTriangles(surfaceArea(in), double(in.faceCount()));
    EvenRemeshOptions options;
    options.rounds = call.integer("iterations");
    options.keepOverDegrees = call.number("keep_edges_over");
    options.edgeLength.resize(in.pointCount());
    double least = 1e300;
    for (std::size_t p = 0; p < options.edgeLength.size(); ++p) {
        const double wanted = length[p] > 0 ? double(length[p]) : automatic;
        options.edgeLength[p] = float(wanted);
        least = std::min(least, wanted);
    }
    if (!(least > 0)) call.fail("mesh.no_area", "The surface has no area, so no edge length fits. Make it larger first.");
    // A triangle of that edge has 0.43 of its square; three corners each. Uneven lengths are estimated by their mean.
    double mean = 0;
    for (float l : options.edgeLength) mean += 1 / (double(l) * double(l)) / double(options.edgeLength.size());
    call.run().require(3 * surfaceArea(in) * mean / 0.43, "corners");
    EvenlyRemeshed out = evenRemesh(in, options, call.run());
    if (out.crossing == EvenlyRemeshed::Crossing::notMended) {
        const double half = twoDigits(least / 2, std::floor);
        call.offer(setFix(fmt::format("Set Edge length to {:g} m", half), "edge_length", half));
        call.tell(NoticeLevel::warning, "remesh.narrow",
                  "The surface is left as it was: it has parts that are too thin for triangles of this length. Make them shorter.", "edge_length");
    } else if (out.crossing == EvenlyRemeshed::Crossing::asBefore) {
        std::vector<Index> crossing = crossingsOf(in).faces;
        const std::size_t count = crossing.size();
        call.offer(insertFix("Put Voxel remesh before it", "voxel_remesh"));
        call.offer(showFix("Show where", Element::face, std::move(crossing)));
        call.tell(NoticeLevel::warning, "mesh.crosses",
                  fmt::format("{} faces of the surface cross others, and so do some of the result. Put Voxel remesh before this, which takes that away.",
                              count));
    }
    return std::move(out.surface);
}

}  // namespace

OperatorSpec remeshOperator() {
    OperatorSpec spec;
    spec.id = "remesh";
    spec.order = 440;
    spec.label = "Remesh";
    spec.family = Family::surface;
    spec.sentence = "Covers a surface with even triangles of a wanted edge length.";
    spec.help =
        "Edges are split, joined and turned, and points moved along the surface, round by round. Sharp edges and open edges are kept as lines. The length may "
        "differ from place to place, and gets shorter where the surface is too thin for it: no faces cross. Attributes are taken from the nearest place of the "
        "old surface. Curves and copies are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"even triangles", "isotropic", "retopology", "uniform", "quality mesh", "refine"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        numberSetting("edge_length", "Edge length", Unit::metre, 0)
            .within(0, 1e6)
            .slider(0, 0.5)
            .each()
            .helped("How long edges should be; 0 keeps the surface about as fine as it is."),
        integerSetting("iterations", "Rounds", 3).within(1, 1000).slider(1, 10).helped("More rounds give more even triangles."),
        numberSetting("keep_edges_over", "Keep edges over", Unit::degree, 45)
            .within(0, 180)
            .slider(0, 180)
            .helped("Edges that turn by more than this stay; 180 keeps only open ones."),
    };
    spec.sample = sample::step(spec.id, {{"edge_length", 0.16}, {"iterations", 5}}, {sample::ball()});
    spec.compute = computeRemesh;
    return spec;
}

}  // namespace seedloom
