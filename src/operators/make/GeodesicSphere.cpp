// Method: icosahedron subdivided by a frequency (class I geodesic sphere); panels are its dual, planes that touch the ball.
#include "operators/OperatorCall.h"
#include "operators/Polyhedra.h"

namespace seedloom {

namespace {

Geometry computeGeodesicSphere(OperatorCall& call) {
    const int frequency = call.integer("frequency");
    const double radius = call.number("radius");
    call.run().require(120.0 * frequency * frequency, "corners");
    Geometry ball = geodesicBall(frequency);
    const bool panels = call.choice("form") == "panels";
    if (panels) ball = touchingPanels(ball, 1);
    std::vector<Vec3> points = ball.positions();
    for (Vec3& p : points) p = p * float(radius);
    ball.setPositions(std::move(points));
    if (!panels) return ball;
    std::vector<std::uint8_t> five(ball.faceCount());
    for (std::size_t f = 0; f < five.size(); ++f) five[f] = ball.topology().face(f).size() == 5;
    ball.setColumn(Element::face, "pentagon", Column(std::move(five)));
    return ball;
}

}  // namespace

OperatorSpec geodesicSphereOperator() {
    OperatorSpec spec;
    spec.id = "geodesic_sphere";
    spec.order = 90;
    spec.label = "Geodesic sphere";
    spec.family = Family::make;
    spec.sentence = "Makes a ball of nearly equal triangles, or of flat hexagonal panels with twelve pentagons.";
    spec.help =
        "Triangles: the faces of an icosahedron divided frequency times along each edge and lifted onto the ball; every point lies on the radius. "
        "Panels: one for each of these points, flat and touching the ball there; the face tag pentagon marks the twelve.";
    spec.synonyms = {"ball", "dome", "radome", "icosphere", "hexagons", "panels", "football", "even sphere"};
    spec.settings = {
        numberSetting("radius", "Radius", Unit::metre, 0.5)
            .within(1e-6, 1e6)
            .slider(0.05, 10)
            .helped("From the centre to every point, or to the middle of every panel."),
        integerSetting("frequency", "Frequency", 4).within(1, 2000).slider(1, 32).helped("Pieces along each edge of the icosahedron."),
        choiceSetting("form", "Form", {"triangles", "panels"}, "triangles").helped("Triangles, or their hexagons and pentagons."),
    };
    spec.compute = computeGeodesicSphere;
    return spec;
}

}  // namespace seedloom
