// Method: edges by dihedral angle or border, joined into chains; level lines by linear interpolation across faces (marching triangles); ridges and valleys:
// Yoshizawa et al., 2005, see surface/CrestLines.
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "geometry/MixPlan.h"
#include "geometry/Triangulate.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "operators/curve/Chains.h"
#include "surface/CrestLines.h"

#include <unordered_map>

namespace seedloom {

namespace {

using Stretches = std::vector<std::array<Index, 2>>;

/// Edges of the surface that are features, as pairs of its points.
Stretches featureEdges(OperatorCall& call, const Geometry& in, const std::string& by) {
    const Topology& t = in.topology();
    const EdgeTable& edges = t.edges();
    Stretches out;
    if (by == "open edges") {
        // As the faces run, so that the outline of a sheet that looks up runs counter-clockwise seen from above.
        for (Index c = 0; c < t.cornerCount(); ++c) {
            const Index e = edges.cornerEdge[c], f = t.faceOfCorner()[c];
            if (edges.faceCount[e] != 1) continue;
            out.push_back({t.cornerPoint()[c], t.cornerPoint()[c + 1 == t.faceStart()[f + 1] ? t.faceStart()[f] : c + 1]});
        }
        return out;
    }
    std::vector<std::array<Index, 2>> faces(edges.edges.size(), {~Index{0}, ~Index{0}});
    for (Index c = 0; c < t.cornerCount(); ++c) {
        auto& pair = faces[edges.cornerEdge[c]];
        (pair[0] == ~Index{0} ? pair[0] : pair[1]) = t.faceOfCorner()[c];
    }
    if (by == "angle") {
        const auto normals = faceNormals(in);
        const float least = float(std::cos(radians(call.number("angle")))) - 1e-6f;
        for (std::size_t e = 0; e < faces.size(); ++e)
            if (edges.faceCount[e] == 2 && dot(normals[faces[e][0]], normals[faces[e][1]]) < least) out.push_back({edges.edges[e].a, edges.edges[e].b});
        return out;
    }
    const FoundColumn found = namedAttribute(call, in, "tag", Element::face);
    if (found.element == Element::face) {  // the border between tagged faces and others
        for (std::size_t e = 0; e < faces.size(); ++e) {
            const bool a = found.column.component(faces[e][0], 0) > 0.5;
            const bool b = faces[e][1] == ~Index{0} ? false : found.column.component(faces[e][1], 0) > 0.5;
            if (edges.faceCount[e] <= 2 && a != b) out.push_back({edges.edges[e].a, edges.edges[e].b});
        }
        return out;
    }
    const Column points = changeElement(in, found.column, found.element, Element::point);
    for (const auto& edge : edges.edges)
        if (points.component(edge.a, 0) > 0.5 && points.component(edge.b, 0) > 0.5) out.push_back({edge.a, edge.b});
    return out;
}

/// Where a value that is mixed over triangles is 0: new points on edges, and stretches across triangles.
struct LevelLine {
    MixPlan plan;
    Stretches stretches;
};

LevelLine levelLine(const Geometry& in, const std::vector<float>& value, const RunContext& run) {
    LevelLine out;
    const Triangles triangles = triangulate(in);
    std::unordered_map<std::uint64_t, Index> made;
    const auto above = [&](Index p) { return value[p] >= 0; };
    const auto crossing = [&](Index a, Index b) {
        if (a > b) std::swap(a, b);
        const auto [it, isNew] = made.try_emplace(std::uint64_t(a) << 32 | b, out.plan.points.size());
        if (isNew) out.plan.points.add(a, b, std::clamp(value[a] / (value[a] - value[b]), 1e-6f, 1 - 1e-6f));
        return it->second;
    };
    for (std::size_t t = 0; t < triangles.count(); ++t) {
        if (t % 16384 == 0) run.poll();
        Index p[3];
        for (int i = 0; i < 3; ++i) p[i] = in.topology().cornerPoint()[triangles.corners[3 * t + std::size_t(i)]];
        std::array<Index, 2> ends{};
        int count = 0;
        bool leaves = false;
        for (int i = 0; i < 3; ++i) {
            const Index a = p[i], b = p[(i + 1) % 3];
            if (above(a) == above(b) || !std::isfinite(value[a]) || !std::isfinite(value[b]) || count == 2) continue;
            if (count == 0) leaves = above(a);
            ends[std::size_t(count++)] = crossing(a, b);
        }
        if (count == 2) out.stretches.push_back(leaves ? ends : std::array<Index, 2>{ends[1], ends[0]});
    }
    return out;
}

std::vector<float> levelValues(OperatorCall& call, const Geometry& in, const std::string& by) {
    std::vector<float> out(in.pointCount());
    if (by == "plane") {
        const Vec3 normal = normalized(call.vec3("normal"), {}), origin = call.vec3("origin");
        if (!(length(normal) > 0.5f))
            call.fail("feature.normal", "The plane has no direction. Give Normal a length, such as 0, 1, 0 for a level cut.", "normal");
        for (std::size_t p = 0; p < out.size(); ++p) out[p] = dot(in.positions()[p] - origin, normal);
        return out;
    }
    const FoundColumn found = namedNumbers(call, in, "tag", Element::point);
    const Column column = changeElement(in, found.column, found.element, Element::point);
    const auto level = float(call.number("level"));
    for (std::size_t p = 0; p < out.size(); ++p) out[p] = float(column.component(p, 0)) - level;
    return out;
}

/// Attributes of curves that may be here as well say nothing about new ones.
Geometry withoutCurveAttributes(const Geometry& in) {
    Geometry out = in;
    for (const auto& [name, column] : in.table(Element::curve)) out.removeColumn(Element::curve, name);
    return out;
}

void tellNone(OperatorCall& call, const char* setting) {
    call.tell(NoticeLevel::warning, "feature.none", "No such line is on this surface, so the result is empty. Change the limit, or look by something else.",
              setting);
}

/// How much the surface turns away along the line, on the whole: its length times the curvature there.
float strengthOf(const Chain& chain, const CrestLines& lines, const Geometry& in) {
    const auto at = [&](std::size_t i) {
        const CrestLines::Point& p = lines.points[chain.points[i % chain.points.size()]];
        return mix(in.positions()[p.a], in.positions()[p.b], p.t);
    };
    double out = 0;
    for (std::size_t i = 0; i + (chain.closed ? 0 : 1) < chain.points.size(); ++i) {
        const CrestLines::Point &a = lines.points[chain.points[i]], &b = lines.points[chain.points[(i + 1) % chain.points.size()]];
        out += double(distance(at(i), at(i + 1))) * double(a.curvature + b.curvature) / 2;
    }
    return float(out);
}

Geometry crestCurves(OperatorCall& call, const Geometry& in, bool valleys) {
    const CrestLines lines = crestLines(in, valleys, call.integer("evened"), call.run());
    const auto least = float(call.number("strength"));
    MixPlan plan;
    std::vector<float> strength, curvature;
    // A point where lines end on each other has one place in each.
    for (const Chain& chain : chainsOf(lines.stretches, lines.points.size())) {
        const float each = strengthOf(chain, lines, in);
        if (each < least) continue;
        strength.push_back(each);
        for (const Index i : chain.points) {
            const CrestLines::Point& p = lines.points[i];
            plan.curvePoint.push_back(plan.points.add(p.a, p.b, p.t));
            curvature.push_back(p.curvature);
        }
        plan.endCurve(0, chain.closed);
    }
    if (strength.empty()) tellNone(call, "strength");
    Geometry out = takeMixed(withoutCurveAttributes(in), std::move(plan));
    out.setColumn(Element::point, "curvature", Column(std::move(curvature)));
    out.setColumn(Element::curve, "strength", Column(std::move(strength)));
    return out;
}

Geometry computeFeatureCurves(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Feature curves needs a surface, and there are no faces here.");
    const std::string by = call.choice("by");
    if (by == "ridges" || by == "valleys") return crestCurves(call, in, by == "valleys");
    MixPlan plan;
    Stretches stretches;
    if (by == "plane" || by == "level of an attribute") {
        LevelLine line = levelLine(in, levelValues(call, in, by), call.run());
        plan = std::move(line.plan), stretches = std::move(line.stretches);
    } else {
        stretches = featureEdges(call, in, by);
        std::vector<Index> number(in.pointCount(), ~Index{0});
        for (auto& stretch : stretches)
            for (Index& p : stretch) p = number[p] == ~Index{0} ? number[p] = plan.points.add(p) : number[p];
    }
    if (stretches.empty()) tellNone(call, "by");
    for (const Chain& chain : chainsOf(stretches, plan.points.size())) {
        plan.curvePoint.insert(plan.curvePoint.end(), chain.points.begin(), chain.points.end());
        plan.endCurve(0, chain.closed);
    }
    return takeMixed(withoutCurveAttributes(in), std::move(plan));
}

}  // namespace

OperatorSpec featureCurvesOperator() {
    OperatorSpec spec;
    spec.id = "feature_curves";
    spec.order = 270;
    spec.label = "Feature curves";
    spec.family = Family::curve;
    spec.sentence = "Takes curves out of a surface: sharp edges, open edges, borders of a tag, cuts with a plane, lines of equal value, ridges.";
    spec.help =
        "Edges are joined into long curves that end where more than two of them meet; open edges run as their faces do. Plane and level lines cross faces with "
        "new points, attributes mixed; so do ridges and valleys, which run where the surface bends most and carry curvature (1/m) and strength. Points keep "
        "their attributes.";
    spec.takes = Takes::faces;
    spec.synonyms = {"edges to curves", "outline", "contour", "isoline", "border", "crease", "section", "ridge"};
    spec.inputs = {{"in", "Surface"}};
    spec.settings = {
        choiceSetting("by", "By", {"angle", "open edges", "tag", "plane", "level of an attribute", "ridges", "valleys"}, "angle")
            .helped("What makes a line of the surface a feature."),
        numberSetting("angle", "Angle", Unit::degree, 30).within(0, 180).slider(0, 90).helped("Edges that turn by more than this.").when("by", {"angle"}),
        textSetting("tag", "Attribute", "mask")
            .helped("Of faces: the border of what is tagged. Of points: edges with both ends tagged. For a level: a number.")
            .when("by", {"tag", "level of an attribute"}),
        numberSetting("level", "Level", Unit::none, 0.5).slider(0, 1).helped("The value along the line.").when("by", {"level of an attribute"}),
        numberSetting("strength", "Strength", Unit::none, 1)
            .atLeast(0)
            .slider(0, 20)
            .helped("Weaker lines are left out: the length of a line times how much the surface bends across it, 1/m.")
            .when("by", {"ridges", "valleys"}),
        integerSetting("evened", "Evened out", 4)
            .within(0, 1000)
            .slider(0, 30)
            .helped("Rounds in which curvature is evened out before: more follow the form, and not each dent.")
            .when("by", {"ridges", "valleys"}),
        vec3Setting("origin", "Origin", Unit::metre, {0, 0, 0}).helped("A place on the plane.").when("by", {"plane"}),
        vec3Setting("normal", "Normal", Unit::none, {0, 1, 0}).helped("The direction that the plane faces.").when("by", {"plane"}),
    };
    spec.sample = sample::step(spec.id, {{"angle", 20}}, {sample::cells()});
    spec.compute = computeFeatureCurves;
    return spec;
}

}  // namespace seedloom
