// Walls and bevels over the whole range of their settings: sound everywhere, and where there is no room, what there is room for.
#include "geometry/SelfIntersections.h"
#include "operators/GreatestFit.h"
#include "support/Solids.h"
#include "support/Sound.h"
#include "surface/FaultyFaces.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// Shapes with plates, gaps, cut borders and bumps, none of which crosses itself.
Geometry shapeNamed(const QString& name) {
    if (name == "plate") return made("box", {{"size", {1, 0.05, 1}}});
    if (name == "rod") return made("cylinder", {{"radius_bottom", 0.5}, {"radius_top", 0.5}, {"height", 2}, {"sides", 40}});
    if (name == "bitten") {
        const Geometry ball = made("transform", {{"move", {0.4, 0.7, 0.4}}}, {made("geodesic_sphere", {{"radius", 0.55}, {"frequency", 8}})});
        return madeOf("boolean", {{made("box")}, {ball}}, {{"form", "subtract"}});
    }
    if (name == "bumpy") return made("noise_displace", {{"amount", 0.3}, {"size", 0.5}}, {made("geodesic_sphere", {{"radius", 1}, {"frequency", 8}})});
    return solidNamed(name);
}

const std::vector<const char*> kShapes{"plain box", "plate", "rod", "ring", "horseshoe", "bitten", "bumpy", "two"};

void addRows() {
    QTest::addColumn<QString>("name");
    for (const char* name : kShapes) QTest::newRow(name) << name;
}

/// The number that a fix of the last notice sets; 0 where none does.
double offered(const OperatorOutcome& out, const std::string& setting) {
    if (out.notices.empty()) return 0;
    for (const NoticeFix& fix : out.notices.back().fixes)
        if (fix.kind == NoticeFix::Kind::set && fix.setting == setting) return fix.value.get<double>();
    return 0;
}

}  // namespace

class TestWalls : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// Planes that nearly touch faces leave slivers beside the cut; one in ten of these cuts turned some through their neighbours.
    void cutsAlongFacesAreSound() {
        for (int k = 0; k < 8; ++k) {
            Geometry g = made("geodesic_sphere", {{"frequency", 24}, {"radius", 1}});
            g = made("noise_displace", {{"amount", 0.1 + 0.02 * k}, {"size", 0.2 + 0.01 * k}, {"octaves", 3}, {"seed", k}}, {g});
            if (!faultyFaces(g, RunContext()).empty()) continue;
            for (int c = 0; c < 12; ++c) {
                const auto face = g.topology().face(Index(std::size_t(c * 7919 + k * 104729) % g.faceCount()));
                const Vec3 a = g.positions()[face[0]], b = g.positions()[face[1]], d = g.positions()[face[2]];
                const Vec3 n = normalized(cross(b - a, d - a)) + Vec3{1e-4f * float(c - 6), 2e-5f * float(k - 20), 3e-5f}, o = a * 0.5f + b * 0.3f + d * 0.2f;
                const char* sides[] = {"above", "below", "both"};
                const Geometry part = made("plane_cut", {{"origin", {o.x, o.y, o.z}}, {"normal", {n.x, n.y, n.z}}, {"keep", sides[c % 3]}}, {g});
                QVERIFY2(faultyFaces(part, RunContext()).empty() && checkupOf(part).closed && checkupOf(part).manifold,
                         qPrintable(QStringLiteral("%1, %2").arg(k).arg(c)));
                // The plane moves by no more than some millionths.
                const float most = 1e-5f * boundsOf(g.positions()).diagonal();
                for (Vec3 p : part.positions()) QVERIFY(c % 3 != 0 || dot(p - o, normalized(n)) > -most);
                if (c % 3 == 2) QVERIFY(near(checkupOf(part).volume, checkupOf(g).volume, 1e-4));
            }
        }
    }

    void wallsAreSound_data() { addRows(); }
    void wallsAreSound() {
        QFETCH(QString, name);
        const Geometry shape = shapeNamed(name);
        verifySolid(shape);
        QCOMPARE(crossingsOf(shape).pairs, 0u);
        const double volume = signedVolume(shape);
        int told = 0, possible = 0;
        for (double thickness : {0.01, 0.05, 0.2, 0.6})
            for (const char* side : {"in", "out", "both"}) {
                const Json settings{{"thickness", thickness}, {"side", side}};
                const OperatorOutcome out = runOp("thicken", settings, {shape});
                QVERIFY(!out.failed);
                verifySolid(out.geometry);
                // Front and back are pieces of their own: none may stand in another, but for those of other parts.
                const std::size_t parts = name == "two" ? 2 : 1;
                if (parts == 1) QVERIFY2(crossingsOfAll(out.geometry).pairs == 0, fmt::format("{} {}", thickness, side).c_str());
                QCOMPARE(out.geometry.faceCount(), 2 * shape.faceCount());
                if (side == std::string("in")) QVERIFY(signedVolume(out.geometry) < volume);
                if (out.notices.empty()) continue;
                ++told;
                QCOMPARE(lastCode(out), std::string("thicken.narrow"));
                const double less = offered(out, "thickness");
                if (less == 0) continue;
                ++possible;
                QVERIFY(less < thickness);
                QCOMPARE(lastCode(runOp("thicken", {{"thickness", less}, {"side", side}}, {shape})), std::string());
            }
        QVERIFY2(told > 0 && told < 12, qPrintable(QString::number(told)));
        QVERIFY(possible > 0);
    }

    /// Twice as thick as half the box: its inside would stand on its head, with no face turned.
    void aWallNeverGoesThroughTheOtherSide() {
        const OperatorOutcome out = runOp("thicken", {{"thickness", 0.6}, {"side", "in"}}, {made("box")});
        QCOMPARE(lastCode(out), std::string("thicken.narrow"));
        const Bounds before = boundsOf(made("box").positions()), after = boundsOf(out.geometry.positions());
        QCOMPARE(after.min, before.min);
        QCOMPARE(after.max, before.max);
        QVERIFY(signedVolume(out.geometry) > 0.9 && signedVolume(out.geometry) < 1);
        // What is offered leaves some room between walls that come from opposite sides.
        const Geometry bar = made("box", {{"size", {1, 0.16, 0.5}}});
        const double less = offered(runOp("thicken", {{"thickness", 0.2}}, {bar}), "thickness");
        QVERIFY2(less >= 0.07 && less < 0.0785, qPrintable(QString::number(less)));
        // A formula is never offered to be thrown away.
        const OperatorOutcome computed = runOp("thicken", {{"thickness", {{"formula", "0.1 + 0.1"}}}}, {bar});
        QCOMPARE(lastCode(computed), std::string("thicken.narrow"));
        QCOMPARE(offered(computed, "thickness"), 0.0);
        // The narrow sides of a plate keep their corners' own ways.
        const Geometry plate = made("thicken", {{"thickness", 0.2}, {"side", "out"}}, {shapeNamed("plate")});
        QVERIFY(near(signedVolume(plate), 1.4 * 0.45 * 1.4 - 0.05, 1e-5));
    }

    /// Along cracks stand points far closer to each other than the wall is thick, and face different ways: no reason for a thinner wall.
    void fragmentsKeepTheirWall() {
        const Geometry ball = made("noise_displace", {{"amount", 0.08}, {"size", 0.5}}, {made("sphere", {{"radius", 1}, {"rings", 30}, {"sides", 60}})});
        for (int seed = 0; seed < 24; ++seed) {
            const Geometry shell = made("crack_shell", {{"pieces", 100}, {"gap", 0.02}, {"roughness", 0.02}, {"noise_size", 0.2}, {"seed", seed}}, {ball});
            const auto out = runOp("thicken", {{"thickness", 0.05}, {"flat_rims", false}}, {shell});
            QVERIFY2(out.notices.empty(), qPrintable(QString::number(seed)));
        }
    }

    void theGreatestFitIsFound() {
        int asked = 0;
        const auto under = [&](double room) { return [&asked, room](double size) { return ++asked, size <= room; }; };
        QCOMPARE(greatestFit(0.2, under(1)), 0.19);
        QCOMPARE(asked, 3);  // 0.17, 0.18 half way to 0.2, and so on
        for (double room : {0.15, 0.077, 0.031, 0.009}) {
            asked = 0;
            const double found = greatestFit(0.2, under(room));
            QVERIFY2(found <= room && found > 0.8 * room, qPrintable(QString::number(found)));
            QVERIFY(asked <= 9);
        }
        QCOMPARE(greatestFit(0.2, under(0.001)), 0.0);
    }

    void bevelsAreSound_data() { addRows(); }
    void bevelsAreSound() {
        QFETCH(QString, name);
        const Geometry shape = shapeNamed(name);
        int told = 0;
        for (double width : {0.01, 0.1, 0.4})
            for (int segments : {1, 3}) {
                const auto settings = [&](double wide) { return Json{{"width", wide}, {"segments", segments}, {"angle_over", 20}}; };
                const OperatorOutcome out = runOp("bevel", settings(width), {shape});
                QVERIFY(!out.failed);
                verifySolid(out.geometry);
                QCOMPARE(crossingsOf(out.geometry).pairs, 0u);
                QVERIFY(signedVolume(out.geometry) > 0.3 * signedVolume(shape) && signedVolume(out.geometry) < 1.05 * signedVolume(shape));
                if (out.notices.empty() || lastCode(out) == "bevel.none") continue;
                ++told;
                QCOMPARE(lastCode(out), std::string("bevel.narrow"));
                const double less = offered(out, "width");
                if (less == 0) continue;
                QVERIFY(less < width);
                QCOMPARE(lastCode(runOp("bevel", settings(less), {shape})), std::string());
            }
        if (name == "plate" || name == "bitten" || name == "horseshoe") QVERIFY(told > 0);
        else if (name == "plain box" || name == "rod") QCOMPARE(told, 0);
    }

    /// Whoever gives a surface that crosses itself is not told of it here, and gets the width that was asked for.
    void faultsFromBeforeAreLeft() {
        Geometry dented = made("box", {{"cells", {4, 1, 4}}});
        const Bounds bounds = boundsOf(dented.positions());
        std::vector<Vec3> at = dented.positions();
        for (Vec3& p : at)
            if (p.y == bounds.max.y && length(Vec3{p.x - bounds.centre().x, 0, p.z - bounds.centre().z}) < 0.1f) p.y -= 1.5f;
        dented.setPositions(std::move(at));
        QVERIFY(crossingsOf(dented).pairs > 0);
        const OperatorOutcome out = runOp("bevel", {{"width", 0.02}, {"angle_over", 80}}, {dented});
        QCOMPARE(lastCode(out), std::string());
        // As wide as asked, which giving way around what crosses would not have left.
        const Geometry sound = made("bevel", {{"width", 0.02}, {"angle_over", 80}}, {made("box", {{"cells", {4, 1, 4}}})});
        QVERIFY(boundsOf(out.geometry.positions()).size().x == boundsOf(sound.positions()).size().x);
        QVERIFY(tagged(out.geometry, "bevel") >= tagged(sound, "bevel"));
    }
};

QTEST_APPLESS_MAIN(TestWalls)
#include "test_walls.moc"
