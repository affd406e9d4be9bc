// Method: own: the part of a side's rectangle that the convex hull of what touches it covers (hull: Andrew, Information Processing Letters 9(5), 1979).
#include "surface/Upright.h"

#include "geometry/Measures.h"

#include <algorithm>

namespace seedloom {

namespace {

constexpr double kTouches = 0.02;  ///< of the model's size along the axis
constexpr double kFlat = 0.12;     ///< of a side's rectangle: a ball has 0.06
constexpr double kBetter = 1.5;    ///< times what +Y has

using Place2 = std::array<double, 2>;

double turn(const Place2& a, const Place2& b, const Place2& c) { return (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]); }

double hullArea(std::vector<Place2> places) {
    std::sort(places.begin(), places.end());
    std::vector<Place2> ring;
    const auto along = [&](auto first, auto last, std::size_t keep) {
        for (auto it = first; it != last; ++it) {
            while (ring.size() >= keep + 2 && turn(ring[ring.size() - 2], ring.back(), *it) <= 0) ring.pop_back();
            ring.push_back(*it);
        }
    };
    along(places.begin(), places.end(), 0);
    const std::size_t below = ring.size() - 1;
    along(places.rbegin() + 1, places.rend(), below);
    double area = 0;
    for (std::size_t i = 1; i + 1 < ring.size(); ++i) area += turn(ring[0], ring[i], ring[i + 1]) / 2;
    return area;
}

/// How much of the rectangle around the model touches a plane that is laid against it from below, where that way is up.
double footOf(const std::vector<Vec3>& points, const Bounds& bounds, SignedAxis up) {
    const int u = (up.axis + 1) % 3, v = (up.axis + 2) % 3;
    const Vec3 size = bounds.size();
    const double rectangle = double(size[u]) * double(size[v]);
    if (!(rectangle > 0) || !(size[up.axis] > 0)) return 0;
    const double reach = kTouches * double(size[up.axis]);
    std::vector<Place2> touching;
    for (Vec3 p : points) {
        const double above = up.positive ? double(p[up.axis]) - double(bounds.min[up.axis]) : double(bounds.max[up.axis]) - double(p[up.axis]);
        if (above <= reach) touching.push_back({double(p[u]), double(p[v])});
    }
    return touching.size() < 3 ? 0 : hullArea(std::move(touching)) / rectangle;
}

}  // namespace

Affine turnUpright(SignedAxis up) {
    const float sign = up.positive ? 1.0f : -1.0f;
    if (up.axis == 0) return {{0, sign, 0}, {-sign, 0, 0}, {0, 0, 1}, {}};
    if (up.axis == 2) return {{1, 0, 0}, {0, 0, -sign}, {0, sign, 0}, {}};
    return {{1, 0, 0}, {0, sign, 0}, {0, 0, sign}, {}};
}

std::optional<SignedAxis> guessedUp(const Geometry& geometry, std::span<const std::uint8_t> leftOut) {
    std::vector<std::uint8_t> used(geometry.pointCount(), 0);
    for (Index f = 0; f < geometry.faceCount(); ++f)
        if (leftOut.empty() || !leftOut[f])
            for (Index p : geometry.topology().face(f)) used[p] = 1;
    std::vector<Vec3> points;
    for (Index p = 0; p < used.size(); ++p)
        if (used[p] && isFinite(geometry.positions()[p])) points.push_back(geometry.positions()[p]);
    const Bounds bounds = boundsOf(points);
    SignedAxis best;
    double most = footOf(points, bounds, best), wanted = std::max(kFlat, kBetter * most);
    for (int axis : {1, 2, 0})
        for (bool positive : {true, false}) {
            const double foot = footOf(points, bounds, {axis, positive});
            if (foot > wanted) best = {axis, positive}, most = wanted = foot;
        }
    return most < kFlat ? std::nullopt : std::optional(best);
}

}  // namespace seedloom
