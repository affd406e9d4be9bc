#include "breaking/CrumbCells.h"

#include "breaking/VoronoiWalls.h"
#include "scatter/PointGrid.h"
#include "scatter/Streams.h"

#include <cmath>

namespace seedloom {

namespace {

constexpr double kAway = 2;        ///< radii from the centre to the places around it: their cells meet half-way
constexpr double kUneven = 0.2;    ///< part of that by which it differs
constexpr double kTaken = 1.5;     ///< radii of another crumb: places so near to it would cut it
constexpr double kFarthest = 2.5;  ///< radii: corners beyond this are of a crumb that has no shape
constexpr double kGolden = 1.61803398874989;

/// The corners of an icosahedron, turned by chance.
std::array<Vec3, 12> turnedDirections(std::uint64_t stream) {
    // A random unit quaternion (Shoemake, "Uniform random rotations", Graphics Gems III, 1992).
    const double u = unitOf(mixThree(stream, 1, 0)), v = unitOf(mixThree(stream, 2, 0)) * 2 * M_PI, w = unitOf(mixThree(stream, 3, 0)) * 2 * M_PI;
    const double x = std::sqrt(1 - u) * std::sin(v), y = std::sqrt(1 - u) * std::cos(v), z = std::sqrt(u) * std::sin(w), r = std::sqrt(u) * std::cos(w);
    std::array<Vec3, 12> out;
    for (std::size_t k = 0; k < 12; ++k) {
        std::array<double, 3> p{};
        p[k / 4] = k & 1 ? 1 : -1;
        p[(k / 4 + 1) % 3] = (k & 2 ? 1 : -1) * kGolden;
        const double length = std::hypot(1, kGolden);
        const Vec3 d{float(p[0] / length), float(p[1] / length), float(p[2] / length)}, q{float(x), float(y), float(z)};
        const Vec3 t = cross(q, d) * 2.0f;
        out[k] = d + t * float(r) + cross(q, t);
    }
    return out;
}

}  // namespace

FlatWalls crumbCells(const std::vector<Crumb>& crumbs, const Bounds& around, const RunContext& run) {
    std::vector<Vec3> seeds;
    double largest = 0;
    for (const Crumb& c : crumbs) seeds.push_back(c.centre), largest = std::max(largest, c.radius);
    if (crumbs.empty()) return {};
    const std::vector<Vec3> centres = seeds;
    const PointGrid grid(centres, float(largest * kAway));
    for (std::size_t i = 0; i < crumbs.size(); ++i) {
        if (i % 64 == 0) run.poll();
        const Vec3 c = centres[i];
        const std::uint64_t stream = placeBits(c);
        const auto ways = turnedDirections(stream);
        for (std::size_t k = 0; k < ways.size(); ++k) {
            const double uneven = 1 + kUneven * (unitOf(mixThree(stream, 4, k)) - 0.5);
            const Vec3 place = c + ways[k] * float(crumbs[i].radius * kAway * uneven);
            bool free = true;
            grid.within(place, float(largest * kTaken),
                        [&](Index other) { free = free && (other == i || double(distance(place, centres[other])) >= kTaken * crumbs[other].radius); });
            if (free) seeds.push_back(place);
        }
    }
    Bounds wide = around;
    for (Vec3 c : centres) wide.add(c);
    for (int c = 0; c < 3; ++c) wide.min[c] -= float(largest * kFarthest), wide.max[c] += float(largest * kFarthest);
    FlatWalls all = voronoiWalls(seeds, wide, {1, 1, 1}, 0, run);
    const auto rest = Index(crumbs.size());
    std::vector<std::uint8_t> gone(crumbs.size(), 0);
    for (auto& wall : all.walls)
        for (Index& cell : wall.cells) {
            cell = std::min(cell, rest);
            if (cell == rest) continue;
            for (Index p : wall.ring) {
                const Vec3 c = centres[cell];
                const auto& at = all.points[p];
                if (std::hypot(at[0] - double(c.x), at[1] - double(c.y), at[2] - double(c.z)) > kFarthest * crumbs[cell].radius) gone[cell] = 1;
            }
        }
    return crumbsLeft(all, gone);
}

FlatWalls crumbsLeft(const FlatWalls& cells, const std::vector<std::uint8_t>& gone) {
    const auto rest = Index(gone.size());
    FlatWalls out;
    out.points = cells.points;
    for (FlatWalls::Wall wall : cells.walls) {
        for (Index& cell : wall.cells)
            if (cell != rest && gone[cell]) cell = rest;
        if (wall.cells[0] == wall.cells[1]) continue;
        if (wall.cells[0] < wall.cells[1]) std::swap(wall.cells[0], wall.cells[1]), std::reverse(wall.ring.begin() + 1, wall.ring.end());
        out.walls.push_back(std::move(wall));
    }
    return out;
}

}  // namespace seedloom
