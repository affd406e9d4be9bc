// What each operator promises: counts, Euler characteristic, closedness, volume, bounds.
#include "operators/Words.h"
#include "support/Run.h"

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

Json ramp(const char* over, Json knots) { return {{"ramp", {{"over", over}, {"range", "auto"}, {"knots", std::move(knots)}}}}; }

Geometry profile() { return made("point_list", {{"points", {{0.3, 0, 0}, {0.2, 0.5, 0}, {0.25, 0.9, 0}}}}); }

void verifySolid(const Geometry& g) {
    const Checkup c = checkupOf(g);
    QVERIFY2(c.closed, "closed");
    QVERIFY2(c.manifold, "manifold");
    QVERIFY2(c.consistentWinding, "winding");
    QCOMPARE(c.degenerateFaces, 0u);
    QCOMPARE(c.doubledPoints, 0u);
    QVERIFY2(c.volume > 0, "volume");
}

}  // namespace

class TestOperators : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void pointList() {
        const Json points{{0, 0, 0}, {1, 0, 0}, {1, 0, -1}};
        const Geometry loose = made("point_list", {{"points", points}, {"join", "none"}});
        QCOMPARE(loose.pointCount(), 3u);
        QCOMPARE(loose.curveCount(), 0u);
        const Geometry open = made("point_list", {{"points", points}, {"join", "open curve"}});
        QCOMPARE(open.curveCount(), 1u);
        QVERIFY(!open.topology().curveClosed(0));
        QVERIFY(made("point_list", {{"points", points}, {"join", "closed curve"}}).topology().curveClosed(0));
        const Geometry filled = made("point_list", {{"points", points}, {"join", "filled"}});
        QCOMPARE(filled.faceCount(), 1u);
        QCOMPARE(surfaceArea(filled), 0.5);
        QCOMPARE(lastCode(runOp("point_list", {{"points", {{0, 0}}}})), std::string("setting.type"));
        QCOMPARE(lastCode(runOp("point_list", {{"points", Json::array()}})), std::string("point_list.empty"));
    }

    void line_data() {
        QTest::addColumn<QString>("anchor");
        QTest::addColumn<float>("start");
        QTest::newRow("start") << "start" << 0.0f;
        QTest::newRow("middle") << "middle" << -1.5f;
        QTest::newRow("end") << "end" << -3.0f;
    }
    void line() {
        QFETCH(QString, anchor);
        QFETCH(float, start);
        const Geometry g = made("line", {{"direction", {5, 0, 0}}, {"length", 3}, {"points", 7}, {"anchor", anchor.toStdString()}});
        QCOMPARE(g.pointCount(), 7u);
        QCOMPARE(g.positions().front(), (Vec3{start, 0, 0}));
        QVERIFY(near(curveLength(g, 0), 3, 1e-6));
        QCOMPARE(lastCode(runOp("line", {{"direction", {0, 0, 0}}})), std::string("line.direction"));
    }

    void polygon() {
        for (int sides : {3, 6, 64}) {
            const Geometry curve = made("polygon", {{"sides", sides}, {"radius", 2}});
            QCOMPARE(curve.pointCount(), std::size_t(sides));
            for (Vec3 p : curve.positions()) QVERIFY(near(double(length(p)), 2, 1e-6));
            const double area = sides * 0.5 * 4 * std::sin(2 * kPi / sides);
            for (const char* form : {"filled", "fan"}) {
                const Geometry g = made("polygon", {{"sides", sides}, {"radius", 2}, {"form", form}});
                QVERIFY(near(surfaceArea(g), area, 1e-4));
                QVERIFY(faceNormals(g)[0].y > 0.99f);
                QCOMPARE(euler(g), 1l);
            }
        }
        QCOMPARE(lastCode(runOp("polygon", {{"sides", 2}})), std::string("setting.range"));
    }

    void grid() {
        const Geometry g = made("grid", {{"size", {4, 2}}, {"cells", {8, 3}}});
        QCOMPARE(g.faceCount(), 24u);
        QCOMPARE(g.pointCount(), 36u);
        QVERIFY(near(surfaceArea(g), 8, 1e-5));
        QCOMPARE(boundsOf(g).size(), (Vec3{4, 0, 2}));
        for (Vec3 n : faceNormals(g)) QCOMPARE(n.y, 1.0f);
        const auto* uv = g.values<Vec2>(Element::corner, "uv");
        for (Vec2 v : *uv) QVERIFY(v.x >= 0 && v.x <= 1 && v.y >= 0 && v.y <= 1);
        QCOMPARE(euler(g), 1l);
    }

    void box() {
        const Geometry g = made("box", {{"size", {1, 2, 3}}, {"cells", {2, 3, 4}}});
        verifySolid(g);
        QCOMPARE(euler(g), 2l);
        QVERIFY(near(signedVolume(g), 6, 1e-5));
        QCOMPARE(g.faceCount(), std::size_t(2 * (6 + 12 + 8)));
        const auto normals = faceNormals(g);
        const std::pair<const char*, Vec3> sides[] = {{"right", {1, 0, 0}},   {"left", {-1, 0, 0}}, {"top", {0, 1, 0}},
                                                      {"bottom", {0, -1, 0}}, {"front", {0, 0, 1}}, {"back", {0, 0, -1}}};
        for (const auto& [tag, direction] : sides) {
            const auto* tagged = g.values<std::uint8_t>(Element::face, tag);
            for (std::size_t f = 0; f < normals.size(); ++f) QCOMPARE((*tagged)[f] != 0, dot(normals[f], direction) > 0.9f);
        }
        QCOMPARE(boundsOf(made("box", {{"anchor", "bottom"}})).min.y, 0.0f);
        QCOMPARE(boundsOf(made("box", {{"anchor", "top"}})).max.y, 0.0f);
        QCOMPARE(boundsOf(made("box", {{"anchor", "corner"}})).min, Vec3{});
    }

    void sphere() {
        const Geometry g = made("sphere", {{"radius", 2}, {"sides", 24}, {"rings", 12}});
        verifySolid(g);
        QCOMPARE(euler(g), 2l);
        QCOMPARE(g.pointCount(), std::size_t(24 * 11 + 2));
        QCOMPARE(g.faceCount(), std::size_t(24 * 12));
        for (Vec3 p : g.positions()) QVERIFY(near(double(length(p)), 2, 1e-5));
        const Geometry fine = made("sphere", {{"radius", 1}, {"sides", 256}, {"rings", 128}});
        QVERIFY(near(signedVolume(fine), 4.0 / 3 * kPi, 0.003));
        QVERIFY(near(surfaceArea(fine), 4 * kPi, 0.005));
    }

    void resampleByCountAndSpacing() {
        const Geometry square = made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}, {1, 0, -1}, {0, 0, -1}}}, {"join", "closed curve"}});
        const Geometry ten = made("resample", {{"count", 10}}, {square});
        QCOMPARE(ten.pointCount(), 10u);
        for (Index i = 0; i < 10; ++i) {
            // The chord across a corner is shorter, along a side it is exactly the spacing.
            QVERIFY(double(distance(ten.positions()[i], ten.positions()[(i + 1) % 10])) < 0.4 + 1e-6);
        }
        const Geometry spaced = made("resample", {{"mode", "spacing"}, {"spacing", 0.1}}, {square});
        QCOMPARE(spaced.pointCount(), 40u);
        QVERIFY(near(curveLength(spaced, 0), 4, 1e-5));
        const auto* along = spaced.values<float>(Element::point, "along");
        QCOMPARE(along->front(), 0.0f);
        QVERIFY(near(double(along->back()), 0.975, 1e-6));
        const Geometry open = made("resample", {{"count", 5}}, {made("line", {{"length", 2}})});
        QCOMPARE(open.values<float>(Element::point, "along")->back(), 1.0f);
        QCOMPARE(open.positions()[2], (Vec3{0, 1, 0}));
        for (Vec3 t : *open.values<Vec3>(Element::point, "tangent")) QCOMPARE(t, (Vec3{0, 1, 0}));
    }

    void resampleKeepsCornersAndAttributes() {
        Geometry bent = made("point_list", {{"points", {{0, 0, 0}, {0.4, 0, 0}, {0.3, 0.9, 0}}}});
        bent.setColumn(Element::point, "mask", Column(std::vector<float>{0, 1, 0}));
        const Geometry g = made("resample", {{"count", 48}, {"keep_corners", true}}, {bent});
        QCOMPARE(g.pointCount(), 48u);
        QCOMPARE(std::count(g.positions().begin(), g.positions().end(), Vec3({0.4f, 0, 0})), std::ptrdiff_t(1));
        QCOMPARE(g.positions().front(), Vec3{});
        QCOMPARE(g.positions().back(), (Vec3{0.3f, 0.9f, 0}));
        const auto* mask = g.values<float>(Element::point, "mask");
        QCOMPARE(*std::max_element(mask->begin(), mask->end()), 1.0f);
        const Geometry smooth = made("resample", {{"count", 30}, {"form", "smooth"}, {"keep_corners", true}}, {bent});
        QCOMPARE(std::count(smooth.positions().begin(), smooth.positions().end(), Vec3({0.4f, 0, 0})), std::ptrdiff_t(1));
        QCOMPARE(lastCode(runOp("resample", {{"count", 2}, {"keep_corners", true}}, {bent})), std::string("resample.few"));
        QCOMPARE(lastCode(runOp("resample", {}, {made("box")})), std::string("curve.none"));
    }

    void smoothCurve() {
        const Geometry zigzag = made("point_list", {{"points", {{0, 0, 0}, {1, 1, 0}, {2, -1, 0}, {3, 1, 0}, {4, 0, 0}}}});
        const Geometry g = made("smooth_curve", {{"iterations", 20}}, {zigzag});
        QVERIFY(curveLength(g, 0) < curveLength(zigzag, 0) * 0.8);
        QCOMPARE(g.positions().front(), zigzag.positions().front());
        QCOMPARE(g.positions().back(), zigzag.positions().back());
        const Geometry none = made("smooth_curve", {{"amount", 0}}, {zigzag});
        QCOMPARE(none.positions(), zigzag.positions());
        const Geometry masked = made("smooth_curve", {{"where", {{"formula", "position.x < 1.5 ? 0 : 1"}}}}, {zigzag});
        QCOMPARE(masked.positions()[1], zigzag.positions()[1]);
        QVERIFY(masked.positions()[2] != zigzag.positions()[2]);
    }

    void curveDirectionsStandSquareWithoutTwist() {
        Json helix = Json::array();
        for (int i = 0; i < 200; ++i) helix.push_back({std::cos(i * 0.1), i * 0.01, std::sin(i * 0.1)});
        const Geometry g = made("curve_directions", Json::object(), {made("point_list", {{"points", helix}})});
        const auto &t = *g.values<Vec3>(Element::point, "tangent"), &s = *g.values<Vec3>(Element::point, "side"), &u = *g.values<Vec3>(Element::point, "up");
        for (std::size_t i = 0; i < t.size(); ++i) {
            QVERIFY(std::abs(dot(t[i], u[i])) < 1e-4f && std::abs(dot(t[i], s[i])) < 1e-4f && std::abs(dot(s[i], u[i])) < 1e-4f);
            QVERIFY(std::abs(length(u[i]) - 1) < 1e-4f);
            if (i > 0) QVERIFY(dot(u[i], u[i - 1]) > 0.98f);
        }
        QVERIFY(near(double(g.values<float>(Element::curve, "length")->front()), curveLength(g, 0), 1e-4));
        // On a closed curve out of a plane the directions meet at the seam.
        Json saddle = Json::array();
        for (int i = 0; i < 120; ++i) saddle.push_back({std::cos(i * kPi / 60), 0.4 * std::sin(i * kPi / 30), std::sin(i * kPi / 60)});
        const Geometry ring = made("curve_directions", Json::object(), {made("point_list", {{"points", saddle}, {"join", "closed curve"}})});
        const auto& around = *ring.values<Vec3>(Element::point, "up");
        QVERIFY(dot(around.front(), around.back()) > 0.98f);
    }

    void revolveWeldsSeamAndPoles() {
        const Geometry half = made("point_list", {{"points", {{0, 0, 0}, {0.4, 0, 0}, {0.3, 0.9, 0}, {0, 0.9, 0}}}});
        const Geometry g = made("revolve", {{"sides", 64}}, {half});
        verifySolid(g);
        QCOMPARE(euler(g), 2l);
        QCOMPARE(g.pointCount(), std::size_t(2 + 2 * 64));
        const double expected = kPi * 0.9 / 3 * (0.16 + 0.12 + 0.09) * std::sin(2 * kPi / 64) / (2 * kPi / 64);
        QVERIFY(near(signedVolume(g), expected, 1e-4));
        // Drawn the other way round it is the same solid, not an inverted one.
        const Geometry back = made("point_list", {{"points", {{0, 0.9, 0}, {0.3, 0.9, 0}, {0.4, 0, 0}, {0, 0, 0}}}});
        verifySolid(made("revolve", Json::object(), {back}));
        // The example of the file format: open at the top.
        const Geometry cup = made("revolve", Json::object(), {made("point_list", {{"points", {{0, 0, 0}, {0.4, 0, 0}, {0.3, 0.9, 0}}}})});
        QCOMPARE(checkupOf(cup).openEdges, 32u);
        QVERIFY(faceNormals(cup)[0].y < -0.9f);
    }

    void revolveRingsAndPartialTurns() {
        Geometry circle = made("polygon", {{"sides", 24}, {"radius", 0.2}});
        circle = made("transform", {{"rotate", {90, 0, 0}}, {"move", {1, 0, 0}}}, {circle});
        const Geometry ring = made("revolve", {{"sides", 48}}, {circle});
        verifySolid(ring);
        QCOMPARE(euler(ring), 0l);
        QVERIFY(near(signedVolume(ring), 2 * kPi * kPi * 0.04, 0.02));
        for (double angle : {30.0, 180.0, 270.0}) {
            const Geometry part = made("revolve", {{"sides", 24}, {"angle", angle}}, {circle});
            verifySolid(part);
            QCOMPARE(euler(part), 2l);
            QVERIFY(near(signedVolume(part) / (2 * kPi * kPi * 0.04) * 360 / angle, 1, 0.03));
        }
        const Geometry wedge = made("revolve", {{"angle", 90}, {"close_to_axis", "both"}}, {profile()});
        verifySolid(wedge);
        QCOMPARE(lastCode(runOp("revolve", {{"angle", 90}}, {profile()})), std::string("revolve.caps"));
        for (const char* axis : {"x", "y", "z"}) {
            const Geometry half = made("point_list", {{"points", {{0, 0, 0}, {0.5, 0.5, 0.5}, {1, 1, 1}}}});
            QVERIFY(made("revolve", {{"axis", axis}, {"sides", 5}}, {half}).faceCount() > 0);
        }
        QCOMPARE(lastCode(runOp("revolve", {}, {made("line")})), std::string("revolve.on_axis"));
    }

    void revolveScalesHeightAndCarriesAttributes() {
        const Geometry even = made("resample", {{"count", 20}}, {profile()});
        const Geometry g = made("revolve", {{"height_scale", 2}}, {even});
        QVERIFY(near(double(boundsOf(g).max.y), 1.8, 1e-6));
        const auto* along = g.values<float>(Element::point, "along");
        for (std::size_t p = 0; p < g.pointCount(); ++p)
            if (g.positions()[p].y < 1e-6f) QCOMPARE((*along)[p], 0.0f);
        const auto* uv = g.values<Vec2>(Element::corner, "uv");
        float most = 0;
        for (Vec2 v : *uv) most = std::max(most, v.x);
        QCOMPARE(most, 1.0f);
    }

    void thickenMakesSolids_data() {
        QTest::addColumn<QString>("side");
        for (const char* side : {"in", "out", "both"}) QTest::newRow(side) << side;
    }
    void thickenMakesSolids() {
        QFETCH(QString, side);
        const Json settings{{"thickness", 0.1}, {"side", side.toStdString()}};
        const Geometry sheet = made("thicken", settings, {made("grid", {{"size", {2, 1}}, {"cells", {4, 2}}})});
        verifySolid(sheet);
        QVERIFY(near(signedVolume(sheet), 0.2, 1e-5));
        const Geometry tube = made("thicken", settings, {made("revolve", Json::object(), {profile()})});
        verifySolid(tube);
        QCOMPARE(euler(tube), 0l);
        QVERIFY(near(double(boundsOf(tube).size().y), 0.9, 1e-6));
        // A closed surface becomes hollow: two closed skins.
        const Geometry shell = made("thicken", settings, {made("box")});
        verifySolid(shell);
        QCOMPARE(shell.topology().connection().pieces, 2u);
        const double outer = side == "in" ? 1 : side == "out" ? 1.2 : 1.1, inner = outer - 0.2;
        QVERIFY(near(signedVolume(shell), outer * outer * outer - inner * inner * inner, 1e-3));
        QVERIFY(shell.values<std::uint8_t>(Element::face, "inside_wall"));
    }

    void thickenKeepsTheOtherSideAndTags() {
        const Geometry cup = made("revolve", {{"sides", 24}}, {profile()});
        const Geometry g = made("thicken", {{"thickness", 0.05}}, {cup});
        for (Index p = 0; p < cup.pointCount(); ++p) QCOMPARE(g.positions()[p], cup.positions()[p]);
        const auto* rim = g.values<std::uint8_t>(Element::face, "rim");
        QCOMPARE(std::count(rim->begin(), rim->end(), 1), std::ptrdiff_t(48));
        // Per element: a wall that grows with the height.
        const Geometry wedge = made("thicken", {{"thickness", {{"formula", "0.02 + position.y * 0.05"}}}}, {cup});
        verifySolid(wedge);
        QCOMPARE(lastCode(runOp("thicken", {{"thickness", 0}}, {cup})), std::string("setting.range"));
        QCOMPARE(lastCode(runOp("thicken", {}, {profile()})), std::string("surface.none"));
    }

    void thickenGetsThinnerWhereNarrow() {
        const Geometry thin = made("box", {{"size", {0.1, 1, 0.1}}, {"cells", {2, 12, 2}}});
        const OperatorOutcome out = runOp("thicken", {{"thickness", 0.2}}, {thin});
        QVERIFY(!out.failed);
        QCOMPARE(lastCode(out), std::string("thicken.narrow"));
        QVERIFY(checkupOf(out.geometry).closed);
        QVERIFY(signedVolume(out.geometry) > 0);
    }

    void weldReports() {
        const Geometry twice = made("merge", Json::object(), {made("box"), made("box")});
        const OperatorOutcome out = runOp("weld", Json::object(), {twice});
        QCOMPARE(out.geometry.pointCount(), 8u);
        QCOMPARE(lastCode(out), std::string("weld.joined"));
        QVERIFY(out.notices.back().text.find("Joined 8 points") != std::string::npos);
        QCOMPARE(made("weld", {{"where", false}}, {twice}).pointCount(), 16u);
    }

    void subdivideKeepsSolidsClosed_data() {
        QTest::addColumn<QString>("form");
        for (const char* form : {"catmull-clark", "loop", "flat"}) QTest::newRow(form) << form;
    }
    void subdivideKeepsSolidsClosed() {
        QFETCH(QString, form);
        const Geometry box = made("box", {{"cells", {2, 1, 3}}});
        for (int levels : {0, 1, 2, 3}) {
            const Geometry g = made("subdivide", {{"form", form.toStdString()}, {"levels", levels}}, {box});
            verifySolid(g);
            QCOMPARE(euler(g), 2l);
            const std::size_t first = form == "loop" && levels > 0 ? 2 * box.faceCount() : box.faceCount();
            QCOMPARE(g.faceCount(), first << (2 * levels));
            QCOMPARE(g.values<Vec2>(Element::corner, "uv")->size(), g.cornerCount());
            QCOMPARE(g.values<std::uint8_t>(Element::face, "top")->size(), g.faceCount());
            if (form == "flat") QVERIFY(near(signedVolume(g), 1, 1e-5));
            if (form != "flat" && levels > 0) QVERIFY(signedVolume(g) < 0.95 && signedVolume(g) > 0.3);
        }
    }

    void subdivideCreasesAndReuse() {
        const Geometry box = made("box");
        const Geometry crisp = made("subdivide", {{"levels", 3}, {"crease_angle", 45}}, {box});
        QVERIFY(near(signedVolume(crisp), 1, 1e-5));
        Geometry marked = box;
        marked.setColumn(Element::point, "crease", Column(std::vector<float>(8, 1.0f)));
        QVERIFY(near(signedVolume(made("subdivide", {{"levels", 2}}, {marked})), 1, 1e-5));
        // The plan of a refinement is kept: other positions on the same faces must still give their own result.
        const Geometry small = made("subdivide", {{"levels", 2}}, {box});
        const Geometry large = made("subdivide", {{"levels", 2}}, {made("box", {{"size", 2}})});
        QVERIFY(near(signedVolume(large) / signedVolume(small), 8, 1e-4));
        const Geometry stretched = made("transform", {{"scale", {1, 3, 1}}}, {small});
        const Geometry before = made("subdivide", {{"levels", 2}}, {made("transform", {{"scale", {1, 3, 1}}}, {box})});
        for (std::size_t p = 0; p < before.pointCount(); ++p) QVERIFY(distance(before.positions()[p], stretched.positions()[p]) < 1e-5f);
    }

    void subdivideSaysWhatItCannot() {
        const Geometry fin =
            made("weld", Json::object(), {made("merge", Json::object(), {made("box"), made("transform", {{"move", {1, 1, 0}}}, {made("box")})})});
        QCOMPARE(lastCode(runOp("subdivide", {}, {fin})), std::string("mesh.non_manifold_edge"));
        QCOMPARE(lastCode(runOp("subdivide", {{"levels", 8}}, {made("grid", {{"cells", {200, 200}}})})), std::string("limit.elements"));
        const Geometry open = made("subdivide", {{"levels", 2}}, {made("grid", {{"size", {2, 2}}, {"cells", {2, 2}}})});
        QCOMPARE(boundsOf(open).size(), (Vec3{2, 0, 2}));
    }

    void flipTurnsOnlyWhatIsAsked() {
        const Geometry box = made("box");
        QVERIFY(near(signedVolume(made("flip", Json::object(), {box})), -1, 1e-6));
        const Geometry top = made("flip", {{"where", {{"attribute", "top"}}}}, {box});
        const auto before = faceNormals(box), after = faceNormals(top);
        const auto* tag = box.values<std::uint8_t>(Element::face, "top");
        for (std::size_t f = 0; f < 6; ++f) QVERIFY(near(double(dot(before[f], after[f])), (*tag)[f] ? -1 : 1, 1e-6));
    }

    void normalsOnPointsAndCorners() {
        const Geometry box = made("box");
        const Geometry points = made("normals", {{"on", "points"}}, {box});
        for (std::size_t p = 0; p < 8; ++p) QVERIFY(distance((*points.values<Vec3>(Element::point, "normal"))[p], normalized(box.positions()[p])) < 1e-5f);
        const Geometry corners = made("normals", {{"on", "corners"}, {"angle", 30}}, {points});
        QVERIFY(!corners.column(Element::point, "normal"));
        const auto faces = faceNormals(box);
        for (Index c = 0; c < 24; ++c) QCOMPARE((*corners.values<Vec3>(Element::corner, "normal"))[c], faces[box.topology().faceOfCorner()[c]]);
    }

    void transformOrderPivotAndMask() {
        const Geometry point = made("point_list", {{"points", {{1, 0, 0}}}, {"join", "none"}});
        QVERIFY(distance(made("transform", {{"rotate", {0, 90, 0}}}, {point}).positions()[0], {0, 0, -1}) < 1e-6f);
        QVERIFY(distance(made("transform", {{"rotate", {0, 0, 90}}, {"move", {0, 0, 5}}}, {point}).positions()[0], {0, 1, 5}) < 1e-6f);
        QVERIFY(distance(made("transform", {{"scale", 2}, {"pivot", {1, 0, 0}}}, {point}).positions()[0], {1, 0, 0}) < 1e-6f);
        const Json both{{"scale", 2}, {"move", {1, 0, 0}}};
        QCOMPARE(made("transform", both, {point}).positions()[0].x, 3.0f);
        Json other = both;
        other["order"] = "move scale rotate";
        QCOMPARE(made("transform", other, {point}).positions()[0].x, 4.0f);
        QCOMPARE(made("transform", {{"move", {2, 0, 0}}, {"blend", 0.25}}, {point}).positions()[0].x, 1.5f);
        const Geometry mirrored = made("transform", {{"scale", {-1, 1, 1}}}, {made("box", {{"anchor", "corner"}})});
        QVERIFY(near(signedVolume(mirrored), 1, 1e-6));
        const Geometry half = made("transform", {{"move", {0, 1, 0}}, {"where", {{"formula", "position.y > 0"}}}}, {made("box")});
        QCOMPARE(boundsOf(half).size().y, 2.0f);
    }

    void noiseDisplaceStaysWithinAmountAndMask() {
        const Geometry ball = made("sphere", {{"radius", 1}, {"sides", 64}, {"rings", 32}});
        const Geometry g = made("noise_displace", {{"amount", 0.1}, {"size", 0.3}, {"octaves", 3}}, {ball});
        float farthest = 0;
        for (std::size_t p = 0; p < g.pointCount(); ++p) farthest = std::max(farthest, distance(g.positions()[p], ball.positions()[p]));
        QVERIFY(farthest > 0.02f && farthest <= 0.1001f);
        QVERIFY(checkupOf(g).closed);
        const Geometry masked = made("noise_displace", {{"amount", 0.1}, {"where", {{"formula", "position.y > 0"}}}}, {ball});
        for (std::size_t p = 0; p < g.pointCount(); ++p)
            if (ball.positions()[p].y <= 0) QCOMPARE(masked.positions()[p], ball.positions()[p]);
        QCOMPARE(made("noise_displace", {{"blend", 0}}, {ball}).positions(), ball.positions());
        QVERIFY(made("noise_displace", {{"seed", 1}}, {ball}).positions() != made("noise_displace", {{"seed", 2}}, {ball}).positions());
        const Geometry upward = made("noise_displace", {{"along", "axis mask"}, {"axes", {0, 1, 0}}, {"amount", 0.2}}, {made("grid")});
        for (std::size_t p = 0; p < upward.pointCount(); ++p) QCOMPARE(upward.positions()[p].x, made("grid").positions()[p].x);
        QVERIFY(boundsOf(upward).size().y > 0.01f);
        QCOMPARE(lastCode(runOp("noise_displace", {{"along", "attribute"}, {"attribute", "tangnet"}}, {ball})), std::string("setting.unknown_attribute"));
    }

    void setAttributeTakesTypesSourcesAndMasks() {
        const Geometry even = made("resample", {{"count", 11}}, {made("line")});
        const Geometry mask = made("set_attribute", {{"value", ramp("along", {{0, 0}, {1, 1}})}}, {even});
        for (std::size_t i = 0; i < 11; ++i) QVERIFY(near(double((*mask.values<float>(Element::point, "mask"))[i]), double(i) / 10, 1e-6));
        const Geometry half = made("set_attribute", {{"value", 9}, {"blend", 0.5}}, {mask});
        QVERIFY(near(double(half.values<float>(Element::point, "mask")->back()), 5, 1e-6));
        const Geometry tag = made("set_attribute", {{"name", "rim"}, {"type", "bool"}, {"value", {{"formula", "along > 0.45"}}}}, {even});
        const auto* rim = tag.values<std::uint8_t>(Element::point, "rim");
        QCOMPARE(std::count(rim->begin(), rim->end(), 1), std::ptrdiff_t(6));
        const Geometry moved = made("set_attribute", {{"name", "position"}, {"type", "vec3"}, {"value", {{"formula", "position * 2"}}}}, {even});
        QCOMPARE(boundsOf(moved).size().y, 2.0f);
        for (const char* type : {"float", "int", "bool", "vec2", "vec3", "vec4", "text"})
            QCOMPARE(std::string(typeName(made("set_attribute", {{"name", "a"}, {"type", type}}, {even}).column(Element::point, "a")->type())),
                     std::string(type));
        for (Element element : {Element::point, Element::curve, Element::model})
            QVERIFY(made("set_attribute", {{"name", "a"}, {"element", elementName(element)}}, {even}).column(element, "a"));
        QCOMPARE(lastCode(runOp("set_attribute", {{"name", "position"}}, {even})), std::string("attribute.position"));
        QCOMPARE(lastCode(runOp("set_attribute", {{"name", ""}}, {even})), std::string("attribute.name"));
        QCOMPARE(lastCode(runOp("set_attribute", {{"value", {{"attribute", "alnog"}}}}, {even})), std::string("setting.unknown_attribute"));
    }

    void remapReshapesByRamp() {
        Geometry even = made("resample", {{"count", 5}}, {made("line")});
        even.setColumn(Element::point, "height", Column(std::vector<float>{2, 4, 6, 8, 10}));
        const Geometry automatic = made("remap", {{"from", "height"}, {"to", "mask"}}, {even});
        QCOMPARE(*automatic.values<float>(Element::point, "mask"), (std::vector<float>{0, 0.25f, 0.5f, 0.75f, 1}));
        const Geometry fixed = made("remap", {{"from", "height"}, {"to", ""}, {"in_range", {0, 20}}, {"ramp", {{"knots", {{0, 0}, {1, 100}}}}}}, {even});
        QCOMPARE(fixed.values<float>(Element::point, "height")->at(4), 50.0f);
        // Without one at each end: 4 to 8 use the whole ramp.
        const Geometry middle = made("remap", {{"from", "height"}, {"to", "mask"}, {"in_range", "auto 25 %"}}, {even});
        QCOMPARE(*middle.values<float>(Element::point, "mask"), (std::vector<float>{0, 0, 0.5f, 1, 1}));
        QCOMPARE(lastCode(runOp("remap", {{"from", "height"}, {"in_range", "auto 60 %"}}, {even})), std::string("setting.type"));
        QCOMPARE(lastCode(runOp("remap", {{"from", "hieght"}}, {even})), std::string("setting.unknown_attribute"));
        QCOMPARE(lastCode(runOp("remap", {{"from", "position"}}, {even})), std::string("setting.type"));
    }

    void mergeAndSwitch() {
        const Geometry a = made("box"), b = made("sphere");
        const Geometry both = made("merge", Json::object(), {a, b});
        QCOMPARE(both.faceCount(), a.faceCount() + b.faceCount());
        QCOMPARE(both.topology().connection().pieces, 2u);
        QCOMPARE(made("switch", {{"choice", 0}}, {a, b}).faceCount(), a.faceCount());
        QCOMPARE(made("switch", {{"choice", 1}}, {a, b}).faceCount(), b.faceCount());
        QCOMPARE(lastCode(runOp("switch", {{"choice", 2}}, {a, b})), std::string("switch.choice"));
        QCOMPARE(made("output", Json::object(), {a}).faceCount(), a.faceCount());
        QCOMPARE(lastCode(runOp("merge")), std::string("input.missing"));
    }

    void splitPartsAndMergeJoinsAgain() {
        const Geometry box = made("box", {{"cells", {2, 2, 2}}});
        const OperatorOutcome parts = runOp("split", {{"where", {{"formula", "position.y < 0"}}}}, {box});
        QVERIFY(!parts.failed);
        QCOMPARE(parts.others.size(), 1u);
        const Geometry &low = parts.geometry, &rest = parts.others[0];
        QCOMPARE(low.faceCount() + rest.faceCount(), box.faceCount());
        QVERIFY(low.faceCount() > 0 && rest.faceCount() > 0);
        QVERIFY(near(surfaceArea(low) + surfaceArea(rest), surfaceArea(box), 1e-5));
        for (Vec3 c : faceCentres(low)) QVERIFY(c.y < 0);
        for (Vec3 c : faceCentres(rest)) QVERIFY(c.y >= 0);
        // No point is left over on either side.
        for (const Geometry* part : {&low, &rest}) {
            std::set<Index> used(part->topology().cornerPoint().begin(), part->topology().cornerPoint().end());
            QCOMPARE(used.size(), part->pointCount());
        }
        const Geometry whole = made("weld", {{"distance", 1e-5}}, {made("merge", Json::object(), {low, rest})});
        QCOMPARE(whole.pointCount(), box.pointCount());
        QVERIFY(checkupOf(whole).sound());
        // Corners keep their uv bit for bit.
        QVERIFY(low.column(Element::corner, "uv") || low.column(Element::point, "uv"));
        const OperatorOutcome none = runOp("split", {{"where", false}}, {box});
        QVERIFY(none.geometry.empty());
        QCOMPARE(lastCode(none), std::string("split.nothing"));
        QCOMPARE(none.others[0].faceCount(), box.faceCount());
        const OperatorOutcome curves = runOp("split", Json::object(), {made("line", {{"points", 5}})});
        QCOMPARE(curves.geometry.curveCount(), 1u);
        QVERIFY(curves.others[0].empty());
    }

    void wordsOfAText() {
        QCOMPARE(wordsIn("  3 1\t1 \n"), (std::vector<std::string>{"3", "1", "1"}));
        QCOMPARE(wordsIn("one"), (std::vector<std::string>{"one"}));
        QVERIFY(wordsIn("").empty() && wordsIn(" \r\n ").empty());
    }
};

QTEST_APPLESS_MAIN(TestOperators)
#include "test_operators.moc"
