// Method: gradient noise (Perlin, SIGGRAPH 2002) or cells (Worley, SIGGRAPH 1996), along the normal.
#include "geometry/ElementTransfer.h"
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

namespace seedloom {

namespace {

NoiseOptions readNoise(OperatorCall& call) {
    NoiseOptions options;
    options.size = call.number("size");
    options.octaves = call.integer("octaves");
    options.roughness = call.number("roughness");
    options.seed = static_cast<std::uint32_t>(call.integer("seed"));
    const Vec3 offset = call.vec3("offset"), stretch = call.vec3("stretch");
    for (int c = 0; c < 3; ++c) options.offset[c] = double(offset[c]), options.stretch[c] = double(stretch[c]);
    options.kind = static_cast<NoiseKind>(std::ranges::find(kNoiseKinds, call.choice("kind")) - kNoiseKinds.begin());
    options.ridged = call.flag("ridged");
    return options;
}

Column directions(OperatorCall& call, const Geometry& in) {
    const bool byNormal = call.choice("along") == "normal";
    const std::string name = byNormal ? "normal" : call.text("attribute");
    const auto column = columnFor(in, name, Element::point);
    if (!column)
        call.fail("setting.unknown_attribute",
                  fmt::format("There is no attribute '{}' here. The nearest are: {}.", name, fmt::join(similarNames(name, attributeNames(in)), ", ")),
                  "attribute");
    if (column->type() != ColumnType::vec3) call.fail("setting.type", fmt::format("'{}' is no direction: it needs three components.", name), "attribute");
    return *column;
}

/// Adds amount × noise × direction to every point.
void displace(const Geometry& in, const NoiseOptions& options, const Field<float>& amount, const Field<float>& weights, const RunContext& run,
              std::vector<Vec3>& to, auto&& directionAt) {
    const auto& from = in.positions();
    forChunks(from.size(), run, [&](std::size_t, Range range) {
        const std::size_t n = range.end - range.begin;
        std::vector<float> columns(n * 4);
        const std::span<float> x(columns.data(), n), y(x.data() + n, n), z(y.data() + n, n), value(z.data() + n, n);
        for (std::size_t i = 0; i < n; ++i) {
            const Vec3 p = from[range.begin + i];
            x[i] = p.x, y[i] = p.y, z[i] = p.z;
        }
        noise(x, y, z, options, value);
        for (std::size_t i = 0; i < n; ++i) {
            const std::size_t p = range.begin + i;
            const float by = amount[p] * weights[p] * value[i];
            if (by != 0) to[p] += directionAt(p) * by;
        }
    });
}

Geometry computeNoiseDisplace(OperatorCall& call) {
    const Geometry& in = call.in();
    const NoiseOptions options = readNoise(call);
    const Field<float> amount = call.each("amount", in), weights = call.weights(in, Element::point);
    std::vector<Vec3> positions = in.positions();
    if (call.choice("along") == "axis mask") {
        const Vec3 mask = call.vec3("axes");
        for (int c = 0; c < 3; ++c) {
            if (mask[c] == 0) continue;
            Vec3 axis{};
            axis[c] = mask[c];
            NoiseOptions own = options;
            own.seed += 7919u * static_cast<std::uint32_t>(c);  // each axis has its own pattern
            displace(in, own, amount, weights, call.run(), positions, [axis](std::size_t) { return axis; });
        }
    } else {
        const Column column = directions(call, in);
        const auto& along = *column.as<Vec3>();
        displace(in, options, amount, weights, call.run(), positions, [&along](std::size_t p) { return along[p]; });
    }
    Geometry out = in;
    out.setPositions(std::move(positions));
    return out;
}

}  // namespace

OperatorSpec noiseDisplaceOperator() {
    OperatorSpec spec;
    spec.id = "noise_displace";
    spec.order = 580;
    spec.label = "Noise displace";
    spec.family = Family::deform;
    spec.sentence = "Moves points by noise, along their normals or chosen directions, limited by a mask.";
    spec.help =
        "Each point moves by amount × noise, and noise is between −1 and 1. Where amount, where or blend is 0 a point stays exactly "
        "where it is. On a flat curve the normal lies in the curve's plane.";
    spec.synonyms = {"bumps", "wobble", "rough", "uneven", "dent", "rock", "weather", "wave"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        numberSetting("amount", "Amount", Unit::metre, 0.05).within(-1e6, 1e6).slider(0, 0.5).each().helped("The farthest a point moves."),
        numberSetting("size", "Size", Unit::metre, 0.3).within(1e-6, 1e6).slider(0.01, 2).helped("From one bump to the next.").in("Pattern"),
        integerSetting("octaves", "Octaves", 1).within(1, 16).slider(1, 8).helped("Layers of noise, each half the size of the one before.").in("Pattern"),
        numberSetting("roughness", "Roughness", Unit::part, 0.5).within(0, 4).slider(0, 1).helped("The weight of each finer layer.").in("Pattern"),
        vec3Setting("offset", "Offset", Unit::metre, {0, 0, 0}).helped("Moves the pattern through space.").in("Pattern"),
        integerSetting("seed", "Seed", 0).slider(0, 100).helped("Another number gives another pattern.").in("Pattern"),
        vec3Setting("stretch", "Stretch", Unit::part, {1, 1, 1})
            .within(1e-6, 1e6)
            .helped("Times the size along x, y and z: 4 along y draws the bumps out upwards.")
            .in("Pattern"),
        choiceSetting("kind", "Kind", {kNoiseKinds.begin(), kNoiseKinds.end()}, "gradient")
            .helped("Rolling, bubbly or blocky; by the second nearest cell, by the way to a cell's edge, or one value for each cell.")
            .in("Pattern"),
        flagSetting("ridged", "Ridged", false).helped("Folds each layer at its middle, which gives sharp ridges.").in("Pattern"),
        choiceSetting("along", "Along", {"normal", "axis mask", "attribute"}, "normal").helped("Which way points move.").in("Direction"),
        vec3Setting("axes", "Axes", Unit::none, {0, 1, 0}).helped("Weights for moving along x, y and z.").when("along", {"axis mask"}).in("Direction"),
        textSetting("attribute", "Direction", "tangent").helped("An attribute with a direction for each point.").when("along", {"attribute"}).in("Direction"),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"amount", 0.25}, {"size", 0.6}}, {sample::cells()});
    spec.compute = computeNoiseDisplace;
    return spec;
}

}  // namespace seedloom
