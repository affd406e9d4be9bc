// Rigid bodies: what they weigh, what stands for them, and how they fall, slide, hit each other and come to rest.
#include "motion/Hulls.h"
#include "motion/RigidScene.h"

#include <QtTest/QtTest>

#include <tbb/global_control.h>

#include <numeric>
#include <random>

using namespace seedloom;

namespace {

constexpr double kFrame = 1.0 / 24;

std::vector<Vec3> boxCorners(Vec3 half, Vec3 at = {}) {
    std::vector<Vec3> out;
    for (int i = 0; i < 8; ++i) out.push_back(at + Vec3{i & 1 ? half.x : -half.x, i & 2 ? half.y : -half.y, i & 4 ? half.z : -half.z});
    return out;
}

/// A box of so many kilograms.
RigidBody box(Vec3 half, double mass = 100) {
    const double third = mass / 3;
    const auto square = [](float v) { return double(v) * double(v); };
    return {{boxCorners(half)},
            mass,
            {third * (square(half.y) + square(half.z)), third * (square(half.x) + square(half.z)), third * (square(half.x) + square(half.y))}};
}

BodyState at(Triple place) {
    BodyState out;
    out.at = place;
    return out;
}

Turn turnAbout(Triple axis, double angle) {
    const double part = std::sin(angle / 2) / std::hypot(axis[0], axis[1], axis[2]);
    return {axis[0] * part, axis[1] * part, axis[2] * part, std::cos(angle / 2)};
}

/// A square of triangles through the origin, tilted about z so that +x leads up.
std::vector<Triangle3> slope(double degreesUp, int cells) {
    const Vec3 up{float(std::cos(radians(degreesUp))), float(std::sin(radians(degreesUp))), 0}, across{0, 0, 1};
    std::vector<Triangle3> out;
    const auto place = [&](int i, int j) { return up * (40.0f * float(i) / float(cells) - 20) + across * (40.0f * float(j) / float(cells) - 20); };
    for (int i = 0; i < cells; ++i)
        for (int j = 0; j < cells; ++j) {
            out.push_back({place(i, j), place(i, j + 1), place(i + 1, j + 1)});
            out.push_back({place(i, j), place(i + 1, j + 1), place(i + 1, j)});
        }
    return out;
}

/// A square of ground with humps everywhere.
std::vector<Triangle3> humps(float cell, float height, int cells) {
    std::mt19937 random(5);
    std::vector<Vec3> points;
    for (int i = 0; i <= cells; ++i)
        for (int j = 0; j <= cells; ++j)
            points.push_back({cell * (float(i) - 0.5f * float(cells)), height * float(random() % 1000) / 1000, cell * (float(j) - 0.5f * float(cells))});
    std::vector<Triangle3> out;
    const auto point = [&](int i, int j) { return points[std::size_t(i * (cells + 1) + j)]; };
    for (int i = 0; i < cells; ++i)
        for (int j = 0; j < cells; ++j) {
            out.push_back({point(i, j), point(i, j + 1), point(i + 1, j + 1)});
            out.push_back({point(i, j), point(i + 1, j + 1), point(i + 1, j)});
        }
    return out;
}

/// How far a point lies above triangles that are seen from above, 1e9 where there are none.
double above(const std::vector<Triangle3>& ground, const Triple& p) {
    for (const auto& [a, b, c] : ground) {
        const double ax = double(a.x) - p[0], az = double(a.z) - p[2], bx = double(b.x) - p[0], bz = double(b.z) - p[2], cx = double(c.x) - p[0],
                     cz = double(c.z) - p[2];
        const double u = bx * cz - bz * cx, v = cx * az - cz * ax, w = ax * bz - az * bx;
        if (u + v + w == 0 || std::min({u, v, w}) * (u + v + w) < 0 || std::max({u, v, w}) * (u + v + w) < 0) continue;
        return p[1] - (u * double(a.y) + v * double(b.y) + w * double(c.y)) / (u + v + w);
    }
    return 1e9;
}

struct Run {
    std::shared_ptr<const RigidScene> scene;
    std::vector<BodyState> states;
    std::vector<float> friction, bounce;
    std::vector<std::uint8_t> held;
    Triple gravity{0, -9.81, 0};
    std::vector<BodyPress> presses;

    Run(std::vector<RigidBody> bodies, std::vector<BodyState> from, const std::vector<Triangle3>& ground = {})
        : scene(RigidScene::make(bodies, ground)), states(std::move(from)), friction(states.size(), 0.6f), bounce(states.size(), 0.0f), held(states.size(), 0) {
    }
    void frames(int count) {
        FrameForces forces{gravity, kFrame, &friction, &bounce, &held};
        for (int f = 0; f < count; ++f) states = scene->advanced(states, forces, RunContext(), &presses);
    }
    bool rest() const {
        return std::all_of(states.begin(), states.end(), [](const BodyState& s) { return s.asleep; });
    }
};

double energyOf(const RigidBody& body, const BodyState& state, double gravity) {
    const double v2 = std::inner_product(state.velocity.begin(), state.velocity.end(), state.velocity.begin(), 0.0);
    // About axes that are alike for all bodies that this is asked of.
    const double w2 = std::inner_product(state.spin.begin(), state.spin.end(), state.spin.begin(), 0.0);
    return body.mass * (v2 / 2 + gravity * state.at[1]) + body.inertia[0] * w2 / 2;
}

std::vector<Triangle3> trianglesOf(const std::vector<Vec3>& corners) { return hullOf(corners, corners.size()).surface; }

bool near(double a, double b, double within) { return std::abs(a - b) <= within; }

}  // namespace

class TestMotion : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void momentsOfABox() {
        const SolidMoments m = momentsOf(trianglesOf(boxCorners({1, 0.5f, 0.25f}, {3, 2, 1})));
        QVERIFY(near(m.volume, 1, 1e-6));
        QVERIFY(near(m.centre[0], 3, 1e-6) && near(m.centre[1], 2, 1e-6) && near(m.centre[2], 1, 1e-6));
        // ∫x² = V a²/3 for half sizes a.
        QVERIFY(near(m.second[0][0], 1.0 / 3, 1e-6) && near(m.second[1][1], 0.25 / 3, 1e-6) && near(m.second[2][2], 0.0625 / 3, 1e-6));
        QVERIFY(near(m.second[0][1], 0, 1e-6) && near(m.second[1][2], 0, 1e-6));
        const InertiaAxes axes = inertiaAxesOf(m);
        QVERIFY(near(axes.moment[0], (0.25 + 0.0625) / 3, 1e-6) && near(axes.moment[2], (1 + 0.25) / 3, 1e-6));
        QVERIFY(near(std::abs(axes.axis[0][0]), 1, 1e-6));  // the least about its length
        // Turned inside out it holds as much less than nothing.
        auto surface = trianglesOf(boxCorners({1, 1, 1}));
        for (Triangle3& t : surface) std::swap(t[1], t[2]);
        QVERIFY(near(momentsOf(surface).volume, -8, 1e-5));
    }

    void momentsFollowAMap() {
        const auto surface = trianglesOf({{0, 0, 0}, {1, 0, 0}, {0, 2, 0}, {0, 0, 1}, {1, 1, 1}});
        const Affine map{{1.5f, 0.2f, 0}, {-0.3f, 0.8f, 0.1f}, {0, 0.4f, 2}, {5, -3, 1}};
        std::vector<Triangle3> there = surface;
        for (Triangle3& t : there)
            for (Vec3& p : t) p = map.point(p);
        const SolidMoments a = mapped(momentsOf(surface), map), b = momentsOf(there);
        QVERIFY(near(a.volume, b.volume, 1e-5));
        for (std::size_t i = 0; i < 3; ++i) {
            QVERIFY(near(a.centre[i], b.centre[i], 1e-5));
            for (std::size_t j = 0; j < 3; ++j) QVERIFY(near(a.second[i][j], b.second[i][j], 1e-5));
        }
    }

    void hullsHoldTheirPoints() {
        std::mt19937 random(3);
        std::vector<Vec3> points;
        for (int i = 0; i < 500; ++i) {
            const auto unit = [&] { return float(random()) / 2147483648.0f - 1; };
            points.push_back(normalized({unit(), unit(), unit()}));
        }
        const Hull whole = hullOf(points, kEveryCorner), fewer = hullOf(points, 30);
        QVERIFY(whole.corners.size() > 450 && near(whole.volume, 4.0 / 3 * kPi, 0.25));
        QVERIFY(fewer.corners.size() <= 30 && fewer.volume > 0.7 * whole.volume && fewer.volume < whole.volume);
        QVERIFY(near(momentsOf(whole.surface).volume, whole.volume, 1e-9));
        QCOMPARE(hullOf({}, 10).corners.size(), std::size_t(0));
    }

    void whatIsFlatGetsAThickness() {
        for (const std::vector<Vec3>& points :
             {std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 0, 1}}, {{0, 0, 0}, {0, 2, 0}}, {{1, 1, 1}}, {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}}}) {
            const Hull hull = hullOf(points, 40);
            QVERIFY(hull.volume > 0 && hull.corners.size() >= 6);
            QVERIFY(hull.volume < 0.05);
        }
    }

    void partsFollowHollows() {
        // An L of two boxes: its hull fills the corner between them.
        std::vector<Triangle3> l = trianglesOf(boxCorners({1, 0.1f, 0.5f}, {0, 0.1f, 0}));
        for (const Triangle3& t : trianglesOf(boxCorners({0.1f, 1, 0.5f}, {-0.9f, 1.2f, 0}))) l.push_back(t);
        const double own = 2 * 0.2 * 1 + 0.2 * 2 * 1;
        const Hull hull = hullOf(
            [&] {
                std::vector<Vec3> all;
                for (const Triangle3& t : l) all.insert(all.end(), t.begin(), t.end());
                return all;
            }(),
            40);
        QVERIFY(hull.volume > 2 * own);
        const auto parts = convexPartsOf(l, 16, 40);
        double held = 0;
        for (const Hull& part : parts) held += part.volume;
        QVERIFY(parts.size() >= 2 && parts.size() <= 16);
        QVERIFY(held > own * 0.99 && held < own * 1.2);
        QCOMPARE(convexPartsOf(trianglesOf(boxCorners({1, 1, 1})), 16, 40).size(), std::size_t(1));
    }

    void fallsAsTheLawSays() {
        Run run({box({0.1f, 0.1f, 0.1f})}, {at({0, 100, 0})});
        const double step = kFrame / run.scene->substeps(kFrame, 9.81);
        run.states[0].velocity = {2, 9.81 * step / 2, 0};
        run.frames(48);
        QVERIFY(near(run.states[0].at[1], 100 - 0.5 * 9.81 * 4, 1e-6));
        QVERIFY(near(run.states[0].at[0], 4, 1e-9));
        QCOMPARE(run.states[0].turn, (std::array<double, 4>{0, 0, 0, 1}));
    }

    void slidesOverTheFrictionAngleAndNotUnderIt_data() {
        QTest::addColumn<double>("friction");
        QTest::addColumn<int>("cells");
        for (const double friction : {0.3, 0.6, 1.0})
            for (const int cells : {1, 30}) QTest::addRow("%g on %d cells", friction, cells) << friction << cells;
    }
    void slidesOverTheFrictionAngleAndNotUnderIt() {
        QFETCH(double, friction);
        QFETCH(int, cells);
        for (const double beyond : {-2.0, 2.0}) {
            const double angle = degrees(std::atan(friction)) + beyond;
            const Triple normal{-std::sin(radians(angle)), std::cos(radians(angle)), 0};
            BodyState start = at({normal[0] * 0.25, normal[1] * 0.25, 0});
            start.turn = {0, 0, std::sin(radians(angle) / 2), std::cos(radians(angle) / 2)};
            Run run({box({0.5f, 0.25f, 0.4f})}, {start}, slope(angle, cells));
            run.friction = {float(friction)};
            run.frames(72);
            const auto& now = run.states[0].at;
            const double slid = std::hypot(now[0] - start.at[0], now[1] - start.at[1]), away = now[0] * normal[0] + now[1] * normal[1];
            QVERIFY2(beyond < 0 ? slid < 0.02 && run.rest() : slid > 0.8 && slid < 2.6, qPrintable(QString::number(slid)));
            QVERIFY(near(away, 0.25, 0.005));
        }
    }

    void tenBoxesStandForTenSeconds() {
        std::vector<RigidBody> bodies(10, box({0.5f, 0.5f, 0.5f}));
        std::vector<BodyState> states;
        for (int i = 0; i < 10; ++i) states.push_back(at({0, 0.5 + i, 0}));
        Run run(bodies, states);
        run.frames(240);
        QVERIFY(run.rest());
        for (int i = 0; i < 10; ++i) {
            const auto& now = run.states[std::size_t(i)].at;
            QVERIFY2(near(now[1], 0.5 + i, 0.01) && std::hypot(now[0], now[2]) < 0.03,
                     qPrintable(QStringLiteral("%1: %2 %3 %4").arg(i).arg(now[0]).arg(now[1]).arg(now[2])));
        }
        QVERIFY(run.scene->overlaps(run.states, 0.02).empty());
        // What rests stays, to the bit.
        const auto before = run.states;
        run.frames(5);
        QCOMPARE(run.states, before);
    }

    void momentumStaysAndEnergyDoesNotRise() {
        // Two that meet in the middle, off centre, without weight.
        Run run({box({0.2f, 0.2f, 0.2f}, 3), box({0.2f, 0.2f, 0.2f}, 1)}, {at({-1, 5, 0}), at({1, 5.1, 0.05})});
        run.gravity = {0, 0, 0};
        run.bounce = {0.5f, 0.5f};
        run.states[0].velocity = {4, 0, 0}, run.states[1].velocity = {-2, 0, 0};
        const auto momentum = [&](std::size_t a) { return 3 * run.states[0].velocity[a] + run.states[1].velocity[a]; };
        const double before = 0.5 * (3 * 16 + 4);
        run.frames(24);
        QVERIFY(run.states[0].velocity[0] < 3.9);  // they met
        QVERIFY(near(momentum(0), 10, 1e-6) && near(momentum(1), 0, 1e-6) && near(momentum(2), 0, 1e-6));
        double after = 0;
        for (std::size_t i = 0; i < 2; ++i) {
            const auto& s = run.states[i];
            const double mass = i == 0 ? 3 : 1, inertia = mass / 3 * 0.08;
            for (std::size_t a = 0; a < 3; ++a) after += 0.5 * (mass * s.velocity[a] * s.velocity[a] + inertia * s.spin[a] * s.spin[a]);
        }
        QVERIFY2(after < before && after > 0.3 * before, qPrintable(QString::number(after)));
    }

    void energyNeverRisesWhereThingsFall() {
        std::vector<RigidBody> bodies(8, box({0.3f, 0.3f, 0.3f}));
        std::vector<BodyState> states;
        for (int i = 0; i < 8; ++i) {
            states.push_back(at({0.1 * i, 1 + 0.9 * i, 0.07 * (i % 3)}));
            states.back().turn = {std::sin(0.2 * i), 0, 0, std::cos(0.2 * i)};
        }
        Run run(bodies, states);
        const auto energy = [&] {
            double sum = 0;
            for (std::size_t i = 0; i < 8; ++i) sum += energyOf(bodies[i], run.states[i], 9.81);
            return sum;
        };
        double last = energy();
        for (int f = 0; f < 96; ++f) {
            run.frames(1);
            const double now = energy();
            // As much as a step's own rounding of the law of falling, for all of them.
            QVERIFY2(now <= last + 8 * 100 * 9.81 * 0.004, qPrintable(QStringLiteral("%1: %2 → %3").arg(f).arg(last).arg(now)));
            last = now;
        }
    }

    void bounceIsAsHighAsTheCoefficientSays() {
        Run run({box({0.1f, 0.1f, 0.1f})}, {at({0, 1.1, 0})});
        run.bounce = {0.7f};
        double highest = 0;
        bool down = false;
        for (int f = 0; f < 40; ++f) {
            run.frames(1);
            if (run.states[0].velocity[1] > 0.5) down = true;
            if (down) highest = std::max(highest, run.states[0].at[1]);
        }
        QVERIFY2(near(highest - 0.1, 0.49, 0.06), qPrintable(QString::number(highest)));
    }

    void theSameEveryTimeAndFromAnyFrame() {
        std::mt19937 random(9);
        std::vector<RigidBody> bodies;
        std::vector<BodyState> states;
        for (int i = 0; i < 30; ++i) {
            const auto size = [&] { return 0.1f + 0.2f * float(random()) / 4294967296.0f; };
            bodies.push_back(box({size(), size(), size()}));
            states.push_back(at({(i % 3) * 0.7, 0.6 + (i / 9) * 0.7, (i / 3 % 3) * 0.7}));
        }
        Run one(bodies, states), two(bodies, states);
        one.frames(30);
        two.frames(12);
        // Nothing but states and presses goes from frame to frame: a scene made anew goes on in the same way.
        Run three(bodies, two.states);
        three.presses = two.presses;
        two.frames(18), three.frames(18);
        QCOMPARE(one.states, two.states);
        QCOMPARE(one.states, three.states);
    }

    /// What stands on a sharp tip stands on the tip, not deeper: on triangles and on another body.
    void tipsDoNotSinkIn() {
        RigidBody top = box({0.5f, 0.5f, 0.5f});
        top.parts = {{{0, -1, 0}, {0.3f, 0.5f, 0.3f}, {-0.3f, 0.5f, 0.3f}, {-0.3f, 0.5f, -0.3f}, {0.3f, 0.5f, -0.3f}}};
        for (const bool body : {false, true}) {
            Run run({top, box({2, 0.5f, 2})}, {at({0, 1, 0}), at({body ? 0.0 : 9.0, -0.5, 0})}, body ? slope(0, 4) : slope(0, 40));
            run.held = {0, 1};
            for (int f = 0; f < 12; ++f) {
                run.frames(1);
                const auto& now = run.states[0];
                const double tip = now.at[1] + (rotationOf(now.turn) * Triple{0, -1, 0})[1];
                QVERIFY2(tip > -0.004 && tip < 0.02, qPrintable(QStringLiteral("%1 at frame %2").arg(tip).arg(f)));
            }
        }
    }

    /// Neither corners in the ground nor humps in boxes, though each touches many triangles at once.
    void nothingSinksIntoRoughGround() {
        const Vec3 half{0.5f, 0.35f, 0.4f};
        const auto ground = humps(0.25f, 0.12f, 24);
        std::vector<BodyState> from;
        for (int i = 0; i < 12; ++i) {
            from.push_back(at({(i % 3 - 1) * 1.4, 1 + i / 6 * 1.2, (i / 3 % 2 - 0.5) * 1.5}));
            from.back().turn = turnAbout({1, 0.4 * i, 0.3}, 0.7 * i);
        }
        Run run(std::vector<RigidBody>(from.size(), box(half, 900)), from, ground);
        run.frames(110);
        double deepest = 0;
        for (const BodyState& state : run.states) {
            const auto turn = rotationOf(state.turn);
            for (const Vec3 corner : boxCorners(half)) {
                const Triple out = turn * Triple{double(corner.x), double(corner.y), double(corner.z)};
                deepest = std::max(deepest, -above(ground, {state.at[0] + out[0], state.at[1] + out[1], state.at[2] + out[2]}));
            }
            for (const auto& triangle : ground)
                for (const Vec3 p : triangle) {
                    double in = 1e9;
                    for (std::size_t axis = 0; axis < 3; ++axis) {
                        Triple unit{};
                        unit[axis] = 1;
                        const Triple way = turn * unit;
                        const double along = way[0] * (double(p.x) - state.at[0]) + way[1] * (double(p.y) - state.at[1]) + way[2] * (double(p.z) - state.at[2]);
                        in = std::min(in, double((&half.x)[axis]) - std::abs(along));
                    }
                    deepest = std::max(deepest, in);
                }
        }
        QVERIFY2(deepest < 0.003, qPrintable(QString::number(deepest)));
    }

    /// A light one under something very heavy may give way, but not through the ground.
    void whatIsSquashedStaysAboveTheGround() {
        Run run({box({0.1f, 0.1f, 0.1f}, 1), box({1, 0.5f, 1}, 1e6)}, {at({0.03, 0.1, 0.02}), at({0, 4, 0})}, slope(0, 40));
        for (int f = 0; f < 72; ++f) {
            run.frames(1);
            QVERIFY2(run.states[0].at[1] > 0 && run.states[0].at[1] < 3, qPrintable(QString::number(run.states[0].at[1])));
        }
    }

    /// What stands presses by its weight and by that of what stands on it; that is known also while it rests.
    void pressesAreWeights() {
        Run run({box({0.5f, 0.5f, 0.5f}), box({0.4f, 0.4f, 0.4f}), box({0.3f, 0.3f, 0.3f})}, {at({0, 0.5, 0}), at({0, 1.4, 0}), at({3, 0.3, 0})});
        for (const int frames : {20, 40}) {
            run.frames(frames);
            QCOMPARE(run.presses.size(), std::size_t(3));
            const auto pressed = [&](std::size_t i, std::uint32_t a, std::uint32_t b, double force) {
                const BodyPress& press = run.presses[i];
                return press.a == a && press.b == b && near(double(press.force), force, 0.05 * force);
            };
            QVERIFY(pressed(0, 0, 1, 981));
            QVERIFY(pressed(1, 0, kGroundBody, 1962));
            QVERIFY(pressed(2, 2, kGroundBody, 981));
        }
        QVERIFY(run.rest());
    }

    void mirroredItFallsMirrored() {
        const auto leaning = [](double side) {
            BodyState s = at({side * 0.3, 0.8, 0});
            s.turn = {0, 0, -side * std::sin(0.2), std::cos(0.2)};
            s.velocity = {side, 0, 0};
            return s;
        };
        Run left({box({0.2f, 0.4f, 0.2f})}, {leaning(-1)}), right({box({0.2f, 0.4f, 0.2f})}, {leaning(1)});
        left.frames(60), right.frames(60);
        QVERIFY(near(left.states[0].at[0], -right.states[0].at[0], 0.02));
        QVERIFY(near(left.states[0].at[1], right.states[0].at[1], 0.005));
    }

    void heldOnesStayAndCarry() {
        Run run({box({0.5f, 0.1f, 0.5f}), box({0.2f, 0.2f, 0.2f})}, {at({0, 3, 0}), at({0, 3.5, 0})});
        run.held = {1, 0};
        run.frames(72);
        QCOMPARE(run.states[0].at, (Triple{0, 3, 0}));
        QVERIFY(near(run.states[1].at[1], 3.3, 0.005));
        // Let go, both fall.
        run.held = {0, 0};
        run.frames(72);
        QVERIFY(run.states[0].at[1] < 0.5 && run.states[1].at[1] < 1);
    }

    void whatRestsIsHitAsIfItWereAwake() {
        Run run({box({0.3f, 0.3f, 0.3f}, 50), box({0.3f, 0.3f, 0.3f}, 50)}, {at({0, 0.3, 0}), at({4, 0.3, 0})});
        run.friction = {0, 0};
        run.frames(48);
        QVERIFY(run.rest());
        run.states[1].asleep = false, run.states[1].velocity = {-6, 0, 0};
        run.bounce = {1, 1};
        run.frames(24);
        // A full hit between two alike: one stops, the other goes on.
        QVERIFY2(near(run.states[0].velocity[0], -6, 0.2), qPrintable(QString::number(run.states[0].velocity[0])));
        QVERIFY2(near(run.states[1].velocity[0], 0, 0.2), qPrintable(QString::number(run.states[1].velocity[0])));
    }

    void whatRestsFarFromWhatMovesStaysToTheBit() {
        // Three towers of three, and a box that slides for ever between two of them and the third.
        std::vector<RigidBody> bodies(10, box({0.3f, 0.3f, 0.3f}));
        std::vector<BodyState> states;
        for (int i = 0; i < 9; ++i) states.push_back(at({4.0 * (i / 3), 0.3 + 0.6 * (i % 3), 0}));
        states.push_back(at({6, 0.3, -30}));
        states.back().velocity = {0, 0, 5};
        Run run(bodies, states);
        run.friction.back() = 0;
        run.frames(60);
        const auto before = run.states;
        for (std::size_t i = 0; i < 9; ++i) QVERIFY(before[i].asleep);
        run.frames(120);
        for (std::size_t i = 0; i < 9; ++i) QCOMPARE(run.states[i], before[i]);
        QVERIFY(run.states[9].at[2] > 3 && !run.states[9].asleep);
    }

    void aHeapComesToRestAndNoneHangsInTheAir() {
        std::mt19937 random(4);
        std::vector<RigidBody> bodies;
        std::vector<BodyState> states;
        for (int i = 0; i < 48; ++i) {
            RigidBody& body = bodies.emplace_back(box({0.3f, 0.3f, 0.3f}));
            for (Vec3& p : body.parts[0]) p = p * (0.7f + 0.3f * float(random()) / 4294967296.0f);
            states.push_back(at({(i % 4) * 0.66, 0.5 + (i / 16) * 0.7, (i / 4 % 4) * 0.66}));
        }
        Run run(bodies, states, slope(0, 30));
        run.frames(192);
        QVERIFY(run.rest());
        QVERIFY(run.scene->overlaps(run.states, 0.02).empty());
        // Woken again, nothing goes anywhere.
        const auto before = run.states;
        for (BodyState& s : run.states) s.asleep = false, s.calm = 0;
        run.frames(12);
        for (std::size_t i = 0; i < before.size(); ++i)
            for (std::size_t a = 0; a < 3; ++a)
                QVERIFY2(near(run.states[i].at[a], before[i].at[a], 0.05),
                         qPrintable(QStringLiteral("%1: %2").arg(i).arg(run.states[i].at[a] - before[i].at[a])));
    }

    void theSameForAnyNumberOfThreads() {
        const auto fallen = [](std::size_t threads, const std::vector<Triangle3>& ground) {
            const tbb::global_control limit(tbb::global_control::max_allowed_parallelism, threads);
            std::vector<RigidBody> bodies;
            std::vector<BodyState> states;
            for (int i = 0; i < 64; ++i) {
                RigidBody& body = bodies.emplace_back(box({0.3f, 0.2f, 0.25f}));
                // Some of two parts.
                if (i % 3 == 0) body.parts = {boxCorners({0.3f, 0.1f, 0.25f}), boxCorners({0.1f, 0.2f, 0.1f})};
                states.push_back(at({(i % 4) * 0.62, 0.5 + (i / 16) * 0.6, (i / 4 % 4) * 0.55}));
            }
            Run run(bodies, states, ground);
            run.frames(30);
            return run.states;
        };
        for (const auto& ground : {std::vector<Triangle3>{}, slope(5, 30)}) QCOMPARE(fallen(4, ground), fallen(1, ground));
    }

    void nothingPassesTheGround() {
        // Small and fast, onto triangles without thickness.
        std::vector<RigidBody> bodies(20, box({0.02f, 0.02f, 0.02f}, 1));
        std::vector<BodyState> states;
        for (int i = 0; i < 20; ++i) {
            states.push_back(at({-5.0 + i * 0.5 + 0.013, 4, 0.017 * i}));
            states.back().velocity = {0, -60, 0};
        }
        Run run(bodies, states, slope(0, 50));
        for (int f = 0; f < 48; ++f) {
            run.frames(1);
            for (const BodyState& s : run.states) QVERIFY2(s.at[1] > 0, qPrintable(QStringLiteral("frame %1: %2").arg(f).arg(s.at[1])));
        }
    }

    void overlapsAreToldWithTheirDepth() {
        Run run({box({0.5f, 0.5f, 0.5f}), box({0.5f, 0.5f, 0.5f}), box({0.5f, 0.5f, 0.5f})}, {at({0, 5, 0}), at({0.8, 5, 0}), at({0, 0.3, 0})});
        const auto found = run.scene->overlaps(run.states, 0.02);
        QCOMPARE(found.size(), std::size_t(2));
        QVERIFY((found[0].a == 0 && found[0].b == 1) || (found[1].a == 0 && found[1].b == 1));
        for (const BodyOverlap& one : found) QVERIFY2(near(one.depth, 0.2, 0.01), qPrintable(QString::number(one.depth)));
        QVERIFY(found[0].b == kGroundBody || found[1].b == kGroundBody);
        QVERIFY(run.scene->overlaps({at({0, 5, 0}), at({1.001, 5, 0}), at({0, 0.5, 9})}, 0.02).empty());
    }

    void aStopIsHeeded() {
        Run run({box({0.5f, 0.5f, 0.5f})}, {at({0, 5, 0})});
        const std::atomic<bool> stop{true};
        QVERIFY_EXCEPTION_THROWN(run.scene->advanced(run.states, {}, RunContext(&stop)), Cancelled);
    }

    void smallBodiesGetMoreSteps() {
        Run large({box({1, 1, 1})}, {at({0, 5, 0})}), small({box({0.001f, 0.001f, 0.001f})}, {at({0, 5, 0})});
        QCOMPARE(large.scene->substeps(kFrame, 9.81), 6);
        QVERIFY(small.scene->substeps(kFrame, 9.81) > 20);
        QVERIFY(near(small.scene->halfSize(0), 0.001, 1e-6));
    }
};

QTEST_APPLESS_MAIN(TestMotion)
#include "test_motion.moc"
