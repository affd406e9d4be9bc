#include "surface/SolidWinding.h"

#include <limits>

namespace seedloom {

WindingRays::WindingRays(std::vector<std::array<Vec3, 3>> triangles, const BoxTree& tree, const std::vector<std::uint8_t>& cutter)
    : triangles_(std::move(triangles)), cutter_(cutter), tree_(tree) {}

SolidWinding WindingRays::inFrontOf(const std::array<FinePlace, 3>& corners, const std::vector<Index>& own, SolidWinding step) const {
    const auto& [a, b, c] = corners;
    const FinePlace n = cross(minus(b, a), minus(c, a));
    std::array<std::size_t, 3> axes{0, 1, 2};
    std::sort(axes.begin(), axes.end(), [&](std::size_t x, std::size_t y) { return std::abs(n[x]) > std::abs(n[y]); });
    // Other places of the triangle are tried where a ray meets an edge.
    constexpr std::array<std::array<double, 3>, 5> kPlaces{
        {{0.3371, 0.3297, 0.3332}, {0.5123, 0.2411, 0.2466}, {0.2237, 0.5319, 0.2444}, {0.2359, 0.2173, 0.5468}, {0.6701, 0.1733, 0.1566}}};
    for (std::size_t axis : axes) {
        if (n[axis] == 0) continue;
        for (const auto& w : kPlaces) {
            FinePlace from{};
            for (std::size_t k = 0; k < 3; ++k) from[k] = a[k] * w[0] + b[k] * w[1] + c[k] * w[2];
            const auto met = along(int(axis), from, own);
            if (!met) continue;
            // The ray runs away from the front, or through the triangle's own back.
            if (n[axis] > 0) return *met;
            return {met->base - step.base, met->cutters - step.cutters};
        }
    }
    return {};
}

std::optional<SolidWinding> WindingRays::along(int axis, const FinePlace& from, const std::vector<Index>& own) const {
    const auto u = std::size_t((axis + 1) % 3), v = std::size_t((axis + 2) % 3), x = std::size_t(axis);
    const Vec3 low = rounded(from);
    Box box{low, low};
    box.high[axis] = std::numeric_limits<float>::infinity();
    // The place is rounded for the boxes: a little more is asked for than needed.
    for (int k = 0; k < 3; ++k) {
        const float slack = std::max(std::abs(low[k]) * 1e-6f, 1e-30f);
        box.low[k] -= slack;
        if (k != axis) box.high[k] += slack;
    }
    SolidWinding out;
    bool doubtful = false;
    tree_.meeting(box, [&](Index t) {
        if (doubtful || std::find(own.begin(), own.end(), t) != own.end()) return;
        const auto& p = triangles_[t];
        std::array<double, 3> turn{};
        double area = 0;
        const auto at = [&](std::size_t k, std::size_t c) { return double(p[k][int(c)]); };
        for (std::size_t k = 0; k < 3; ++k) {
            const std::size_t n = (k + 1) % 3;
            turn[k] = (at(k, u) - from[u]) * (at(n, v) - from[v]) - (at(k, v) - from[v]) * (at(n, u) - from[u]);
            area += turn[k];
        }
        const double size = std::abs(turn[0]) + std::abs(turn[1]) + std::abs(turn[2]);
        const bool positive = turn[0] > 0 && turn[1] > 0 && turn[2] > 0, negative = turn[0] < 0 && turn[1] < 0 && turn[2] < 0;
        if (size == 0) return;  // seen from its edge: it is not crossed
        for (double w : turn)
            if (std::abs(w) < 1e-12 * size) {
                // On an edge, unless clearly outside of another.
                const bool outside = std::any_of(turn.begin(), turn.end(), [&](double a) { return a < -1e-12 * size; }) &&
                                     std::any_of(turn.begin(), turn.end(), [&](double a) { return a > 1e-12 * size; });
                doubtful |= !outside;
                return;
            }
        if (!positive && !negative) return;
        double crossing = 0;
        for (std::size_t k = 0; k < 3; ++k) crossing += turn[(k + 1) % 3] / area * at(k, x);
        if (crossing <= from[x]) return;
        (cutter_[t] ? out.cutters : out.base) += positive ? 1 : -1;
    });
    return doubtful ? std::nullopt : std::optional(out);
}

}  // namespace seedloom
