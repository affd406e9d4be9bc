// Method: own.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computeTorus(OperatorCall& call) {
    const double radius = call.number("radius"), tube = call.number("tube");
    const int sides = call.integer("sides"), around = call.integer("tube_sides");
    call.run().require(4.0 * sides * around, "corners");
    if (tube >= radius)
        call.fail("torus.tube", "The tube is as thick as the ring or thicker, so it would run through itself. Make Tube smaller than Radius.", "tube");
    std::vector<Vec3> profile(static_cast<std::size_t>(around));
    for (int k = 0; k < around; ++k) {
        const double a = 2 * kPi * k / around;
        profile[std::size_t(k)] = {float(radius + tube * std::cos(a)), float(tube * std::sin(a)), 0};
    }
    RevolveOptions options;
    options.sides = sides;
    return revolve(curveThrough(std::move(profile), true), options);
}

}  // namespace

OperatorSpec torusOperator() {
    OperatorSpec spec;
    spec.id = "torus";
    spec.order = 110;
    spec.label = "Torus";
    spec.family = Family::make;
    spec.sentence = "Makes a closed ring with a round tube.";
    spec.help = "It lies flat about the origin. uv: x around the ring, y around the tube.";
    spec.synonyms = {"ring", "doughnut", "hoop", "tyre", "lifebuoy", "bead"};
    spec.settings = {
        numberSetting("radius", "Radius", Unit::metre, 0.5).within(1e-6, 1e6).slider(0.05, 3).helped("From the centre to the middle of the tube."),
        numberSetting("tube", "Tube", Unit::metre, 0.15).within(1e-6, 1e6).slider(0.01, 1).helped("Radius of the tube."),
        integerSetting("sides", "Sides", 48).atLeast(3).slider(3, 128).helped("Faces around the ring."),
        integerSetting("tube_sides", "Tube sides", 16).atLeast(3).slider(3, 64).helped("Faces around the tube."),
    };
    spec.compute = computeTorus;
    return spec;
}

}  // namespace seedloom
