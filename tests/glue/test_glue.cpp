// Bonds between bodies: where they touch, how hard each is loaded against the formulas of statics, and how what they hold falls apart.
#include "motion/BondLoads.h"
#include "motion/Clumps.h"
#include "motion/Glue.h"
#include "motion/Hulls.h"

#include <QtTest/QtTest>

#include <numeric>

using namespace seedloom;

namespace {

constexpr double kWeight = 1000 * 9.81;  // N, of a cube of 1000 kg
const Triple kGravity{0, -9.81, 0};

std::vector<Triangle3> boxSurface(Vec3 half, Vec3 at) {
    std::vector<Vec3> corners;
    for (int i = 0; i < 8; ++i) corners.push_back(at + Vec3{i & 1 ? half.x : -half.x, i & 2 ? half.y : -half.y, i & 4 ? half.z : -half.z});
    return hullOf(corners, corners.size()).surface;
}

/// Cubes of 1 m and 1000 kg.
struct Cubes {
    std::vector<RigidBody> bodies;
    std::vector<BodyState> states;
    std::vector<std::vector<Triangle3>> surfaces;
    std::vector<std::uint8_t> held;

    explicit Cubes(const std::vector<Vec3>& places) : held(places.size()) {
        for (const Vec3 at : places) {
            const double inertia = 1000.0 / 6;
            bodies.push_back({{}, 1000, {inertia, inertia, inertia}});
            bodies.back().parts.emplace_back();
            for (int i = 0; i < 8; ++i) bodies.back().parts[0].push_back({i & 1 ? 0.5f : -0.5f, i & 2 ? 0.5f : -0.5f, i & 4 ? 0.5f : -0.5f});
            states.emplace_back().at = {double(at.x), double(at.y), double(at.z)};
            surfaces.push_back(boxSurface({0.5f, 0.5f, 0.5f}, at));
        }
    }
    static Cubes row(int count, Vec3 along) {
        std::vector<Vec3> places;
        for (int i = 0; i < count; ++i) places.push_back(Vec3{0, 20, 0} + along * float(i));
        return Cubes(places);
    }
    std::vector<Bond> bonds() const { return bondsBetween(surfaces, 0.001, RunContext()); }
    std::vector<BodyLoad> weights() const {
        std::vector<BodyLoad> out(bodies.size());
        for (std::size_t i = 0; i < out.size(); ++i) out[i].force = {0, -kWeight, 0};
        return out;
    }
    std::vector<double> pulls(const std::vector<BodyLoad>& loads, const Rotation& turn = rotationOf({0, 0, 0, 1})) const {
        std::vector<std::uint32_t> all(bodies.size());
        std::iota(all.begin(), all.end(), 0u);
        return BondFrame(all, bonds(), bodies, states, held).pulls(loads, turn);
    }
    Glue glue(double strength) const {
        Glue out{bonds(), {}};
        out.strength.assign(out.bonds.size(), strength);
        return out;
    }
};

bool near(double a, double b, double within) { return std::abs(a - b) <= within * std::max(1.0, std::abs(b)); }

}  // namespace

class TestGlue : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void bondsAreWhereFacesTouch() {
        const Cubes cubes({{0, 0, 0}, {1, 0.25f, 0}, {0, 1, 0}, {0, 0, 5}, {-1, 1, 0}});
        const auto bonds = cubes.bonds();
        // 0–1 by three quarters, 0–2 and 2–4 whole; 1–2 by an edge's width only where they overlap: none; 3 by itself.
        std::vector<std::pair<std::uint32_t, std::uint32_t>> pairs;
        for (const Bond& bond : bonds) pairs.emplace_back(bond.a, bond.b);
        QCOMPARE(pairs, (std::vector<std::pair<std::uint32_t, std::uint32_t>>{{0, 1}, {0, 2}, {1, 2}, {2, 4}}));
        QVERIFY(near(bonds[0].area, 0.75, 1e-6) && near(bonds[1].area, 1, 1e-6) && near(bonds[2].area, 0.25, 1e-6) && near(bonds[3].area, 1, 1e-6));
        QVERIFY(lengthOf(bonds[0].normal - Triple{1, 0, 0}) < 1e-6 && lengthOf(bonds[0].at - Triple{0.5, 0.125, 0}) < 1e-6);
        QVERIFY(lengthOf(bonds[3].normal - Triple{-1, 0, 0}) < 1e-6);
    }

    void noBondsAcrossGapsEdgesAndOverlaps() {
        QCOMPARE(Cubes({{0, 0, 0}, {1.01f, 0, 0}}).bonds().size(), std::size_t(0));
        QCOMPARE(Cubes({{0, 0, 0}, {1.0005f, 0, 0}}).bonds().size(), std::size_t(1));
        QCOMPARE(Cubes({{0, 0, 0}, {1, 1, 0}}).bonds().size(), std::size_t(0));     // an edge
        QCOMPARE(Cubes({{0, 0, 0}, {0.5f, 0, 0}}).bonds().size(), std::size_t(0));  // in each other: faces look the same way
        QCOMPARE(bondsBetween({}, 0.1, RunContext()).size(), std::size_t(0));
        QCOMPARE(bondsBetween({{{Vec3{}, Vec3{}, Vec3{}}}, {{Vec3{}, Vec3{}, Vec3{}}}}, 0.1, RunContext()).size(), std::size_t(0));
    }

    void hangingIsPulledByTheWeightBelow() {
        Cubes chain = Cubes::row(5, {0, -1, 0});
        chain.held[0] = 1;
        const auto pulls = chain.pulls(chain.weights());
        for (std::size_t b = 0; b < 4; ++b) QVERIFY2(near(pulls[b], kWeight * double(4 - b), 1e-6), qPrintable(QString::number(pulls[b])));
    }

    void standingIsPressedByTheWeightAbove() {
        Cubes tower = Cubes::row(5, {0, 1, 0});
        tower.held[0] = 1;
        const auto pulls = tower.pulls(tower.weights());
        for (std::size_t b = 0; b < 4; ++b) QVERIFY(near(pulls[b], kWeight * double(4 - b) / 10, 1e-6));
    }

    void aBeamBendsAsTheFormulaSays() {
        Cubes beam = Cubes::row(4, {1, 0, 0});
        beam.held[0] = 1;
        const auto pulls = beam.pulls(beam.weights());
        for (std::size_t b = 0; b < 3; ++b) {
            // What sticks out beyond the bond: its weight, half its length away; a square of 1 m² has a section modulus of a sixth.
            const double count = double(3 - b), bend = kWeight * count * (count / 2) * 6, shear = kWeight * count;
            const double expected = bend / 2 + std::sqrt(bend * bend / 4 + shear * shear);
            QVERIFY2(near(pulls[b], expected, 1e-6), qPrintable(QStringLiteral("%1: %2, expected %3").arg(b).arg(pulls[b]).arg(expected)));
        }
    }

    void aTwistIsShear() {
        Cubes pair = Cubes::row(2, {1, 0, 0});
        pair.held[0] = 1;
        std::vector<BodyLoad> loads(2);
        loads[1].torque = {500, 0, 0};
        QVERIFY(near(pair.pulls(loads)[0], 500 / 0.208, 1e-6));
    }

    void whatIsHeldAtBothEndsSharesTheLoad() {
        Cubes bridge = Cubes::row(5, {1, 0, 0});
        bridge.held[0] = bridge.held[4] = 1;
        const auto pulls = bridge.pulls(bridge.weights());
        QVERIFY(near(pulls[0], pulls[3], 1e-6) && near(pulls[1], pulls[2], 1e-6));
        QVERIFY(pulls[0] > pulls[1]);
        // Less than if it were held at one end only.
        bridge.held[4] = 0;
        QVERIFY(pulls[0] < 0.5 * bridge.pulls(bridge.weights())[0]);
    }

    void fallingAloneLoadsNothing() {
        const Cubes row = Cubes::row(6, {1, 0, 0});
        for (const double pull : row.pulls(row.weights())) QVERIFY(pull < 1e-3);
    }

    void whatIsPulledAlongHangsOnTheForce() {
        const Cubes row = Cubes::row(5, {1, 0, 0});
        std::vector<BodyLoad> loads(5);
        loads[0].force = {-5000, 0, 0};
        const auto pulls = row.pulls(loads);
        for (std::size_t b = 0; b < 4; ++b) QVERIFY(near(pulls[b], 1000.0 * double(4 - b), 1e-6));
        // Pushed, it bears ten times as much.
        loads[0].force = {5000, 0, 0};
        QVERIFY(near(row.pulls(loads)[0], 400, 1e-6));
    }

    void aSpinningBlowBendsAFreeBar() {
        // A blow across one end: what is left of the bar is turned and speeded by the forces of inertia alone. Of a bar of n cubes hit by P at one end,
        // the shear and the moment behind the first cube follow from its own share: a = P / M + α d, α = P · d / J.
        const int n = 5;
        const Cubes row = Cubes::row(n, {1, 0, 0});
        std::vector<BodyLoad> loads(std::size_t(n), BodyLoad{});
        loads[0].force = {0, 1000, 0};
        const double mass = 5000, inertia = 1000.0 / 6 * n + 1000 * (4 + 1 + 0 + 1 + 4), arm = 2;
        const double turning = 1000 * arm / inertia, own = 1000 / mass + turning * arm;
        const double shear = 1000 - 1000 * own;
        // About the first bond: the blow less its cube's inertia, half a metre away, and the cube's own turning.
        const double about = (1000 - 1000 * own) * 0.5 - 1000.0 / 6 * turning, stretch = std::abs(about) * 6;
        const double expected = stretch / 2 + std::sqrt(stretch * stretch / 4 + shear * shear);
        QVERIFY2(near(row.pulls(loads)[0], expected, 1e-6), qPrintable(QStringLiteral("%1, expected %2").arg(row.pulls(loads)[0]).arg(expected)));
    }

    void turnedItIsTheSame() {
        Cubes beam = Cubes::row(4, {1, 0, 0});
        beam.held[0] = 1;
        const Rotation turn = rotationOf({0, std::sin(0.4), 0, std::cos(0.4)});  // about what weight acts along
        const auto plain = beam.pulls(beam.weights()), turned = beam.pulls(beam.weights(), turn);
        for (std::size_t b = 0; b < plain.size(); ++b) QVERIFY(near(turned[b], plain[b], 1e-9));
        // Turned so that it hangs.
        const auto hanging = beam.pulls(beam.weights(), rotationOf({0, 0, -std::sqrt(0.5), std::sqrt(0.5)}));
        QVERIFY(near(hanging[0], 3 * kWeight, 1e-6));
    }

    void itBreaksWhereItIsPulledMost() {
        Cubes chain = Cubes::row(5, {0, -1, 0});
        chain.held[0] = 1;
        const Glue glue = chain.glue(2.5 * kWeight);
        const StepLoads none;
        const auto left = bondsAfter(glue, BondsLeft(4, 1), chain.bodies, chain.states, chain.states, {none, kGravity, &chain.held}, RunContext());
        // The uppermost; what falls then holds itself.
        QCOMPARE(left, (BondsLeft{0, 1, 1, 1}));
        QCOMPARE(clumpNumbers(5, glue, left), (std::vector<std::uint32_t>{0, 1, 1, 1, 1}));
        QCOMPARE(bondsAfter(chain.glue(4.1 * kWeight), BondsLeft(4, 1), chain.bodies, chain.states, chain.states, {none, kGravity, &chain.held}, RunContext()),
                 BondsLeft(4, 1));
    }

    void oneThatBreaksLeavesItsLoadToOthers() {
        // A slab of three over two legs.
        Cubes table({{0, 0, 0}, {0, 1, 0}, {1, 1, 0}, {2, 1, 0}, {2, 0, 0}});
        table.held[0] = table.held[4] = 1;
        Glue glue = table.glue(1e9);
        const StepLoads none;
        const auto after = [&] {
            return bondsAfter(glue, BondsLeft(glue.bonds.size(), 1), table.bodies, table.states, table.states, {none, kGravity, &table.held}, RunContext());
        };
        QCOMPARE(after(), BondsLeft(4, 1));
        // Weak between slab and one leg: all hangs on the other one, which holds.
        for (std::size_t b = 0; b < 4; ++b)
            if (glue.bonds[b].b == 4) glue.strength[b] = 1;
        QCOMPARE(after(), (BondsLeft{1, 1, 1, 0}));
        // Where each bond is just stronger than what loaded it before, what hung on that leg takes the other one along.
        const auto before = table.pulls(table.weights());
        for (std::size_t b = 0; b < 3; ++b) glue.strength[b] = 1.2 * *std::max_element(before.begin(), before.end());
        QCOMPARE(after()[0], std::uint8_t(0));
        // Without the weak one all hold.
        glue.strength[3] = glue.strength[0];
        QCOMPARE(after(), BondsLeft(4, 1));
    }

    /// A load that only twists breaks, too.
    void aTwistAloneBreaks() {
        Cubes two = Cubes::row(2, {1, 0, 0});
        two.held[0] = 1;
        const auto after = [&](double torque) {
            StepLoads loads(1, std::vector<BodyLoad>(2));
            loads[0][1].torque = {torque, 0, 0};
            return bondsAfter(two.glue(1e5), {1}, two.bodies, two.states, two.states, {loads, {}, &two.held}, RunContext());
        };
        QCOMPARE(after(1e3), BondsLeft{1});
        QCOMPARE(after(1e6), BondsLeft{0});
    }

    void clumpsKeepMomentum() {
        Cubes cubes({{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {9, 9, 9}});
        cubes.bodies[1].mass = 3000;
        cubes.states[0].velocity = {1, 2, 3}, cubes.states[1].velocity = {-2, 0, 1}, cubes.states[2].spin = {3, 1, -2};
        cubes.states[2].turn = {0, std::sin(0.3), 0, std::cos(0.3)};
        const std::vector<std::uint32_t> of{0, 0, 0, 3};
        const auto clumps = clumpsOf(cubes.bodies, cubes.states, &of);
        QCOMPARE(clumps.size(), std::size_t(2));
        QCOMPARE(clumps[1].state, cubes.states[3]);
        std::vector<BodyState> moved = cubes.states;
        moveMembers(clumps[0], clumps[0].state, moved);
        const auto momenta = [&](const std::vector<BodyState>& states) {
            std::array<Triple, 2> out{};
            for (std::size_t i = 0; i < 3; ++i) {
                const Triple linear = states[i].velocity * cubes.bodies[i].mass;
                out[0] = out[0] + linear, out[1] = out[1] + cross(states[i].at, linear) + states[i].spin * cubes.bodies[i].inertia[0];
            }
            return out;
        };
        for (std::size_t k = 0; k < 2; ++k) QVERIFY(lengthOf(momenta(moved)[k] - momenta(cubes.states)[k]) < 1e-6);
        for (std::size_t i = 0; i < 3; ++i) QVERIFY(lengthOf(moved[i].at - cubes.states[i].at) < 1e-12);
        // As one: the same spin, and velocities that fit it.
        QCOMPARE(moved[0].spin, moved[1].spin);
        QVERIFY(lengthOf(moved[1].velocity - moved[0].velocity - cross(moved[0].spin, moved[1].at - moved[0].at)) < 1e-12);
        // Turned by a quarter about the upright axis: what lay along x lies along −z.
        BodyState turned = clumps[0].state;
        const Rotation quarter = rotationOf({0, std::sqrt(0.5), 0, std::sqrt(0.5)});
        turned.turn = turnOf(quarter * rotationOf(turned.turn));
        moveMembers(clumps[0], turned, moved);
        QVERIFY(lengthOf(moved[1].at - moved[0].at - Triple{0, 0, -1}) < 1e-9);
    }

    void aClumpFallsAsOne() {
        Cubes cubes({{0, 3, 0}, {1, 3, 0}, {1, 4, 0}});
        const std::vector<std::uint32_t> all{0, 0, 0};
        const auto scene = RigidScene::make(cubes.bodies, {});
        FrameForces forces;
        forces.clump = &all;
        std::vector<BodyState> states = cubes.states;
        StepLoads loads;
        double hardest = 0;
        for (int f = 0; f < 120; ++f) {
            states = scene->advanced(states, forces, RunContext(), nullptr, &loads);
            for (const auto& step : loads)
                for (const BodyLoad& one : step) hardest = std::max(hardest, one.force[1]);
            for (std::size_t i = 1; i < 3; ++i) QVERIFY(near(lengthOf(states[i].at - states[0].at), lengthOf(cubes.states[i].at - cubes.states[0].at), 1e-9));
            loads.clear();
        }
        QVERIFY(states[0].asleep && states[1].asleep && states[2].asleep);
        QVERIFY(near(states[0].at[1], 0.5, 0.02) && near(states[2].at[1], 1.5, 0.02));
        // The blow was many times its weight.
        QVERIFY(hardest > 5 * kWeight);
        // One of them held: none goes anywhere.
        const std::vector<std::uint8_t> held{0, 0, 1};
        forces.held = &held;
        const auto hung = scene->advanced(cubes.states, forces, RunContext());
        for (std::size_t i = 0; i < 3; ++i) QCOMPARE(hung[i].at, cubes.states[i].at);
    }

    void contactsPressWithTheWeightOfWhatRests() {
        Cubes cubes({{0, 0.5f, 0}, {0, 1.5f, 0}});
        const auto scene = RigidScene::make(cubes.bodies, {});
        FrameForces forces;
        std::vector<BodyState> states = cubes.states;
        for (int f = 0; f < 12; ++f) states = scene->advanced(states, forces, RunContext());
        StepLoads loads;
        states = scene->advanced(states, forces, RunContext(), nullptr, &loads);
        QVERIFY(!states[0].asleep);
        double lower = 0, upper = 0;
        for (const auto& step : loads) lower += step[0].force[1] / double(loads.size()), upper += step[1].force[1] / double(loads.size());
        // The lower one is pressed up by the ground with both weights and down by the upper one.
        QVERIFY2(near(lower, kWeight, 0.05) && near(upper, kWeight, 0.05), qPrintable(QStringLiteral("%1 %2").arg(lower).arg(upper)));
    }
};

QTEST_APPLESS_MAIN(TestGlue)
#include "test_glue.moc"
