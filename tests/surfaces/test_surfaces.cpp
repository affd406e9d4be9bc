// What bevel, booleans and the other surface tools promise; other faces for the same shape: tests/remeshing.
#include "geometry/Rows.h"
#include "support/Run.h"
#include "support/Sound.h"

#include <random>

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

OperatorOutcome runBoolean(const Geometry& base, std::vector<Geometry> cutters, const char* form) {
    const Json settings{{"form", form}};
    const auto spec = operatorFor("boolean", settings);
    OperatorInput input = inputFor(*spec, settings, {base});
    input.ports[1] = std::move(cutters);
    return runOperator(*spec, input, RunContext());
}

Geometry combinedBy(const char* form, const Geometry& base, std::vector<Geometry> cutters) {
    const OperatorOutcome out = runBoolean(base, std::move(cutters), form);
    if (out.failed) QTest::qFail(out.notices.back().text.c_str(), __FILE__, __LINE__);
    return out.geometry;
}

Geometry boxAt(Vec3 size, Vec3 middle) {
    return made("transform", {{"move", {middle.x, middle.y, middle.z}}}, {made("box", {{"size", {size.x, size.y, size.z}}, {"anchor", "middle"}})});
}

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
            const Geometry one = made("bevel", {{"width", 0.1}, {"segments", segments}, {"where", {{"formula", "position.x > 0 && position.y > 0.5"}}}},
                                      {made("box", {{"size", {1, 1, 1}}, {"anchor", "bottom"}})});
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
            verifySolid(
                made("bevel", {{"width", 0.03}, {"segments", segments}, {"angle_over", 0}}, {made("geodesic_sphere", {{"form", "panels"}, {"frequency", 2}})}));
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
                QVERIFY2(near(double(got.x), double(expected.x), 1e-5) && near(double(got.y), double(expected.y), 1e-5),
                         qPrintable(QString("%1 %2").arg(got.x).arg(got.y)));
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

    // Booleans

    void boxesByVolume_data() {
        QTest::addColumn<QString>("form");
        QTest::addColumn<double>("volume");
        QTest::newRow("unite") << "unite" << 2 - 0.125;
        QTest::newRow("subtract") << "subtract" << 1 - 0.125;
        QTest::newRow("intersect") << "intersect" << 0.125;
        QTest::newRow("split") << "split" << 1.0;
    }
    void boxesByVolume() {
        QFETCH(QString, form);
        QFETCH(double, volume);
        const Geometry a = boxAt({1, 1, 1}, {0, 0, 0}), b = boxAt({1, 1, 1}, {0.5f, 0.5f, 0.5f});
        const Geometry g = combinedBy(qPrintable(form), a, {b});
        QVERIFY(near(signedVolume(g), volume, 1e-6));
        if (form == "split") {
            QCOMPARE(g.topology().connection().pieces, 2u);
            QVERIFY(checkupOf(g).closed && checkupOf(g).consistentWinding);
            QCOMPARE(*std::max_element(g.values<std::int32_t>(Element::face, "piece")->begin(), g.values<std::int32_t>(Element::face, "piece")->end()), 1);
        } else {
            verifySolid(g);
        }
        // No needless triangles: corners and the three cut faces of each only.
        if (form == "subtract") QCOMPARE(g.faceCount(), std::size_t(9));
        QVERIFY(tagged(g, "inside") > 0);
    }

    void facesInOnePlane() {
        const Geometry a = boxAt({1, 1, 1}, {0, 0, 0});
        // Side by side, overlapping in a common plane, the very same, one in the other touching a face.
        const Geometry beside = combinedBy("unite", a, {boxAt({1, 1, 1}, {1, 0, 0})});
        verifySolid(beside);
        QVERIFY(near(signedVolume(beside), 2, 1e-6));
        const Geometry shifted = combinedBy("unite", a, {boxAt({1, 1, 1}, {0.5f, 0, 0})});
        verifySolid(shifted);
        QVERIFY(near(signedVolume(shifted), 1.5, 1e-6));
        const Geometry same = combinedBy("unite", a, {a});
        verifySolid(same);
        QVERIFY(near(signedVolume(same), 1, 1e-6));
        QVERIFY(combinedBy("subtract", a, {a}).faceCount() == 0);
        QVERIFY(near(signedVolume(combinedBy("intersect", a, {a})), 1, 1e-6));
        const Geometry pocket = combinedBy("subtract", a, {boxAt({0.5f, 0.5f, 0.5f}, {0, 0.25f, 0})});
        verifySolid(pocket);
        QVERIFY(near(signedVolume(pocket), 0.875, 1e-6));
        const Geometry step = combinedBy("subtract", a, {boxAt({1, 0.5f, 0.5f}, {0, 0.25f, 0.25f})});
        verifySolid(step);
        QVERIFY(near(signedVolume(step), 0.75, 1e-6));
        const Geometry onTop = combinedBy("unite", a, {boxAt({0.4f, 0.4f, 0.4f}, {0, 0.7f, 0})});
        verifySolid(onTop);
        QVERIFY(near(signedVolume(onTop), 1.064, 1e-5));
        // Many faces in one plane on each side.
        const Geometry fine = made("box", {{"size", {1, 1, 1}}, {"cells", {7, 7, 7}}, {"anchor", "middle"}}),
                       other = made("transform", {{"move", {0.31, 1, 0.17}}}, {made("box", {{"size", {1, 1, 1}}, {"cells", {5, 5, 5}}, {"anchor", "middle"}})});
        const Geometry both = combinedBy("unite", fine, {other});
        verifySolid(both);
        QVERIFY(near(signedVolume(both), 2, 1e-5));
    }

    void holesAndManyCutters() {
        const Geometry slab = boxAt({4, 0.4f, 4}, {0, 0, 0});
        std::vector<Geometry> drills;
        for (int i = 0; i < 16; ++i)
            drills.push_back(made("transform", {{"move", {-1.5 + i % 4, -0.5, -1.5 + i / 4}}},
                                  {made("cylinder", {{"radius_bottom", 0.2}, {"radius_top", 0.2}, {"height", 1}, {"sides", 24}})}));
        const Geometry g = combinedBy("subtract", slab, drills);
        verifySolid(g);
        QCOMPARE(euler(g), 2l - 2 * 16);
        QVERIFY(near(signedVolume(g), 16 * 0.4 - 16 * 0.4 * 24 * 0.5 * 0.04 * std::sin(2 * kPi / 24), 1e-4));
        // Cutters that overlap each other, in one port or in one geometry.
        const Geometry pair = made("merge", Json::object(), {boxAt({1, 1, 0.2f}, {0, 0, 0}), boxAt({0.2f, 1, 1}, {0, 0, 0})});
        const Geometry crossed = combinedBy("subtract", slab, {pair});
        verifySolid(crossed);
        QVERIFY(near(signedVolume(crossed), 6.4 - 0.4 * (0.2 + 0.2 - 0.04), 1e-5));
        QVERIFY(near(signedVolume(combinedBy("unite", pair, {})), 0.2 + 0.2 - 0.04, 1e-5));
        // Three that meet in one point, and one within another.
        const Geometry three = combinedBy("unite", boxAt({1, 0.3f, 0.3f}, {0, 0, 0}), {boxAt({0.3f, 1, 0.3f}, {0, 0, 0}), boxAt({0.3f, 0.3f, 1}, {0, 0, 0})});
        verifySolid(three);
        QVERIFY(near(signedVolume(three), 3 * 0.09 - 2 * 0.027, 1e-5));
        const Geometry hollow = combinedBy("subtract", boxAt({1, 1, 1}, {0, 0, 0}), {boxAt({0.5f, 0.5f, 0.5f}, {0, 0, 0})});
        QVERIFY(near(signedVolume(hollow), 0.875, 1e-6));
        QVERIFY(checkupOf(hollow).closed);
        QCOMPARE(lastCode(runBoolean(slab, {boxAt({1, 1, 1}, {9, 9, 9})}, "subtract")), std::string("boolean.apart"));
    }

    void ballsAndTwistedThings() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 16}}),
                       other = made("transform", {{"move", {0.7, 0.2, 0.1}}, {"rotate", {10, 20, 30}}}, {ball});
        const double a = signedVolume(ball), both = signedVolume(combinedBy("intersect", ball, {other}));
        verifySolid(combinedBy("unite", ball, {other}));
        verifySolid(combinedBy("subtract", ball, {other}));
        QVERIFY(near(signedVolume(combinedBy("unite", ball, {other})), 2 * a - both, 1e-4));
        QVERIFY(near(signedVolume(combinedBy("subtract", ball, {other})), a - both, 1e-4));
        // Random boxes, some with a common plane: what is united and subtracted adds up.
        std::mt19937 random(5);
        for (int round = 0; round < 40; ++round) {
            const auto coarse = [&] { return float(int(random() % 9)) * 0.25f; };
            const Geometry x = boxAt({0.25f + coarse(), 0.25f + coarse(), 0.25f + coarse()}, {coarse(), coarse(), coarse()}),
                           y = boxAt({0.25f + coarse(), 0.25f + coarse(), 0.25f + coarse()}, {coarse(), coarse(), coarse()});
            const Geometry turned = round % 2 ? made("transform", {{"rotate", {0, 45, 0}}}, {y}) : y;
            const Geometry joined = combinedBy("unite", x, {turned}), cut = combinedBy("subtract", x, {turned}), common = combinedBy("intersect", x, {turned});
            const double vx = signedVolume(x), vy = signedVolume(turned), vc = signedVolume(common);
            QVERIFY2(near(signedVolume(joined), vx + vy - vc, 1e-4) && near(signedVolume(cut), vx - vc, 1e-4), qPrintable(QString::number(round)));
            for (const Geometry* g : {&joined, &cut, &common}) {
                if (g->faceCount() == 0) continue;
                QVERIFY2(checkupOf(*g).closed && checkupOf(*g).consistentWinding, qPrintable(QString::number(round)));
            }
        }
    }

    void booleanKeepsAttributes() {
        const Geometry a = made("set_attribute", {{"name", "material"}, {"element", "face"}, {"value", 3}}, {boxAt({1, 1, 1}, {0, 0, 0})});
        const Geometry b = made("set_attribute", {{"name", "material"}, {"element", "face"}, {"value", 7}}, {boxAt({0.5f, 0.5f, 0.5f}, {0.5f, 0.5f, 0.5f})});
        const Geometry g = combinedBy("subtract", a, {b});
        const auto& material = *g.values<float>(Element::face, "material");
        const auto& inside = *g.values<std::uint8_t>(Element::face, "inside");
        for (std::size_t f = 0; f < g.faceCount(); ++f) QCOMPARE(material[f], inside[f] ? 7.0f : 3.0f);
        // Where a cut face's corner is old its uv is old to the bit, where it is new it is that of its place.
        const auto &before = *a.values<Vec2>(Element::corner, "uv"), &after = *g.values<Vec2>(Element::corner, "uv");
        std::size_t old = 0, mixed = 0;
        for (std::size_t f = 0; f < g.faceCount(); ++f) {
            if (inside[f]) continue;
            for (Index c = g.topology().faceStart()[f]; c < g.topology().faceStart()[f + 1]; ++c) {
                const Vec3 p = g.positions()[g.topology().cornerPoint()[c]];
                const bool corner = std::abs(p.x) == 0.5f && std::abs(p.y) == 0.5f && std::abs(p.z) == 0.5f;
                const bool known = std::find(before.begin(), before.end(), after[c]) != before.end();
                QVERIFY(known || !corner);
                ++(corner ? old : mixed);
            }
        }
        QVERIFY(old > 10 && mixed > 5);
    }

    void openAndMixedInputsAreRefused() {
        const Geometry open = made("grid"), solid = cube();
        const OperatorOutcome one = runBoolean(solid, {open}, "subtract"), other = runBoolean(open, {solid}, "subtract");
        QCOMPARE(lastCode(one), std::string("boolean.open"));
        QVERIFY(one.notices.back().text.find("Cutter is not closed") == 0);
        QVERIFY(other.notices.back().text.find("Base is not closed") == 0);
        QCOMPARE(lastCode(runBoolean(made("flip", {{"where", {{"formula", "index == 0"}}}}, {solid}), {solid}, "unite")), std::string("boolean.winding"));
        // Inside out as a whole is only a question of how it is looked at.
        QVERIFY(near(signedVolume(combinedBy("unite", made("flip", Json::object(), {solid}), {})), 1, 1e-6));
    }

    // Other surface tools

    void duals() {
        // The dual of a cube is an octahedron, that of an icosahedron a dodecahedron, that of fine triangles panels.
        const Geometry eight = made("dual", Json::object(), {cube()});
        verifySolid(eight);
        QCOMPARE(eight.pointCount(), 6u);
        QCOMPARE(eight.faceCount(), 8u);
        const Geometry cells = made("dual", Json::object(), {made("geodesic_sphere", {{"frequency", 3}})});
        verifySolid(cells);
        std::size_t five = 0;
        for (std::size_t f = 0; f < cells.faceCount(); ++f) five += cells.topology().face(f).size() == 5;
        QCOMPARE(five, std::size_t(12));
        const OperatorOutcome sheet = runOp("dual", Json::object(), {made("grid", {{"cells", {4, 4}}})});
        QCOMPARE(sheet.geometry.faceCount(), 9u);
        QCOMPARE(lastCode(sheet), std::string("dual.border"));
        QVERIFY(runOp("dual", Json::object(), {made("grid", {{"cells", {1, 1}}})}).failed);
    }

    void snapped() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 24}});
        const auto onto = [&](const Geometry& in, const Json& settings) {
            const auto spec = operatorFor("snap_to_surface", settings);
            OperatorInput input = inputFor(*spec, settings, {in});
            input.ports[1] = {ball};
            return runOperator(*spec, input, RunContext());
        };
        const Geometry box = made("box", {{"size", {3, 3, 3}}, {"cells", {6, 6, 6}}, {"anchor", "middle"}});
        const Geometry close = onto(box, Json::object()).geometry, off = onto(box, {{"offset", 0.25}}).geometry;
        for (Vec3 p : close.positions()) QVERIFY(near(double(length(p)), 1, 5e-3));
        for (Vec3 p : off.positions()) QVERIFY(near(double(length(p)), 1.25, 5e-3));
        const OperatorOutcome down = onto(made("grid", {{"size", {4, 4}}, {"cells", {20, 20}}}), {{"form", "along direction"}, {"direction", {0, -1, 0}}});
        QCOMPARE(lastCode(down), std::string("snap.missed"));
        for (Vec3 p : down.geometry.positions()) {
            const float out = std::hypot(p.x, p.z);
            if (out < 0.98f) QVERIFY(near(double(length(p)), 1, 5e-3));
            if (out > 1.001f) QCOMPARE(p.y, 0.0f);
        }
        QVERIFY(onto(box, {{"form", "along direction"}, {"direction", {0, 0, 0}}}).failed);
    }

    void projectedUv() {
        const auto uvOf = [](const Geometry& g) { return *g.values<Vec2>(Element::corner, "uv"); };
        const Geometry plane = made("uv_project", {{"form", "plane"}}, {made("grid", {{"size", {2, 2}}})});
        for (Index c = 0; c < plane.cornerCount(); ++c) {
            const Vec3 p = plane.positions()[plane.topology().cornerPoint()[c]];
            QVERIFY(near(double(uvOf(plane)[c].x), double(p.x) / 2 + 0.5, 1e-6) && near(double(uvOf(plane)[c].y), -double(p.z) / 2 + 0.5, 1e-6));
        }
        // No face runs backwards or across the whole texture, wherever the seam is.
        for (const char* form : {"box", "cylinder", "sphere"}) {
            const Geometry g = made("uv_project", {{"form", form}}, {made("geodesic_sphere", {{"frequency", 6}})});
            const auto uv = uvOf(g);
            for (std::size_t f = 0; f < g.faceCount(); ++f) {
                const Vec2 a = uv[3 * f], b = uv[3 * f + 1], c = uv[3 * f + 2];
                QVERIFY(std::abs(a.x - b.x) <= 0.51f && std::abs(b.x - c.x) <= 0.51f);
                if (std::string_view(form) == "box") QVERIFY((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x) > 0);
            }
        }
        QVERIFY(runOp("uv_project", {{"fit", false}, {"size", {0, 1, 1}}}, {cube()}).failed);
    }

    // Deformers with a second input, and points that move by themselves

    void stretchedAndDraped() {
        const auto along = [](const Geometry& in, const Geometry& curve, const char* op, const Json& settings) {
            const auto spec = operatorFor(op, settings);
            OperatorInput input = inputFor(*spec, settings, {in});
            input.ports[1] = {curve};
            const OperatorOutcome out = runOperator(*spec, input, RunContext());
            if (out.failed) QTest::qFail(out.notices.back().text.c_str(), __FILE__, __LINE__);
            return out.geometry;
        };
        const Geometry bar = made("box", {{"size", {2, 0.1, 0.2}}, {"cells", {80, 1, 1}}, {"anchor", "middle"}});
        // Along a straight line of the same length: the same bar. Along a circle: a ring of about the same volume, outwards.
        const Geometry straight =
            along(bar, made("point_list", {{"points", {{-1, 0, 0}, {1, 0, 0}}}, {"join", "open curve"}}), "stretch_to_curve", Json::object());
        for (std::size_t p = 0; p < bar.pointCount(); ++p) QVERIFY(distance(straight.positions()[p], bar.positions()[p]) < 1e-5f);
        const Geometry ring = along(bar, made("polygon", {{"sides", 256}, {"radius", 1}}), "stretch_to_curve", Json::object());
        QVERIFY(near(signedVolume(ring), 2 * kPi * 0.02, 2e-3));
        QVERIFY(near(double(boundsOf(ring.positions()).max.x), 1.1, 1e-3));
        // Draped over a bent sheet: it follows, and heights go along the normal.
        const Geometry sheet = made("uv_project", {{"form", "plane"}}, {made("grid", {{"size", {2, 2}}, {"cells", {20, 20}}})});
        const Geometry tile = made("box", {{"size", {1, 0.1, 1}}, {"cells", {4, 1, 4}}, {"anchor", "bottom"}});
        const Geometry flat = along(tile, sheet, "drape_by_uv", Json::object());
        QVERIFY(near(double(boundsOf(flat.positions()).size().x), 2, 1e-4));
        QVERIFY(near(signedVolume(flat), 0.4, 1e-4));
        const Geometry hill = made("move_points", {{"by", {{"formula", "vec3(0, 1 - position.x * position.x, 0)"}}}}, {sheet});
        const Geometry followed = along(tile, hill, "drape_by_uv", Json::object());
        QVERIFY(near(double(boundsOf(followed.positions()).max.y), 1.1, 5e-3));
        QVERIFY(signedVolume(followed) > 0);
    }

    void caged() {
        const Geometry box = made("box", {{"size", {1, 1, 1}}, {"cells", {4, 4, 4}}, {"anchor", "middle"}});
        // The upper four of eight points moved by one metre: sheared straight up.
        const Json up{{0, 0, 0}, {0, 0, 0}, {0, 1, 0}, {0, 1, 0}, {0, 0, 0}, {0, 0, 0}, {0, 1, 0}, {0, 1, 0}};
        for (const char* form : {"smooth", "straight"}) {
            const Geometry g = made("cage", {{"offsets", up}, {"form", form}}, {box});
            QVERIFY(near(signedVolume(g), 2, 1e-4));
            QCOMPARE(boundsOf(g.positions()).min.y, -0.5f);
        }
        QVERIFY(made("cage", Json::object(), {box}).positions() == box.positions());
        QCOMPARE(lastCode(runOp("cage", {{"points", {1, 1, 1}}, {"offsets", up}}, {box})), std::string("cage.offsets"));
    }

    /// A dense grid goes apart to all sides alike, and says how many are still too near.
    void spreadingFavoursNoSide() {
        const Geometry grid = made("grid", {{"size", {1, 1}}, {"cells", {200, 200}}});
        QCOMPARE(grid.pointCount(), 201u * 201u);
        const OperatorOutcome out = runOp("spread_points", {{"distance", 0.1}, {"rounds", 6}}, {grid});
        const Bounds bounds = boundsOf(out.geometry);
        QVERIFY(bounds.max.x > 0.55f);
        QVERIFY(std::abs(bounds.max.x + bounds.min.x) < 0.05f * bounds.size().x);
        QVERIFY(std::abs(bounds.max.z + bounds.min.z) < 0.05f * bounds.size().z);
        QVERIFY(std::abs(bounds.size().x - bounds.size().z) < 0.05f * bounds.size().x);
        QCOMPARE(out.notices.back().code, std::string("spread.left"));
        QVERIFY2(std::stoul(out.notices.back().text) > 39000, out.notices.back().text.c_str());
    }

    void pointsSpread() {
        std::vector<Vec3> crowd;
        for (int i = 0; i < 200; ++i) crowd.push_back({float(i % 14) * 0.01f, 0, float(i / 14) * 0.01f});
        crowd.push_back(crowd[3]);  // in the very same place as another
        const Geometry g = made("spread_points", {{"distance", 0.05}, {"rounds", 400}}, {Geometry(crowd)});
        double least = 1e9;
        for (std::size_t i = 0; i < g.pointCount(); ++i)
            for (std::size_t j = 0; j < i; ++j) least = std::min(least, double(distance(g.positions()[i], g.positions()[j])));
        QVERIFY2(least > 0.045, qPrintable(QString::number(least)));
        // Those that are far apart stay to the bit; so do masked ones.
        const Geometry far = made("line", {{"points", 5}, {"length", 5}});
        QVERIFY(made("spread_points", Json::object(), {far}).positions() == far.positions());
    }

    /// However a closed surface without handles looks, its map has no fold, also before it is evened out.
    void anyBallHasAMapWithoutFolds() {
        const auto folds = [](const Geometry& g, int rounds, const std::string& what) {
            const Geometry ball = made("morph_to_sphere", {{"relax_rounds", rounds}}, {g});
            QVERIFY2(ball.values<std::int32_t>(Element::model, "overlap_after")->front() == 0, what.c_str());
            QVERIFY2(checkupOf(ball).sound(), what.c_str());
        };
        for (int seed = 0; seed < 40; ++seed) {
            const std::string named = fmt::format("{}", seed);
            const int rounds = 1 + seed % 3;
            // Pushed out twice, the second time along the new normals: overhangs.
            Geometry dented = made("geodesic_sphere", {{"frequency", 8}, {"radius", 1}});
            for (double amount : {0.9, 0.5})
                dented = made("noise_displace", {{"amount", amount}, {"size", 0.6 + 0.02 * seed}, {"octaves", 2}, {"seed", seed}}, {dented});
            folds(dented, rounds, "dented " + named);
            // Long tubes, up to three hundred times as long as thick, with many points along or around.
            const Geometry line = made("spiral", {{"turns", 0.3 + 0.2 * seed}, {"points_per_turn", 24 + 2 * seed}});
            folds(made("sweep", {{"form", "tube"}, {"columns", 3 + seed % 13}, {"width", 0.02 + 0.01 * (seed % 7)}}, {line}), rounds, "tube " + named);
            // Needles, discs and all between, bent.
            const Geometry ball = made("sphere", {{"rings", 16}, {"sides", 24}});
            const Json stretch = {std::pow(0.8, seed % 11), std::pow(1.4, seed % 9), std::pow(0.7, seed % 13)};
            folds(made("bend", {{"axis", "y"}, {"angle", 20 * (seed % 17)}}, {made("transform", {{"scale", stretch}}, {ball})}), rounds, "stretched " + named);
            // Spikes on every face.
            const Geometry few = made("geodesic_sphere", {{"frequency", 1 + seed % 5}});
            folds(made("extrude", {{"of", "each face"}, {"distance", 0.1 + 0.3 * (seed % 9)}, {"inset", 0.02}}, {few}), rounds, "spikes " + named);
            // Thin plates.
            const Json cells = {1 + seed % 20, 1 + seed % 3, 1 + seed % 7};
            folds(made("box", {{"size", {1, 0.01, 1}}, {"cells", cells}}), rounds, "plate " + named);
        }
    }
    void overhangsBecomeABall() {
        // A bent, pinched club: pushed straight out it folds over itself.
        const Geometry tube = made("geodesic_sphere", {{"radius", 1}, {"frequency", 24}});
        const Geometry knot = made("bend", {{"axis", "y"}, {"angle", 250}}, {made("transform", {{"scale", {0.5, 5, 0.5}}}, {tube})});
        const auto overlap = [](const Geometry& g, const char* name) { return g.values<std::int32_t>(Element::model, name)->front(); };
        const Geometry plain = made("morph_to_sphere", {{"relax_rounds", 0}}, {knot}), relaxed = made("morph_to_sphere", {{"relax_rounds", 60}}, {knot});
        QVERIFY2(overlap(plain, "overlap_after") > 500, qPrintable(QString::number(overlap(plain, "overlap_after"))));
        QCOMPARE(overlap(relaxed, "overlap_before"), overlap(plain, "overlap_after"));
        QCOMPARE(overlap(relaxed, "overlap_after"), 0);
        const Vec3 middle = boundsOf(knot.positions()).centre();
        const float radius = distance(relaxed.positions()[0], middle);
        for (Vec3 p : relaxed.positions()) QVERIFY(near(double(distance(p, middle)), double(radius), 1e-3));
        verifySolid(relaxed);
        QVERIFY(made("morph_to_sphere", {{"amount", 0}}, {knot}).positions() == knot.positions());
        // What is no ball says so and is pushed straight.
        QCOMPARE(runOp("morph_to_sphere", Json::object(), {made("torus")}).notices.front().code, std::string("morph.no_ball"));
    }
    /// Whole numbers, masks and texts of points stay what they are; Loop makes points on edges only.
    void loopCarriesWhatCannotBeMixed() {
        Geometry ball = made("geodesic_sphere", {{"frequency", 3}});
        std::vector<std::uint8_t> upper;
        std::vector<std::string> names;
        for (const Vec3 p : ball.positions()) upper.push_back(p.y > 0), names.push_back(p.y > 0 ? "up" : "down");
        ball.setColumn(Element::point, "upper", Column(upper));
        ball.setColumn(Element::point, "name", Column(names));
        const Geometry fine = made("subdivide", {{"form", "loop"}, {"levels", 2}}, {ball});
        const auto& carried = *fine.values<std::uint8_t>(Element::point, "upper");
        const auto& words = *fine.values<std::string>(Element::point, "name");
        QCOMPARE(fine.faceCount(), ball.faceCount() * 16);
        for (std::size_t p = 0; p < carried.size(); ++p) {
            QCOMPARE(words[p], std::string(carried[p] ? "up" : "down"));
            if (std::abs(fine.positions()[p].y) > 0.25f) QCOMPARE(carried[p] != 0, fine.positions()[p].y > 0);
        }
    }
};

QTEST_APPLESS_MAIN(TestSurfaces)
#include "test_surfaces.moc"
