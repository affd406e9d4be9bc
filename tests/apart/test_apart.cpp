// What is done with pieces: taken away, moved apart, numbered.
#include "breaking/FaceKind.h"
#include "breaking/PieceCheckup.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "operators/Shapes.h"
#include "operators/breaking/SoundMove.h"
#include "operators/scatter/CopyFrame.h"
#include "support/Chance.h"
#include "support/Pieces.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

Geometry broken(int pieces = 30) { return made("shatter", {{"pieces", pieces}}, {made("box", {{"cells", {2, 2, 2}}})}); }

std::set<FacePlaces> skinOf(const Geometry& g) {
    std::set<FacePlaces> out;
    for (Index f = 0; f < g.faceCount(); ++f) out.insert(placesOf(g, f));
    return out;
}

}  // namespace

class TestApart : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void whatLiesNowhereCrossesNothing() {
        Geometry lost = made("grid", {{"cells", {6, 6}}});
        lost.setPositions(std::vector<Vec3>(lost.pointCount(), Vec3{NAN, NAN, NAN}));
        QCOMPARE(crossingsWithinPieces(lost), std::size_t(0));
        QVERIFY(facesCrossingWithinPieces(lost).empty());
        QCOMPARE(crossingsOf(lost).pairs, std::size_t(0));
    }

    /// A sheet folded back on itself so closely that rounding a turned one lets it cross.
    void whatIsTurnedDoesNotMeetItself() {
        constexpr int kCells = 8;
        constexpr float kGap = 8e-8f;
        std::vector<Vec3> places{{-1, -1, 0}, {1, -1, 0}, {1, 1, 0}, {-1, 1, 0}};
        const auto above = [](int x, int y) { return Index(4 + y * (kCells + 1) + x); };
        for (int y = 0; y <= kCells; ++y)
            for (int x = 0; x <= kCells; ++x) places.push_back({-1 + 2.0f * float(x) / kCells, -1 + 2.0f * float(y) / kCells, kGap});
        std::vector<Index> corners{0, 1, 2, 3}, starts{0, 4};
        const auto face = [&](std::initializer_list<Index> points) {
            corners.insert(corners.end(), points);
            starts.push_back(Index(corners.size()));
        };
        for (int y = 0; y < kCells; ++y)
            for (int x = 0; x < kCells; ++x) face({above(x, y), above(x + 1, y), above(x + 1, y + 1), above(x, y + 1)});
        face({0, above(0, 0), above(0, 1)});
        const Index count = Index(places.size());
        const Geometry fold(std::move(places), Topology(count, starts, corners, {0}, {}, {}));
        QCOMPARE(fold.topology().connection().parts, Index(1));
        QCOMPARE(crossingsWithinPieces(fold), std::size_t(0));
        const std::vector<Index> parts(fold.pointCount(), 0);
        int mended = 0;
        for (int seed = 0; seed < 170; ++seed) {
            const auto turned = [&](std::size_t, float ease) { return turnAbout(normalized(Vec3{1, 2, 3}), (3 + float(seed)) * ease); };
            const Geometry plain = movedParts(fold, parts, {turned(0, 1)}), sound = movedSoundly(fold, parts, 1, turned, RunContext());
            QCOMPARE(crossingsWithinPieces(sound), std::size_t(0));
            if (crossingsWithinPieces(plain) == 0) {
                QVERIFY(sound.positions() == plain.positions());
                continue;
            }
            ++mended;
            QVERIFY(sound.positions() != plain.positions());
            // Turned a little less, as a whole.
            QVERIFY(near(length(sound.positions()[2] - sound.positions()[0]), std::sqrt(8.0), 1e-5));
            QVERIFY(length(sound.positions()[2] - plain.positions()[2]) < 0.14f * length(plain.positions()[2] - fold.positions()[2]));
        }
        QVERIFY2(mended > 1, std::to_string(mended).c_str());
        // One that crossed before is turned as it is.
        Geometry crossing = fold;
        std::vector<Vec3> pushed = fold.positions();
        pushed[above(3, 3)].z = -0.1f;
        crossing.setPositions(std::move(pushed));
        QVERIFY(crossingsWithinPieces(crossing) > 0);
        const auto quarter = [](std::size_t, float ease) { return turnAbout({0, 1, 0}, 90 * ease); };
        QVERIFY(movedSoundly(crossing, parts, 1, quarter, RunContext()).positions() == movedParts(crossing, parts, {quarter(0, 1)}).positions());
    }

    // ---- Remove pieces

    void aHigherChanceTakesMoreOfTheSame() {
        const Geometry all = broken();
        std::set<FacePlaces> before = skinOf(all);
        std::size_t last = 30;
        for (double chance : {0.0, 0.1, 0.3, 0.6, 0.9, 1.0}) {
            const Geometry left = made("remove_pieces", {{"chance", chance}, {"seed", 4}}, {all});
            const std::set<FacePlaces> now = skinOf(left);
            QVERIFY(std::includes(before.begin(), before.end(), now.begin(), now.end()));
            const std::size_t count = left.faceCount() ? eachPieceOf(left).size() : 0;
            QVERIFY(count <= last);
            if (left.faceCount()) verifyPieces(left);
            if (chance == 0) QCOMPARE(count, std::size_t(30));
            if (chance == 1) QCOMPARE(count, std::size_t(0));
            if (chance == 0.3) QVERIFY(count > 12 && count < 28);
            before = now, last = count;
        }
    }
    void theOthersInstead() {
        const Geometry all = broken();
        const Geometry some = made("remove_pieces", {{"chance", 0.4}, {"seed", 1}}, {all}),
                       others = made("remove_pieces", {{"chance", 0.4}, {"seed", 1}, {"keep_instead", true}}, {all});
        QCOMPARE(some.faceCount() + others.faceCount(), all.faceCount());
        QVERIFY(some.faceCount() > 0 && others.faceCount() > 0);
        QVERIFY(skinOf(made("remove_pieces", {{"chance", 0.4}, {"seed", 2}}, {all})) != skinOf(some));
    }
    void theLargestCanBeHeld() {
        const Geometry all = broken();
        const std::vector<Geometry> pieces = eachPieceOf(all);
        const auto smaller = [](const Geometry& a, const Geometry& b) { return checkupOf(a).volume < checkupOf(b).volume; };
        const auto largest = skinOf(*std::max_element(pieces.begin(), pieces.end(), smaller));
        for (const bool instead : {false, true}) {
            const Geometry left = made("remove_pieces", {{"chance", instead ? 0 : 1}, {"hold_largest", true}, {"keep_instead", instead}}, {all});
            QCOMPARE(eachPieceOf(left).size(), std::size_t(1));
            QVERIFY(skinOf(left) == largest);
        }
        QCOMPARE(made("remove_pieces", {{"chance", 0}, {"hold_largest", true}}, {all}).faceCount(), all.faceCount());
    }
    void slivers() {
        const Geometry all = broken(60);
        std::vector<double> volumes;
        for (const Geometry& piece : eachPieceOf(all)) volumes.push_back(checkupOf(piece).volume);
        const double middle = 1.0 / 60;
        const Geometry left = made("remove_pieces", {{"chance", 0}, {"smaller_than", middle}}, {all});
        QCOMPARE(eachPieceOf(left).size(), std::size_t(std::count_if(volumes.begin(), volumes.end(), [&](double v) { return v >= middle; })));
        for (const Geometry& piece : eachPieceOf(left)) QVERIFY(checkupOf(piece).volume >= middle * 0.9999);
        // Open pieces by their area.
        const Geometry shell = made("crack_shell", {{"pieces", 30}}, {made("grid", {{"cells", {20, 20}}})});
        for (const Geometry& piece : eachPieceOf(made("remove_pieces", {{"chance", 0}, {"smaller_than", 1.0 / 30}}, {shell})))
            QVERIFY(checkupOf(piece).area >= 0.9999 / 30);
    }
    void onlyUnderTheMask() {
        const Geometry left = made("remove_pieces", {{"chance", 1}, {"where", {{"formula", "position.x > 0"}}}}, {broken()});
        verifyPieces(left);
        for (const Geometry& piece : eachPieceOf(left)) QVERIFY(boundsOf(piece.positions()).min.x < 0);
        // Chance from a source: on one side only.
        const Geometry side = made("remove_pieces", {{"chance", {{"formula", "position.x < 0 ? 1 : 0"}}}, {"seed", 1}}, {broken()});
        QVERIFY(boundsOf(side.positions()).max.x == 0.5f && checkupOf(side).volume < 0.9);
    }
    void curvesAndLoosePointsStay() {
        const Geometry with = combine({broken(4), made("line"), Geometry(std::vector<Vec3>{{3, 3, 3}})});
        const Geometry left = made("remove_pieces", {{"chance", 1}}, {with});
        QCOMPARE(left.faceCount(), std::size_t(0));
        QCOMPARE(left.curveCount(), std::size_t(1));
        QCOMPARE(left.positions().back(), (Vec3{3, 3, 3}));
        QCOMPARE(lastCode(runOp("remove_pieces", Json::object(), {made("line")})), std::string("surface.none"));
    }

    // ---- Spread pieces

    void piecesMoveApartAsTheyAre() {
        const Geometry all = broken(12);
        QCOMPARE(made("spread_pieces", {{"amount", 0}}, {all}).positions(), all.positions());
        const Geometry apart = made("spread_pieces", {{"amount", 1}}, {all});
        verifyPieces(apart);
        QVERIFY(near(checkupOf(apart).volume, checkupOf(all).volume, 1e-4));
        const auto before = eachPieceOf(all), after = eachPieceOf(apart);
        QCOMPARE(after.size(), before.size());
        for (std::size_t i = 0; i < before.size(); ++i) {
            const Vec3 moved = after[i].positions()[0] - before[i].positions()[0];
            for (std::size_t p = 0; p < before[i].pointCount(); ++p) QVERIFY(distance(after[i].positions()[p] - before[i].positions()[p], moved) < 1e-5f);
            // By the place of its centre of gravity, which the box's middle sees along this way.
            QVERIFY(dot(moved, boundsOf(before[i].positions()).centre()) > 0);
        }
        const Geometry from = made("spread_pieces", {{"amount", 1}, {"from", "point"}, {"centre", {0, -10, 0}}}, {all});
        QVERIFY(boundsOf(from.positions()).min.y > 8);
        const Geometry once = made("spread_pieces", {{"amount", {{"formula", "position.x > 0 ? 1 : 0"}}}}, {all});
        QVERIFY(boundsOf(once.positions()).max.x > 0.6f);
    }
    void turnedPiecesStayRigid() {
        const Geometry all = broken(6);
        const auto before = eachPieceOf(all), after = eachPieceOf(made("spread_pieces", {{"amount", 0.5}, {"turn", 60}}, {all}));
        bool turned = false;
        for (std::size_t i = 0; i < before.size(); ++i) {
            const auto way = [&](const Geometry& g) { return g.positions()[1] - g.positions()[0]; };
            QVERIFY(near(double(length(way(before[i]))), double(length(way(after[i]))), 1e-5));
            turned |= distance(way(before[i]), way(after[i])) > 1e-3f;
            QVERIFY(near(checkupOf(before[i]).volume, checkupOf(after[i]).volume, 1e-5));
        }
        QVERIFY(turned);
    }
    /// Numbers on faces that share points: each piece gets points of its own.
    void touchingPiecesAreParted() {
        Geometry grid = made("grid", {{"cells", {2, 1}}});
        grid.setColumn(Element::face, "piece", Column(std::vector<std::int32_t>{7, 3}));
        const Geometry apart = made("spread_pieces", {{"amount", 1}}, {grid});
        QCOMPARE(apart.pointCount(), std::size_t(8));
        QCOMPARE(pieceOf(apart), (std::vector<std::int32_t>{0, 1}));
    }

    // ---- Number pieces

    void numbersSizesAndCentres() {
        const Geometry two = combine({made("box"), made("transform", {{"move", {3, 0, 0}}, {"scale", {2, 2, 2}}}, {made("box")}),
                                      made("transform", {{"move", {0, 5, 0}}}, {made("grid", {{"cells", {1, 1}}})})});
        const Geometry out = made("number_pieces", Json::object(), {two});
        QCOMPARE(pieceOf(out), (std::vector<std::int32_t>{0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1, 2}));
        const auto& size = *out.values<float>(Element::face, "piece_size");
        QVERIFY(near(double(size[0]), 1, 1e-6) && near(double(size[6]), 8, 1e-5) && near(double(size[12]), 1, 1e-6));
        const auto& centre = *out.values<Vec3>(Element::face, "piece_centre");
        QVERIFY(length(centre[0]) < 1e-6f && distance(centre[6], {3, 0, 0}) < 1e-5f && distance(centre[12], {0, 5, 0}) < 1e-5f);
    }
    /// A face with a dent: a fan over it covers more than it is large.
    void sizesOfFacesWithDents() {
        const Geometry dented = made("point_list", {{"points", {{0, 0, 0}, {0, 0, 3}, {3, 0, 3}, {3, 0, 2}, {1, 0, 2}, {1, 0, 0}}}, {"join", "filled"}});
        QCOMPARE(dented.faceCount(), std::size_t(1));
        const Geometry flat = made("number_pieces", Json::object(), {dented});
        QVERIFY(near(double((*flat.values<float>(Element::face, "piece_size"))[0]), 5, 1e-5));
        const Vec3 middle = (*flat.values<Vec3>(Element::face, "piece_centre"))[0];
        QVERIFY(distance(middle, {1.1f, 0, 1.9f}) < 1e-5f);
        const Geometry thick = made("number_pieces", Json::object(), {made("extrude", {{"distance", 2}, {"keep_back", true}}, {dented})});
        QVERIFY(near(double((*thick.values<float>(Element::face, "piece_size"))[0]), 10, 1e-4));
        // Away from the origin as well.
        const Geometry far = made("number_pieces", Json::object(), {made("transform", {{"move", {1000, 0, 0}}}, {made("box")})});
        QVERIFY(near(double((*far.values<float>(Element::face, "piece_size"))[0]), 1, 1e-3));
        QVERIFY(distance((*far.values<Vec3>(Element::face, "piece_centre"))[0], {1000, 0, 0}) < 1e-3f);
    }
    /// Tones come from the place: they stay when other pieces come and go.
    void tonesStay() {
        const Geometry all = broken(), some = made("remove_pieces", {{"chance", 0.5}}, {all});
        const auto tonesOf = [](const Geometry& g, double seed) {
            const Geometry out = made("number_pieces", {{"seed", seed}}, {g});
            std::map<FacePlaces, float> tones;
            for (Index f = 0; f < out.faceCount(); ++f) tones[placesOf(out, f)] = (*out.values<float>(Element::face, "piece_tone"))[f];
            return tones;
        };
        const auto before = tonesOf(all, 0), after = tonesOf(some, 0), other = tonesOf(some, 1);
        std::set<float> different;
        for (const auto& [face, tone] : after) {
            QCOMPARE(before.at(face), tone);
            QVERIFY(tone >= 0 && tone < 1);
            QVERIFY(other.at(face) != tone);
            different.insert(tone);
        }
        QCOMPARE(different.size(), eachPieceOf(some).size());
    }
    void byTagAttributeAndPoints() {
        Geometry strip = made("grid", {{"cells", {6, 1}}});
        strip.setColumn(Element::face, "wet", Column(std::vector<std::uint8_t>{1, 1, 0, 0, 1, 1}));
        strip.setColumn(Element::face, "kind", Column(std::vector<std::int32_t>{5, 9, 9, 5, 9, 5}));
        QCOMPARE(pieceOf(made("number_pieces", {{"by", "tag"}, {"attribute", "wet"}}, {strip})), (std::vector<std::int32_t>{0, 0, 1, 1, 2, 2}));
        QCOMPARE(pieceOf(made("number_pieces", {{"by", "attribute"}, {"attribute", "kind"}}, {strip})), (std::vector<std::int32_t>{0, 1, 1, 0, 1, 0}));
        const Geometry points(std::vector<Vec3>{{1, 0, 0}, {-1, 0, 0}});
        QCOMPARE(pieceOf(madeOf("number_pieces", {{strip}, {points}}, {{"by", "nearest points"}})), (std::vector<std::int32_t>{0, 0, 0, 1, 1, 1}));
        QCOMPARE(pieceOf(made("number_pieces", Json::object(), {strip})), std::vector<std::int32_t>(6, 0));
        QVERIFY(runOp("number_pieces", {{"by", "attribute"}, {"attribute", "kint"}}, {strip}).failed);
        QCOMPARE(lastCode(runOp("number_pieces", {{"by", "nearest points"}}, {strip})), std::string("pieces.no_points"));
        QCOMPARE(lastCode(runOp("number_pieces", Json::object(), {made("line")})), std::string("surface.none"));
    }

    /// Kinds of faces, the same by their formula; those of a boolean are inside faces as well.
    void kindsOfFaces() {
        const Geometry plain = made("box");
        QVERIFY(!hasKinds(plain));
        QCOMPARE(facesOfKind(plain, FaceKind::skin).size(), std::size_t(6));
        QVERIFY(formulaOfKind(plain, FaceKind::skin).empty());
        const Geometry broken = made("crumble_edges", {{"crumbs", 3}, {"width", 0.2}}, {made("shatter", {{"pieces", 3}}, {plain})});
        const Geometry thick = made("thicken", {{"thickness", 0.1}}, {made("grid", {{"cells", {2, 2}}})});
        const Geometry hollow = madeOf("boolean", {{plain}, {made("transform", {{"move", {0.3, 0.3, 0.3}}}, {plain})}}, {{"form", "subtract"}});
        for (const auto& [g, kinds] : {std::pair{broken, 3}, {thick, 2}, {hollow, 2}}) {
            QVERIFY(hasKinds(g));
            std::size_t all = 0;
            int seen = 0;
            for (const FaceKind kind : {FaceKind::skin, FaceKind::inside, FaceKind::crumb, FaceKind::rim}) {
                const std::vector<Index> faces = facesOfKind(g, kind);
                all += faces.size(), seen += !faces.empty();
                for (Index f : faces) QCOMPARE(faceKind(g, f), kind);
                if (faces.empty()) continue;
                const Geometry left = made("delete", {{"of", "faces"}, {"where", {{"formula", formulaOfKind(g, kind)}}}}, {g});
                QCOMPARE(left.faceCount(), g.faceCount() - faces.size());
            }
            QCOMPARE(all, g.faceCount());
            QCOMPARE(seen, kinds);
        }
    }
    /// What pieces have in common says nothing against them; what one of them has twice does.
    void checkupOfPieces() {
        const Geometry broken = made("shatter", {{"pieces", 6}}, {made("box")});
        QVERIFY(inPieces(broken));
        QVERIFY(checkupOf(broken).doubledPoints > 0);
        const auto figures = pieceFigures(broken);
        QVERIFY(figures && figures->closed && figures->slivers == 0);
        QCOMPARE(figures->count, std::size_t(6));
        QVERIFY(figures->smallest <= figures->median && figures->median <= figures->largest);
        double sum = 0;
        for (const Geometry& piece : eachPieceOf(broken)) {
            sum += checkupOf(piece).volume;
            QVERIFY(checkupOf(piece).volume >= figures->smallest * (1 - 1e-6) && checkupOf(piece).volume <= figures->largest * (1 + 1e-6));
        }
        QVERIFY(near(sum, 1, 1e-5));
        QVERIFY(findingsOfPieces(broken, *figures, true).empty());
        // One without numbers, one piece, pieces that share points: as ever.
        QVERIFY(!inPieces(made("box")) && !inPieces(made("shatter", {{"pieces", 1}}, {made("box")})));
        Geometry sharing = made("box");
        sharing.setColumn(Element::face, "piece", Column(std::vector<std::int32_t>{0, 0, 0, 1, 1, 1}));
        QVERIFY(!inPieces(sharing) && !pieceFigures(sharing));
        // A second shell in the same place as the first piece, with its number: twelve points twice or so.
        const Geometry twice = combine({broken, eachPieceOf(broken)[0]});
        const auto doubled = findingsOfPieces(twice, *pieceFigures(twice), true);
        QCOMPARE(doubled.size(), std::size_t(1));
        QCOMPARE(doubled[0].code, std::string("doubled_points"));
        QCOMPARE(doubled[0].count, eachPieceOf(broken)[0].pointCount());
        // A sliver beside the others.
        Geometry sliver = made("transform", {{"scale", {0.01, 0.01, 0.01}}, {"move", {3, 0, 0}}}, {made("box")});
        sliver.setColumn(Element::face, "piece", Column(std::vector<std::int32_t>(6, 6)));
        const Geometry with = combine({broken, sliver});
        const auto found = findingsOfPieces(with, *pieceFigures(with), true);
        QCOMPARE(found.size(), std::size_t(1));
        QCOMPARE(found[0].code, std::string("slivers"));
        QCOMPARE(found[0].count, std::size_t(1));
        QCOMPARE(found[0].rows.size(), std::size_t(6));
        QCOMPARE(found[0].rows[0], Index(broken.faceCount()));
    }
};

QTEST_GUILESS_MAIN(TestApart)
#include "test_apart.moc"
