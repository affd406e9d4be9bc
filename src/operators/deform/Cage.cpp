// Method: free-form deformation by Bernstein polynomials (Sederberg & Parry, SIGGRAPH 1986), or trilinear.
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Weights of the points along one axis of the cage at `t` (0–1).
std::vector<float> weightsAt(int count, float t, bool smooth) {
    std::vector<float> out(std::size_t(count), 0);
    if (count == 1) return out[0] = 1, out;
    if (smooth) {  // Bernstein polynomials: Sederberg & Parry, "Free-form deformation of solid geometric models", SIGGRAPH 1986
        const int n = count - 1;
        double binomial = 1;
        for (int i = 0; i <= n; ++i) {
            out[std::size_t(i)] = float(binomial * std::pow(double(t), i) * std::pow(1 - double(t), n - i));
            binomial = binomial * (n - i) / (i + 1);
        }
        return out;
    }
    const float at = t * float(count - 1);
    const int i = std::clamp(int(at), 0, count - 2);
    out[std::size_t(i)] = 1 - (at - float(i)), out[std::size_t(i) + 1] = at - float(i);
    return out;
}

Geometry computeCage(OperatorCall& call) {
    const Geometry& in = call.in();
    const Vec3 wanted = call.vec3("points");
    std::array<int, 3> count{};
    for (int c = 0; c < 3; ++c) count[std::size_t(c)] = std::clamp(int(std::lround(wanted[c])), 1, 16);
    const std::vector<Vec3> offsets = call.points("offsets");
    const std::size_t all = std::size_t(count[0] * count[1] * count[2]);
    if (offsets.size() > all)
        call.tell(NoticeLevel::warning, "cage.offsets",
                  fmt::format("{} offsets are given for {} points of the cage; the last ones are not used.", offsets.size(), all), "offsets");
    const bool smooth = call.choice("form") == "smooth";
    const Field<float> weights = call.weights(in, Element::point);
    const Bounds bounds = boundsOf(in.positions());
    const Vec3 size = bounds.size();
    std::vector<Vec3> after = in.positions();
    std::vector<float> weight(after.size());
    forEach(
        after.size(), call.run(),
        [&](std::size_t p) {
            weight[p] = weights[p];
            if (!isFinite(after[p])) return;
            std::array<std::vector<float>, 3> w;
            for (int c = 0; c < 3; ++c)
                w[std::size_t(c)] = weightsAt(count[std::size_t(c)], size[c] > 0 ? std::clamp((after[p][c] - bounds.min[c]) / size[c], 0.0f, 1.0f) : 0, smooth);
            Vec3 by{};
            std::size_t at = 0;
            for (float z : w[2])
                for (float y : w[1])
                    for (float x : w[0]) {
                        if (at < offsets.size()) by += offsets[at] * (x * y * z);
                        ++at;
                    }
            after[p] += by;
        },
        2048);
    Geometry out = in;
    out.setPositions(blendPositions(in.positions(), std::move(after), weight));
    for (Element element : {Element::point, Element::corner, Element::face}) out.removeColumn(element, "normal");
    return out;
}

}  // namespace

OperatorSpec cageOperator() {
    OperatorSpec spec;
    spec.id = "cage";
    spec.order = 630;
    spec.label = "Cage";
    spec.family = Family::deform;
    spec.sentence = "Deforms a geometry by a grid of points around it, each moved by an offset.";
    spec.help =
        "The cage spans the bounds. Offsets are given point by point, x first, then y, then z, from the least corner; missing ones are 0. Smooth mixes all "
        "points of the cage, straight only the eight around.";
    spec.synonyms = {"lattice", "free form", "warp", "box deform", "grid"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        vec3Setting("points", "Points", Unit::none, {2, 2, 2}).within(1, 16).helped("How many points the cage has along x, y and z."),
        pointsSetting("offsets", "Offsets", Json::array()).helped("How far each point of the cage is moved."),
        choiceSetting("form", "Form", {"smooth", "straight"}, "smooth").helped("How the space between the points follows them."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"offsets", {{0, 0, 0}, {0, 0, 0}, {0.3, 0.3, 0}, {0, 0.6, 0}, {0, 0, 0}, {0, 0, 0}, {0, -0.2, 0.2}, {0, 0.2, 0}}}},
                               {sample::cells()});
    spec.compute = computeCage;
    return spec;
}

}  // namespace seedloom
