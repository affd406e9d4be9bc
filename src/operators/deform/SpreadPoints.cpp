#include "geometry/Measures.h"
#include "operators/OperatorCall.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"

#include <fmt/format.h>

#include <unordered_map>

namespace seedloom {

namespace {

/// Points in cells as wide as the distance, so that neighbours are in the 27 cells around.
class Cells {
public:
    Cells(const std::vector<Vec3>& points, float width) : points_(points), width_(width) {
        for (Index p = 0; p < points.size(); ++p)
            if (isFinite(points[p])) cells_[keyOf(cellOf(points[p]))].push_back(p);
    }
    template <class Take> void near(Vec3 p, Take&& take) const {
        const auto c = cellOf(p);
        for (std::int64_t x = -1; x <= 1; ++x)
            for (std::int64_t y = -1; y <= 1; ++y)
                for (std::int64_t z = -1; z <= 1; ++z)
                    if (const auto it = cells_.find(keyOf({c[0] + x, c[1] + y, c[2] + z})); it != cells_.end())
                        for (Index other : it->second) take(other);
    }

private:
    std::array<std::int64_t, 3> cellOf(Vec3 p) const {
        const auto one = [&](float v) { return std::int64_t(std::clamp(std::floor(double(v) / double(width_)), -1e15, 1e15)); };
        return {one(p.x), one(p.y), one(p.z)};
    }
    static std::uint64_t keyOf(const std::array<std::int64_t, 3>& c) {
        return std::uint64_t(c[0]) * 73856093u ^ std::uint64_t(c[1]) * 19349663u ^ std::uint64_t(c[2]) * 83492791u;
    }
    const std::vector<Vec3>& points_;
    float width_;
    std::unordered_map<std::uint64_t, std::vector<Index>> cells_;
};

/// Where two points are in the very same place, they part in a direction of their own.
Vec3 partingOf(Index a, Index b) {
    const double angle = double(a * 2654435761u ^ b * 40503u) * 1e-3;
    return {float(std::cos(angle)), float(std::sin(angle * 1.7)) * 0.5f, float(std::sin(angle))};
}

Geometry compute(OperatorCall& call) {
    const Geometry& in = call.in();
    const Field<float> wanted = call.each("distance", in), weights = call.weights(in, Element::point);
    const int rounds = call.integer("rounds");
    const bool flat = call.choice("along") == "surface";
    float most = 0;
    for (std::size_t p = 0; p < in.pointCount(); ++p)
        if (std::isfinite(wanted[p])) most = std::max(most, wanted[p]);
    if (!(most > 0)) return in;
    const std::vector<Vec3> normals = flat ? pointNormals(in) : std::vector<Vec3>();
    std::vector<Vec3> at = in.positions();
    std::size_t close = 0;
    for (int round = 0; round < rounds; ++round) {
        const Cells cells(at, most);
        std::vector<Vec3> next = at;
        std::vector<std::uint8_t> moved(at.size(), 0);
        forEach(
            at.size(), call.run(),
            [&](std::size_t i) {
                if (!(weights[i] > 0) || !isFinite(at[i])) return;
                Vec3 push{};
                int count = 0;
                std::size_t seen = 0;
                cells.near(at[i], [&](Index other) {
                    if (other == i || ++seen > 256) return;  // a crowd in one place comes apart round by round
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
    spec.compute = compute;
    return spec;
}

}  // namespace seedloom
