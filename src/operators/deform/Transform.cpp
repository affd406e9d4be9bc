// Method: affine map; normals by the inverse transposed.
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"

namespace seedloom {

namespace {

Affine rotation(Vec3 angles) {
    const Vec3 axes[3] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    Affine out;
    for (int c = 0; c < 3; ++c) {
        const auto turn = static_cast<float>(radians(double(angles[c])));
        const auto map = [&](Vec3 v) { return angles[c] == 0 ? v : rotateAbout(v, axes[c], turn); };
        out = {map(out.x), map(out.y), map(out.z), {}};
    }
    return out;
}

Affine wholeMap(OperatorCall& call) {
    const Vec3 size = call.vec3("scale"), pivot = call.vec3("pivot");
    const Affine scale{{size.x, 0, 0}, {0, size.y, 0}, {0, 0, size.z}, {}};
    const Affine turn = rotation(call.vec3("rotate"));
    Affine move;
    move.move = call.vec3("move");
    Affine map, toPivot, fromPivot;
    toPivot.move = -pivot;
    fromPivot.move = pivot;
    const std::string order = call.choice("order");
    for (std::size_t at = 0; at < order.size();) {
        const std::size_t end = std::min(order.find(' ', at), order.size());
        const std::string word = order.substr(at, end - at);
        map = (word == "move" ? move : word == "rotate" ? turn : scale) * map;
        at = end + 1;
    }
    return fromPivot * map * toPivot;
}

Geometry computeTransform(OperatorCall& call) {
    const Geometry& in = call.in();
    const Affine map = wholeMap(call);
    const Field<float> weights = call.weights(in, Element::point);
    if (weights.uniform && weights.value == 1) return transformed(in, map);
    std::vector<Vec3> after = in.positions();
    std::vector<float> each(after.size());
    for (std::size_t i = 0; i < after.size(); ++i) after[i] = map.point(after[i]), each[i] = weights[i];
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(after), each));
    return out;
}

}  // namespace

OperatorSpec transformOperator() {
    OperatorSpec spec;
    spec.id = "transform";
    spec.order = 510;
    spec.label = "Transform";
    spec.family = Family::deform;
    spec.sentence = "Moves, turns and scales the geometry.";
    spec.help =
        "Turns are right-handed, about x, then y, then z. Directions such as normals are turned along. Scaling by a negative "
        "number mirrors, and the faces are turned over so that they still look outward.";
    spec.synonyms = {"move", "rotate", "scale", "place", "resize", "mirror", "turn"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        vec3Setting("move", "Move", Unit::metre, {0, 0, 0}).helped("How far along x, y and z."),
        vec3Setting("rotate", "Rotate", Unit::degree, {0, 0, 0}).helped("Turns about x, y and z, in this order."),
        vec3Setting("scale", "Scale", Unit::none, {1, 1, 1}).helped("Factors along x, y and z; one number scales evenly."),
        vec3Setting("pivot", "Pivot", Unit::metre, {0, 0, 0}).helped("The place that turning and scaling leave where it is."),
        choiceSetting("order", "Order",
                      {"scale rotate move", "scale move rotate", "rotate scale move", "rotate move scale", "move scale rotate", "move rotate scale"},
                      "scale rotate move")
            .helped("What is done first, second and third."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"rotate", {0, 25, 20}}, {"scale", {1, 1.4, 0.7}}}, {sample::cells()});
    spec.compute = computeTransform;
    return spec;
}

}  // namespace seedloom
