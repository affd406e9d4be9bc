// Method: quadric errors (Garland & Heckbert, SIGGRAPH 1997) by meshoptimizer, and places where that does harm held.
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "geometry/Triangulate.h"
#include "operators/OperatorCall.h"
#include "surface/SoundSimplify.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Of the corners at a point the one whose face looks most alike: so that seams of the texture stay where they were.
Index cornerFor(const Geometry& in, const std::vector<Vec3>& normals, Index point, Vec3 normal) {
    Index best = 0;
    float most = -2;
    for (Index c : in.topology().cornersOfPoint()[point]) {
        const float alike = dot(normals[in.topology().faceOfCorner()[c]], normal);
        if (alike > most) most = alike, best = c;
    }
    return best;
}

/// Triangles of the input's points as faces with attributes.
Geometry fromTriangles(const Geometry& in, const std::vector<Index>& indices) {
    const auto normals = faceNormals(in);
    RowPlan plan;
    std::vector<Index> number(in.pointCount(), ~Index{0});
    for (std::size_t i = 0; i + 2 < indices.size(); i += 3) {
        const Index* p = &indices[i];
        const Vec3 n = normalized(cross(in.positions()[p[1]] - in.positions()[p[0]], in.positions()[p[2]] - in.positions()[p[0]]), {});
        Index face = 0;
        for (std::size_t k = 0; k < 3; ++k) {
            if (number[p[k]] == ~Index{0}) number[p[k]] = Index(plan.points.size()), plan.points.push_back(p[k]);
            const Index corner = cornerFor(in, normals, p[k], n);
            if (k == 0) face = in.topology().faceOfCorner()[corner];
            plan.addCorner(number[p[k]], corner);
        }
        plan.endFace(face);
    }
    Geometry out = takeRows(in, std::move(plan));
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    return out;
}

Geometry computeSimplify(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Simplify needs a surface, and there are no faces here.");
    for (Vec3 p : in.positions())
        if (!isFinite(p)) call.fail("mesh.non_finite", "A point is no finite place. Delete it first.");
    const Triangles triangles = triangulate(in);
    const auto target = std::size_t(call.integer("target"));
    if (triangles.count() <= target) {
        call.tell(NoticeLevel::info, "simplify.enough", fmt::format("There are {} triangles already, no more than asked for.", triangles.count()));
        return in;
    }
    std::vector<Index> indices(triangles.corners.size());
    for (std::size_t i = 0; i < indices.size(); ++i) indices[i] = in.topology().cornerPoint()[triangles.corners[i]];
    const SoundSimplifyOptions options{target, call.number("error"), call.flag("hold_open_edges")};
    const std::vector<Index> out = simplifiedSoundly(trianglesOver(in.positions(), indices), options, call.run());
    if (out.size() / 3 > target + target / 50 + 2)
        call.tell(NoticeLevel::info, "simplify.stopped",
                  fmt::format("{} triangles are left: fewer would change the shape more than allowed, or tear it.", out.size() / 3), "target");
    return fromTriangles(in, out);
}

}  // namespace

OperatorSpec simplifyOperator() {
    OperatorSpec spec;
    spec.id = "simplify";
    spec.order = 430;
    spec.label = "Simplify";
    spec.family = Family::surface;
    spec.sentence = "Makes a surface of fewer triangles that looks as alike as possible.";
    spec.help =
        "Points are left out where that changes the shape least; those that stay keep their place and attributes bit for bit. Method: quadric errors (Garland "
        "& Heckbert, SIGGRAPH 1997), by meshoptimizer. A surface that is sound stays so: around places that would tear or cross more triangles are left. "
        "Curves and copies are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"decimate", "reduce", "fewer faces", "low poly", "lighter", "optimize"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        integerSetting("target", "Target", 1000).within(4, 100000000).slider(10, 20000).helped("How many triangles are wanted."),
        numberSetting("error", "Largest error", Unit::metre, 0)
            .within(0, 1e6)
            .slider(0, 0.1)
            .helped("Stops before the surface moves by more than this; 0 sets no limit."),
        flagSetting("hold_open_edges", "Hold open edges", false).helped("Leaves all points at open edges."),
    };
    spec.sample = sample::step(spec.id, {{"target", 120}}, {sample::ball()});
    spec.compute = computeSimplify;
    return spec;
}

}  // namespace seedloom
