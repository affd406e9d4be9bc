// Method: rings of latitude and longitude.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computeSphere(OperatorCall& call) {
    const double radius = call.number("radius");
    const int sides = call.integer("sides"), rings = call.integer("rings");
    call.run().require(4.0 * sides * rings, "corners");
    // A half circle from the lower to the upper pole; the poles lie exactly on the axis.
    std::vector<Vec3> profile(static_cast<std::size_t>(rings) + 1);
    for (int k = 0; k <= rings; ++k) {
        const double a = kPi * k / rings;
        profile[k] = {static_cast<float>(k == 0 || k == rings ? 0 : radius * std::sin(a)), static_cast<float>(-radius * std::cos(a)), 0};
    }
    RevolveOptions options;
    options.sides = sides;
    return revolve(curveThrough(std::move(profile), false), options);
}

}  // namespace

OperatorSpec sphereOperator() {
    OperatorSpec spec;
    spec.id = "sphere";
    spec.order = 80;
    spec.label = "Sphere";
    spec.family = Family::make;
    spec.sentence = "Makes a closed ball of rings, with one point at each pole.";
    spec.help = "Points lie exactly on the radius. uv: x around, y from the lower to the upper pole.";
    spec.synonyms = {"ball", "globe", "float", "round"};
    spec.settings = {
        numberSetting("radius", "Radius", Unit::metre, 0.5).within(1e-6, 1e6).slider(0.05, 3).helped("From the centre to every point."),
        integerSetting("sides", "Sides", 32).atLeast(3).slider(3, 128).helped("Faces around."),
        integerSetting("rings", "Rings", 16).atLeast(2).slider(2, 64).helped("Bands of faces from pole to pole."),
    };
    spec.compute = computeSphere;
    return spec;
}

}  // namespace seedloom
