#include "surface/SurfaceWalk.h"

#include "geometry/Buckets.h"

#include <algorithm>
#include <cmath>

namespace seedloom {

namespace {

constexpr double kNoArea = 1e-14;  // of a triangle's longest side squared: an area that nobody can stand on
constexpr int kMostCrossings = 100'000;
constexpr int kMostFlat = 16;       // triangles without area that are crossed in one go
constexpr double kOffEdge = 1e-12;  // weight by which somebody who enters a triangle is off its edge

FinePlace times(const FinePlace& a, double s) { return {a[0] * s, a[1] * s, a[2] * s}; }
FinePlace plus(const FinePlace& a, const FinePlace& b) { return {a[0] + b[0], a[1] + b[1], a[2] + b[2]}; }
double sizeOf(const FinePlace& a) { return std::sqrt(dot(a, a)); }

}  // namespace

SurfaceWalk::SurfaceWalk(const Geometry& surface) : surface_(surface), triangles_(triangulate(surface)) {
    const auto& at = surface.positions();
    points_.resize(triangles()), beside_.assign(triangles(), {kNone, kNone, kNone}), planes_.resize(triangles());
    for (std::size_t t = 0; t < triangles(); ++t) {
        for (std::size_t k = 0; k < 3; ++k) points_[t][k] = surface.topology().cornerPoint()[triangles_.corners[3 * t + k]];
        const FinePlace a = fine(at[points_[t][0]]), ab = minus(fine(at[points_[t][1]]), a), ac = minus(fine(at[points_[t][2]]), a);
        const FinePlace normal = seedloom::cross(ab, ac);
        const double area2 = sizeOf(normal), longest = std::max({dot(ab, ab), dot(ac, ac), dot(minus(ac, ab), minus(ac, ab))});
        Plane& plane = planes_[t];
        if (!(area2 > kNoArea * longest)) continue;
        plane.solid = true, plane.normal = times(normal, 1 / area2);
        plane.gradient[1] = times(seedloom::cross(ac, plane.normal), 1 / area2);
        plane.gradient[2] = times(seedloom::cross(plane.normal, ab), 1 / area2);
        plane.gradient[0] = times(plus(plane.gradient[1], plane.gradient[2]), -1);
    }
    joinSides();
}

/// Finds who shares an edge, among the few sides that have the same lower point.
void SurfaceWalk::joinSides() {
    const auto pointsOf = [&](Index side) {
        const auto& p = points_[side / 3];
        return std::minmax({p[side % 3], p[(side + 1) % 3]});
    };
    const auto bucketOf = [&](Index side) {
        const auto [low, high] = pointsOf(side);
        return low == high ? kNoBucket : low;
    };
    const Buckets sides(3 * triangles(), surface_.pointCount(), bucketOf);
    for (Index p = 0; p < Index(surface_.pointCount()); ++p)
        for (const Index side : sides.of(p)) {
            Index other = kNone;
            int count = 0;
            for (const Index each : sides.of(p))
                if (each != side && pointsOf(each).second == pointsOf(side).second) other = each, ++count;
            if (count == 1) beside_[side / 3][side % 3] = other / 3;
        }
}

double SurfaceWalk::area(Index triangle) const {
    const auto& p = points_[triangle];
    const FinePlace a = fine(surface_.positions()[p[0]]);
    return sizeOf(seedloom::cross(minus(fine(surface_.positions()[p[1]]), a), minus(fine(surface_.positions()[p[2]]), a))) / 2;
}

FinePlace SurfaceWalk::position(const Walker& walker) const {
    FinePlace out{};
    for (std::size_t k = 0; k < 3; ++k) out = plus(out, times(fine(surface_.positions()[points_[walker.triangle][k]]), walker.weight[k]));
    return out;
}

Place SurfaceWalk::place(const Walker& walker) const {
    Place out;
    out.position = rounded(position(walker));
    out.element = triangles_.faceOf[walker.triangle];
    out.part = walker.triangle;
    for (std::size_t k = 0; k < 3; ++k) {
        out.points[k] = points_[walker.triangle][k];
        out.corners[k] = triangles_.corners[3 * std::size_t(walker.triangle) + k];
        out.weights[k] = float(walker.weight[k]);
    }
    return out;
}

bool SurfaceWalk::turn(Walker& walker, const FinePlace& direction) const {
    const FinePlace normal = planes_[walker.triangle].normal, flat = minus(direction, times(normal, dot(direction, normal)));
    const double length = sizeOf(flat);
    if (!(length > 1e-12 * sizeOf(direction)) || !std::isfinite(length)) return false;
    walker.heading = times(flat, 1 / length);
    return true;
}

/// Into the triangle across an edge of the walker's, on which it stands; false at a border.
bool SurfaceWalk::cross(Walker& walker, int edge) const {
    for (int flat = 0; flat < kMostFlat; ++flat) {
        const Index before = walker.triangle, next = beside_[before][std::size_t(edge)];
        if (next == kNone) return false;
        const Index from = points_[before][std::size_t(edge)], to = points_[before][std::size_t((edge + 1) % 3)];
        std::array<double, 3> weight{};
        int third = 0;
        for (int k = 0; k < 3; ++k) {
            const Index p = points_[next][std::size_t(k)];
            if (p == from) weight[std::size_t(k)] = walker.weight[std::size_t(edge)];
            else if (p == to) weight[std::size_t(k)] = walker.weight[std::size_t((edge + 1) % 3)];
            else third = k;
        }
        walker.triangle = next, walker.weight = weight;
        if (solid(next)) {
            // What runs along the edge stays; what runs across it goes on into the next plane.
            const FinePlace start = fine(surface_.positions()[from]), along = minus(fine(surface_.positions()[to]), start);
            const FinePlace e = times(along, 1 / sizeOf(along)), in = minus(fine(surface_.positions()[points_[next][std::size_t(third)]]), start);
            const FinePlace across = minus(in, times(e, dot(in, e)));
            const double straight = dot(walker.heading, e);
            walker.heading = plus(times(e, straight), times(across, std::sqrt(std::max(0.0, 1 - straight * straight)) / sizeOf(across)));
            for (double& w : walker.weight) w = w * (1 - kOffEdge) + kOffEdge / 3;
            return true;
        }
        // All of it lies on one line: on through the other edge on which that place is too.
        const auto& at = surface_.positions();
        const FinePlace here = position(walker), opposite = fine(at[points_[next][std::size_t(third)]]);
        const bool beyond = dot(minus(here, opposite), minus(fine(at[to]), fine(at[from]))) > 0;
        const Index corner = beyond ? to : from;
        const FinePlace side = minus(fine(at[corner]), opposite);
        const double share = dot(side, side) > 0 ? std::clamp(dot(minus(here, opposite), side) / dot(side, side), 0.0, 1.0) : 0;
        walker.weight = {};
        for (int k = 0; k < 3; ++k) {
            const Index p = points_[next][std::size_t(k)];
            if (p == corner) walker.weight[std::size_t(k)] = share;
            else if (k == third) walker.weight[std::size_t(k)] = 1 - share;
        }
        for (int k = 0; k < 3; ++k)
            if (walker.weight[std::size_t(k)] == 0 && points_[next][std::size_t(k)] != corner && k != third) edge = (k + 1) % 3;
    }
    return false;
}

double SurfaceWalk::go(Walker& walker, double way) const {
    double left = way;
    for (int crossing = 0; crossing < kMostCrossings; ++crossing) {
        const Plane& plane = planes_[walker.triangle];
        double exit = left;
        int leaves = -1;
        std::array<double, 3> change{};
        for (std::size_t k = 0; k < 3; ++k) {
            change[k] = dot(plane.gradient[k], walker.heading);
            if (change[k] < 0 && -walker.weight[k] / change[k] < exit) exit = std::max(0.0, -walker.weight[k] / change[k]), leaves = int(k);
        }
        for (std::size_t k = 0; k < 3; ++k) walker.weight[k] = std::max(0.0, walker.weight[k] + change[k] * exit);
        if (leaves >= 0) walker.weight[std::size_t(leaves)] = 0;
        const double sum = walker.weight[0] + walker.weight[1] + walker.weight[2];
        for (double& w : walker.weight) w /= sum;
        left -= exit;
        if (leaves < 0) return way;
        if (!cross(walker, (leaves + 1) % 3)) return way - left;
    }
    return way - left;
}

}  // namespace seedloom
