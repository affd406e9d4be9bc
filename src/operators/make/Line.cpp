// Method: own.
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Geometry computeLine(OperatorCall& call) {
    const Vec3 direction = call.vec3("direction");
    if (length(direction) < 1e-12f) call.fail("line.direction", "The direction has no length. Give at least one number other than 0.", "direction");
    const Vec3 span = normalized(direction) * static_cast<float>(call.number("length"));
    const int count = call.integer("points");
    call.run().require(count, "points");
    const std::string anchor = call.choice("anchor");
    const Vec3 start = anchor == "start" ? Vec3{} : anchor == "middle" ? span * -0.5f : -span;
    std::vector<Vec3> points(static_cast<std::size_t>(count));
    for (int i = 0; i < count; ++i) points[i] = start + span * (static_cast<float>(i) / static_cast<float>(count - 1));
    return curveThrough(std::move(points), false);
}

}  // namespace

OperatorSpec lineOperator() {
    OperatorSpec spec;
    spec.id = "line";
    spec.order = 30;
    spec.label = "Line";
    spec.family = Family::make;
    spec.sentence = "Makes a straight line of evenly spaced points.";
    spec.help = "The line runs from the origin along the direction, or has its middle or end there.";
    spec.synonyms = {"segment", "straight", "edge", "path", "axis"};
    spec.settings = {
        vec3Setting("direction", "Direction", Unit::none, {0, 1, 0}).helped("Where the line runs; its length does not matter."),
        numberSetting("length", "Length", Unit::metre, 1).within(0, 1e6).slider(0, 5).helped("From the first to the last point."),
        integerSetting("points", "Points", 2).atLeast(2).slider(2, 50).helped("How many points, both ends included."),
        choiceSetting("anchor", "Anchor", {"start", "middle", "end"}, "start").helped("Which part of the line lies at the origin."),
    };
    spec.compute = computeLine;
    return spec;
}

}  // namespace seedloom
