// Faces that cross: how they are found, that booleans leave none, whatever their solids are, and what they do where parts only touch.
#include "geometry/Fans.h"
#include "geometry/SelfIntersections.h"
#include "support/Chance.h"
#include "support/Run.h"
#include "support/Sound.h"
#include "surface/Boolean.h"
#include "surface/PointsApart.h"

#include "Shapes.h"

#include <set>

using namespace seedloom;
using namespace seedloom::test;

class TestBooleans : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void treesGiveEveryPairOnce() {
        Chance chance(3);
        for (std::size_t count : {0, 1, 3, 5, 200, 5000}) {
            std::vector<Box> boxes(count);
            for (Box& box : boxes) {
                const Vec3 at = chance.place(), size{chance.number(0, 0.1f), chance.number(0, 0.1f), chance.number(0, 0.1f)};
                box = {at, at + size};
            }
            const BoxTree tree(boxes);
            std::vector<std::pair<Index, Index>> found, expected;
            for (const auto& branches : tree.branches()) tree.pairsIn(branches, [&](Index a, Index b) { found.push_back(std::minmax(a, b)); });
            for (Index a = 0; a < count; ++a)
                for (Index b = a + 1; b < count; ++b)
                    if (boxes[a].meets(boxes[b])) expected.push_back({a, b});
            std::sort(found.begin(), found.end());
            QCOMPARE(found, expected);
            QVERIFY(count < 200 || !found.empty());
        }
    }

    /// The library's count for surfaces knows edges by its own structure, not by numbers of points, and finds pairs its own way.
    void crossingsAgreeWithAnotherCount() {
        std::size_t crossing = 0;
        for (unsigned seed = 1; seed <= 6; ++seed) {
            const Geometry g = turnedThrough(seed, 8);
            const std::size_t pairs = crossingsOf(g).pairs;
            QCOMPARE(pairs, pairsByLibrary(g));
            QCOMPARE(crossingsOfAll(g).pairs, pairs);
            QCOMPARE(crossingsWithinPieces(g), pairs);
            crossing += pairs > 0;
        }
        QVERIFY(crossing >= 4);
        const Geometry ball = made("geodesic_sphere", {{"frequency", 12}});
        QCOMPARE(crossingsOf(ball).pairs, 0u);
        QCOMPARE(pairsByLibrary(ball), 0u);
    }

    void fansAtAPoint() {
        // Two pyramids, tip to tip at point 0.
        const Geometry tips = pyramidsTipToTip();
        Fans fans(tips.topology());
        QCOMPARE(fans.at(0), 2u);
        const auto fanOf = fans.ofCorners();
        QCOMPARE(fanOf.size(), 8u);
        for (std::size_t i = 0; i < 8; ++i) {
            const bool above = tips.topology().faceOfCorner()[tips.topology().cornersOfPoint()[0][i]] >= 5;
            QCOMPARE(fanOf[i], Index(above));
        }
        for (Index p = 1; p < tips.pointCount(); ++p) QCOMPARE(fans.at(p), 1u);
    }

    void tipsAreDrawnApart() {
        const Geometry tips = pyramidsTipToTip();
        QVERIFY(!checkupOf(tips).manifold);
        std::vector<Vec3> made;
        const Geometry apart = pointsApart(tips, 0.01, made);
        verifySolid(apart);
        QCOMPARE(apart.pointCount(), tips.pointCount() + 1);
        QCOMPARE(made.size(), 2u);
        const auto nearPlace = [](Vec3 a, Vec3 b) { return distance(a, b) < 1e-6f; };
        QVERIFY(nearPlace(made[0], {0, -0.01f, 0}) && nearPlace(made[1], {0, 0.01f, 0}));
        for (Index p = 1; p < tips.pointCount(); ++p) QCOMPARE(apart.positions()[p], tips.positions()[p]);
        // Its edges are 1.73 long: a quarter of that is too much.
        made.clear();
        QCOMPARE(pointsApart(tips, 0.43, made).pointCount(), apart.pointCount());
        made.clear();
        QCOMPARE(pointsApart(tips, 0.44, made).pointCount(), tips.pointCount());
        QVERIFY(made.empty());
    }

    /// Balls that were bent through themselves: what they wind around is inside.
    void solidsMayCrossThemselves() {
        const Geometry box = made("box");
        const double boxVolume = signedVolume(box);
        for (unsigned seed = 1; seed <= 4; ++seed) {
            const Geometry g = turnedThrough(seed, 12);
            QVERIFY(crossingsOf(g).pairs > 0);
            const auto with = [&](BooleanForm form) { return combineSolids({g}, {box}, form, RunContext()); };
            const Geometry united = with(BooleanForm::unite), cut = with(BooleanForm::subtract), common = with(BooleanForm::intersect);
            const Geometry alone = combineSolids({g}, {}, BooleanForm::unite, RunContext());
            for (const Geometry* result : {&united, &cut, &common, &alone}) {
                verifySolid(*result);
                QCOMPARE(crossingsOfAll(*result).pairs, 0u);
            }
            const auto volume = [](const Geometry& of) { return signedVolume(of); };
            QVERIFY(near(volume(united), volume(cut) + boxVolume, 1e-5));
            QVERIFY(near(volume(alone), volume(cut) + volume(common), 1e-5));
            QVERIFY(volume(alone) > 0.5);
        }
        const auto told = runPorts("boolean", {{turnedThrough(1, 12)}, {box}}, {{"form", "unite"}});
        QCOMPARE(lastCode(told), std::string("boolean.crossed"));
        QCOMPARE(lastCode(runPorts("boolean", {{box}, {made("box", {{"size", {2, 0.2, 2}}})}}, {{"form", "unite"}})), std::string());
    }

    /// Pairs of solids turned by next to nothing or far from the origin; at the first of these seeds rounding turns a face through another.
    void nothingCrossesAfterRounding() {
        for (unsigned seed : {1031u, 1u, 2u, 3u, 4u, 5u, 6u, 7u, 8u}) {
            Chance chance(seed);
            const float far = chance.below(3) == 0 ? chance.number(-30, 30) : 0.0f;
            const Geometry a = somewhere(someSolid(chance), chance, far), b = somewhere(someSolid(chance), chance, far);
            for (BooleanForm form : {BooleanForm::unite, BooleanForm::subtract, BooleanForm::intersect}) {
                BooleanReport report;
                const Geometry out = combineSolids({a}, {b}, form, RunContext(), &report);
                QCOMPARE(report.crossing, 0u);
                QCOMPARE(report.odd, 0u);
                QVERIFY2(crossingsOfAll(out).pairs == 0, qPrintable(QString::number(seed)));
                const Checkup c = checkupOf(out);
                QVERIFY(out.faceCount() == 0 || (c.closed && c.manifold && c.consistentWinding && c.degenerateFaces == 0));
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestBooleans)
#include "test_booleans.moc"
