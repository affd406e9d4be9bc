// Method: own: a ramp over the range of the values.
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

Geometry computeRemap(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string from = call.text("from");
    const std::string to = call.text("to").empty() ? from : call.text("to");
    const FoundColumn found = namedNumbers(call, in, "from");
    const auto& values = *found.column.as<float>();
    if (to == "position") call.fail("attribute.position", "position can't take a single number. Choose another name.", "to");
    const Ramp ramp = call.ramp("ramp");
    const auto range = call.range("in_range").over(values);
    const double width = range[1] - range[0];
    const Field<float> weights = call.weights(in, found.element);
    std::vector<float> out(values.size());
    forEach(out.size(), call.run(), [&](std::size_t i) {
        const double v = double(values[i]);
        const double mapped = ramp.at(width != 0 ? (v - range[0]) / width : 0);
        out[i] = static_cast<float>(v + (mapped - v) * double(weights[i]));
    });
    Geometry result = in;
    result.setColumn(found.element, to, Column(std::move(out)));
    return result;
}

}  // namespace

OperatorSpec remapOperator() {
    OperatorSpec spec;
    spec.id = "remap";
    spec.order = 670;
    spec.label = "Remap";
    spec.family = Family::attribute;
    spec.sentence = "Reshapes the values of an attribute by a drawn ramp.";
    spec.help =
        "The range goes in at the ramp's left and right end; automatic means from the least to the largest value, always up to date. "
        "The result is written on the same elements, under the same or another name.";
    spec.synonyms = {"range", "curve", "levels", "contrast", "fit range", "normalise", "ramp"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("from", "From", "along").helped("The attribute to read."),
        textSetting("to", "To", "mask").helped("The attribute to write; empty means the same."),
        rangeSetting("in_range", "Range")
            .helped("The values that stand at the ramp's ends: of all values, of the middle ones (auto 2 % leaves 2 % out at each end), or two numbers."),
        rampSetting("ramp", "Ramp").helped("Turns 0–1 over the range into new values."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample =
        sample::step("colour", {{"attribute", "mask"}},
                     {sample::step(spec.id, {{"from", "height"}, {"ramp", {{"knots", {{0, 0}, {0.5, 1, "smooth"}, {1, 0}}}}}},
                                   {sample::step("set_attribute", {{"name", "height"}, {"value", {{"formula", "position.y"}}}}, {sample::ball(0.6, 16)})})});
    spec.compute = computeRemap;
    return spec;
}

}  // namespace seedloom
