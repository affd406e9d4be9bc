// Method: own: regular, on the radius.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry fan(std::vector<Vec3> ring) {
    const auto n = static_cast<Index>(ring.size());
    ring.push_back({});
    std::vector<Index> start{0}, corners;
    for (Index i = 0; i < n; ++i) {
        corners.insert(corners.end(), {n, i, (i + 1) % n});
        start.push_back(static_cast<Index>(corners.size()));
    }
    return Geometry(std::move(ring), Topology(n + 1, std::move(start), std::move(corners), {0}, {}, {}));
}

Geometry computePolygon(OperatorCall& call) {
    const int sides = call.integer("sides");
    const double radius = call.number("radius");
    const std::string form = call.choice("form");
    call.run().require(sides, "points");
    std::vector<Vec3> ring(static_cast<std::size_t>(sides));
    for (int i = 0; i < sides; ++i) {
        const double a = 2 * kPi * i / sides;
        ring[i] = {static_cast<float>(radius * std::cos(a)), 0, static_cast<float>(-radius * std::sin(a))};
    }
    if (form == "fan") return fan(std::move(ring));
    return form == "filled" ? faceThrough(std::move(ring)) : curveThrough(std::move(ring), true);
}

}  // namespace

OperatorSpec polygonOperator() {
    OperatorSpec spec;
    spec.id = "polygon";
    spec.order = 40;
    spec.label = "Polygon";
    spec.family = Family::make;
    spec.sentence = "Makes a regular polygon or a circle on the ground, as a line or an area.";
    spec.help = "Corners lie on the radius and run counter-clockwise seen from above; many sides make a circle.";
    spec.synonyms = {"circle", "ring", "disc", "hexagon", "loop", "round"};
    spec.settings = {
        integerSetting("sides", "Sides", 6).atLeast(3).slider(3, 64).helped("How many corners."),
        numberSetting("radius", "Radius", Unit::metre, 0.5).within(0, 1e6).slider(0, 3).helped("From the centre to a corner."),
        choiceSetting("form", "Form", {"curve", "filled", "fan"}, "curve").helped("A closed line, one face, or triangles around a centre point."),
    };
    spec.compute = computePolygon;
    return spec;
}

}  // namespace seedloom
