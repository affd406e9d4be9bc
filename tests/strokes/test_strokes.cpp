// Lines that follow a direction over a surface, against what is known of balls, tubes and rings.
#include "geometry/NearestPlace.h"
#include "parallel/Loops.h"
#include "scatter/SurfaceStrokes.h"
#include "support/Run.h"
#include "surface/SurfaceWalk.h"

#include <tbb/global_control.h>

using namespace seedloom;
using namespace seedloom::test;

namespace {

Geometry withDirections(Geometry g, const std::function<Vec3(Vec3)>& at) {
    std::vector<Vec3> out;
    for (const Vec3 p : g.positions()) out.push_back(at(p));
    g.setColumn(Element::point, "direction", Column(std::move(out)));
    return g;
}

Geometry pointsOf(std::vector<Vec3> at) { return Geometry(std::move(at)); }

Geometry ball(int frequency = 24) { return made("geodesic_sphere", {{"radius", 1}, {"frequency", frequency}}); }
/// A sheet of 2 × 2 m in the plane y = 0.
Geometry sheet(int cells = 10) { return made("grid", {{"size", {2, 2}}, {"cells", {cells, cells}}}); }
Vec3 eastward(Vec3 p) { return {p.z, 0, -p.x}; }

Geometry strokesOn(const Geometry& surface, const std::vector<Vec3>& starts, Json settings) {
    if (!settings.contains("hold_apart")) settings["hold_apart"] = 0;
    return madeOf("surface_strokes", {{surface}, {pointsOf(starts)}}, settings);
}

double pathLength(const Geometry& g, std::size_t curve) { return double(curveLength(g, curve)); }

/// The least distance between points of two strokes that look the same way.
double leastBetween(const Geometry& g) {
    double out = 1e9;
    const auto& normal = *g.values<Vec3>(Element::point, "normal");
    const auto& start = g.topology().curveStart();
    for (std::size_t a = 0; a < g.curveCount(); ++a)
        for (Index i = start[a]; i < start[a + 1]; ++i)
            for (Index j = start[a + 1]; j < Index(g.pointCount()); ++j)
                if (dot(normal[i], normal[j]) > 0.5f) out = std::min(out, double(distance(g.positions()[i], g.positions()[j])));
    return out;
}

double farthestOff(const Geometry& strokes, const Geometry& surface) {
    const NearestPlace nearest(surface, NearestPlace::On::faces);
    double out = 0;
    for (const Vec3 p : strokes.positions()) out = std::max(out, double(distance(p, nearest.find(p).position)));
    return out;
}

}  // namespace

class TestStrokes : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// A box of 1 m: straight up one side, over its top and down the other one, as on its unfolded sides.
    void walksStraightOverEdges() {
        const Geometry box = made("box", {{"size", {1, 1, 1}}, {"anchor", "bottom"}});
        const SurfaceWalk surface(box);
        const NearestPlace nearest(box, NearestPlace::On::faces);
        const Place place = nearest.find({0.2f, 0.5f, 0.5f});
        Walker walker{place.part, {double(place.weights[0]), double(place.weights[1]), double(place.weights[2])}, {}};
        QVERIFY(surface.turn(walker, {0, 1, 0}));
        QVERIFY(near(surface.go(walker, 0.8), 0.8, 1e-12));
        const Vec3 onTop = rounded(surface.position(walker));
        QVERIFY(distance(onTop, {0.2f, 1, 0.2f}) < 1e-6f);
        QVERIFY(near(walker.heading[2], -1, 1e-9));
        surface.go(walker, 1.2);
        QVERIFY(distance(rounded(surface.position(walker)), {0.2f, 0.5f, -0.5f}) < 1e-6f);
        QVERIFY(near(walker.heading[1], -1, 1e-9));
        // All around is 4 m.
        surface.go(walker, 2);
        QVERIFY(distance(rounded(surface.position(walker)), {0.2f, 0.5f, 0.5f}) < 1e-6f);
    }
    void aStraightWayOnABallIsAGreatCircle() {
        const Geometry surface = ball(40);
        const SurfaceWalk walk(surface);
        const NearestPlace nearest(surface, NearestPlace::On::faces);
        const Place place = nearest.find({0.3f, 0.2f, 0.9f});
        Walker walker{place.part, {double(place.weights[0]), double(place.weights[1]), double(place.weights[2])}, {}};
        QVERIFY(walk.turn(walker, {1, 0.4, 0}));
        const FinePlace axis = cross(walk.position(walker), walker.heading);
        for (int i = 0; i < 60; ++i) {
            walk.go(walker, 0.1);
            const FinePlace at = walk.position(walker);
            QVERIFY(near(dot(at, axis), 0, 0.01));
            QVERIFY(near(dot(walker.heading, walk.normal(walker.triangle)), 0, 1e-9));
            QVERIFY(near(walker.weight[0] + walker.weight[1] + walker.weight[2], 1, 1e-12));
        }
    }
    /// Through corners, along edges, over faces without area, and to the border.
    void walksWhereItIsNarrow() {
        const Geometry flat = sheet(4);
        const SurfaceWalk surface(flat);
        const NearestPlace nearest(flat, NearestPlace::On::faces);
        for (const Vec3 direction : {Vec3{1, 0, 0}, Vec3{1, 0, 1}, Vec3{1, 0, -1}, Vec3{0, 0, 1}, Vec3{2, 0, 1}}) {
            const Place place = nearest.find({-0.5f, 0, -0.5f});
            Walker walker{place.part, {double(place.weights[0]), double(place.weights[1]), double(place.weights[2])}, {}};
            QVERIFY(surface.turn(walker, fine(direction)));
            const double came = surface.go(walker, 0.45);
            QVERIFY(near(came, 0.45, 1e-9));
            QVERIFY(distance(rounded(surface.position(walker)), Vec3{-0.5f, 0, -0.5f} + normalized(direction) * 0.45f) < 1e-5f);
            const double rest = surface.go(walker, 10);
            const Vec3 end = rounded(surface.position(walker));
            QVERIFY(rest < 3 && near(double(std::max(std::abs(end.x), std::abs(end.z))), 1, 1e-6));
        }
        // Two triangles with one between them that is a line.
        const Geometry thin({{0, 0, 0}, {2, 0, 0}, {1, 0, 0}, {1, 0, 1}, {1, 0, -1}},
                            Topology(5, {0, 3, 6, 9, 12}, {0, 3, 2, 2, 3, 1, 0, 2, 1, 0, 1, 4}, {0}, {}, {}));
        const SurfaceWalk over(thin);
        QVERIFY(!over.solid(2) && over.solid(0));
        for (const Index start : {0u, 1u}) {
            Walker walker{start, {1.0 / 3, 1.0 / 3, 1.0 / 3}, {}};
            const FinePlace from = over.position(walker);
            QVERIFY(over.turn(walker, {0, 0, -1}));
            QVERIFY(near(over.go(walker, 0.5), 0.5, 1e-9));
            QCOMPARE(walker.triangle, Index(3));
            QVERIFY(near(over.position(walker)[0], from[0], 1e-9) && near(over.position(walker)[2], from[2] - 0.5, 1e-9));
        }
    }
    void strokesOnASheetAreStraightAndExact() {
        const Geometry surface = withDirections(sheet(), [](Vec3) { return Vec3{0, 0, 2}; });
        const Geometry one = strokesOn(surface, {{0.13f, 0, -0.5f}}, {{"step", 0.01}, {"steps", 50}, {"both_ways", false}});
        QCOMPARE(one.curveCount(), 1u);
        QCOMPARE(one.pointCount(), 51u);
        QVERIFY(near(pathLength(one, 0), 0.5, 1e-5));
        for (const Vec3 p : one.positions()) QVERIFY(near(double(p.x), 0.13, 1e-6));
        QVERIFY(near(double(one.positions().back().z), 0, 1e-5));
        const auto& along = *one.values<float>(Element::point, "along");
        QVERIFY(along.front() == 0 && near(double(along[25]), 0.5, 1e-4) && near(double(along.back()), 1, 1e-6));
        // Both ways, to both borders; the start is in it.
        const Geometry both = strokesOn(surface, {{0.13f, 0, -0.5f}}, {{"step", 0.03}, {"steps", 1000}});
        QVERIFY(near(pathLength(both, 0), 2, 1e-5));
        QVERIFY(near(double(both.positions().front().z), -1, 1e-6) && near(double(both.positions().back().z), 1, 1e-6));
        const auto& tangent = *both.values<Vec3>(Element::point, "tangent");
        for (const Vec3 t : tangent) QVERIFY(near(double(t.z), 1, 1e-6));
        // Turned by a right angle it runs across.
        const Geometry across = strokesOn(surface, {{0.1f, 0, 0}}, {{"turn", 90}, {"step", 0.05}, {"steps", 4}});
        for (const Vec3 p : across.positions()) QVERIFY(near(double(p.z), 0, 1e-6));
        QCOMPARE(across.pointCount(), 9u);
        QVERIFY(near(pathLength(across, 0), 0.4, 1e-5));
    }
    /// Eastward on a ball: circles at their height. The midpoint rule keeps them there; the mere direction at each step would not.
    void strokesOnABallStayAtTheirHeight() {
        const Geometry surface = withDirections(ball(30), eastward);
        for (const float y : {0.0f, 0.4f, -0.7f}) {
            const float r = std::sqrt(1 - y * y);
            const Geometry ring = strokesOn(surface, {{0, y, r}}, {{"step", 0.05}, {"steps", 100}, {"both_ways", false}});
            QCOMPARE(ring.pointCount(), 101u);
            for (const Vec3 p : ring.positions()) QVERIFY2(near(double(p.y), double(y), 0.006), fmt::format("{} {}", p.y, y).c_str());
            QVERIFY(farthestOff(ring, surface) < 1e-6);
            for (std::size_t i = 1; i < ring.pointCount(); ++i) {
                const double step = double(distance(ring.positions()[i], ring.positions()[i - 1]));
                QVERIFY(step <= 0.0500001 && step > 0.0495);
            }
        }
    }
    /// Where the sign of the direction flips, the stroke goes on.
    void signsMeanNothing() {
        const Geometry plain = withDirections(ball(20), eastward);
        int flip = 0;
        const Geometry mixed = withDirections(ball(20), [&](Vec3 p) { return eastward(p) * (++flip * 7919 % 3 == 0 ? -1.0f : 1.0f); });
        const Json settings{{"step", 0.04}, {"steps", 60}};
        const Geometry a = strokesOn(plain, {{0.5f, 0.3f, 0.8f}}, settings), b = strokesOn(mixed, {{0.5f, 0.3f, 0.8f}}, settings);
        QCOMPARE(a.pointCount(), b.pointCount());
        const bool turned = distance(a.positions().front(), b.positions().front()) > 0.01f;
        for (std::size_t i = 0; i < a.pointCount(); ++i) QVERIFY(distance(a.positions()[i], b.positions()[turned ? b.pointCount() - 1 - i : i]) < 1e-4f);
        const auto& tangent = *b.values<Vec3>(Element::point, "tangent");
        for (std::size_t i = 1; i < tangent.size(); ++i) QVERIFY(dot(tangent[i], tangent[i - 1]) > 0.9f);
    }
    /// A tube bends most around it and not at all along it; a ring bends least along its large circles only inside.
    void principalDirectionsOfTubesAndRings() {
        const Geometry tube =
            made("cylinder", {{"radius_bottom", 0.25}, {"radius_top", 0.25}, {"height", 2}, {"sides", 64}, {"rings", 40}, {"bottom", false}, {"top", false}});
        for (const char* along : {"largest", "smallest"}) {
            const Geometry out = made("measure", {{"of", "principal direction"}, {"along", along}, {"name", "way"}}, {tube});
            const auto& way = *out.values<Vec3>(Element::point, "way");
            for (std::size_t p = 0; p < way.size(); ++p) {
                const Vec3 at = out.positions()[p], n = normalized({at.x, 0, at.z});
                if (at.y < 0.15f || at.y > 1.85f) continue;
                QVERIFY(near(double(length(way[p])), 4, 0.1));
                const Vec3 wanted = along == std::string("largest") ? cross(n, {0, 1, 0}) : Vec3{0, 1, 0};
                QVERIFY(std::abs(dot(normalized(way[p]), wanted)) > 0.999f);
            }
        }
        const Geometry ring = made("measure", {{"of", "principal direction"}, {"along", "largest"}},
                                   {made("torus", {{"radius", 1}, {"tube", 0.3}, {"sides", 96}, {"tube_sides", 48}})});
        const auto& way = *ring.values<Vec3>(Element::point, "principal_direction");
        for (std::size_t p = 0; p < way.size(); ++p) {
            const Vec3 at = ring.positions()[p], east = normalized({at.z, 0, -at.x});
            // Around the tube: 1/0.3 there, at most 1/0.7 the other way.
            QVERIFY(std::abs(dot(normalized(way[p]), east)) < 0.05f && length(way[p]) > 1.5f);
        }
        const auto round = made("measure", {{"of", "principal direction"}}, {ball(20)});
        for (const Vec3 each : *round.values<Vec3>(Element::point, "principal_direction")) QVERIFY(length(each) < 0.1f);
    }
    /// As lines, directions of any sign even out to what they have in common, and stay in the surface.
    void linesAreBlurredWhateverTheirSign() {
        int flip = 0;
        const Geometry mixed = withDirections(ball(16), [&](Vec3 p) {
            const Vec3 e = eastward(p) + Vec3{0, 0.25f * float(flip % 5 - 2), 0};
            return (e - p * dot(e, p)) * (++flip * 7919 % 3 == 0 ? -1.0f : 1.0f);
        });
        const Geometry calm = made("blur_attribute", {{"name", "direction"}, {"iterations", 8}, {"as_lines", true}}, {mixed});
        const Geometry lost = made("blur_attribute", {{"name", "direction"}, {"iterations", 8}}, {mixed});
        const auto& way = *calm.values<Vec3>(Element::point, "direction");
        const auto& plain = *lost.values<Vec3>(Element::point, "direction");
        const auto normals = pointNormals(calm);
        double cancelled = 0, kept = 0;
        for (std::size_t p = 0; p < way.size(); ++p) {
            const Vec3 at = calm.positions()[p];
            if (std::abs(at.y) > 0.8f) continue;
            QVERIFY(std::abs(dot(normalized(way[p]), normalized(eastward(at)))) > 0.97f);
            QVERIFY(std::abs(dot(way[p], normals[p])) < 1e-5f);
            cancelled += double(length(plain[p])), kept += double(length(way[p]));
        }
        QVERIFY(cancelled < kept * 0.7);
    }
    void strokesKeepApart() {
        const Geometry surface = withDirections(ball(20), [](Vec3 p) { return cross(p, {0.3f, 0.2f, 1}) + Vec3{0, p.x * p.z, 0}; });
        for (const double apart : {0.05, 0.15}) {
            const Geometry out = madeOf("surface_strokes", {{surface}}, {{"hold_apart", apart}, {"step", 0.03}, {"steps", 40}});
            QVERIFY(out.curveCount() > 10);
            QVERIFY2(leastBetween(out) >= apart * 0.9999, fmt::format("{} {}", leastBetween(out), apart).c_str());
            // Full: nobody stands farther from a stroke than two more would need.
            const NearestPlace nearest(out, NearestPlace::On::curves);
            int empty = 0;
            for (const Vec3 p : surface.positions()) empty += nearest.find(p).squaredDistance > float(2.5 * apart * 2.5 * apart);
            QVERIFY(empty < int(surface.pointCount()) / 50);
        }
        // Steps longer than the distance do not jump over others.
        const Geometry crossing = withDirections(sheet(), [](Vec3 p) { return p.x < 0 ? Vec3{1, 0, 0} : Vec3{0, 0, 1}; });
        const Geometry two = madeOf("surface_strokes", {{crossing}, {pointsOf({{0.31f, 0, 0}, {-0.5f, 0, 0.2f}})}},
                                    {{"hold_apart", 0.02}, {"step", 0.25}, {"steps", 9}, {"straighten", 1}});
        QCOMPARE(two.curveCount(), 2u);
        for (Index i = two.topology().curveStart()[1]; i < Index(two.pointCount()); ++i) QVERIFY(two.positions()[i].x < 0.29f);
    }
    /// How near, from place to place; those that come first keep their room, and theirs alone is what another start changes.
    void distancesDifferAndSeedsAreStable() {
        const Geometry surface = withDirections(sheet(20), [](Vec3) { return Vec3{0, 0, 1}; });
        const Geometry out =
            madeOf("surface_strokes", {{surface}}, {{"hold_apart", {{"formula", "position.x < 0 ? 0.05 : 0.2"}}}, {"step", 0.05}, {"steps", 100}});
        int left = 0, right = 0;
        for (std::size_t c = 0; c < out.curveCount(); ++c) (out.positions()[out.topology().curve(c)[0]].x < 0 ? left : right)++;
        QVERIFY2(left >= 12 && right >= 4 && right <= 6, fmt::format("{} {}", left, right).c_str());

        std::vector<Vec3> starts;
        for (int i = 0; i < 12; ++i) starts.push_back({-0.9f + 0.15f * float(i), 0, 0.3f * float(i % 3)});
        Geometry numbered = pointsOf(starts);
        std::vector<std::int32_t> ids;
        for (int i = 0; i < 12; ++i) ids.push_back(100 + i);
        numbered.setColumn(Element::point, "id", Column(std::move(ids)));
        const Json settings{{"hold_apart", 0.1}, {"step", 0.05}, {"steps", 6}};
        const Geometry all = madeOf("surface_strokes", {{surface}, {numbered}}, settings);
        QCOMPARE(all.curveCount(), 12u);
        QCOMPARE((*all.values<std::int32_t>(Element::curve, "id"))[7], 107);
        starts.push_back(starts[4] + Vec3{0.02f, 0, 0});
        const Geometry more = madeOf("surface_strokes", {{surface}, {pointsOf(starts)}}, settings);
        QCOMPARE(more.positions(), all.positions());
    }
    /// A thin plate: its other side counts, or has strokes of its own. And a stroke that turns in a small circle ends before it meets itself.
    void otherSidesAndOwnTurns() {
        const Geometry plate = withDirections(made("box", {{"size", {1, 0.01, 1}}, {"cells", {8, 1, 8}}}), [](Vec3) { return Vec3{0, 0, 1}; });
        const auto sides = [&](bool other) {
            const Geometry out = madeOf("surface_strokes", {{plate}}, {{"hold_apart", 0.1}, {"step", 0.03}, {"other_side", other}});
            std::array<int, 2> count{};
            for (const Vec3 n : *out.values<Vec3>(Element::point, "normal")) count[0] += n.y > 0.9f, count[1] += n.y < -0.9f;
            return count;
        };
        const auto one = sides(true), both = sides(false);
        QVERIFY2(both[0] > 250 && both[1] > 250, fmt::format("{} {}", both[0], both[1]).c_str());
        QVERIFY2(one[0] + one[1] < (both[0] + both[1]) * 0.7, fmt::format("{} {}", one[0], one[1]).c_str());

        const Geometry whirl = withDirections(sheet(40), eastward);
        for (const double radius : {0.3, 0.12, 0.08}) {
            const Geometry out =
                madeOf("surface_strokes", {{whirl}, {pointsOf({{float(radius), 0, 0}})}}, {{"hold_apart", 0.2}, {"step", 0.02}, {"steps", 300}});
            const double length = pathLength(out, 0), round = 2 * kPi * radius;
            // All around but for the distance, or not at all where a circle is less wide than that.
            if (radius > 0.2) QVERIFY2(near(length, round - 0.2, 0.05), fmt::format("{}", length).c_str());
            else if (radius > 0.1) QVERIFY2(length > round / 2 && length < round - 0.2, fmt::format("{}", length).c_str());
            else QVERIFY2(length < 0.05, fmt::format("{}", length).c_str());
        }
    }
    void endsAndLengths() {
        const Geometry fading = withDirections(sheet(20), [](Vec3 p) { return Vec3{0, 0, 1 - std::abs(p.z)}; });
        const Geometry until = strokesOn(fading, {{0.03f, 0, 0.01f}}, {{"stop_under", 0.5}, {"step", 0.01}, {"steps", 500}});
        QVERIFY(near(pathLength(until, 0), 1, 0.021));
        // A wave: its strokes follow it, or keep their heading.
        const Geometry wave = withDirections(sheet(40), [](Vec3 p) { return Vec3{0.8f * std::sin(p.z * 30), 0, 1}; });
        const Geometry follows = strokesOn(wave, {{0, 0, -0.9f}}, {{"step", 0.01}, {"steps", 150}, {"both_ways", false}});
        const Geometry keeps = strokesOn(wave, {{0, 0, -0.9f}}, {{"step", 0.01}, {"steps", 150}, {"both_ways", false}, {"straighten", 0.95}});
        const auto bends = [](const Geometry& g) {
            const auto& tangent = *g.values<Vec3>(Element::point, "tangent");
            double out = 0;
            for (std::size_t i = 1; i < tangent.size(); ++i) out += std::acos(std::clamp(double(dot(tangent[i], tangent[i - 1])), -1.0, 1.0));
            return out;
        };
        QVERIFY2(bends(keeps) < bends(follows) * 0.4, fmt::format("{} {}", bends(keeps), bends(follows)).c_str());
        // Shorter ones are left out, and make room.
        const Geometry ends = withDirections(sheet(20), [](Vec3 p) { return p.z > 0.6f ? Vec3{0, 0, 1} : Vec3{}; });
        const std::vector<Vec3> starts{{0, 0, 0.95f}, {0.001f, 0, 0.7f}};
        const Geometry both = madeOf("surface_strokes", {{ends}, {pointsOf(starts)}}, {{"hold_apart", 0}, {"step", 0.05}, {"steps", 2}, {"shortest", 0.19}});
        QCOMPARE(both.curveCount(), 1u);
        QCOMPARE((*both.values<std::int32_t>(Element::curve, "id"))[0], 1);
        const Geometry room = madeOf("surface_strokes", {{ends}, {pointsOf(starts)}}, {{"hold_apart", 0.3}, {"step", 0.05}, {"steps", 2}, {"shortest", 0.19}});
        QCOMPARE(room.curveCount(), 1u);
        QCOMPARE((*room.values<std::int32_t>(Element::curve, "id"))[0], 1);
    }
    void carriesWhatTheSurfaceSays() {
        Geometry surface = withDirections(ball(16), eastward);
        std::vector<float> height;
        for (const Vec3 p : surface.positions()) height.push_back(p.y);
        surface.setColumn(Element::point, "height", Column(std::move(height)));
        const Geometry out = strokesOn(surface, {{0.2f, 0.5f, 0.8f}, {0.8f, -0.2f, 0}}, {{"step", 0.05}, {"steps", 20}});
        const auto& carried = *out.values<float>(Element::point, "height");
        const auto& normal = *out.values<Vec3>(Element::point, "normal");
        const auto& tangent = *out.values<Vec3>(Element::point, "tangent");
        for (std::size_t p = 0; p < carried.size(); ++p) {
            QVERIFY(near(double(carried[p]), double(out.positions()[p].y), 1e-5));
            QVERIFY(dot(normal[p], normalized(out.positions()[p])) > 0.999f && std::abs(dot(normal[p], tangent[p])) < 0.1f);
        }
        QVERIFY(!out.column(Element::point, "density") && !out.column(Element::point, "id"));
        // Also what scattering would make anew.
        surface.setColumn(Element::point, "density", Column(std::vector<float>(surface.pointCount(), 3)));
        const Geometry dense = strokesOn(surface, {{0.2f, 0.5f, 0.8f}}, {{"step", 0.05}, {"steps", 20}});
        for (const float each : *dense.values<float>(Element::point, "density")) QVERIFY(near(double(each), 3, 1e-5));
    }
    void theSameForAnyNumberOfThreads() {
        const Geometry surface = withDirections(ball(20), [](Vec3 p) { return cross(p, {0.3f, 0.2f, 1}); });
        std::vector<Vec3> starts;
        for (int i = 0; i < 900; ++i) starts.push_back(normalized({std::sin(float(i)), std::cos(float(i) * 1.7f), std::sin(float(i) * 0.37f)}));
        const Json settings{{"hold_apart", 0.04}, {"step", 0.03}, {"steps", 25}};
        const Geometry many = madeOf("surface_strokes", {{surface}, {pointsOf(starts)}}, settings);
        const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
        QCOMPARE(madeOf("surface_strokes", {{surface}, {pointsOf(starts)}}, settings).positions(), many.positions());
        QVERIFY(many.curveCount() > 20 && leastBetween(many) >= 0.04 * 0.9999);
    }
    void badInputIsTold() {
        const Geometry surface = withDirections(sheet(), [](Vec3) { return Vec3{0, 0, 1}; });
        const auto code = [](std::vector<std::vector<Geometry>> ports, const Json& settings = Json::object()) {
            return lastCode(runPorts("surface_strokes", std::move(ports), settings));
        };
        QCOMPARE(code({{pointsOf({{0, 0, 0}})}}), std::string("surface.none"));
        // Where nobody says a direction: along a tube.
        const auto usual = runPorts("surface_strokes", {{made("cylinder", {{"sides", 48}, {"rings", 24}, {"bottom", false}, {"top", false}})}});
        QCOMPARE(lastCode(usual), std::string("strokes.direction"));
        QVERIFY(!usual.failed && !usual.notices.back().fixes.empty() && usual.geometry.curveCount() > 10);
        double upright = 0;
        for (const Vec3 t : *usual.geometry.values<Vec3>(Element::point, "tangent")) upright += double(std::abs(t.y)) / double(usual.geometry.pointCount());
        QVERIFY(upright > 0.95);
        QVERIFY(runPorts("surface_strokes", {{surface}}, {{"direction", "flow"}}).failed);
        QCOMPARE(code({{surface}}, {{"hold_apart", 0}}), std::string("strokes.fill"));
        Geometry numbers = surface;
        numbers.setColumn(Element::point, "direction", Column(std::vector<float>(surface.pointCount(), 1)));
        QCOMPARE(code({{numbers}}), std::string("setting.type"));
        QCOMPARE(code({{withDirections(sheet(), [](Vec3) { return Vec3{}; })}}), std::string("strokes.none"));
        const float none = std::numeric_limits<float>::quiet_NaN();
        const auto holes = runPorts("surface_strokes", {{withDirections(sheet(20), [&](Vec3 p) { return p.z > 0 ? Vec3{none, 0, 1} : Vec3{0, 0, 1}; })}});
        QCOMPARE(lastCode(holes), std::string("strokes.no_number"));
        QVERIFY(!holes.failed && holes.geometry.curveCount() > 5);
        for (const Vec3 p : holes.geometry.positions()) QVERIFY2(isFinite(p) && p.z < 0.1101f, fmt::format("{} {}", p.x, p.z).c_str());
        const auto start = runPorts("surface_strokes", {{surface}, {pointsOf({{none, 0, 0}, {0, 0, 0}})}});
        QCOMPARE(lastCode(start), std::string("strokes.start"));
        QCOMPARE(start.geometry.curveCount(), 1u);
        // So many points would not fit: a message, at once.
        QVERIFY(runPorts("surface_strokes", {{surface}}, {{"hold_apart", 1e-5}, {"step", 1e-6}}).failed);
    }
};

QTEST_APPLESS_MAIN(TestStrokes)
#include "test_strokes.moc"
