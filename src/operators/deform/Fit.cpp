// Method: own: bounds onto bounds, axis by axis.
#include "geometry/Measures.h"
#include "geometry/Rows.h"
#include "operators/OperatorCall.h"

namespace seedloom {

namespace {

struct Wanted {
    Vec3 size;
    Bounds place;  ///< of the target; empty: the geometry stays where its anchor is
};

Wanted wantedSize(const OperatorCall& call) {
    if (call.port(1).empty()) return {call.vec3("size"), {}};
    const Bounds bounds = boundsOf(call.port(1).front());
    if (bounds.empty) call.fail("fit.target", "The geometry to fit to is empty. Plug something else into Target.");
    return {bounds.size(), bounds};
}

/// What lies at the anchor: 0 the low side, 0.5 the middle, 1 the high side.
float partOf(const std::string& anchor) { return anchor == "min" ? 0.0f : anchor == "max" ? 1.0f : 0.5f; }

Geometry computeFit(OperatorCall& call) {
    const Geometry& in = call.in();
    const Bounds bounds = boundsOf(in);
    if (bounds.empty) return in;
    const Wanted wanted = wantedSize(call);
    const std::array<std::string, 3> anchors{call.choice("anchor_x"), call.choice("anchor_y"), call.choice("anchor_z")};
    // An axis without extent cannot be stretched, and is only moved.
    Vec3 factor{1, 1, 1};
    float least = std::numeric_limits<float>::max();
    for (int c = 0; c < 3; ++c) {
        if (anchors[std::size_t(c)] == "keep" || !(bounds.size()[c] > 0)) continue;
        factor[c] = wanted.size[c] / bounds.size()[c];
        least = std::min(least, factor[c]);
    }
    if (call.flag("proportional") && least < std::numeric_limits<float>::max()) factor = {least, least, least};
    Affine map{{factor.x, 0, 0}, {0, factor.y, 0}, {0, 0, factor.z}, {}};
    for (int c = 0; c < 3; ++c) {
        const std::string& anchor = anchors[std::size_t(c)];
        const float part = partOf(anchor), from = bounds.min[c] + bounds.size()[c] * part;
        const bool placed = !wanted.place.empty && anchor != "keep";
        const float to = placed ? wanted.place.min[c] + wanted.place.size()[c] * part : from;
        map.move[c] = to - from * factor[c];
    }
    return transformed(in, map);
}

}  // namespace

OperatorSpec fitOperator() {
    OperatorSpec spec;
    spec.id = "fit";
    spec.order = 520;
    spec.label = "Fit";
    spec.family = Family::deform;
    spec.sentence = "Scales the geometry to a size, or into the bounds of another one.";
    spec.help =
        "Along each axis the anchor tells which side stays where it is, or lies against the same side of the target; keep leaves that axis alone. "
        "Proportional takes one factor for all axes, the least one, so that everything fits inside.";
    spec.synonyms = {"size", "scale to", "resize", "match", "normalise", "bounds"};
    spec.inputs = {{"in", "Geometry"}, {"target", "Target", false, true}};
    const auto anchor = [](const char* id, const char* label) {
        return choiceSetting(id, label, {"min", "middle", "max", "keep"}, "middle").helped("What stays in place along this axis.").in("Anchor");
    };
    spec.settings = {
        vec3Setting("size", "Size", Unit::metre, {1, 1, 1}).within(0, 1e6).helped("Wanted width, height and depth, where no target is plugged in."),
        flagSetting("proportional", "Proportional", false).helped("Keeps the shape's proportions."),
        anchor("anchor_x", "Along x"),
        anchor("anchor_y", "Along y"),
        anchor("anchor_z", "Along z"),
    };
    spec.sample = sample::step(spec.id, {{"size", {1.2, 0.5, 0.8}}}, {sample::cells()});
    spec.compute = computeFit;
    return spec;
}

}  // namespace seedloom
