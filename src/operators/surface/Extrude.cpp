// Method: own: offset points that hold the distance of every face around them.
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/surface/ExtrudeKernel.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

std::optional<Vec3> fixedDirection(OperatorCall& call) {
    if (call.choice("direction") != "fixed") return {};
    const Vec3 direction = call.vec3("axis");
    if (!(length(direction) > 1e-12f) || !isFinite(direction))
        call.fail("extrude.axis", "The axis has no length, so there is no direction to go to. Use 0, 1, 0 for straight up.", "axis");
    return normalized(direction);
}

std::vector<std::uint8_t> chosenOf(const Field<float>& weights, std::size_t count) {
    std::vector<std::uint8_t> out(count);
    for (std::size_t i = 0; i < count; ++i) out[i] = weights[i] > 0;
    return out;
}

/// A weight below 1 shortens the distance and the inset.
Field<float> times(Field<float> values, const Field<float>& weights, std::size_t count) {
    if (values.uniform && weights.uniform) return values.value *= weights.value, values;
    std::vector<float> out(count);
    for (std::size_t i = 0; i < count; ++i) out[i] = values[i] * weights[i];
    return {false, 0, std::move(out)};
}

Geometry lifted(OperatorCall& call, bool alone) {
    const Geometry& in = call.in();
    if (in.faceCount() == 0) call.fail("surface.none", "Extrude needs faces or curves, and there are none of them here.", "of");
    const Field<float> weights = call.weights(in, Element::face);
    ExtrudeOptions options;
    options.alone = alone;
    options.chosen = chosenOf(weights, in.faceCount());
    options.distance = times(call.each("distance", in, Element::face), weights, in.faceCount());
    options.inset = times(call.each("inset", in, Element::face), weights, in.faceCount());
    options.direction = fixedDirection(call);
    options.divisions = call.integer("divisions");
    options.sides = call.flag("sides");
    options.keepBack = call.flag("keep_back");
    call.run().require(double(in.cornerCount()) * (3.0 + 4.0 * options.divisions), "corners");
    std::size_t held = 0;
    Geometry out = extrudeFaces(in, options, call.run(), &held);
    if (held > 0)
        call.tell(NoticeLevel::warning, "extrude.inset",
                  fmt::format("The inset is smaller than asked at {} points, where faces are too narrow for it. Make it smaller, or the faces wider.", held),
                  "inset");
    return out;
}

/// From open edges onwards: within the surface, away from it; or in a fixed direction.
std::vector<Vec3> awayFromSurface(const Geometry& in) {
    const Topology& t = in.topology();
    std::vector<Vec3> out(in.pointCount());
    for (Index f = 0; f < in.faceCount(); ++f) {
        const Vec3 n = normalized(areaVector(t.face(f), in.positions()), {});
        for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
            if (t.edges().faceCount[t.edges().cornerEdge[c]] != 1) continue;
            const Index a = t.cornerPoint()[c], b = t.cornerPoint()[c + 1 == t.faceStart()[f + 1] ? t.faceStart()[f] : c + 1];
            const Vec3 away = cross(normalized(in.positions()[b] - in.positions()[a], {}), n);
            out[a] += away, out[b] += away;
        }
    }
    for (Vec3& v : out) v = normalized(v, {});
    return out;
}

/// The direction that a closed or bent curve's plane faces, else straight up.
std::vector<Vec3> planeNormals(const Geometry& in) {
    std::vector<Vec3> out(in.pointCount(), {0, 1, 0});
    for (Index c = 0; c < in.curveCount(); ++c) {
        const Vec3 n = normalized(areaVector(in.topology().curve(c), in.positions()), {0, 1, 0});
        for (Index p : in.topology().curve(c)) out[p] = n;
    }
    return out;
}

Geometry drawnOut(OperatorCall& call, bool curves) {
    const Geometry& in = call.in();
    if (curves && in.curveCount() == 0) call.fail("curve.none", "There are no curves to draw out. Set 'Of' to region for faces.", "of");
    if (!curves && in.faceCount() == 0) call.fail("surface.none", "There are no edges here, as there are no faces. Set 'Of' to curves for lines.", "of");
    const Field<float> weights = call.weights(in, Element::point);
    const Field<float> distance = call.each("distance", in, Element::point);
    const int divisions = call.integer("divisions");
    call.run().require((double(in.cornerCount()) + double(in.topology().curvePoint().size())) * (2 + 4.0 * divisions), "corners");
    const auto fixed = fixedDirection(call);
    std::vector<Vec3> by = fixed ? std::vector<Vec3>(in.pointCount(), *fixed) : curves ? planeNormals(in) : awayFromSurface(in);
    for (std::size_t p = 0; p < by.size(); ++p) by[p] *= distance[p] * weights[p];
    return curves ? extrudeCurves(in, by, divisions, call.flag("keep_back")) : extrudeEdges(in, chosenOf(weights, in.pointCount()), by, divisions);
}

Geometry computeExtrude(OperatorCall& call) {
    std::string of = call.choice("of");
    if (of == "auto") of = call.in().faceCount() == 0 && call.in().curveCount() > 0 ? "curves" : "region";
    if (of == "edges" || of == "curves") return drawnOut(call, of == "curves");
    return lifted(call, of == "each face");
}

}  // namespace

OperatorSpec extrudeOperator() {
    OperatorSpec spec;
    spec.id = "extrude";
    spec.order = 280;
    spec.label = "Extrude";
    spec.family = Family::surface;
    spec.sentence = "Lifts faces off with sides around them, draws edges out, or makes walls of curves.";
    spec.help =
        "A region moves as one, and its distance holds for every face of it, also around corners; with each face, every face goes its own way. The inset moves "
        "the border inwards by that "
        "length. A closed solid stays closed; an open sheet becomes one with Keep back. Tags front, side and back tell the new faces apart; the rest is left "
        "bit for bit.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"raise", "lift", "inset", "pull out", "push in", "wall", "panel", "height", "solid"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        choiceSetting("of", "Of", {"auto", "region", "each face", "edges", "curves"}, "auto")
            .helped("Faces together, every face alone, open edges, or curves. Auto takes what comes: faces together, else curves."),
        numberSetting("distance", "Distance", Unit::metre, 0.1).within(-1e6, 1e6).slider(-1, 1).each(Element::face).helped("How far out; negative goes in."),
        numberSetting("inset", "Inset", Unit::metre, 0)
            .within(-1e6, 1e6)
            .slider(0, 0.5)
            .each(Element::face)
            .helped("How far each border edge moves inwards.")
            .when("of", {"auto", "region", "each face"}),
        choiceSetting("direction", "Direction", {"normal", "fixed"}, "normal").helped("Along the faces' normals, or along one axis for all."),
        vec3Setting("axis", "Axis", Unit::none, {0, 1, 0}).helped("The direction; its length does not matter.").when("direction", {"fixed"}),
        integerSetting("divisions", "Divisions", 1).within(1, 10000).slider(1, 16).helped("Rows of faces along the sides."),
        flagSetting("sides", "Sides", true).helped("Makes faces between the border and what was lifted.").when("of", {"auto", "region", "each face"}),
        flagSetting("keep_back", "Keep back", false)
            .helped("Closes the back: with the faces that were lifted, or across closed curves at both ends.")
            .when("of", {"auto", "region", "each face", "curves"}),
        whereSetting(Element::face),
        blendSetting(Element::face),
    };
    spec.sample = sample::step(spec.id, {{"of", "each face"}, {"distance", 0.2}, {"inset", 0.06}}, {sample::step("box", {{"cells", {2, 2, 2}}})});
    spec.compute = computeExtrude;
    return spec;
}

}  // namespace seedloom
