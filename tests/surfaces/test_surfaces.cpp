// What bevel, booleans, remeshing and the other surface tools promise.
#include "geometry/Rows.h"
#include "support/Run.h"
#include "support/Sound.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

Geometry cube() { return made("box", {{"size", {1, 1, 1}}}); }

}  // namespace

class TestSurfaces : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void bevelledCube() {
        // Straight: volume of a cube whose twelve edges and eight corners are cut off at 45°.
        const Geometry flat = made("bevel", {{"width", 0.1}}, {cube()});
        verifySolid(flat);
        QCOMPARE(flat.faceCount(), std::size_t(6 + 12 + 8));
        QCOMPARE(flat.pointCount(), std::size_t(24));
        QVERIFY(near(signedVolume(flat), 1 - 12 * 0.005 * 0.8 - 8 * (0.001 - 0.001 / 6), 1e-5));
        QCOMPARE(tagged(flat, "bevel"), std::size_t(20));
        QVERIFY(boundsOf(flat.positions()).size() == Vec3(1, 1, 1));
        // Round: a cube with quarter cylinders and eighths of a ball.
        const Geometry round = made("bevel", {{"width", 0.2}, {"segments", 16}}, {cube()});
        verifySolid(round);
        const double r = 0.2, side = 0.6;
        QVERIFY(near(signedVolume(round), side * side * side + 6 * side * side * r + 12 * side * kPi * r * r / 4 + 4 * kPi * r * r * r / 3, 2e-3));
        // Every point lies on the rounded cube: at the distance r from the inner cube.
        const Vec3 middle = boundsOf(cube().positions()).centre();
        for (Vec3 p : round.positions()) {
            const Vec3 q = p - middle;
            const Vec3 core{std::clamp(q.x, -0.3f, 0.3f), std::clamp(q.y, -0.3f, 0.3f), std::clamp(q.z, -0.3f, 0.3f)};
            QVERIFY2(near(double(distance(q, core)), r, 1e-4), qPrintable(QString::number(double(distance(q, core)))));
        }
    }

    void bevelledRimsAndEnds() {
        // The rims of a cylinder: two closed strips, and no patch at all.
        const Geometry cylinder = made("cylinder", {{"sides", 32}, {"height", 1}, {"radius_bottom", 0.5}, {"radius_top", 0.5}});
        const Geometry g = made("bevel", {{"width", 0.05}, {"segments", 4}}, {cylinder});
        verifySolid(g);
        QCOMPARE(tagged(g, "bevel"), std::size_t(2 * 32 * 4));
        // One edge alone runs out into the faces at its ends.
        for (int segments : {1, 2, 5}) {
            const Geometry one = made("bevel", {{"width", 0.1}, {"segments", segments}, {"where", {{"formula", "position.x > 0 && position.y > 0.5"}}}}, {made("box", {{"size", {1, 1, 1}}, {"anchor", "bottom"}})});
            verifySolid(one);
            QCOMPARE(tagged(one, "bevel"), std::size_t(segments));
        }
        // Three edges at one corner, two at the next; concave edges; many faces at a point.
        for (int segments : {1, 3}) {
            const Json where{{"formula", "position.x > 0 || position.y > 0.9"}};
            verifySolid(made("bevel", {{"width", 0.08}, {"segments", segments}, {"where", where}}, {cube()}));
            const Geometry tray = made("extrude", {{"distance", -0.4}, {"inset", 0.2}, {"where", {{"formula", "normal.y > 0.5"}}}}, {cube()});
            verifySolid(made("bevel", {{"width", 0.04}, {"segments", segments}}, {tray}));
            verifySolid(made("bevel", {{"width", 0.05}, {"segments", segments}}, {made("solid", {{"kind", "icosahedron"}, {"radius", 1}})}));
            verifySolid(made("bevel", {{"width", 0.05}, {"segments", segments}}, {made("solid", {{"kind", "octahedron"}, {"radius", 1}})}));
            verifySolid(made("bevel", {{"width", 0.03}, {"segments", segments}, {"angle_over", 0}}, {made("geodesic_sphere", {{"form", "panels"}, {"frequency", 2}})}));
        }
        // An open sheet: the fold is bevelled, the border stays open.
        const Geometry fold = made("extrude", {{"of", "curves"}, {"distance", 1}}, {made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}}}})});
        const Geometry soft = made("bevel", {{"width", 0.2}, {"segments", 3}}, {fold});
        QCOMPARE(tagged(soft, "bevel"), std::size_t(3));
        QVERIFY(checkupOf(soft).consistentWinding && checkupOf(soft).manifold);
    }

    void bevelKeepsWhatIsThere() {
        const Geometry box = cube();
        const Geometry g = made("bevel", {{"width", 0.1}, {"segments", 2}}, {box});
        // Tags of the old faces stay; uv inside a face is that of the place in the old face.
        QCOMPARE(tagged(g, "top") > 0, true);
        const auto &before = *box.values<Vec2>(Element::corner, "uv"), &after = *g.values<Vec2>(Element::corner, "uv");
        for (std::size_t f = 0; f < 6; ++f)
            for (std::size_t k = 0; k < 4; ++k) {
                const Vec2 a = before[4 * f + k], opposite = before[4 * f + (k + 2) % 4];
                const Vec2 expected = a * 0.9f + opposite * 0.1f;
                const Vec2 got = after[4 * f + k];
                QVERIFY2(near(double(got.x), double(expected.x), 1e-5) && near(double(got.y), double(expected.y), 1e-5), qPrintable(QString("%1 %2").arg(got.x).arg(got.y)));
            }
        // Too wide: held, told, and still a solid.
        const OperatorOutcome wide = runOp("bevel", {{"width", 3}, {"segments", 3}}, {box});
        QCOMPARE(lastCode(wide), std::string("bevel.narrow"));
        verifySolid(wide.geometry);
        QCOMPARE(lastCode(runOp("bevel", {{"angle_over", 120}}, {box})), std::string("bevel.none"));
        QVERIFY(runOp("bevel", Json::object(), {made("line")}).failed);
    }

    void cutCorners() {
        const Geometry g = made("bevel", {{"of", "points"}, {"width", 0.5}}, {made("solid", {{"kind", "cube"}, {"radius", 1}})});
        verifySolid(g);
        QCOMPARE(tagged(g, "bevel"), std::size_t(8));
        QCOMPARE(g.faceCount(), std::size_t(14));
        verifySolid(made("bevel", {{"of", "points"}, {"width", 0.2}, {"segments", 6}}, {cube()}));
    }
};

QTEST_APPLESS_MAIN(TestSurfaces)
#include "test_surfaces.moc"
