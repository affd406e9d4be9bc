// Method: own: pairs that are too near step apart, found in a uniform grid.
#include "fields/Random.h"
#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"
#include "scatter/PointGrid.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

/// Beyond so many neighbours a sample of them tells where to go; it is drawn anew for each point and round, so no side is favoured.
constexpr std::size_t kMostNeighbours = 2048;

PointGrid::Every sampleOf(std::size_t candidates, std::size_t point, int round) {
    const std::size_t step = candidates / kMostNeighbours + 1;
    return {step, step == 1 ? 0 : std::size_t(mixBits(point * 0x9E3779B97F4A7C15ull + std::uint64_t(round))) % step};
}

/// Where two points are in the very same place, they part in a direction of their own.
Vec3 partingOf(Index a, Index b) {
    const double angle = double(a * 2654435761u ^ b * 40503u) * 1e-3;
    return {float(std::cos(angle)), float(std::sin(angle * 1.7)) * 0.5f, float(std::sin(angle))};
}

Geometry computeSpreadPoints(OperatorCall& call) {
    const Geometry& in = call.in();
    const Field<float> wanted = call.each("distance", in), weights = call.weights(in, Element::point);
    const int rounds = call.integer("rounds");
    const bool flat = call.choice("along") == "surface";
    std::vector<float> reaches = wanted.uniform ? std::vector<float>{wanted.value} : wanted.values;
    if (std::none_of(reaches.begin(), reaches.end(), [](float d) { return d > 0 && std::isfinite(d); })) return in;
    const float cell = typicalReach(std::move(reaches));
    const std::vector<Vec3> normals = flat ? pointNormals(in) : std::vector<Vec3>();
    std::vector<Vec3> at = in.positions();
    std::size_t close = 0;
    for (int round = 0; round < rounds; ++round) {
        const PointGrid grid(at, cell);
        std::vector<Vec3> next = at;
        std::vector<std::uint8_t> moved(at.size(), 0);
        forEach(
            at.size(), call.run(),
            [&](std::size_t i) {
                if (!(weights[i] > 0) || !isFinite(at[i])) return;
                Vec3 push{};
                int count = 0;
                const float reach = wanted[i];
                if (!(reach > 0)) return;
                grid.within(at[i], reach, sampleOf(grid.candidates(at[i], reach), i, round), [&](Index other) {
                    if (other == i) return;
                    const Vec3 away = at[i] - at[other];
                    const float gap = length(away), need = std::min(wanted[i], wanted[other]);
                    if (!(gap < need * 0.999f)) return;  // nearer than can be seen
                    const Vec3 direction = gap > need * 1e-4f ? away / gap : normalized(i < other ? partingOf(Index(i), other) : -partingOf(other, Index(i)));
                    push += direction * ((need - gap) / 2);
                    ++count;
                });
                if (count == 0) return;
                moved[i] = 1;
                if (flat) push = push - normals[i] * dot(push, normals[i]);
                // Half of what single pairs ask for: neighbours do the rest, and nothing flies apart.
                next[i] = at[i] + push * (weights[i] / std::max(1.0f, float(count) * 0.5f));
            },
            1024);
        at = std::move(next);
        close = std::size_t(std::count(moved.begin(), moved.end(), 1));
        if (close == 0) break;
    }
    if (close > 0)
        call.tell(NoticeLevel::info, "spread.left",
                  fmt::format("{} points still have a neighbour nearer than asked. More rounds, or a smaller distance, help.", close), "rounds");
    Geometry out = in;
    out.setPositions(std::move(at));
    for (Element element : {Element::point, Element::corner, Element::face})
        if (in.faceCount() > 0) out.removeColumn(element, "normal");
    return out;
}

}  // namespace

OperatorSpec spreadPointsOperator() {
    OperatorSpec spec;
    spec.id = "spread_points";
    spec.order = 590;
    spec.label = "Spread points";
    spec.family = Family::deform;
    spec.sentence = "Pushes points apart that are nearer to each other than a distance.";
    spec.help =
        "Round by round, each point steps away from those that are too near. Along the surface it moves only sideways of its normal. Says how many are still "
        "too near at the end.";
    spec.synonyms = {"relax", "repel", "push apart", "even spacing", "separate", "unclump"};
    spec.inputs = {{"in", "Geometry"}};
    spec.settings = {
        numberSetting("distance", "Distance", Unit::metre, 0.1).within(0, 1e6).slider(0, 1).each().helped("How far apart points should be."),
        integerSetting("rounds", "Rounds", 20).within(0, 10000).slider(0, 100).helped("How often points step apart."),
        choiceSetting("along", "Along", {"space", "surface"}, "space").helped("In all directions, or only sideways of the normal."),
        whereSetting(Element::point),
        blendSetting(Element::point),
    };
    spec.sample = sample::step(spec.id, {{"distance", 0.3}, {"rounds", 60}}, {sample::step("grid", {{"size", {0.8, 0.8}}, {"cells", {8, 8}}})});
    spec.compute = computeSpreadPoints;
    return spec;
}

}  // namespace seedloom
