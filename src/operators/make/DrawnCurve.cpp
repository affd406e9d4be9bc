// Method: own: strokes kept as places, evened out by length.
#include "geometry/Measures.h"
#include "geometry/NearestPlace.h"
#include "operators/OperatorCall.h"

#include <fmt/format.h>

#include <memory>

namespace seedloom {

namespace {

/// Points at even distances along a line, both ends kept.
std::vector<Vec3> evenly(const std::vector<Vec3>& line, double spacing, const RunContext& run) {
    std::vector<double> at{0};
    for (std::size_t i = 1; i < line.size(); ++i) at.push_back(at.back() + double(distance(line[i - 1], line[i])));
    if (!(at.back() > 0) || line.size() < 2) return line;
    run.require(at.back() / spacing, "points");
    const auto count = std::max<std::size_t>(1, std::size_t(std::llround(at.back() / spacing)));
    std::vector<Vec3> out;
    std::size_t span = 1;
    for (std::size_t i = 0; i <= count; ++i) {
        const double metres = at.back() * double(i) / double(count);
        while (span + 1 < line.size() && at[span] < metres) ++span;
        const double length = at[span] - at[span - 1];
        out.push_back(mix(line[span - 1], line[span], length > 0 ? float((metres - at[span - 1]) / length) : 0));
    }
    out.back() = line.back();
    return out;
}

Vec3 intoPlane(Vec3 p, const std::string& plane) {
    if (plane == "ground") p.y = 0;
    if (plane == "front") p.z = 0;
    if (plane == "side") p.x = 0;
    return p;
}

Geometry compute(OperatorCall& call) {
    const auto strokes = call.lines("strokes");
    const std::string plane = call.choice("plane");
    const double spacing = call.number("spacing");
    const Geometry surface = call.port(0).empty() ? Geometry() : call.port(0).front();
    const bool onSurface = plane == "surface";
    if (onSurface && surface.faceCount() == 0)
        call.fail("drawn.surface", "Nothing with faces is plugged in to draw on. Link a surface, or choose another plane.", "plane");
    std::unique_ptr<NearestPlace> places;
    if (onSurface) places = std::make_unique<NearestPlace>(surface, NearestPlace::On::faces);
    if (places && places->empty()) call.fail("mesh.non_finite", "The surface has no face with finite places.");
    const auto normals = onSurface ? faceNormals(surface) : std::vector<Vec3>();
    std::vector<Vec3> positions, normal;
    std::vector<Index> start{0}, points;
    std::vector<std::uint8_t> closed;
    double count = 0;
    for (const auto& stroke : strokes) count += double(stroke.size());
    call.run().require(count, "points");
    const bool close = call.flag("close");
    for (std::vector<Vec3> line : strokes) {
        if (line.empty()) continue;
        for (Vec3& p : line) p = intoPlane(p, plane);
        if (spacing > 0) line = evenly(line, spacing, call.run());
        for (Vec3 p : line) {
            if (places) {
                const Place found = places->find(p);
                p = found.position;
                normal.push_back(normals[found.element]);
            }
            points.push_back(Index(positions.size()));
            positions.push_back(p);
        }
        start.push_back(Index(points.size()));
        closed.push_back(close && line.size() > 2);
    }
    if (positions.empty()) call.tell(NoticeLevel::info, "drawn.none", "Nothing is drawn yet. Choose Draw below, and draw on the stage.", "strokes");
    const std::size_t all = positions.size();
    Geometry out(std::move(positions), Topology(all, {0}, {}, std::move(start), std::move(points), std::move(closed)));
    if (!normal.empty()) out.setColumn(Element::point, "normal", Column(std::move(normal)));
    return out;
}

}  // namespace

OperatorSpec drawnCurveOperator() {
    OperatorSpec spec;
    spec.id = "drawn_curve";
    spec.order = 20;
    spec.label = "Drawn curve";
    spec.family = Family::make;
    spec.sentence = "Keeps lines that are drawn by hand on the stage as curves.";
    spec.help =
        "Draw on a plane through the origin, or on the surface that is plugged in; then the curve follows when that changes, and has its normals. Each stroke "
        "is one curve; spacing evens its points out.";
    spec.synonyms = {"pen", "freehand", "sketch", "draw", "stroke", "path", "crack line"};
    spec.inputs = {{"in", "Surface", false, true}};
    spec.settings = {
        linesSetting("strokes", "Strokes").helped("The drawn lines, each a list of points."),
        choiceSetting("plane", "Plane", {"ground", "front", "side", "surface"}, "ground")
            .helped("Where lines are drawn: on the ground, upright facing +Z or +X, or on the surface that is plugged in."),
        numberSetting("spacing", "Spacing", Unit::metre, 0.05)
            .within(0, 1e6)
            .slider(0, 0.5)
            .helped("Distance of the points along each line; 0 keeps them as they were drawn."),
        flagSetting("close", "Close", false).helped("Joins each line's end to its start."),
    };
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom
