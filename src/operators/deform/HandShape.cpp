// Method: own: flows of space along strokes that are kept as places; see deform/HandShapeKernel.
#include "geometry/SelfIntersections.h"
#include "operators/GreatestFit.h"
#include "operators/deform/HandShapeKernel.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

std::vector<float> weightsOf(OperatorCall& call, const Geometry& in) {
    const Field<float> where = call.weights(in, Element::point);
    if (where.uniform && where.value == 1) return {};
    std::vector<float> out(in.pointCount());
    for (std::size_t p = 0; p < out.size(); ++p) out[p] = where[p];
    return out;
}

HandShaped shapedByAll(const OperatorCall& call, HandShaped shaped, const std::vector<StrokeImages>& strokes) {
    for (std::size_t i = 0; i < strokes.size(); ++i) {
        call.run().poll();
        call.run().setProgress(float(i) / float(strokes.size()));
        shapeByHand(shaped, strokes[i], call.run());
    }
    return shaped;
}

/// Those brushes go by the way that the surface faces.
void needsNormals(const OperatorCall& call, const std::vector<StrokeImages>& strokes) {
    for (const StrokeImages& stroke : strokes)
        if (!stroke.empty() && stroke.front().normal.empty() && stroke.front().mode != "grab" && stroke.front().mode != "smooth")
            call.fail(
                "hand_shape.normals",
                fmt::format(
                    "A stroke that shall {} needs the way the surface faces behind each place: [x, y, z, nx, ny, nz]. Draw it on the stage, or mend the file.",
                    stroke.front().mode),
                "strokes");
}

/// Edges are straight, and space between them is not: where faces are large beside what was done to them, they can go through each other.
void tellOfCrossings(OperatorCall& call, const Geometry& in, const Geometry& out, const std::vector<StrokeImages>& strokes) {
    if (crossingsOfAll(out, call.run()).pairs == 0) return;
    // Where pieces stand in each other anyway, only each by itself is asked.
    const bool apart = crossingsOfAll(in, call.run()).pairs == 0;
    const auto count = [&](const Geometry& g) { return apart ? crossingsOfAll(g, call.run()).pairs : crossingsWithinPieces(g, call.run()); };
    const std::size_t before = apart ? 0 : count(in), after = count(out);
    if (after <= before) return;
    std::string less = "Less of it helps, or a finer mesh before this step (Subdivide, Remesh).";
    const std::vector<float> weights = weightsOf(call, in);
    const double possible = greatestFit(call.number("amount"), [&](double amount) {
        Geometry g = in;
        g.setPositions(shapedByAll(call, readyToShape(in, weights, float(amount)), strokes).at);
        return count(g) <= before;
    });
    if (possible > 0) {
        if (std::holds_alternative<FixedSource>(call.source("amount"))) call.offer(setFix(fmt::format("Set Amount to {:g}", possible), "amount", possible));
        less = fmt::format("With an amount of {:g} none do; a finer mesh before this step (Subdivide, Remesh) takes more.", possible);
    }
    call.tell(NoticeLevel::warning, "hand_shape.crosses",
              fmt::format("Faces cross each other at {} places, as they are large beside what was done to them. {}", after, less), "amount");
}

Geometry computeHandShape(OperatorCall& call) {
    const Geometry& in = call.in();
    if (!hasStrokes(call)) return in;
    const std::vector<StrokeImages> strokes = strokesOf(call);
    needsNormals(call, strokes);
    const auto before =
        call.withoutUnfinished<HandShaped>([&] { return shapedByAll(call, readyToShape(in, weightsOf(call, in), float(call.number("amount"))), strokes); });
    std::vector<Vec3> at;
    if (const Json* more = call.unfinished("strokes")) {
        HandShaped next = *before;
        const StrokeImages stroke = strokeIn(call, *more);
        needsNormals(call, {stroke});
        shapeByHand(next, stroke, call.run());
        at = std::move(next.at);
    } else {
        at = before->at;
    }
    if (before->idle > 0)
        call.tell(
            NoticeLevel::info, "hand_shape.idle",
            fmt::format(
                "{} of {} strokes change nothing: no point is under the brush. A finer mesh before this step helps (Subdivide, Remesh), or a larger brush.",
                before->idle, strokes.size()),
            "strokes");
    Geometry out = in;
    out.setPositions(std::move(at));
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    // While the hand moves nobody waits for that.
    if (!call.unfinished("strokes")) tellOfCrossings(call, in, out, strokes);
    return out;
}

/// Across the front of a ball: an eye pressed in, and a nose pulled out.
Json sampleStrokes() {
    return {
        {{"points", {{-0.2, 0.2, 0.41, -0.4, 0.4, 0.82}, {0.2, 0.2, 0.41, 0.4, 0.4, 0.82}}}, {"radius", 0.2}, {"strength", 1}, {"soft", 0.6}, {"mode", "push"}},
        {{"points", {{0, -0.1, 0.49, 0, -0.2, 0.98}, {0, -0.1, 0.8, 0, -0.2, 0.98}}}, {"radius", 0.2}, {"strength", 1}, {"soft", 0.8}, {"mode", "grab"}}};
}

}  // namespace

OperatorSpec handShapeOperator() {
    OperatorSpec spec;
    spec.id = "hand_shape";
    spec.order = 605;
    spec.label = "Shape by hand";
    spec.family = Family::deform;
    spec.sentence = "Dents, pulls, flattens and smooths a model by strokes drawn on the stage.";
    spec.help =
        "Press Shape, then draw on the model. Grab takes what is under the brush along; Push and Pull go half of the brush's size against or along the "
        "surface, "
        "however often one stroke passes; Flatten lays it onto the plane of the stroke; Pinch draws it to the stroke's line; Smooth evens it out. Strokes are "
        "kept as "
        "places in space and act on whatever comes: the same shape with a finer or another base. Each can be left out, or removed, by itself. Strokes bend "
        "space "
        "without folding it, so what is closed stays closed and does not cross itself, as far as the mesh is fine enough.";
    spec.takes = Takes::curvesOrFaces;
    spec.synonyms = {"sculpt", "brush", "dent", "pull", "grab", "push", "flatten", "pinch", "hand", "clay", "model"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        strokesSetting("strokes", "Strokes", {"grab", "push", "pull", "flatten", "pinch", "smooth"}).helped("What was shaped, stroke by stroke."),
        numberSetting("amount", "Amount", Unit::part, 1).within(0, 1).slider(0, 1).helped("How much of all strokes is done; 0 leaves the model as it comes."),
        whereSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"strokes", sampleStrokes()}}, {sample::step("sphere", {{"sides", 48}, {"rings", 32}})});
    spec.compute = computeHandShape;
    return spec;
}

}  // namespace seedloom
