// Method: own: a ramp over an attribute, a hash or noise; new colours lie over old ones by mask and blend.
#include "fields/Random.h"
#include "operators/AttributeWork.h"
#include "operators/OperatorCall.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// A number in 0–1 for each element: where it stands between the colours.
std::vector<float> shades(OperatorCall& call, const Geometry& in, Element element) {
    const std::string by = call.choice("by");
    std::vector<float> out(in.count(element));
    if (by == "noise") {
        NoiseOptions options;
        options.size = call.number("size");
        options.octaves = call.integer("octaves");
        options.seed = static_cast<std::uint32_t>(call.integer("seed"));
        const Column places = *columnFor(in, "position", element);
        const auto& at = *places.as<Vec3>();
        forChunks(out.size(), call.run(), [&](std::size_t, Range range) {
            const std::size_t n = range.end - range.begin;
            std::vector<float> x(n), y(n), z(n);
            for (std::size_t i = 0; i < n; ++i) x[i] = at[range.begin + i].x, y[i] = at[range.begin + i].y, z[i] = at[range.begin + i].z;
            const std::span<float> result(out.data() + range.begin, n);
            noise(x, y, z, options, result);
            for (float& v : result) v = v * 0.5f + 0.5f;
        });
        return out;
    }
    if (by == "piece") {
        const auto seed = double(call.integer("seed"));
        std::optional<Column> piece = columnFor(in, "piece", element);
        if (!piece) {
            const auto& of = in.topology().connection().pieceOfPoint;
            piece = changeElement(in, Column(std::vector<std::int32_t>(of.begin(), of.end())), Element::point, element, Combine::first);
        }
        forEach(out.size(), call.run(), [&](std::size_t i) { out[i] = float(randomOf(piece->component(i, 0), seed)); });
        return out;
    }
    const FoundColumn found = namedNumbers(call, in, "attribute", element);
    out = *changeElement(in, found.column, found.element, element).as<float>();
    const auto [low, high] = call.range("range").over(out);
    const double width = high - low;
    for (float& v : out) v = width != 0 && std::isfinite(v) ? float(std::clamp((double(v) - low) / width, 0.0, 1.0)) : 0.0f;
    return out;
}

Geometry computeColour(OperatorCall& call) {
    const Geometry& in = call.in();
    const Element element = elementOf(call, "element");
    const std::vector<float> at = shades(call, in, element);
    const Ramp ramp = call.ramp("ramp");
    const Vec3 low = call.vec3("low"), middle = call.vec3("middle"), high = call.vec3("high");
    std::vector<Vec3> out(at.size());
    forEach(out.size(), call.run(), [&](std::size_t i) {
        const auto t = float(std::clamp(ramp.at(double(at[i])), 0.0, 1.0));
        out[i] = t < 0.5f ? mix(low, middle, t * 2) : mix(middle, high, t * 2 - 1);
    });
    return withAttribute(call, in, element, newName(call, "name"), Column(std::move(out)));
}

}  // namespace

OperatorSpec colourOperator() {
    OperatorSpec spec;
    spec.id = "colour";
    spec.order = 720;
    spec.label = "Colour";
    spec.family = Family::attribute;
    spec.sentence = "Paints elements from an attribute, by piece or by noise, with three colours.";
    spec.help =
        "Where something stands between the colours comes from an attribute over its range, from a random number of each piece, or from noise in space; a ramp "
        "shapes it. Stacked "
        "nodes make layers: Where and Blend let the lower one show through. Exports carry `color` as vertex colours.";
    spec.synonyms = {"color", "paint", "tint", "vertex colour", "gradient", "layers"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        textSetting("name", "Name", "color").helped("The attribute to write."),
        choiceSetting("element", "Element", {"point", "corner", "face", "copy"}, "point").helped("What is painted."),
        choiceSetting("by", "By", {"attribute", "piece", "noise"}, "attribute").helped("What tells the colours apart."),
        textSetting("attribute", "Attribute", "mask").when("by", {"attribute"}).helped("The number that the colours follow."),
        rangeSetting("range", "Range")
            .when("by", {"attribute"})
            .helped("The values of the first and last colour: of all values, of the middle ones (auto 2 % leaves 2 % out at each end), or two numbers."),
        numberSetting("size", "Size", Unit::metre, 0.3).within(1e-6, 1e6).slider(0.01, 2).when("by", {"noise"}).helped("How large the patches are."),
        integerSetting("octaves", "Octaves", 4).within(1, 12).slider(1, 8).when("by", {"noise"}).helped("How many finer layers are added."),
        integerSetting("seed", "Seed", 0).slider(0, 100).when("by", {"piece", "noise"}).helped("Another seed gives another pattern."),
        vec3Setting("low", "First colour", Unit::part, {0.16f, 0.22f, 0.28f}).helped("Red, green and blue in 0–1."),
        vec3Setting("middle", "Middle colour", Unit::part, {0.55f, 0.50f, 0.42f}).helped("Red, green and blue in 0–1."),
        vec3Setting("high", "Last colour", Unit::part, {0.93f, 0.88f, 0.76f}).helped("Red, green and blue in 0–1."),
        rampSetting("ramp", "Ramp").helped("Shapes the way from the first to the last colour."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"attribute", "height"}},
                               {sample::step("set_attribute", {{"name", "height"}, {"value", {{"formula", "position.y"}}}},
                                             {sample::step("sphere", {{"radius", 0.6}})})});
    spec.compute = computeColour;
    return spec;
}

}  // namespace seedloom
