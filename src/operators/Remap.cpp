#include "geometry/ElementTransfer.h"
#include "operators/AllOperators.h"
#include "parallel/Loops.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <limits>

namespace seedloom {

namespace {

std::array<double, 2> automaticRange(const Column& column) {
    std::array<double, 2> out{std::numeric_limits<double>::max(), std::numeric_limits<double>::lowest()};
    for (std::size_t i = 0; i < column.size(); ++i) {
        const double v = column.component(i, 0);
        if (std::isfinite(v)) out = {std::min(out[0], v), std::max(out[1], v)};
    }
    return out[0] <= out[1] ? out : std::array<double, 2>{0, 1};
}

Geometry compute(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string from = call.text("from");
    const std::string to = call.text("to").empty() ? from : call.text("to");
    auto found = findColumn(in, from, Element::point);
    if (!found) {
        const auto computed = columnFor(in, from, Element::point);
        if (!computed)
            call.fail("setting.unknown_attribute", fmt::format("There is no attribute '{}' here. The nearest are: {}.", from,
                                                               fmt::join(similarNames(from, attributeNames(in)), ", ")), "from");
        found = FoundColumn{*computed, Element::point};
    }
    if (componentCount(found->column.type()) != 1)
        call.fail("setting.type", fmt::format("'{}' is no single number, so it can't be remapped. Choose an attribute with one component.", from), "from");
    if (to == "position") call.fail("attribute.position", "position can't take a single number. Choose another name.", "to");
    const Ramp ramp = call.ramp("ramp");
    const auto given = call.range("in_range");
    const auto range = given ? *given : automaticRange(found->column);
    const double width = range[1] - range[0];
    const Field<float> weights = call.weights(in, found->element);
    std::vector<float> out(found->column.size());
    forEach(out.size(), call.run(), [&](std::size_t i) {
        const double v = found->column.component(i, 0);
        const double mapped = ramp.at(width != 0 ? (v - range[0]) / width : 0);
        out[i] = static_cast<float>(v + (mapped - v) * double(weights[i]));
    });
    Geometry result = in;
    result.setColumn(found->element, to, Column(std::move(out)));
    return result;
}

}  // namespace

OperatorSpec remapOperator() {
    OperatorSpec spec;
    spec.id = "remap";
    spec.label = "Remap";
    spec.family = Family::attribute;
    spec.sentence = "Reshapes the values of an attribute by a drawn ramp.";
    spec.help = "The range goes in at the ramp's left and right end; automatic means from the least to the largest value, always up to date. "
                "The result is written on the same elements, under the same or another name.";
    spec.synonyms = {"range", "curve", "levels", "contrast", "fit range", "normalise", "ramp"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("from", "From", "along").helped("The attribute to read."),
        textSetting("to", "To", "mask").helped("The attribute to write; empty means the same."),
        rangeSetting("in_range", "Range").helped("The values that stand at the ramp's ends: automatic, or two numbers."),
        rampSetting("ramp", "Ramp").helped("Turns 0–1 over the range into new values."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom
