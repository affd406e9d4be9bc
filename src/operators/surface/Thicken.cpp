// Method: own: offset surfaces whose points are pulled back where faces would turn (decision 5).
#include "geometry/LeastOffset.h"
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"
#include "operators/surface/WallRoom.h"

#include <fmt/format.h>

#include <numeric>

namespace seedloom {

namespace {

/// The offset for unit thickness at each point, so that walls keep their thickness at edges and corners. Limited to 3, where faces meet in
/// a needle.
std::vector<Vec3> unitOffsets(const Geometry& in, const RunContext& run) {
    const Topology& t = in.topology();
    std::vector<LeastOffset> offsets(in.pointCount());
    for (std::size_t f = 0; f < in.faceCount(); ++f) {
        const Vec3 n = normalized(areaVector(t.face(f), in.positions()), {});
        for (Index p : t.face(f)) offsets[p].add(n, 1);
    }
    run.poll();
    std::vector<Vec3> out(in.pointCount());
    for (std::size_t p = 0; p < out.size(); ++p) {
        out[p] = offsets[p].solve(3);
        if (length(out[p]) < 1e-6f) out[p] = {};
    }
    return out;
}

/// Keeps open edges flat: there the offset runs within the plane of the opening, so that a foot stays on the ground and a rim
/// stays level. Openings that lie in the surface itself (the border of a sheet) have no such plane and stay as they are.
void flattenRims(const Geometry& in, std::vector<Vec3>& offset) {
    const Topology& t = in.topology();
    const EdgeTable& edges = t.edges();
    const auto normals = pointNormals(in);
    std::vector<Vec3> arriving(in.pointCount()), leaving(in.pointCount());
    for (std::size_t f = 0; f < in.faceCount(); ++f) {
        const Index begin = t.faceStart()[f], end = t.faceStart()[f + 1];
        for (Index c = begin; c < end; ++c) {
            if (edges.faceCount[edges.cornerEdge[c]] != 1) continue;
            const Index a = t.cornerPoint()[c], b = t.cornerPoint()[c + 1 == end ? begin : c + 1];
            leaving[a] = arriving[b] = normalized(in.positions()[b] - in.positions()[a], {});
        }
    }
    for (std::size_t p = 0; p < offset.size(); ++p) {
        const Vec3 across = cross(arriving[p], leaving[p]);
        if (length(across) < 1e-4f) continue;
        const Vec3 plane = normalized(across);
        if (std::abs(dot(plane, normals[p])) > 0.8f) continue;
        const Vec3 flat = offset[p] - plane * dot(plane, offset[p]);
        const float gain = dot(flat, normals[p]);
        if (gain > 0.2f) offset[p] = flat * (dot(offset[p], normals[p]) / gain);
    }
}

/// `even`: a thickness that fits everywhere, metres; 0 where there is none, or it is no plain number.
void tellOfRoom(OperatorCall& call, const GaveWay& gave, std::size_t points, double part, double even) {
    std::string what = "Make it thinner, or the shape wider.";
    if (even > 0) {
        // A formula is not thrown away for it.
        if (std::holds_alternative<FixedSource>(call.source("thickness"))) call.offer(setFix(fmt::format("Set Thickness to {:g} m", even), "thickness", even));
        what = fmt::format("An even wall may be {:g} m thick here.", even);
    }
    if (gave.folds > 0 && part > 0)
        call.tell(NoticeLevel::warning, "thicken.narrow",
                  fmt::format("The wall would cross itself at {} points, so it has {:.2g} of its thickness everywhere. {}", gave.folds, part, what),
                  "thickness");
    else if (gave.folds > 0)
        call.tell(NoticeLevel::warning, "thicken.folds", fmt::format("The wall crosses itself at {} points. {}", gave.folds, what), "thickness");
    else
        call.tell(NoticeLevel::warning, "thicken.narrow",
                  fmt::format("The wall is thinner than asked at {} of {} points, where the shape is too narrow for it. {}", gave.thinned, points, what),
                  "thickness");
}

/// Plan of the solid: the front as it was, the back with its faces turned over, and a strip of faces along open edges.
struct SolidPlan {
    RowPlan rows;
    std::vector<std::uint8_t> inside, rim;
};

SolidPlan planSolid(const Geometry& in, bool withRim) {
    const Topology& t = in.topology();
    const auto points = static_cast<Index>(in.pointCount());
    SolidPlan plan;
    for (int copy = 0; copy < 2; ++copy)
        for (Index p = 0; p < points; ++p) plan.rows.points.push_back(p);
    const auto endFace = [&](Index f, bool inside, bool rim) {
        plan.rows.endFace(f);
        plan.inside.push_back(inside);
        plan.rim.push_back(rim);
    };
    for (Index f = 0; f < t.faceCount(); ++f) {
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) plan.rows.addCorner(t.cornerPoint()[c], c);
        endFace(f, false, false);
    }
    for (Index f = 0; f < t.faceCount(); ++f) {
        for (Index c = t.faceStart()[f + 1]; c-- > t.faceStart()[f];) plan.rows.addCorner(t.cornerPoint()[c] + points, c);
        endFace(f, true, false);
    }
    if (!withRim) return plan;
    const EdgeTable& edges = t.edges();
    for (Index f = 0; f < t.faceCount(); ++f) {
        const Index begin = t.faceStart()[f], end = t.faceStart()[f + 1];
        for (Index c = begin; c < end; ++c) {
            if (edges.faceCount[edges.cornerEdge[c]] != 1) continue;
            const Index next = c + 1 == end ? begin : c + 1, a = t.cornerPoint()[c], b = t.cornerPoint()[next];
            plan.rows.addCorner(b, next), plan.rows.addCorner(a, c), plan.rows.addCorner(a + points, c), plan.rows.addCorner(b + points, next);
            endFace(f, false, true);
        }
    }
    return plan;
}

Geometry facesOnly(const Geometry& in) {
    RowPlan plan;
    const Topology& t = in.topology();
    std::vector<Index> number(in.pointCount(), 0);
    std::vector<std::uint8_t> used(in.pointCount(), 0);
    for (Index p : t.cornerPoint()) used[p] = 1;
    for (Index p = 0; p < used.size(); ++p)
        if (used[p]) number[p] = static_cast<Index>(plan.points.size()), plan.points.push_back(p);
    for (Index f = 0; f < t.faceCount(); ++f) {
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) plan.addCorner(number[t.cornerPoint()[c]], c);
        plan.endFace(f);
    }
    return takeRows(in, std::move(plan));
}

void checkInput(OperatorCall& call, const Geometry& in) {
    if (in.faceCount() == 0) call.fail("surface.none", "Thicken needs a surface, and there are no faces here.");
    call.run().require(3.0 * double(in.cornerCount()), "corners");
    const EdgeTable& edges = in.topology().edges();
    for (std::size_t e = 0; e < edges.edges.size(); ++e) {
        if (edges.faceCount[e] > 2)
            call.fail("mesh.non_manifold_edge", "Three or more faces meet at one edge, so there is no inside and outside. Remove one of them first.");
        if (edges.faceCount[e] == 2 && edges.balance[e] != 0)
            call.fail("mesh.winding", "Neighbouring faces look to opposite sides. Turn some over with Flip faces first.");
    }
}

Geometry computeThicken(OperatorCall& call) {
    const Geometry in = facesOnly(call.in());
    checkInput(call, in);
    const Field<float> thickness = call.each("thickness", in);
    const std::string side = call.choice("side");
    const float outPart = side == "out" ? 1.0f : side == "both" ? 0.5f : 0.0f;
    const std::size_t n = in.pointCount();
    std::vector<Vec3> by = unitOffsets(in, call.run());
    if (call.flag("flat_rims")) flattenRims(in, by);
    for (std::size_t p = 0; p < n; ++p) {
        if (!(thickness[p] > 0)) call.fail("setting.range", "Thickness must be above 0 everywhere, or there is no solid.", "thickness");
        by[p] *= thickness[p];
    }
    WallOffsets offsets(outPart, by);
    SolidPlan plan = planSolid(in, call.flag("rim"));
    Geometry out = takeRows(in, std::move(plan.rows));
    const GaveWay gave = makeRoom(in, offsets, out, call.run());
    if (gave.thinned > 0 || gave.folds > 0) {
        Geometry even = out;
        const double wished = thickness.uniform ? double(thickness.value) : 1;
        const double part = partThatFits(in, by, wished, outPart, even, call.run());
        if (gave.folds > 0 && part > 0) out = even;
        tellOfRoom(call, gave, n, part, thickness.uniform ? twoDigits(part * wished, std::round) : 0);
    }
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    out.setColumn(Element::face, "inside_wall", Column(std::move(plan.inside)));
    out.setColumn(Element::face, "rim", Column(std::move(plan.rim)));
    return out;
}

}  // namespace

OperatorSpec thickenOperator() {
    OperatorSpec spec;
    spec.id = "thicken";
    spec.order = 300;
    spec.label = "Thicken";
    spec.family = Family::surface;
    spec.sentence = "Gives a surface a wall, so that it becomes a closed solid.";
    spec.help =
        "An open surface gets a front, a back and a rim along its open edges; a closed one becomes hollow. The wall keeps its "
        "thickness at edges and corners, and gets thinner, with a notice that offers how thick it may be, where faces would turn over or cross. Tags "
        "inside_wall and rim tell the new faces apart; "
        "curves and loose points are left out.";
    spec.takes = Takes::faces;
    spec.synonyms = {"wall", "solid", "shell", "hollow", "watertight", "thickness", "depth"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        numberSetting("thickness", "Thickness", Unit::metre, 0.05).within(0, 1e6).slider(0.005, 0.5).each().helped("From front to back."),
        choiceSetting("side", "Side", {"in", "out", "both"}, "in").helped("Where the wall grows: behind the faces, before them, or half on each side."),
        flagSetting("flat_rims", "Flat rims", true).helped("Keeps open edges in their plane: a foot stays on the ground, a rim stays level."),
        flagSetting("rim", "Rim", true).helped("Closes the wall along open edges."),
    };
    spec.sample = sample::step(spec.id, {{"thickness", 0.08}}, {sample::cells()});
    spec.compute = computeThicken;
    return spec;
}

}  // namespace seedloom
