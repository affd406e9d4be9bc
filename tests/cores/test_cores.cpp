// Convex shapes and their cores: how near they are, in which direction, whatever the search begins with.
#include "motion/Cores.h"

#include <QtTest/QtTest>

#include <cmath>
#include <random>

using namespace seedloom;

namespace {

std::vector<btVector3> boxCorners(btScalar x, btScalar y, btScalar z) {
    std::vector<btVector3> out;
    for (int i = 0; i < 8; ++i) out.emplace_back(i & 1 ? x : -x, i & 2 ? y : -y, i & 4 ? z : -z);
    return out;
}

btTransform placed(const btVector3& at, const btQuaternion& turn = btQuaternion::getIdentity()) { return btTransform(turn, at); }

bool near(btScalar a, btScalar b, btScalar tolerance) { return std::abs(a - b) <= tolerance; }

/// The distance between a box about the origin and a point.
btScalar toBox(const btVector3& half, const btVector3& point) {
    btVector3 beyond;
    for (int i = 0; i < 3; ++i) beyond[i] = std::max(std::abs(point[i]) - half[i], btScalar(0));
    return beyond.length();
}

}  // namespace

class TestCores : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void aCoreLiesAsFarInsideOfEachFace() {
        const CoredHull box(boxCorners(2, 1, 0.5), 0.01, 0.1);
        QCOMPARE(box.corners().size(), std::size_t(8));
        QVERIFY(near(box.deepest(), 0.1 * std::sqrt(3.0), 1e-4));
        for (std::size_t i = 0; i < 8; ++i) {
            const btVector3 way = box.corners()[i] - box.core()[i];
            for (int axis = 0; axis < 3; ++axis) QVERIFY(near(std::abs(way[axis]), 0.1, 1e-4) && way[axis] * box.corners()[i][axis] > 0);
        }
        // At a tip that is as sharp as a needle it keeps near to it.
        const CoredHull needle({{0, 10, 0}, {0.1, 0, 0}, {-0.1, 0, 0.1}, {-0.1, 0, -0.1}}, 0.001, 0.02);
        for (std::size_t i = 0; i < needle.corners().size(); ++i) QVERIFY((needle.corners()[i] - needle.core()[i]).length() < 0.0601);
        QVERIFY(needle.deepest() > 0.03 && needle.deepest() < 0.0601);
    }

    /// Boxes beside each other: by a face, an edge, a corner.
    void howNearAndInWhichDirection() {
        const auto corners = boxCorners(1, 1, 1);
        const std::vector<std::pair<btVector3, btVector3>> cases{{{0.3, 2.5, -0.2}, {0, 0.5, 0}},
                                                                 {{2.3, 2.4, 0.1}, {0.3, 0.4, 0}},
                                                                 {{-2.1, 2.2, 2.2}, {-0.1, 0.2, 0.2}},
                                                                 {{0, 0, -2.000001}, {0, 0, -0.000001}}};
        for (const auto& [at, wanted] : cases) {
            NearestCorners nearest;
            Between between;
            QVERIFY(nearnessOf(corners, placed(at), corners.data(), corners.size(), 1, nearest, between) == Nearness::near);
            QVERIFY((between.way - wanted).length() < 1e-6);
            // The same again from where it ended.
            QVERIFY(nearest.count > 0);
            QVERIFY(nearnessOf(corners, placed(at), corners.data(), corners.size(), 1, nearest, between) == Nearness::near);
            QVERIFY((between.way - wanted).length() < 1e-6);
        }
    }

    void apartAndOverlapping() {
        const auto corners = boxCorners(1, 1, 1);
        NearestCorners nearest;
        Between between;
        QVERIFY(nearnessOf(corners, placed({0, 3.2, 0}), corners.data(), corners.size(), 1, nearest, between) == Nearness::apart);
        QVERIFY(nearnessOf(corners, placed({0, 2.9, 0}), corners.data(), corners.size(), 1, nearest, between) == Nearness::near);
        QVERIFY(nearnessOf(corners, placed({0.1, 1.9, 0.2}), corners.data(), corners.size(), 1, nearest, between) == Nearness::overlapping);
        QCOMPARE(nearest.count, 0);
        QVERIFY(nearnessOf(corners, placed({0, 0, 0}), corners.data(), corners.size(), 1, nearest, between) == Nearness::overlapping);
    }

    /// Against the distance of a point to a box; turned, from any beginning.
    void pointsAndBoxesByFormula() {
        std::mt19937 random(5);
        const auto number = [&](double low, double high) { return low + (high - low) * double(random()) / 4294967296.0; };
        const btVector3 half(0.7, 1.1, 0.4);
        const auto box = boxCorners(half.x(), half.y(), half.z());
        NearestCorners kept;
        for (int i = 0; i < 2000; ++i) {
            const btVector3 at(number(-3, 3), number(-3, 3), number(-3, 3));
            const btQuaternion turn(btVector3(number(-1, 1), number(-1, 1), number(0.1, 1)).normalized(), number(-3, 3));
            const std::vector<btVector3> point{{0, 0, 0}};
            const btScalar distance = toBox(half, at);
            NearestCorners fresh;
            for (NearestCorners* nearest : {&kept, &fresh}) {
                Between between;
                const Nearness found = nearnessOf(point, placed(at, turn), box.data(), box.size(), 100, *nearest, between);
                if (distance > 1e-6) {
                    QVERIFY(found == Nearness::near && near(between.way.length(), distance, 1e-6));
                    QVERIFY((between.onB + between.way - at).length() < 1e-6 && toBox(half, between.onB) < 1e-6);
                }
                if (distance == 0) QVERIFY(found == Nearness::overlapping);
            }
        }
    }

    /// No direction that is found can be bettered: seen along it the two are as far apart as their nearest points.
    void nothingIsNearerThanWhatIsFound() {
        std::mt19937 random(11);
        const auto number = [&](double low, double high) { return low + (high - low) * double(random()) / 4294967296.0; };
        int nears = 0;
        for (int i = 0; i < 1000; ++i) {
            std::vector<btVector3> a, b;
            for (int c = 0; c < 24; ++c) {
                a.push_back(btVector3(number(-1, 1), number(-1, 1), number(-1, 1)));
                b.push_back(btVector3(number(-1, 1), number(-1, 1), number(-1, 1)));
            }
            const btTransform place = placed({number(-2.5, 2.5), number(-2.5, 2.5), number(-2.5, 2.5)});
            NearestCorners nearest;
            Between between;
            if (nearnessOf(a, place, b.data(), b.size(), 100, nearest, between) != Nearness::near) continue;
            ++nears;
            btScalar least = 1e9, most = -1e9;
            for (const btVector3& p : a) least = std::min(least, place(p).dot(between.way));
            for (const btVector3& p : b) most = std::max(most, p.dot(between.way));
            QVERIFY(near((least - most) / between.way.length(), between.way.length(), 1e-5));
        }
        QVERIFY(nears > 300);
    }

    void flatAndDoubledShapes() {
        const std::vector<btVector3> flat{{-1, 0, -1}, {1, 0, -1}, {1, 0, 1}, {-1, 0, 1}, {1, 0, 1}, {0, 0, 0}}, one{{0, 0, 0}, {0, 0, 0}};
        NearestCorners nearest;
        Between between;
        QVERIFY(nearnessOf(flat, placed({0.2, 0.3, 0.1}), flat.data(), flat.size(), 1, nearest, between) == Nearness::near);
        QVERIFY(near(between.way.y(), 0.3, 1e-9) && near(between.way.length(), 0.3, 1e-9));
        nearest = {};
        QVERIFY(nearnessOf(one, placed({0, 2, 0}), one.data(), one.size(), 5, nearest, between) == Nearness::near);
        QVERIFY(near(between.way.length(), 2, 1e-12));
        QVERIFY(nearnessOf(one, placed({0, 0, 0}), one.data(), one.size(), 5, nearest, between) == Nearness::overlapping);
    }

    void nearestPointsOfATriangle() {
        const btVector3 triangle[3] = {{0, 0, 0}, {4, 0, 0}, {0, 0, 4}};
        const std::vector<std::pair<btVector3, btVector3>> cases{{{1, 3, 1}, {1, 0, 1}},  {{-1, 2, -1}, {0, 0, 0}}, {{6, 1, -1}, {4, 0, 0}},
                                                                 {{-2, 1, 7}, {0, 0, 4}}, {{2, 1, -3}, {2, 0, 0}},  {{-3, 1, 2}, {0, 0, 2}},
                                                                 {{4, -1, 4}, {2, 0, 2}}};
        for (const auto& [point, wanted] : cases) QVERIFY((nearestInTriangle(triangle, point) - wanted).length() < 1e-12);
        const btVector3 flat[3] = {{0, 0, 0}, {1, 0, 0}, {2, 0, 0}};
        QVERIFY(std::isfinite(nearestInTriangle(flat, {1, 1, 0}).y()));
    }
};

QTEST_APPLESS_MAIN(TestCores)
#include "test_cores.moc"
