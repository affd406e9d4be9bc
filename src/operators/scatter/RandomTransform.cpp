// Method: own: a hash of the id and the seed, three turns about axes.
#include "fields/Random.h"
#include "operators/OperatorCall.h"
#include "operators/Shares.h"
#include "operators/scatter/CopyFrame.h"
#include "operators/scatter/Movables.h"
#include "parallel/Loops.h"

namespace seedloom {

namespace {

Geometry computeRandomTransform(OperatorCall& call) {
    const Geometry& in = call.in();
    const Vec3 move = call.vec3("move"), turn = call.vec3("turn");
    const Vec2 size = call.vec2("size");
    const bool uniform = call.flag("uniform"), own = call.flag("own_axes");
    const double seed = seedOf(call.number("seed"), Chances::transforms);
    const Movables things(in);
    const Field<float> weights = call.weights(in, things.element());
    std::vector<Affine> maps(things.count());
    forEach(maps.size(), call.run(), [&](std::size_t i) {
        const float weight = weights[things.row(i)];
        if (weight == 0) return;
        // Each number has a seed of its own, so that a wider move leaves turns as they are.
        const auto at = [&](int n) { return float(randomOf(things.id(i), seed + n * 0.618033988749895)); };
        const auto between = [&](float reach, int n) { return reach == 0 ? 0 : reach * (2 * at(n) - 1) * weight; };
        const auto factor = [&](int n) { return 1 + (size.x + (size.y - size.x) * at(n) - 1) * weight; };
        const Vec3 factors{factor(6), uniform ? factor(6) : factor(7), uniform ? factor(6) : factor(8)};
        Affine base;
        if (own && things.kind() == Movables::Kind::copies) {
            const Affine& place = in.copies()->place[i];
            base = standingTowards(normalized(place.y), normalized(place.x, {1, 0, 0}));
        }
        Affine change = turnAbout({0, 0, 1}, between(turn.z, 5)) * turnAbout({0, 1, 0}, between(turn.y, 4)) * turnAbout({1, 0, 0}, between(turn.x, 3));
        change.x *= factors.x, change.y *= factors.y, change.z *= factors.z;
        const Affine back{{base.x.x, base.y.x, base.z.x}, {base.x.y, base.y.y, base.z.y}, {base.x.z, base.y.z, base.z.z}, {}};
        Affine map = base * change * back;
        const Vec3 pivot = things.pivot(i);
        map.move = pivot - map.vector(pivot) + base.vector({between(move.x, 0), between(move.y, 1), between(move.z, 2)});
        maps[i] = map;
    });
    return things.moved(maps);
}

}  // namespace

OperatorSpec randomTransformOperator() {
    OperatorSpec spec;
    spec.id = "random_transform";
    spec.order = 830;
    spec.label = "Random transform";
    spec.family = Family::scatter;
    spec.sentence = "Moves, turns and sizes every copy, piece or point a little differently.";
    spec.help =
        "Where there are copies they are moved, else connected pieces about their middle, else points. Move and turn are the most either way; size lies "
        "between two factors. Each depends on the id (or the order) and "
        "the seed only, so that changing one range leaves the others as they are.";
    spec.synonyms = {"jitter", "vary", "shake", "randomise", "loosen", "disorder", "natural"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        vec3Setting("move", "Move", Unit::metre, {0, 0, 0}).helped("The most either way along x, y and z."),
        vec3Setting("turn", "Turn", Unit::degree, {0, 180, 0}).helped("The most either way about x, y and z."),
        vec2Setting("size", "Size", Unit::none, {0.8f, 1.2f}).helped("The least and the largest factor."),
        flagSetting("uniform", "Uniform", true).helped("One factor for all axes; off: one each."),
        flagSetting("own_axes", "Own axes", true).helped("Along and about the axes of each copy; off: those of the world."),
        numberSetting("seed", "Seed", Unit::none, 0).slider(0, 100).helped("Another seed gives other numbers."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::merged(sample::step(spec.id, {{"move", {0.05, 0.05, 0.05}}, {"turn", {40, 180, 40}}, {"size", {0.4, 1.6}}},
                                              {sample::boxesOnHill({{"mode", "spacing"}, {"spacing", 0.22}})}),
                                 sample::hill());
    spec.compute = computeRandomTransform;
    return spec;
}

}  // namespace seedloom
