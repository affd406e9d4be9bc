// Method: own: rings of the profile about an axis, seam and poles shared.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computeRevolve(OperatorCall& call) {
    const Geometry& in = call.in();
    if (in.curveCount() == 0) call.fail("curve.none", "Revolve needs a curve, and none is plugged in. Link a point list, a line or a polygon to it.");
    RevolveOptions options;
    options.axis = call.choice("axis")[0] - 'x';
    options.angle = call.number("angle");
    options.sides = call.integer("sides");
    options.heightScale = call.number("height_scale");
    options.caps = call.flag("caps");
    const std::string close = call.choice("close_to_axis");
    options.closeStart = close == "start" || close == "both";
    options.closeEnd = close == "end" || close == "both";
    if (options.angle < 1e-6) call.fail("setting.range", "Angle is 0, so nothing is turned. Use up to 360°.", "angle");
    if (options.angle >= 360 && options.sides < 3) call.fail("setting.range", "A full turn needs at least 3 sides.", "sides");
    call.run().require(4.0 * options.sides * double(in.topology().curvePoint().size()), "corners");
    std::size_t skipped = 0;
    Geometry out = revolve(in, options, &skipped);
    if (out.faceCount() == 0) call.fail("revolve.on_axis", "Every curve lies on the axis, so nothing can be turned. Move it away from the axis.");
    if (skipped > 0)
        call.tell(NoticeLevel::warning, "revolve.caps",
                  "The ends of the turn stay open: the profile is neither closed nor ends on the axis. Set 'Close to axis' to both.", "caps");
    return out;
}

}  // namespace

OperatorSpec revolveOperator() {
    OperatorSpec spec;
    spec.id = "revolve";
    spec.order = 240;
    spec.label = "Revolve";
    spec.family = Family::curve;
    spec.sentence = "Turns a profile about an axis and welds the seam and the points on the axis.";
    spec.help =
        "A full turn shares the points at the seam, and a profile that touches the axis closes there with one point. Faces look "
        "outward. The profile's attributes are carried to every ring. uv: x around, y along the profile.";
    spec.takes = Takes::curves;
    spec.synonyms = {"turn", "spin", "rotate profile", "vase", "barrel"};
    spec.inputs = {{"in", "Profile"}};
    spec.settings = {
        choiceSetting("axis", "Axis", {"x", "y", "z"}, "y").helped("The axis through the origin to turn about."),
        numberSetting("angle", "Angle", Unit::degree, 360).within(0, 360).slider(0, 360).helped("How far to turn; 360 closes the shape."),
        integerSetting("sides", "Sides", 32).atLeast(1).slider(3, 128).helped("Faces around."),
        numberSetting("height_scale", "Height scale", Unit::none, 1).within(-1e6, 1e6).slider(0, 3).helped("Multiplies the coordinate along the axis."),
        flagSetting("caps", "Caps", true).helped("Closes both ends of a partial turn with a face."),
        choiceSetting("close_to_axis", "Close to axis", {"none", "start", "end", "both"}, "none")
            .helped("Adds a flat disc from an open end of the profile to the axis."),
    };
    spec.compute = computeRevolve;
    return spec;
}

}  // namespace seedloom
