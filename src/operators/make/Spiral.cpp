// Method: helix; radius by growth a turn (logarithmic spiral).
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computeSpiral(OperatorCall& call) {
    const double turns = call.number("turns"), growth = call.number("growth");
    const int perTurn = call.integer("points_per_turn");
    const double wanted = std::ceil(turns * perTurn) + 1;
    call.run().require(wanted, "points");
    const auto count = std::max<std::size_t>(2, static_cast<std::size_t>(wanted));
    std::vector<float> along(count);
    for (std::size_t i = 0; i < count; ++i) along[i] = float(double(i) / double(count - 1));
    // Sources are asked on the curve before it has its shape: `along` is what they can follow.
    Geometry bare = curveThrough(std::vector<Vec3>(count), false);
    bare.setColumn(Element::point, "along", Column(along));
    const Field<float> radius = call.each("radius", bare), rise = call.each("rise", bare);
    std::vector<Vec3> points(count);
    double height = 0;
    for (std::size_t i = 0; i < count; ++i) {
        const double turn = turns * double(i) / double(count - 1), angle = 2 * kPi * turn;
        const double r = double(radius[i]) * std::pow(growth, turn);
        if (i > 0) height += (double(rise[i - 1]) + double(rise[i])) / 2 * turns / double(count - 1);
        points[i] = {float(r * std::cos(angle)), float(height), float(-r * std::sin(angle))};
    }
    Geometry out = bare;
    out.setPositions(std::move(points));
    return out;
}

}  // namespace

OperatorSpec spiralOperator() {
    OperatorSpec spec;
    spec.id = "spiral";
    spec.order = 120;
    spec.label = "Spiral";
    spec.family = Family::make;
    spec.sentence = "Makes a curve that winds about the upright axis: a screw line, a flat spiral, or the line of a whelk.";
    spec.help =
        "It winds anticlockwise seen from above. Radius and rise may follow along, which runs from 0 to 1. With a growth other than 1 the "
        "radius is multiplied by it each turn: a logarithmic spiral, as in shells.";
    spec.synonyms = {"helix", "coil", "screw", "spring", "shell", "whelk", "rope"};
    spec.settings = {
        numberSetting("turns", "Turns", Unit::none, 3).within(0.001, 10000).slider(0.25, 12).helped("How often it goes around."),
        numberSetting("radius", "Radius", Unit::metre, 0.5).within(-1e6, 1e6).slider(0, 3).each().helped("How far from the axis; with growth, at the start."),
        numberSetting("rise", "Rise", Unit::metre, 0.2).within(-1e6, 1e6).slider(0, 2).each().helped("How far up in each turn."),
        numberSetting("growth", "Growth", Unit::none, 1).within(0.01, 100).slider(0.5, 3).helped("Multiplies the radius in each turn; 1 keeps it."),
        integerSetting("points_per_turn", "Points in a turn", 32).within(3, 100000).slider(3, 128).helped("How fine it is."),
    };
    spec.sample = sample::step(spec.id, {{"turns", 4}});
    spec.compute = computeSpiral;
    return spec;
}

}  // namespace seedloom
