// Broken faces made uneven: both sides stay one surface, the old skin stays where it was, and nothing turns over.
#include "breaking/BreakMesh.h"
#include "breaking/BreakMoves.h"
#include "breaking/PieceCrossings.h"
#include "breaking/RingFrame.h"
#include "breaking/RoughBreaks.h"
#include "geometry/Digest.h"
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "support/Solids.h"

#include <tbb/task_arena.h>

using namespace seedloom;
using namespace seedloom::test;

namespace {

Geometry skinOf(const Geometry& g) {
    const auto* inside = g.values<std::uint8_t>(Element::face, "inside");
    PartTaker taker(g);
    for (Index f = 0; f < g.faceCount(); ++f)
        if (!inside || !(*inside)[f]) taker.addFace(f);
    return taker.take();
}

double areaOf(const Geometry& g) {
    double sum = 0;
    for (Index f = 0; f < g.faceCount(); ++f) sum += double(length(areaVector(g.topology().face(f), g.positions())));
    return sum;
}

}  // namespace

class TestRoughening : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void bothSidesStayOneSurface_data() {
        QTest::addColumn<QString>("solid");
        QTest::addColumn<QString>("before");
        QTest::addColumn<QString>("settings");
        int i = 0;
        for (const char* solid : {"box", "plain box", "ball", "ring", "hollow", "two", "horseshoe"})
            for (const char* before : {R"({"pieces": 6, "seed": 4})", R"({"pieces": 4, "roughness": 0.02, "noise_size": 0.3})"})
                QTest::addRow("%s %s", solid, before) << solid << before
                                                      << (++i % 2 ? R"({"amount": 0.03, "detail": 0.05, "noise_size": 0.25})"
                                                                  : R"({"amount": 0.05, "detail": 0.1, "noise_size": 0.1, "seed": 3})");
    }
    void bothSidesStayOneSurface() {
        QFETCH(QString, solid);
        QFETCH(QString, before);
        QFETCH(QString, settings);
        const Geometry old = marked(solidNamed(solid));
        const Geometry broken = made("shatter", Json::parse(before.toStdString()), {old});
        const Geometry out = made("roughen_breaks", Json::parse(settings.toStdString()), {broken});
        verifyPieces(out);
        const double whole = checkupOf(broken).volume;
        QVERIFY(near(checkupOf(out).volume, whole, whole * 1e-4));
        QCOMPARE(eachPieceOf(out).size(), eachPieceOf(broken).size());
        QCOMPARE(loneInsideFaces(out), loneInsideFaces(broken));
        QVERIFY(out.faceCount() > broken.faceCount() + 100);
        QCOMPARE(changedCorners(old, out), 0u);
        QVERIFY(near(areaOf(skinOf(out)), areaOf(skinOf(broken)), 1e-4 * areaOf(skinOf(broken))));
        // Everything of the old skin is on it still.
        const Geometry skin = skinOf(broken);
        const NearestPlace nearest(skin, NearestPlace::On::faces);
        const Geometry after = skinOf(out);
        for (Vec3 p : after.positions()) QVERIFY(nearest.find(p).squaredDistance < 1e-9f);
    }
    /// Places of broken faces move, by no more than is asked for, and those on flat skin along it.
    void placesMove() {
        const Geometry broken = made("shatter", {{"pieces", 3}, {"seed", 2}}, {made("box")});
        const Geometry flat = made("roughen_breaks", {{"amount", 1e-7}, {"detail", 0.05}, {"noise_size", 0.2}}, {broken});
        const Geometry out = made("roughen_breaks", {{"amount", 0.03}, {"detail", 0.05}, {"noise_size", 0.2}}, {broken});
        QCOMPARE(out.pointCount(), flat.pointCount());
        const auto& inside = *out.values<std::uint8_t>(Element::face, "inside");
        std::vector<std::uint8_t> onSkin(out.pointCount(), 0), onBreak(out.pointCount(), 0);
        for (Index f = 0; f < out.faceCount(); ++f)
            for (Index p : out.topology().face(f)) (inside[f] ? onBreak : onSkin)[p] = 1;
        std::size_t moved = 0, wandered = 0;
        double deepest = 0;
        for (Index p = 0; p < out.pointCount(); ++p) {
            const Vec3 way = out.positions()[p] - flat.positions()[p];
            for (int c = 0; c < 3; ++c) QVERIFY(std::abs(way[c]) <= 0.0301f);
            if (!onBreak[p]) QVERIFY(length(way) < 1e-6f);
            moved += onBreak[p] && !onSkin[p] && length(way) > 1e-3f;
            wandered += onBreak[p] && onSkin[p] && length(way) > 1e-3f;
            deepest = std::max(deepest, double(length(way)));
        }
        QVERIFY(moved > 200 && wandered > 30 && deepest > 0.015);
        // An edge of the box stays one: its places go along it alone.
        for (Index p = 0; p < out.pointCount(); ++p) {
            const Vec3 at = flat.positions()[p], now = out.positions()[p];
            for (int c = 0; c < 3; ++c)
                if (std::abs(std::abs(at[c]) - 0.5f) < 1e-6f && onSkin[p]) QVERIFY(std::abs(now[c] - at[c]) < 1e-6f);
        }
    }
    void amountFromASource() {
        const Geometry broken = made("shatter", {{"pieces", 5}, {"seed", 2}}, {made("box")});
        const Json settings{{"detail", 0.05}, {"noise_size", 0.3}};
        Json right = settings, none = settings;
        right["amount"] = {{"formula", "position.x > 0 ? 0.04 : 0"}};
        none["amount"] = 0;
        const Geometry out = made("roughen_breaks", right, {broken});
        verifyPieces(out);
        QCOMPARE(loneInsideFaces(out), 0u);
        QCOMPARE(digestOf(made("roughen_breaks", none, {broken})).hex(), digestOf(broken).hex());
    }
    void detailIsTheLengthOfSides() {
        const Geometry broken = made("shatter", {{"pieces", 3}}, {made("box")});
        std::size_t before = 0;
        for (const double detail : {0.2, 0.1, 0.05}) {
            const BreakMesh mesh(broken, detail, RunContext());
            double sum = 0;
            std::size_t sides = 0, triangles = 0;
            for (const auto& cut : mesh.cuts())
                for (const auto& t : cut.triangles) {
                    ++triangles;
                    for (std::size_t k = 0; k < 3; ++k) {
                        const double length = double(distance(mesh.places()[t[k]], mesh.places()[t[(k + 1) % 3]]));
                        sum += length, ++sides;
                        QVERIFY(length < 2 * detail);
                    }
                }
            QVERIFY(sum / double(sides) > 0.6 * detail && sum / double(sides) < 1.1 * detail);
            QVERIFY(triangles > 3 * before);
            before = triangles;
        }
    }
    /// The faces of both sides are one cut, whose triangles cover them.
    void cutsAreShared() {
        const Geometry broken = made("shatter", {{"pieces", 4}}, {made("box")});
        const auto& inside = *broken.values<std::uint8_t>(Element::face, "inside");
        const BreakMesh mesh(broken, 0.1, RunContext());
        std::map<Index, int> uses;
        for (Index f = 0; f < broken.faceCount(); ++f) {
            QCOMPARE(mesh.useOf(f).cut != kNoPlace, inside[f] != 0);
            if (!inside[f]) continue;
            ++uses[mesh.useOf(f).cut];
            const auto& cut = mesh.cuts()[mesh.useOf(f).cut];
            const auto face = broken.topology().face(f);
            for (Index k = 0; k < face.size(); ++k) QCOMPARE(mesh.placeOf(face[mesh.useOf(f).order.corner(k, Index(face.size()))]), cut.ring[k]);
            const Vec3 whole = areaVector(face, broken.positions()) * (mesh.useOf(f).order.turned ? -1.0f : 1.0f);
            Vec3 sum;
            for (const auto& t : cut.triangles) {
                const auto at = [&](std::size_t k) { return mesh.places()[t[k]]; };
                const Vec3 area = cross(at(1) - at(0), at(2) - at(0)) / 2;
                QVERIFY(dot(area, whole) > 0);
                sum += area;
            }
            QVERIFY(length(sum - whole) < 1e-4f);
        }
        for (const auto& [cut, count] : uses) QCOMPARE(count, 2);
        QCOMPARE(uses.size(), mesh.cuts().size());
        // An edge's places run the way they are asked for.
        const auto& ring = mesh.cuts()[0].ring;
        std::vector<Index> there = mesh.along(ring[0], ring[1]), back = mesh.along(ring[1], ring[0]);
        std::reverse(back.begin(), back.end());
        QCOMPARE(there, back);
    }
    void whatGoesTooFar() {
        const Geometry broken = made("shatter", {{"pieces", 2}, {"seed", 1}}, {made("box")});
        const BreakMesh mesh(broken, 0.1, RunContext());
        const auto skin = skinRings(broken, mesh);
        QVERIFY(skin.size() >= 6);
        std::vector<Vec3> moves(mesh.places().size());
        const auto count = [&] {
            const auto far = tooFar(mesh, skin, moves, RunContext());
            return std::count(far.begin(), far.end(), 1);
        };
        QCOMPARE(count(), 0);
        // One place far along the face: the triangles there turn over.
        const auto& cut =
            *std::max_element(mesh.cuts().begin(), mesh.cuts().end(), [](const auto& a, const auto& b) { return a.inner.size() < b.inner.size(); });
        QVERIFY(!cut.inner.empty());
        Vec3 n;
        for (const auto& t : cut.triangles) n += cross(mesh.places()[t[1]] - mesh.places()[t[0]], mesh.places()[t[2]] - mesh.places()[t[0]]);
        n = normalized(n);
        const Vec3 aside = normalized(cross(n, {0.3f, 1, 0.2f}));
        moves[cut.firstInner] = aside * 0.02f;
        QCOMPARE(count(), 0);
        moves[cut.firstInner] = aside * 0.6f;
        QVERIFY(count() >= 3);
        // A place on the outline of the skin, to beyond the face's other side.
        moves[cut.firstInner] = {};
        for (const SkinRing& ring : skin)
            for (std::size_t k = 0; k < ring.places.size(); ++k) {
                const std::size_t next = (k + 1) % ring.places.size(), last = (k + ring.places.size() - 1) % ring.places.size();
                if (ring.places[k] == kNoPlace || ring.places[next] == kNoPlace || ring.places[last] == kNoPlace) continue;
                const Vec3 normal = areaVector(broken.topology().face(ring.face), broken.positions());
                for (const float side : {-3.0f, 3.0f}) {
                    std::vector<Vec3> far(moves.size());
                    far[ring.places[k]] = normalized(cross(normal, ring.corners[next] - ring.corners[k])) * side;
                    const auto blamed = tooFar(mesh, {ring}, far, RunContext());
                    QVERIFY(blamed[ring.places[k]]);
                }
            }
    }
    void crossingPieces() {
        const Geometry box = made("box"), crossed = combine({box, made("transform", {{"move", {0.3, 0.2, 0.1}}}, {box})});
        std::vector<std::int32_t> one(crossed.faceCount(), 0), two(crossed.faceCount(), 0);
        for (std::size_t f = box.faceCount(); f < two.size(); ++f) two[f] = 1;
        QCOMPARE(crossingFaces(crossed, one, {1}, RunContext()).size(), std::size_t(6));
        QVERIFY(crossingFaces(crossed, one, {0}, RunContext()).empty());
        QVERIFY(crossingFaces(crossed, two, {1, 1}, RunContext()).empty());
    }
    void planesOfRings() {
        const std::vector<RingFrame::Place> ring{{1, 2, 3}, {2, 2, 3}, {2, 4, 3}, {1, 4, 3}};
        const RingFrame frame(ring);
        double area = 0;
        for (std::size_t k = 0; k < 4; ++k) {
            const auto a = frame.flat(ring[k]), b = frame.flat(ring[(k + 1) % 4]);
            area += (a[0] * b[1] - a[1] * b[0]) / 2;
            const auto back = frame.real(a);
            for (std::size_t c = 0; c < 3; ++c) QVERIFY(near(back[c], ring[k][c], 1e-12));
        }
        QVERIFY(near(area, 2, 1e-12));
    }

    void theSameOnEveryRunAndForAnyThreads() {
        const Geometry broken = made("shatter", {{"pieces", 6}, {"roughness", 0.02}}, {made("box")});
        const auto once = [&](int threads) {
            tbb::task_arena arena(threads);
            std::string out;
            arena.execute([&] { out = digestOf(made("roughen_breaks", {{"amount", 0.03}, {"noise_size", 0.1}}, {broken})).hex(); });
            return out;
        };
        const std::string one = once(1);
        QCOMPARE(once(4), one);
        QCOMPARE(once(1), one);
        QVERIFY(digestOf(made("roughen_breaks", {{"amount", 0.03}, {"noise_size", 0.2}, {"seed", 1}}, {broken})).hex() != one);
    }
    /// Crumbs, their holes and what stands apart as well.
    void afterOtherSteps() {
        Geometry g = made("shatter", {{"pieces", 4}}, {made("box")});
        g = made("crumble_edges", {{"crumbs", 4}, {"width", 0.15}}, {g});
        const Geometry rough = made("roughen_breaks", {{"amount", 0.01}, {"noise_size", 0.1}}, {g});
        verifyPieces(rough);
        QCOMPARE(loneInsideFaces(rough), 0u);
        QVERIFY(near(checkupOf(rough).volume, 1, 1e-4));
        verifyPieces(made("roughen_breaks", {{"amount", 0.02}}, {made("shatter", {{"pieces", 4}, {"gap", 0.05}}, {made("box")})}));
        verifyPieces(made("roughen_breaks", {{"amount", 0.02}}, {made("spread_pieces", {{"amount", 0.5}}, {g})}));
    }
    void whatIsWrong() {
        const Geometry broken = made("shatter", {{"pieces", 4}}, {made("box")});
        const auto code = [&](const Json& settings, const Geometry& g) { return lastCode(runOp("roughen_breaks", settings, {g})); };
        const auto whole = runOp("roughen_breaks", {}, {made("box")});
        QVERIFY(!whole.failed);
        QCOMPARE(lastCode(whole), std::string("roughen.none"));
        QCOMPARE(whole.notices.back().fixes.size(), std::size_t(1));
        QCOMPARE(code({{"detail", 1e-5}}, broken), std::string("limit.elements"));
        QCOMPARE(code({{"amount", {{"formula", "1e9"}}}}, broken), std::string("setting.range"));
        Geometry open = made("delete", {{"of", "faces"}, {"where", {{"formula", "position.x > 0.3"}}}}, {broken});
        QCOMPARE(code({}, open), std::string("roughen.open"));
        // Bumps nearer to each other than they are high: what is possible is used and offered.
        const auto told = runOp("roughen_breaks", {{"amount", 0.02}, {"noise_size", 0.01}}, {broken});
        QVERIFY(!told.failed && std::any_of(told.notices.begin(), told.notices.end(), [](const Notice& n) { return n.code == "break.noise_size"; }));
        // Far too much is held back, and told.
        const auto held = runOp("roughen_breaks", {{"amount", 0.5}, {"noise_size", 3}}, {broken});
        QVERIFY(!held.failed);
        QCOMPARE(lastCode(held), std::string("roughen.held"));
        verifyPieces(held.geometry);
        QCOMPARE(loneInsideFaces(held.geometry), 0u);
        // What crossed itself before does so after, and is told.
        Geometry crossed = combine({made("box"), made("transform", {{"move", {0.3, 0.2, 0.1}}}, {made("box")})});
        crossed.setColumn(Element::face, "piece", Column(std::vector<std::int32_t>(12, 0)));
        std::vector<std::uint8_t> tag(12, 0);
        tag[4] = 1;
        crossed.setColumn(Element::face, "inside", Column(std::move(tag)));
        const auto twice = runOp("roughen_breaks", {{"detail", 0.2}}, {crossed});
        QCOMPARE(lastCode(twice), std::string("roughen.crossing"));
        QCOMPARE(twice.notices.back().fixes.size(), std::size_t(1));
        const auto nan = runOp("roughen_breaks", {{"amount", {{"formula", "0.0 / 0.0"}}}}, {broken});
        QCOMPARE(digestOf(nan.geometry).hex(), digestOf(broken).hex());
    }
};

QTEST_GUILESS_MAIN(TestRoughening)
#include "test_roughening.moc"
