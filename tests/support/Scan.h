#pragma once
// A scan as it comes from a workshop: of a lumpy stone that stands on a flat foot.
#include "geometry/Geometry.h"

#include <cmath>
#include <numbers>
#include <random>

namespace seedloom::test {

/// In millimetres, +Z up, looking inwards, far off, with holes, specks around it, and some faces turned over. About that many triangles; no two share a point.
struct DirtyScan {
    std::size_t triangles = 20'000;
    int holes = 5, specks = 12;
    bool insideOut = true, someReversed = true;
    Vec3 away{400, -150, 90};

    /// How far the stone's skin is from its middle, that way; the foot cuts it off below.
    static double radiusAt(double x, double y, double z) { return 100 * (1 + 0.12 * std::sin(5 * x) * std::cos(4 * y) + 0.05 * std::sin(9 * z + 3 * x)); }
    static constexpr float kFoot = -70;
    static Vec3 placeAt(double tilt, double turn) {
        const double x = std::sin(tilt) * std::cos(turn), y = std::sin(tilt) * std::sin(turn), z = std::cos(tilt), r = radiusAt(x, y, z);
        return {float(x * r), float(y * r), std::max(float(z * r), kFoot)};
    }

    Geometry make() const {
        std::mt19937 dice(7);
        std::normal_distribution<double> normal;
        struct Hole {
            Vec3 way;
            float reach;
        };
        std::vector<Hole> holed;
        for (int i = 0; i < holes; ++i) {
            const Vec3 way{float(normal(dice)), float(normal(dice)), float(std::abs(normal(dice)) + 0.2)};
            holed.push_back({normalized(way, {0, 0, 1}), std::cos(0.08f + 0.03f * float(i))});
        }
        const auto rings = std::size_t(std::sqrt(double(triangles) / 4)), sides = 2 * rings;
        std::vector<Vec3> corners;
        const auto add = [&](Vec3 a, Vec3 b, Vec3 c) {
            const Vec3 way = normalized(a + b + c, {0, 0, 1});
            for (const Hole& hole : holed)
                if (dot(way, hole.way) > hole.reach) return;
            const bool turned = insideOut != (someReversed && dice() % 40 == 0);
            for (Vec3 p : {a, turned ? c : b, turned ? b : c}) corners.push_back(p + away);
        };
        const auto place = [&](std::size_t ring, std::size_t side) {
            return placeAt(std::numbers::pi * double(ring) / double(rings), 2 * std::numbers::pi * double(side % sides) / double(sides));
        };
        for (std::size_t r = 0; r < rings; ++r)
            for (std::size_t s = 0; s < sides; ++s) {
                if (r > 0) add(place(r, s), place(r + 1, s), place(r, s + 1));
                if (r + 1 < rings) add(place(r, s + 1), place(r + 1, s), place(r + 1, s + 1));
            }
        for (int i = 0; i < specks; ++i) {
            const Vec3 at = normalized({float(normal(dice)), float(normal(dice)), float(normal(dice))}, {1, 0, 0}) * 140.0f + away;
            for (Vec3 p : {Vec3{0, 0, 0}, Vec3{2, 0, 0}, Vec3{0, 2, 1}}) corners.push_back(at + p);
        }
        std::vector<Index> start{0}, points;
        for (Index c = 0; c < corners.size(); ++c) {
            points.push_back(c);
            if (c % 3 == 2) start.push_back(c + 1);
        }
        const std::size_t count = corners.size();
        return Geometry(std::move(corners), Topology(count, std::move(start), std::move(points), {0}, {}, {}));
    }
};

}  // namespace seedloom::test
