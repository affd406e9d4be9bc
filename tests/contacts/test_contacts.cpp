// Where two shapes touch, and what bodies that touch do to each other in one step.
#include "motion/ContactSolver.h"
#include "motion/Contacts.h"

#include <QtTest/QtTest>

#include <btBulletDynamicsCommon.h>

#include <cmath>
#include <random>

using namespace seedloom;

namespace {

constexpr btScalar kCore = 0.05, kNear = 0.02, kHair = 0.001;

CoredHull boxOf(btScalar x, btScalar y, btScalar z) {
    std::vector<btVector3> corners;
    for (int i = 0; i < 8; ++i) corners.emplace_back(i & 1 ? x : -x, i & 2 ? y : -y, i & 4 ? z : -z);
    return CoredHull(corners, kHair, kCore);
}

/// Turned by 45° about an axis, so that an edge is below and one above.
btTransform onEdge(const btVector3& axis, const btVector3& at) { return btTransform(btQuaternion(axis, SIMD_PI / 4), at); }

std::vector<Contacts::Found> told(Contacts& contacts) {
    std::vector<Contacts::Found> out;
    contacts.tell([&](const Contacts::Found& one) { out.push_back(one); });
    return out;
}

bool near(btScalar a, btScalar b, btScalar tolerance) { return std::abs(a - b) <= tolerance; }

Between betweenCores(const PlacedHull& a, const PlacedHull& b) {
    NearestCorners nearest;
    Between out;
    nearnessOf(a.shape.core(), b.place.inverse() * a.place, b.shape.core().data(), b.shape.core().size(), 10, nearest, out);
    return out;
}

std::vector<Contacts::Found> met(const PlacedHull& a, const PlacedHull& b) {
    Contacts contacts;
    contacts.begin(7, kHair);
    contacts.meet(a, b, betweenCores(a, b), kNear);
    return told(contacts);
}

std::vector<Contacts::Found> metTriangle(const PlacedHull& hull, const btVector3* triangle) {
    NearestCorners nearest;
    Between between;
    nearnessOf(hull.shape.core(), hull.place, triangle, 3, 10, nearest, between);
    Contacts contacts;
    contacts.begin(0, kHair);
    contacts.meet(hull, triangle, btTransform::getIdentity(), between, kNear);
    return told(contacts);
}

/// A ball of 1 kg on a ground that never moves, and one contact of the two; a lift may come from below.
struct BallOnGround {
    btSphereShape shape{1};
    btRigidBody ball{btRigidBody::btRigidBodyConstructionInfo(1, nullptr, &shape, btVector3(0.4, 0.4, 0.4))};
    btRigidBody ground{btRigidBody::btRigidBodyConstructionInfo(0, nullptr, &shape)};
    btRigidBody lift{btRigidBody::btRigidBodyConstructionInfo(1e9, nullptr, &shape, btVector3(1e9, 1e9, 1e9))};
    btPersistentManifold onGround, onLift;

    BallOnGround(bool ballFirst, const btVector3& velocity) {
        ball.setWorldTransform(btTransform(btQuaternion::getIdentity(), {0, 1, 0}));
        ball.setLinearVelocity(velocity);
        touch(onGround, ground, ballFirst, 0.5);
    }
    void touch(btPersistentManifold& touching, btRigidBody& below, bool ballFirst, btScalar friction) {
        touching = btPersistentManifold(ballFirst ? &ball : &below, ballFirst ? &below : &ball, 0, 0.1, 0.1);
        btManifoldPoint point({0, 0, 0}, {0, 0, 0}, {0, ballFirst ? 1.0 : -1.0, 0}, 0);
        (ballFirst ? point.m_localPointA : point.m_localPointB) = {0, -1, 0};
        point.m_positionWorldOnA = point.m_positionWorldOnB = {0, 0, 0};
        point.m_combinedFriction = friction;
        touching.addManifoldPoint(point);
    }
    void solve() {
        btCollisionObject* bodies[] = {&ball, &ground, &lift};
        btPersistentManifold* all[] = {&onGround, &onLift};
        btContactSolverInfo info;
        info.m_timeStep = 0.01, info.m_numIterations = 10;
        info.m_solverMode = SOLVER_USE_WARMSTARTING | SOLVER_USE_2_FRICTION_DIRECTIONS;
        ContactSolver().solveGroup(bodies, 3, all, onLift.getNumContacts() > 0 ? 2 : 1, nullptr, 0, info, nullptr, nullptr);
    }
};

}  // namespace

class TestContacts : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// Box on box, a face on a larger one: its four corners.
    void facesMeetInTheirCorners() {
        const CoredHull small = boxOf(0.5, 0.5, 0.5), large = boxOf(2, 0.5, 2);
        const btTransform above(btQuaternion::getIdentity(), {0.3, 1.01, 0.2}), below(btQuaternion::getIdentity(), {0, 0, 0});
        const auto found = met({small, above}, {large, below});
        QCOMPARE(found.size(), std::size_t(4));
        for (const auto& one : found) {
            QVERIFY(near(one.gap, 0.01 - kHair, 1e-6) && one.part == 7);
            QVERIFY(near(one.normal.y(), 1, 1e-6) && near(one.at.y(), 0.5, 1e-6));
            QVERIFY(near(std::abs(one.at.x() - 0.3), 0.5, 1e-6) && near(std::abs(one.at.z() - 0.2), 0.5, 1e-6));
        }
        const btTransform higher(btQuaternion::getIdentity(), {0.3, 1.03, 0.2});
        QVERIFY(met({small, higher}, {large, below}).empty());
    }

    /// Two bars, edge over edge: where they cross, and as near as they are.
    void edgesMeetWhereTheyCross() {
        const CoredHull along = boxOf(2, 0.5, 0.5), across = boxOf(0.5, 0.5, 2);
        const btScalar edge = 0.5 * std::sqrt(2.0);
        for (const btScalar gap : {0.01, -0.02})
            for (const btScalar x : {-1.2, 0.0, 0.7}) {
                const btTransform lower = onEdge({1, 0, 0}, {0, 0, 0}), upper = onEdge({0, 0, 1}, {x, 2 * edge + gap, 0.4});
                const auto found = met({across, upper}, {along, lower});
                QVERIFY(!found.empty());
                // The last one is the nearest.
                QVERIFY2(near(found.back().gap, gap - kHair, 1e-4), qPrintable(QString::number(double(found.back().gap))));
                QVERIFY(near(found.back().normal.y(), 1, 1e-4));
                QVERIFY2(near(found.back().at.x(), x, 0.03) && near(found.back().at.z(), 0, 0.03), qPrintable(QString::number(double(found.back().at.z()))));
            }
    }

    void aBarLiesOverTheEdgeOfATriangle() {
        const CoredHull bar = boxOf(0.5, 0.5, 2);
        const btTransform place = onEdge({0, 0, 1}, {0, 0.5 * std::sqrt(2.0) + 0.005, 0});
        // Steeply down on both sides of its ridge, along x.
        const btVector3 triangle[3] = {{-3, 0, 0}, {3, 0, 0}, {0, -3, 1}};
        const auto found = metTriangle({bar, place}, triangle);
        QVERIFY(!found.empty());
        QVERIFY(near(found.back().at.x(), 0, 0.02) && near(found.back().at.y(), 0, 0.02) && near(found.back().at.z(), 0, 0.02));
        QVERIFY(found.back().gap < 0.005 && found.back().gap > -0.001);
    }

    /// Two parts of a flat box that was cut in two lie on each other, not in each other, however slender they are.
    void partsOfABoxLieOnEachOther() {
        std::mt19937 random(7);
        const auto number = [&](double low, double high) { return low + (high - low) * double(random()) / 4294967296.0; };
        int cut = 0;
        for (int i = 0; i < 400; ++i) {
            const btVector3 half(1, 0.15, 0.8), normal = btVector3(number(-1, 1), number(-0.4, 0.4), number(-1, 1)).normalized();
            const btScalar at = number(-0.9, 0.9);
            std::vector<btVector3> parts[2];
            for (int c = 0; c < 8; ++c)
                for (int axis = 0; axis < 3; ++axis) {
                    // An edge from this corner, and where the plane meets it.
                    btVector3 from(c & 1 ? half.x() : -half.x(), c & 2 ? half.y() : -half.y(), c & 4 ? half.z() : -half.z()), to = from;
                    to[axis] = -to[axis];
                    const btScalar before = from.dot(normal) - at, after = to.dot(normal) - at;
                    parts[before > 0].push_back(from);
                    if (before * after < 0)
                        for (auto& part : parts) part.push_back(from.lerp(to, before / (before - after)));
                }
            if (parts[0].size() < 6 || parts[1].size() < 6) continue;
            const CoredHull a(parts[0], kHair, 0.0075), b(parts[1], kHair, 0.0075);
            for (const auto& one : met({a, btTransform::getIdentity()}, {b, btTransform::getIdentity()}))
                QVERIFY2(one.gap > -kHair - 1e-3, qPrintable(QStringLiteral("%1 at cut %2").arg(double(one.gap)).arg(i)));
            ++cut;
        }
        QVERIFY(cut > 200);
    }

    void theDeepestIsToldLast() {
        Contacts contacts;
        contacts.begin(1, 0);
        for (const btScalar gap : {0.2, -0.3, 0.1}) contacts.addContactPoint({0, 1, 0}, {gap, 0, 0}, gap);
        contacts.begin(2, 0.5);
        contacts.addContactPoint({0, 1, 0}, {0, 0, 0}, 0.25);
        const auto found = told(contacts);
        QCOMPARE(found.size(), std::size_t(4));
        const std::vector<btScalar> wanted{0.2, 0.1, -0.25, -0.3};
        for (std::size_t i = 0; i < 4; ++i) QVERIFY(near(found[i].gap, wanted[i], 1e-12));
        QVERIFY(found[2].part == 2 && found[3].part == 1);
        QVERIFY(told(contacts).empty());
    }

    /// Whichever of the two is the first.
    void whatLandsStopsAndSlides() {
        for (const bool ballFirst : {true, false}) {
            BallOnGround one(ballFirst, {5, -2, 0});
            one.solve();
            QVERIFY(near(one.ball.getLinearVelocity().y(), 0, 1e-9));
            // Half of what presses rubs, and turns the ball.
            QVERIFY(near(one.ball.getLinearVelocity().x(), 5 - 0.5 * 2, 1e-9) && near(one.ball.getAngularVelocity().z(), -0.5 * 2 / 0.4, 1e-9));
            QVERIFY(near(one.onGround.getContactPoint(0).m_appliedImpulse, 2, 1e-9));
            QVERIFY(one.ground.getLinearVelocity().isZero());
        }
    }

    void whatSticksRolls() {
        BallOnGround one(true, {1, -2, 0.5});
        one.solve();
        // Where it touches it stands still; 1 / mass + 1 / inertia is 3.5.
        QVERIFY(near(one.ball.getLinearVelocity().x(), 1 - 1 / 3.5, 1e-9) && near(one.ball.getLinearVelocity().z(), 0.5 - 0.5 / 3.5, 1e-9));
    }

    /// The first round presses it on the ground, and by then it rubs; then it is lifted off.
    void whatNoLongerPressesNoLongerRubs() {
        for (const bool ballFirst : {true, false}) {
            BallOnGround one(ballFirst, {5, -2, 0});
            one.touch(one.onLift, one.lift, ballFirst, 0);
            one.lift.setLinearVelocity({0, 3, 0});
            one.solve();
            QVERIFY(near((one.ball.getLinearVelocity() - btVector3(5, 3, 0)).length(), 0, 1e-6) && one.ball.getAngularVelocity().length() < 1e-6);
            QCOMPARE(one.onGround.getContactPoint(0).m_appliedImpulse, btScalar(0));
            QVERIFY(near(one.onLift.getContactPoint(0).m_appliedImpulse, 5, 1e-6));
        }
    }
};

QTEST_APPLESS_MAIN(TestContacts)
#include "test_contacts.moc"
