// Method: own: numbers that each face has by itself (decision 46); spacing in a grid; evened out by repulsion (Turk, SIGGRAPH 1992).
#include "operators/attribute/Strokes.h"
#include "operators/scatter/ScatterPlaces.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

constexpr const char* kUnits[3] = {"m²", "m³", "m"};

/// A number as people say it: 12, 3.4, 120000.
std::string rounded(double v) { return v >= 1000 ? fmt::format("{:.0f}", v) : fmt::format("{:.3g}", v); }

/// Says what the settings come to, so that nobody takes a density for a count.
void tellExpectation(OperatorCall& call, const ScatteredPlaces& found, const char* unit) {
    const std::string mode = call.choice("mode"), size = fmt::format("{} {}", rounded(found.size), unit);
    const std::size_t count = found.places.size();
    if (mode == "count")
        call.tell(NoticeLevel::info, "scatter.expected",
                  fmt::format("{} points on {}: {} per {} on average.", count, size, rounded(found.size > 0 ? double(count) / found.size : 0), unit), "count");
    else if (mode == "density")
        call.tell(NoticeLevel::info, "scatter.expected",
                  fmt::format("{}, so about {} points are expected. There are {}.", size, rounded(found.expected), count), "density");
    else call.tell(NoticeLevel::info, "scatter.expected", fmt::format("{} points found room on {}.", count, size), "spacing");
}

Geometry computeScatter(OperatorCall& call) {
    const Geometry& in = call.in();
    std::string where = call.choice("in");
    if (where == "auto") where = in.faceCount() == 0 && in.curveCount() > 0 ? "along curves" : "surface";
    const bool curves = where == "along curves", volume = where == "volume";
    call.give(1, in);
    if (curves && in.curveCount() == 0) call.fail("scatter.no_curves", "There are no curves here. Link some, or scatter on the surface.", "in");
    if (!curves && !volume && in.faceCount() == 0)
        call.fail("scatter.no_faces",
                  in.curveCount() > 0 ? "There are no faces here. Choose 'along curves', or link a surface." : "There are no faces here. Link a surface.",
                  "in");
    const ScatteredPlaces found = volume ? scatterInside(call, in) : scatterOnGround(call, in, curves);
    tellExpectation(call, found, kUnits[volume ? 1 : curves ? 2 : 0]);
    call.give(1, found.ground);
    return pointsAt(in, found, volume ? ScatterOn::inside : curves ? ScatterOn::curves : ScatterOn::faces);
}

}  // namespace

OperatorSpec scatterOperator() {
    OperatorSpec spec;
    spec.id = "scatter";
    spec.order = 790;
    spec.label = "Scatter";
    spec.family = Family::scatter;
    spec.sentence = "Puts points at random places on a surface, in a solid or along curves.";
    spec.help =
        "Count gives exactly as many points, spread over the whole. Density gives points per m² (per m³ in a volume, per m along curves), so a larger surface "
        "gets more. Spacing fills the "
        "surface with points that keep a distance. Every face draws its points from numbers of its own (by its id, or its place in the order): more points "
        "leave those that are there where they "
        "are, and a change of one part of the surface does not reshuffle the others. Points carry normal, id, density and the attributes of the place they lie "
        "on; along curves also tangent and along. Where and painting thin out: "
        "half a mask is half the points. Relax moves points apart until they stand evenly; they then depend on their neighbours. The second output is the "
        "surface with its density, to look at.";
    spec.synonyms = {"distribute", "random points", "sprinkle", "sow", "density", "poisson", "blue noise", "strew", "spread"};
    spec.inputs = {{"in", "Surface"}};
    spec.outputs = {{"out", "Points"}, {"surface", "Surface with density"}};
    spec.settings = {
        choiceSetting("mode", "Mode", {"count", "density", "spacing"}, "count").helped("What is given: how many in all, how many per m², or how far apart."),
        integerSetting("count", "Count", 100)
            .atLeast(0)
            .slider(0, 1000)
            .when("mode", {"count"})
            .helped("Exactly this many points in all, however large the surface is."),
        numberSetting("density", "Density", Unit::none, 10)
            .atLeast(0)
            .slider(0, 200)
            .each(Element::corner)
            .when("mode", {"density"})
            .helped("Points per m² (per m³ in a volume, per m along curves)."),
        numberSetting("spacing", "Spacing", Unit::metre, 0.1)
            .atLeast(1e-6)
            .slider(0.01, 1)
            .each(Element::corner)
            .when("mode", {"spacing"})
            .helped("No point is nearer to another than this; where it differs, the larger of both counts."),
        choiceSetting("in", "In", {"auto", "surface", "volume", "along curves"}, "auto")
            .helped("On the faces, inside of the solid that they enclose, or along the curves. Auto takes what comes: faces, else curves."),
        integerSetting("relax", "Relax", 0)
            .within(0, 1000)
            .slider(0, 30)
            .when("mode", {"count", "density"})
            .helped("Rounds in which points are moved apart until they stand evenly."),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed gives other places."),
        strokesSetting("strokes", "Painted", kPaintModes)
            .in("Painted density")
            .when("in", {"auto", "surface"})
            .helped("Paints where points may be, on the surface itself; without a stroke they may be everywhere."),
        whereSetting(Element::corner),
    };
    spec.takes = Takes::curvesOrFaces;
    spec.sample = sample::dotted(sample::step(spec.id, {{"mode", "spacing"}, {"spacing", 0.13}}, {sample::hill()}), sample::hill());
    spec.compute = computeScatter;
    return spec;
}

}  // namespace seedloom
