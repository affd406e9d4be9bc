// Method: own: a hash of the element's id and the seed (fields/Random).
#include "fields/Random.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

/// An even direction from two even numbers (Archimedes' cylinder).
Vec3 direction(double a, double b) {
    const double y = 2 * a - 1, r = std::sqrt(std::max(0.0, 1 - y * y)), turn = 2 * kPi * b;
    return {float(r * std::cos(turn)), float(y), float(r * std::sin(turn))};
}

Geometry computeRandomAttribute(OperatorCall& call) {
    const Geometry& in = call.in();
    const std::string name = newName(call, "name"), form = call.choice("form"), by = call.text("by");
    const Element element = elementOf(call, "element");
    const double low = call.number("low"), high = call.number("high"), seed = call.number("seed"), chance = call.number("chance");
    const std::size_t count = in.count(element);
    const FoundColumn found =
        by.empty() ? FoundColumn{*columnFor(in, in.column(element, "id") ? "id" : "index", element), element} : namedAttribute(call, in, "by", element);
    const Column id = changeElement(in, found.column, found.element, element);
    const auto at = [&](std::size_t i, double part) { return randomOf(id.component(i, 0), seed + part * 0.618033988749895); };
    const auto filled = [&](auto&& value) {
        std::vector<decltype(value(std::size_t(0)))> out(count);
        forEach(count, call.run(), [&](std::size_t i) { out[i] = value(i); });
        return Column(std::move(out));
    };
    Column fresh = form == "whole number"
                     ? filled([&](std::size_t i) { return std::int32_t(std::clamp(std::floor(low + (high - low + 1) * at(i, 0)), -2e9, 2e9)); })
                 : form == "true or false" ? filled([&](std::size_t i) { return std::uint8_t(at(i, 0) < chance); })
                 : form == "direction"     ? filled([&](std::size_t i) { return direction(at(i, 0), at(i, 1)); })
                 : form == "colour"        ? filled([&](std::size_t i) {
                       return Vec3{float(at(i, 0)), float(at(i, 1)), float(at(i, 2))};
                   })
                                           : filled([&](std::size_t i) { return float(low + (high - low) * at(i, 0)); });
    return withAttribute(call, in, element, name, std::move(fresh));
}

}  // namespace

OperatorSpec randomAttributeOperator() {
    OperatorSpec spec;
    spec.id = "random_attribute";
    spec.order = 730;
    spec.label = "Random attribute";
    spec.family = Family::attribute;
    spec.sentence = "Gives every element a random number, direction or colour of its own.";
    spec.help =
        "The value depends on the element's id (or on its place in the order) and the seed only: more elements reshuffle nothing. Elements with the same value "
        "of By "
        "share one random value, as all faces of a piece.";
    spec.synonyms = {"noise", "chance", "vary", "dice", "randomise", "per piece"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("name", "Name", "tone").helped("The attribute to write."),
        choiceSetting("element", "Element", kElementWords, "point").helped("What carries it."),
        choiceSetting("form", "Form", {"number", "whole number", "true or false", "direction", "colour"}, "number").helped("What kind of value it is."),
        numberSetting("low", "From", Unit::none, 0).when("form", {"number", "whole number"}).helped("The least value."),
        numberSetting("high", "To", Unit::none, 1).when("form", {"number", "whole number"}).helped("The largest value; whole numbers reach it."),
        numberSetting("chance", "Chance", Unit::part, 0.5)
            .within(0, 1)
            .slider(0, 1)
            .when("form", {"true or false"})
            .helped("How many of the elements are true."),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed gives other values."),
        textSetting("by", "By", "").helped("Elements that agree in this attribute share a value; empty: each has its own."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step("colour", {{"attribute", "tone"}}, {sample::step(spec.id, {{"element", "face"}}, {sample::ball(0.6, 4)})});
    spec.compute = computeRandomAttribute;
    return spec;
}

}  // namespace seedloom
