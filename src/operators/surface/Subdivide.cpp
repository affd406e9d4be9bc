// Method: Catmull-Clark (CAD 1978) and Loop (1987), by OpenSubdiv.
#include "surface/Subdivide.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

#include <numeric>

namespace seedloom {

namespace {

Geometry asTriangles(const Geometry& in) {
    const Triangles triangles = triangulate(in);
    RowPlan plan;
    plan.points.resize(in.pointCount());
    std::iota(plan.points.begin(), plan.points.end(), 0u);
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        for (int i = 0; i < 3; ++i) {
            const Index corner = triangles.corners[t * 3 + std::size_t(i)];
            plan.addCorner(in.topology().cornerPoint()[corner], corner);
        }
        plan.endFace(triangles.faceOf[t]);
    }
    for (Index c = 0; c < in.curveCount(); ++c) {
        const auto curve = in.topology().curve(c);
        plan.curvePoint.insert(plan.curvePoint.end(), curve.begin(), curve.end());
        plan.endCurve(c, in.topology().curveClosed(c));
    }
    return takeRows(in, std::move(plan));
}

/// 10 where faces turn by more than the angle; else the lesser `crease` value (0–1) of the edge's two points, times 10.
std::vector<float> sharpness(const Geometry& in, double angle, const std::vector<float>* crease) {
    if (angle >= 180 && !crease) return {};
    const EdgeTable& edges = in.topology().edges();
    const auto normals = faceNormals(in);
    std::vector<Index> first(edges.edges.size(), 0);
    std::vector<std::uint8_t> seen(edges.edges.size(), 0);
    std::vector<float> out(edges.edges.size(), 0);
    const float limit = static_cast<float>(std::cos(radians(angle)));
    for (Index c = 0; c < in.cornerCount(); ++c) {
        const Index e = edges.cornerEdge[c], f = in.topology().faceOfCorner()[c];
        if (seen[e]++ == 0) first[e] = f;
        else if (angle < 180 && dot(normals[first[e]], normals[f]) < limit) out[e] = 10;
    }
    if (crease)
        for (std::size_t e = 0; e < out.size(); ++e) {
            const float both = std::min((*crease)[edges.edges[e].a], (*crease)[edges.edges[e].b]);
            if (both > 0) out[e] = std::max(out[e], std::min(both, 1.0f) * 10);
        }
    return out;
}

void checkMesh(OperatorCall& call, const Geometry& in) {
    for (std::size_t f = 0; f < in.faceCount(); ++f) {
        const auto face = in.topology().face(f);
        bool good = face.size() >= 3 && face.size() <= 65535;
        for (std::size_t i = 0; i < face.size() && good; ++i) good = face[i] != face[(i + 1) % face.size()];
        if (!good)
            call.fail("mesh.degenerate_face",
                      fmt::format("Face {} has fewer than three different corners, one after the other. Weld and clean the mesh first.", f));
    }
    const EdgeTable& edges = in.topology().edges();
    for (Index uses : edges.faceCount)
        if (uses > 2) call.fail("mesh.non_manifold_edge", "Three or more faces meet at one edge, where no smooth surface can pass. Remove one of them first.");
}

Geometry computeSubdivide(OperatorCall& call) {
    SubdivideOptions options;
    const std::string form = call.choice("form");
    options.form = form == "loop" ? SubdivisionForm::loop : form == "flat" ? SubdivisionForm::flat : SubdivisionForm::catmullClark;
    options.levels = call.integer("levels");
    if (call.in().faceCount() == 0) call.fail("surface.none", "Subdivide needs a surface, and there are no faces here.");
    call.run().require(double(call.in().cornerCount()) * std::pow(4.0, options.levels), "corners");
    if (options.levels == 0) return call.in();
    checkMesh(call, call.in());
    const Geometry in = options.form == SubdivisionForm::loop ? asTriangles(call.in()) : call.in();
    const std::string name = call.text("crease");
    options.edgeSharpness = sharpness(in, call.number("crease_angle"), in.values<float>(Element::point, name));
    return subdivide(in, options, call.run());
}

}  // namespace

OperatorSpec subdivideOperator() {
    OperatorSpec spec;
    spec.id = "subdivide";
    spec.order = 310;
    spec.label = "Subdivide";
    spec.family = Family::surface;
    spec.sentence = "Divides faces into smaller ones, and rounds the shape if you like.";
    spec.help =
        "Each level makes four faces of one. Catmull–Clark and Loop round the shape; flat only divides. Edges that turn by more than "
        "the crease angle stay sharp; so do edges whose points both carry the crease attribute (0–1). A closed surface stays "
        "closed. Loop cuts faces into triangles first.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"smooth", "round", "refine", "divide", "soften", "catmull", "loop", "more faces"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("form", "Form", {"catmull-clark", "loop", "flat"}, "catmull-clark").helped("How new points are placed."),
        integerSetting("levels", "Levels", 1).within(0, 8).slider(0, 5).helped("How often each face becomes four."),
        numberSetting("crease_angle", "Crease angle", Unit::degree, 180).within(0, 180).slider(0, 180).helped("Edges that turn by more stay sharp."),
        textSetting("crease", "Crease", "crease").helped("A point attribute, 0 to 1, that keeps edges sharp."),
    };
    spec.sample = sample::step(spec.id, {{"levels", 2}}, {sample::box()});
    spec.compute = computeSubdivide;
    return spec;
}

}  // namespace seedloom
