// What is done to copies that stand already: moved at random, thinned out, rested on a surface.
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "scatter/CopyCheckup.h"
#include "scatter/CopyOverlap.h"
#include "support/Copies.h"
#include "support/Run.h"

using namespace seedloom;
using namespace seedloom::test;

class TestThinning : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void randomTransformStaysInItsRanges() {
        const Geometry in = placed(points(300), {box()}),
                       out = made("random_transform", {{"move", {0.1, 0, 0.3}}, {"turn", {0, 30, 0}}, {"size", {0.5, 2}}}, {in});
        float least = 9, most = 0;
        for (std::size_t i = 0; i < 300; ++i) {
            const Affine &a = in.copies()->place[i], &b = out.copies()->place[i];
            const Vec3 by = b.move - a.move;
            QVERIFY(std::abs(by.x) <= 0.1001f && std::abs(by.y) < 1e-5f && std::abs(by.z) <= 0.3001f);
            const float size = length(b.x);
            least = std::min(least, size), most = std::max(most, size);
            QVERIFY(std::acos(std::clamp(dot(b.x, a.x) / size, -1.0f, 1.0f)) <= 0.5237f);
            QVERIFY(near(double(length(b.y)), double(size), 1e-4));
        }
        QVERIFY(least >= 0.5f && least < 0.55f && most <= 2 && most > 1.9f);
        // A wider move turns nothing anew.
        const Geometry wider = made("random_transform", {{"move", {5, 5, 5}}, {"turn", {0, 30, 0}}, {"size", {0.5, 2}}}, {in});
        for (std::size_t i = 0; i < 300; ++i) QVERIFY(wider.copies()->place[i].x == out.copies()->place[i].x);
        const Geometry still = made("random_transform", {{"blend", 0}}, {in});
        for (std::size_t i = 0; i < 300; ++i) QVERIFY(alike(still.copies()->place[i], in.copies()->place[i]));
    }

    void randomTransformMovesPiecesWhole() {
        const Geometry two = combine({box(), made("transform", {{"move", {2, 0, 0}}}, {box()})});
        const Geometry out = made("random_transform", {{"move", {0.3, 0.3, 0.3}}, {"turn", {90, 90, 90}}, {"size", {1, 1}}}, {two});
        QVERIFY(near(signedVolume(out), signedVolume(two), 1e-5));
        QVERIFY(out.positions() != two.positions());
        QVERIFY(checkupOf(out).closed);
    }

    void thinningByDistanceLeavesRoom() {
        const Geometry out = made("thin_out", {{"distance", 0.5}}, {points(2000)});
        QVERIFY(out.pointCount() > 150 && out.pointCount() < 350);
        const auto& at = out.positions();
        for (std::size_t i = 0; i < at.size(); ++i)
            for (std::size_t j = 0; j < i; ++j) QVERIFY(distance(at[i], at[j]) >= 0.5f);
        const OperatorOutcome told = runOp("thin_out", {{"distance", 0.5}}, {points(2000)});
        QCOMPARE(lastCode(told), std::string("thin.gone"));
        QVERIFY(told.notices.back().text.find(std::to_string(2000 - out.pointCount())) == 0);
    }

    void thinningKeepsTheHighest() {
        Geometry at = made("point_list", {{"points", {{0, 0, 0}, {0.1, 0, 0}, {0.2, 0, 0}}}, {"join", "none"}});
        at.setColumn(Element::point, "rank", Column(std::vector<float>{1, 5, 2}));
        QCOMPARE(made("thin_out", {{"distance", 0.15}, {"keep", "rank"}}, {at}).positions(), (std::vector<Vec3>{{0.1f, 0, 0}}));
        QCOMPARE(made("thin_out", {{"distance", 0.15}}, {at}).pointCount(), std::size_t(2));
    }

    void thinningByBoundsOrFacesLeavesNoOverlap_data() {
        QTest::addColumn<QString>("by");
        QTest::newRow("bounds") << "bounds";
        QTest::newRow("meshes") << "meshes";
    }

    void thinningByBoundsOrFacesLeavesNoOverlap() {
        QFETCH(QString, by);
        const Geometry crowd = placed(points(3000), {box(0.3, 0.2, 0.1), made("sphere", {{"radius", 0.12}, {"sides", 12}, {"rings", 8}})},
                                      {{"choose", "random"}, {"turn", {{"random", {{"range", {0, 360}}}}}}, {"size", {{"random", {{"range", {0.5, 1.5}}}}}}});
        const OverlapBy what = by == "bounds" ? OverlapBy::bounds : OverlapBy::meshes;
        QVERIFY(overlapsOf(crowd, what, RunContext()).pairs.size() > 500);
        const Geometry out = made("thin_out", {{"by", qPrintable(by)}}, {crowd});
        QVERIFY(out.copyCount() > 300 && out.copyCount() < 2500);
        QCOMPARE(overlapsOf(out, what, RunContext()).pairs.size(), std::size_t(0));
        // Nobody went without need: each that went overlaps one that stayed.
        const auto stayed = byId(out);
        const CopyOverlaps all = overlapsOf(crowd, what, RunContext());
        std::vector<std::uint8_t> excused(crowd.copyCount(), 0);
        const auto& ids = ofCopies<std::int32_t>(crowd, "id");
        for (const CopyPair& pair : all.pairs) {
            if (stayed.contains(ids[pair.first])) excused[pair.second] = 1;
            if (stayed.contains(ids[pair.second])) excused[pair.first] = 1;
        }
        for (std::size_t i = 0; i < ids.size(); ++i) QVERIFY(stayed.contains(ids[i]) || excused[i]);
    }

    void facesLetCopiesStandCloserThanBoxes() {
        const Geometry rings = placed(made("point_list", {{"points", {{0, 0, 0}, {0, 0.0, 0.0001}}}}),
                                      {made("torus", {{"radius", 1}, {"tube", 0.1}}), made("sphere", {{"radius", 0.5}})}, {{"align", "none"}});
        QCOMPARE(overlapsOf(rings, OverlapBy::bounds, RunContext()).pairs.size(), std::size_t(1));
        QCOMPARE(overlapsOf(rings, OverlapBy::meshes, RunContext()).pairs.size(), std::size_t(0));
        // One wholly inside another is met, too.
        const Geometry inside =
            placed(made("point_list", {{"points", {{0, 0, 0}, {0, 0, 0.01}}}}), {box(1, 1, 1), box(0.2, 0.2, 0.2)}, {{"align", "none"}, {"stand", "middle"}});
        QCOMPARE(overlapsOf(inside, OverlapBy::meshes, RunContext()).pairs.size(), std::size_t(1));
    }

    void touchingIsNotOverlapping() {
        const Geometry row = placed(made("line", {{"direction", {1, 0, 0}}, {"length", 2}, {"points", 11}}), {box()}, {{"align", "none"}});
        for (OverlapBy by : {OverlapBy::bounds, OverlapBy::meshes}) QVERIFY(overlapsOf(row, by, RunContext()).pairs.empty());
        const Geometry pushed = made("random_transform", {{"move", {0, 0, 0}}, {"turn", {0, 0, 0}}, {"size", {1.01, 1.01}}}, {row});
        for (OverlapBy by : {OverlapBy::bounds, OverlapBy::meshes}) QCOMPARE(overlapsOf(pushed, by, RunContext()).pairs.size(), std::size_t(10));
    }

    void doubledCopiesAreFoundAndTakenAway() {
        Geometry at = points(0, 0.6);
        const std::size_t single = at.pointCount();
        Geometry twice = combine({at, at, at});
        const Geometry crowd = placed(twice, {box(0.1, 0.1, 0.1)});
        std::vector<Index> doubled, of;
        doubledCopies(crowd, doubled, of);
        QCOMPARE(doubled.size(), single * 2);
        for (std::size_t k = 0; k < of.size(); ++k) QVERIFY(of[k] < single && crowd.copies()->place[of[k]] == crowd.copies()->place[doubled[k]]);
        QCOMPARE(made("thin_out", {{"by", "bounds"}}, {crowd}).copyCount(), single);
        QCOMPARE(checkupUnbaked(crowd, RunContext()).doubledPoints, single * 2 * 8);
    }

    /// Too many to look at are said to be, and a small model is judged as a large one.
    void crowdsAreToldAndSizeDoesNotMatter() {
        const Geometry crowd = placed(made("transform", {{"scale", 0.001}}, {points(7000)}), {box()});
        QVERIFY(overlapsOf(crowd, OverlapBy::bounds, RunContext(), 0, 1000).cut);
        QCOMPARE(lastCode(runOp("thin_out", {{"by", "bounds"}}, {crowd})), std::string("thin.crowded"));
        const Geometry some = placed(points(600), {box()}, {{"turn", {{"random", {{"range", {0, 360}}}}}}});
        const std::size_t pairs = overlapsOf(some, OverlapBy::meshes, RunContext()).pairs.size();
        QVERIFY(pairs > 50);
        for (double size : {1e-4, 1e4}) QCOMPARE(overlapsOf(made("transform", {{"scale", size}}, {some}), OverlapBy::meshes, RunContext()).pairs.size(), pairs);
    }

    void restingCopiesTouch() {
        const Geometry ground = made("noise_displace", {{"amount", 0.5}, {"size", 2}}, {made("grid", {{"size", {10, 10}}, {"cells", {60, 60}}})});
        const Geometry ball = made("sphere", {{"radius", 0.3}, {"sides", 24}, {"rings", 16}});
        for (double height : {3.0, -1.5}) {
            const Geometry above = made("transform", {{"move", {0, height, 0}}}, {placed(points(40), {ball}, {{"align", "none"}})});
            const Geometry out = madeOf("rest_on", {{above}, {ground}});
            const NearestPlace nearest(ground, NearestPlace::On::faces);
            for (std::size_t i = 0; i < out.copyCount(); ++i) {
                const Vec3 middle = out.copies()->place[i].move;
                if (std::abs(middle.x) > 4.6f || std::abs(middle.z) > 4.6f) continue;
                const double far = std::sqrt(double(nearest.find(middle).squaredDistance));
                QVERIFY2(far > 0.285 && far < 0.305, qPrintable(QString::number(far)));
                QVERIFY(middle.x == above.copies()->place[i].move.x);
            }
        }
    }

    void restingSinksAndLeans() {
        const Geometry slope = made("transform", {{"rotate", {0, 0, 30}}, {"scale", {20, 1, 20}}}, {made("grid")});
        const Geometry one =
            made("transform", {{"move", {0, 5, 0}}}, {placed(made("point_list", {{"points", {{1, 0, 0}}}}), {box()}, {{"align", "none"}, {"stand", "foot"}})});
        const Affine leaning = madeOf("rest_on", {{one}, {slope}}, {{"lean", 1}, {"sink", 0.05}}).copies()->place[0];
        const Vec3 normal = normalized({-0.5f, std::sqrt(0.75f), 0});
        QVERIFY(length(leaning.y - normal) < 1e-4f);
        // Lying flat, and sunk in by five centimetres straight down.
        QVERIFY(near(double(dot(leaning.point({0, -0.1f, 0}), normal)), -0.05 * double(normal.y), 2e-4));
        const Affine half = madeOf("rest_on", {{one}, {slope}}, {{"lean", 0.5}}).copies()->place[0];
        QVERIFY(near(std::acos(double(half.y.y)), radians(15), 1e-3));
        QVERIFY(madeOf("rest_on", {{one}, {slope}}).copies()->place[0].y.y > 0.9999f);
    }

    void peaksBetweenACopysPointsHoldIt() {
        const Geometry spike = made("point_list", {{"points", {{-0.1, 0, -0.1}, {0.1, 0, -0.1}, {0, 1, 0}}}, {"join", "filled"}});
        const Geometry plate =
            placed(made("point_list", {{"points", {{0, 4, 0}}}}), {made("box", {{"size", {4, 0.1, 4}}})}, {{"align", "none"}, {"stand", "foot"}});
        const Geometry out = madeOf("rest_on", {{plate}, {spike}});
        QVERIFY2(near(double(boundsOf(out).min.y), 1, 1e-3), qPrintable(QString::number(double(boundsOf(out).min.y))));
    }

    void whatMeetsNothingIsTold() {
        const Geometry far = placed(made("point_list", {{"points", {{0, 2, 0}, {100, 2, 0}}}}), {box()});
        const OperatorOutcome kept = runPorts("rest_on", {{far}, {made("grid")}}),
                              removed = runPorts("rest_on", {{far}, {made("grid")}}, {{"missed", "remove"}});
        QCOMPARE(lastCode(kept), std::string("rest.missed"));
        QCOMPARE(kept.geometry.copyCount(), std::size_t(2));
        QCOMPARE(removed.geometry.copyCount(), std::size_t(1));
        QCOMPARE(lastCode(runPorts("rest_on", {{far}, {made("line")}})), std::string("surface.none"));
        QCOMPARE(lastCode(runPorts("rest_on", {{far}, {made("grid")}}, {{"direction", {0, 0, 0}}})), std::string("rest.direction"));
    }
};

QTEST_APPLESS_MAIN(TestThinning)
#include "test_thinning.moc"
