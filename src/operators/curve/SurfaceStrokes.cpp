// Method: streamlines by the midpoint rule on triangles; evenly apart: Jobard and Lefer, 1997; see scatter/SurfaceStrokes.
#include "scatter/SurfaceStrokes.h"

#include "geometry/Measures.h"
#include "operators/AttributeWork.h"
#include "operators/scatter/ScatterPlaces.h"
#include "parallel/Loops.h"
#include "surface/Curvature.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr const char* kUsual = "direction";

void checkPlaces(const OperatorCall& call, const Geometry& in) {
    if (!std::all_of(in.positions().begin(), in.positions().end(), isFinite))
        call.fail("strokes.nowhere", "Some points are no numbers. Mend what comes in, or delete them.");
}

/// What the attribute says at points; where nobody wrote the usual one, the way along which the surface bends least.
std::vector<Vec3> givenDirections(OperatorCall& call, const Geometry& in) {
    if (call.text("direction") == kUsual && !findColumn(in, kUsual, Element::point)) {
        call.offer(insertFix("Measure it before", "measure", {{"of", "principal direction"}, {"name", kUsual}}));
        call.tell(NoticeLevel::info, "strokes.direction",
                  "There is no attribute 'direction', so strokes run where the surface bends least. Measure one before, or name another.", "direction");
        return principalDirectionsOf(in, false, call.run());
    }
    const FoundColumn found = namedAttribute(call, in, "direction");
    const Column points = changeElement(in, found.column, found.element, Element::point);
    const auto* given = points.as<Vec3>();
    if (!given) call.fail("setting.type", fmt::format("'{}' holds no directions. Name an attribute of three numbers.", call.text("direction")), "direction");
    return *given;
}

/// Directions at points, in the planes of the surface, turned; nothing where it is no number.
std::vector<Vec3> directionsOf(OperatorCall& call, const Geometry& in) {
    const std::vector<Vec3> given = givenDirections(call, in);
    const std::vector<Vec3> normals = pointNormals(in);
    const Field<float> turn = call.each("turn", in, Element::point);
    std::vector<Vec3> out(given.size());
    std::atomic<std::size_t> unknown{0};
    forEach(out.size(), call.run(), [&](std::size_t p) {
        const Vec3 flat = given[p] - normals[p] * dot(given[p], normals[p]);
        if (!isFinite(flat) || !std::isfinite(length(flat)) || !std::isfinite(turn[p])) {
            ++unknown;
            return;
        }
        out[p] = turn[p] == 0 ? flat : rotateAbout(flat, normals[p], float(radians(double(turn[p]))));
    });
    if (unknown > 0)
        call.tell(NoticeLevel::warning, "strokes.no_number", fmt::format("At {} points the direction is no number; strokes end there.", unknown.load()),
                  "direction");
    return out;
}

StrokeRule ruleOf(OperatorCall& call, const Geometry& in) {
    StrokeRule out;
    out.directions = directionsOf(call, in);
    out.step = call.number("step"), out.steps = call.integer("steps");
    out.bothWays = call.flag("both_ways");
    out.stopUnder = call.number("stop_under"), out.straighten = call.number("straighten");
    out.otherSide = call.flag("other_side"), out.shortest = call.number("shortest");
    const Field<float> apart = call.each("hold_apart", in, Element::point);
    std::vector<float> each(in.pointCount());
    bool any = false;
    for (std::size_t p = 0; p < each.size(); ++p) {
        each[p] = std::isfinite(apart[p]) ? std::max(0.0f, apart[p]) : 0;
        any = any || each[p] > 0;
    }
    if (any) out.apart = std::move(each);
    return out;
}

/// The places nearest to the points that are plugged in, and which of those each is.
std::vector<Walker> startsOn(OperatorCall& call, const Geometry& in, const Geometry& start, std::vector<Index>& of) {
    const NearestPlace nearest(in, NearestPlace::On::faces);
    std::vector<Walker> out;
    Index part = 0;
    for (Index p = 0; p < Index(start.pointCount()); ++p) {
        if (p % 4096 == 0) call.run().poll();
        if (!isFinite(start.positions()[p])) continue;
        const Place place = nearest.find(start.positions()[p], part);
        Walker& walker = out.emplace_back();
        walker.triangle = part = place.part;
        for (std::size_t k = 0; k < 3; ++k) walker.weight[k] = double(place.weights[k]);
        of.push_back(p);
    }
    if (out.size() < start.pointCount())
        call.tell(NoticeLevel::warning, "strokes.start",
                  fmt::format("{} of {} starts have no place; no stroke begins there.", start.pointCount() - out.size(), start.pointCount()));
    return out;
}

std::vector<Stroke> strokesOf(OperatorCall& call, const Geometry& in, const SurfaceWalk& surface, const StrokeRule& rule, std::vector<std::int32_t>& ids) {
    std::vector<Stroke> out;
    if (call.port(1).empty()) {
        if (rule.apart.empty()) {
            call.offer(setFix("Hold them apart", "hold_apart", 4 * rule.step));
            call.fail("strokes.fill", "Nothing is plugged in as starts, so strokes begin everywhere: that needs a distance that holds them apart.",
                      "hold_apart");
        }
        call.run().require(pointsToFill(surface, rule), "points");
        out = strokesEverywhere(surface, rule, call.run());
        for (std::size_t i = 0; i < out.size(); ++i) ids.push_back(std::int32_t(i));
        return out;
    }
    const Geometry& start = call.port(1).front();
    std::vector<Index> of;
    const std::vector<Walker> starts = startsOn(call, in, start, of);
    call.run().require(double(starts.size()) * double(rule.steps) * (rule.bothWays ? 2 : 1), "points");
    out = strokesFrom(surface, rule, starts, call.run());
    const auto* given = start.values<std::int32_t>(Element::point, "id");
    for (const Stroke& stroke : out) ids.push_back(given ? (*given)[of[stroke.start]] : std::int32_t(of[stroke.start]));
    return out;
}

/// Points along the strokes with all that the surface says there, as curves.
Geometry curvesOf(const Geometry& in, const SurfaceWalk& surface, const std::vector<Stroke>& strokes) {
    std::vector<Place> places;
    std::vector<Vec3> tangent;
    std::vector<float> along;
    std::vector<Index> curveStart{0}, curvePoint;
    for (const Stroke& stroke : strokes) {
        const std::size_t first = places.size();
        double length = 0;
        for (const Walker& walker : stroke.way) {
            places.push_back(surface.place(walker));
            if (places.size() > first + 1) length += double(distance(places.back().position, places[places.size() - 2].position));
            along.push_back(float(length));
            tangent.push_back(rounded(walker.heading));
            curvePoint.push_back(Index(curvePoint.size()));
        }
        for (std::size_t i = first; i < along.size(); ++i) along[i] = length > 0 ? float(double(along[i]) / length) : 0;
        curveStart.push_back(Index(curvePoint.size()));
    }
    const Geometry points = surfaceAt(in, places);
    Geometry out(points.positions(),
                 Topology(points.pointCount(), {0}, {}, curveStart, std::move(curvePoint), std::vector<std::uint8_t>(strokes.size(), std::uint8_t(0))));
    for (const Element element : {Element::point, Element::model})
        for (const auto& [name, column] : points.table(element))
            if (name != "position") out.setColumn(element, name, column);
    out.setColumn(Element::point, "tangent", Column(std::move(tangent)));
    out.setColumn(Element::point, "along", Column(std::move(along)));
    return out;
}

Geometry computeSurfaceStrokes(OperatorCall& call) {
    const Geometry& in = call.in();
    checkPlaces(call, in);
    const SurfaceWalk surface(in);
    if (surface.triangles() == 0) call.fail("surface.none", "Strokes need a surface to lie on, and there are no faces here. Plug a mesh in.");
    const StrokeRule rule = ruleOf(call, in);
    std::vector<std::int32_t> ids;
    const std::vector<Stroke> strokes = strokesOf(call, in, surface, rule, ids);
    if (strokes.empty())
        call.tell(NoticeLevel::warning, "strokes.none",
                  "No stroke begins: the direction is nowhere longer than Stop under, or all are shorter than Shortest. Lower those, or look at the attribute.",
                  "stop_under");
    Geometry out = curvesOf(in, surface, strokes);
    out.setColumn(Element::curve, "id", Column(std::move(ids)));
    return out;
}

}  // namespace

OperatorSpec surfaceStrokesOperator() {
    OperatorSpec spec;
    spec.id = "surface_strokes";
    spec.order = 275;
    spec.label = "Surface strokes";
    spec.family = Family::curve;
    spec.sentence = "Draws lines on a surface that follow a direction: along its ridges, downhill, around it.";
    spec.help =
        "A stroke begins at each point of Start, or everywhere by itself where nothing is plugged in there: beside others, the clearest directions first, "
        "until "
        "the surface is full. It goes on over the faces step by step, the way the attribute points; as lines have no sign, it never turns back where that "
        "flips. It ends after so many steps, where the direction is too short, at open edges, and before it comes too near to another one. The points lie on "
        "the surface and carry all it says there, normal, tangent and along (0–1); each curve has the id of its start.";
    spec.takes = Takes::faces;
    spec.synonyms = {"streamlines", "flow lines", "hatching", "hair", "follow the form", "field lines", "trace", "ridge lines"};
    spec.inputs = {{"surface", "Surface"}, {"start", "Start", false, true}};
    spec.settings = {
        textSetting("direction", "Direction", kUsual)
            .helped("The attribute that they follow, such as a gradient that Measure writes. Without one they run where the surface bends least."),
        numberSetting("turn", "Turn", Unit::degree, 0)
            .slider(-90, 90)
            .each(Element::point)
            .helped("Turns the direction about the normal: at 90 they run across it."),
        numberSetting("step", "Step", Unit::metre, 0.01).within(1e-6, 1e4).slider(0.001, 0.1).helped("From one point of a stroke to the next."),
        integerSetting("steps", "Steps", 100).within(1, 100'000).slider(1, 400).helped("At most so many, to each side."),
        flagSetting("both_ways", "Both ways", true).helped("From the start ahead and back."),
        numberSetting("hold_apart", "Hold apart", Unit::metre, 0.03)
            .within(0, 1e4)
            .slider(0, 0.2)
            .each(Element::point)
            .helped("A stroke ends before it comes nearer to another one, or to itself; 0: they may cross."),
        flagSetting("other_side", "Through thin walls", true)
            .helped("Strokes on the other side of a thin wall are near as well; without it both sides are covered as if the other one were not there."),
        numberSetting("stop_under", "Stop under", Unit::none, 0)
            .atLeast(0)
            .slider(0, 10)
            .helped("They end where the direction is shorter: where the surface hardly bends one way more than the other, or a slope is flat."),
        numberSetting("straighten", "Straighten", Unit::part, 0).within(0, 1).helped("How much a stroke keeps its heading against the direction."),
        numberSetting("shortest", "Shortest", Unit::metre, 0).atLeast(0).slider(0, 0.2).helped("Shorter strokes are left out."),
    };
    spec.sample = sample::step("sweep", {{"form", "tube"}, {"width", 0.024}},
                               {sample::step(spec.id, {{"direction", "direction"}, {"hold_apart", 0.08}, {"step", 0.02}, {"shortest", 0.1}},
                                             {sample::step("measure", {{"of", "gradient"}, {"attribute", "height"}, {"name", "direction"}},
                                                           {sample::step("measure", {{"of", "height"}}, {sample::ball()})})})});
    spec.compute = computeSurfaceStrokes;
    return spec;
}

}  // namespace seedloom
