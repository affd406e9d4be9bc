// What the curve operators and Extrude promise.
#include "geometry/Rows.h"
#include "support/Run.h"
#include "support/Sound.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

Geometry points(const Json& list, const char* join = "open curve") { return made("point_list", {{"points", list}, {"join", join}}); }
const Json kSquare{{0, 0, 0}, {0, 0, 2}, {2, 0, 2}, {2, 0, 0}};  // counter-clockwise seen from above

double lengthOfAll(const Geometry& g) {
    double out = 0;
    for (std::size_t c = 0; c < g.curveCount(); ++c) out += curveLength(g, c);
    return out;
}

}  // namespace

class TestCurves : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void roundedSquare() {
        const Geometry g = made("round_corners", {{"radius", 0.5}, {"segments", 32}}, {points(kSquare, "closed curve")});
        QCOMPARE(g.curveCount(), 1u);
        QCOMPARE(g.pointCount(), std::size_t(4 * 33));
        QVERIFY(near(curveLength(g, 0), 4 * 1.0 + kPi, 2e-3));
        // Every arc point lies on its circle, every other on the sides.
        for (Vec3 p : g.positions()) {
            const double x = std::min(p.x, 2 - p.x), z = std::min(p.z, 2 - p.z);
            QVERIFY(near(std::hypot(0.5 - x, 0.5 - z), 0.5, 1e-5));
        }
        QCOMPARE(made("round_corners", {{"form", "straight"}, {"radius", 0.2}}, {points(kSquare, "closed curve")}).pointCount(), 8u);
        // Too large: arcs end in the middle of the sides, and that is told.
        const OperatorOutcome large = runOp("round_corners", {{"radius", 50}, {"segments", 64}}, {points(kSquare, "closed curve")});
        QCOMPARE(lastCode(large), std::string("round.held"));
        QVERIFY(near(curveLength(large.geometry, 0), 2 * kPi, 1e-2));
        // Ends of an open curve stay to the bit; a mask keeps corners.
        const Geometry open = points(kSquare);
        const Geometry kept = made("round_corners", {{"where", {{"formula", "index == 1"}}}, {"segments", 4}}, {open});
        QCOMPARE(kept.pointCount(), std::size_t(3 + 5));
        QCOMPARE(kept.positions().front(), open.positions().front());
        QCOMPARE(kept.positions().back(), open.positions().back());
    }

    void offsets() {
        const Geometry square = points(kSquare, "closed curve");
        const Geometry wide = made("offset_curve", {{"distance", 0.25}}, {square});
        QVERIFY(near(curveLength(wide, 0), 10, 1e-4));
        QVERIFY(near(curveLength(made("offset_curve", {{"distance", -0.25}}, {square}), 0), 6, 1e-4));
        const Geometry wall = made("offset_curve", {{"distance", 0.1}, {"form", "outline"}}, {points({{0, 0, 0}, {3, 0, 0}, {3, 0, -2}})});
        QCOMPARE(wall.curveCount(), 1u);
        QVERIFY(wall.topology().curveClosed(0));
        const Geometry area = made("fill_curve", Json::object(), {wall});
        QVERIFY(near(surfaceArea(area), 0.2 * 5, 1e-4));
        QCOMPARE(made("offset_curve", {{"form", "keep both"}}, {square}).curveCount(), 2u);
        QCOMPARE(lastCode(runOp("offset_curve", {{"distance", -3}}, {square})), std::string("offset.turned"));
    }

    void filledWithHoles() {
        const Geometry inner = points({{0.5, 0, 0.5}, {1.5, 0, 0.5}, {1.5, 0, 1.5}, {0.5, 0, 1.5}}, "closed curve");  // the other way round than the square
        const Geometry island = points({{0.9, 0, 0.9}, {0.9, 0, 1.1}, {1.1, 0, 1.1}, {1.1, 0, 0.9}}, "closed curve");
        const Geometry both = made("merge", Json::object(), {points(kSquare, "closed curve"), inner, island});
        const Geometry g = made("fill_curve", Json::object(), {both});
        QVERIFY(near(surfaceArea(g), 4 - 1 + 0.04, 1e-5));
        for (Vec3 n : faceNormals(g)) QVERIFY(n.y > 0.999f);
        QCOMPARE(g.curveCount(), 0u);
        QCOMPARE(made("fill_curve", {{"keep_curves", true}}, {both}).curveCount(), 3u);
        QCOMPARE(lastCode(runOp("fill_curve", Json::object(), {points(kSquare)})), std::string("curve.open"));
        // A filled plan drawn out is a solid with a hole through it: a ring.
        const Geometry ring = made("extrude", {{"keep_back", true}, {"distance", 0.3}},
                                   {made("fill_curve", Json::object(), {made("merge", Json::object(), {points(kSquare, "closed curve"), inner})})});
        verifySolid(ring);
        QVERIFY(near(signedVolume(ring), 0.9, 1e-4));
        QCOMPARE(euler(ring), 0l);
    }

    void joinedByTheirEnds() {
        const Geometry parts =
            made("merge", Json::object(),
                 {points({{0, 0, 0}, {1, 0, 0}}), points({{2, 0, 0}, {1, 0, 0}}), points({{2, 0, 0}, {2, 0, 1}}), points({{7, 0, 0}, {8, 0, 0}})});
        const Geometry g = made("join_curves", Json::object(), {parts});
        QCOMPARE(g.curveCount(), 2u);
        QCOMPARE(g.topology().curve(0).size(), std::size_t(4));
        QVERIFY(near(lengthOfAll(g), 4, 1e-6));
        // Four sides make one ring.
        std::vector<Geometry> sides;
        for (int i = 0; i < 4; ++i) sides.push_back(points({kSquare[std::size_t(i)], kSquare[std::size_t(i + 1) % 4]}));
        const Geometry ring = made("join_curves", Json::object(), {made("merge", Json::object(), sides)});
        QCOMPARE(ring.curveCount(), 1u);
        QVERIFY(ring.topology().curveClosed(0));
        QCOMPARE(ring.pointCount(), 4u);
        QVERIFY(near(curveLength(ring, 0), 8, 1e-6));
        const Geometry chain = made("join_curves", {{"by", "in order"}, {"close", true}}, {parts});
        QCOMPARE(chain.curveCount(), 1u);
        QCOMPARE(chain.topology().curve(0).size(), std::size_t(8));
    }

    void cutIntoPieces() {
        const Geometry line = made("line", {{"length", 3}, {"points", 4}});
        const Geometry trimmed = made("cut_curve", {{"start", 0.25}, {"end", 0.75}}, {line});
        QVERIFY(near(curveLength(trimmed, 0), 1.5, 1e-6));
        const Geometry five = made("cut_curve", {{"mode", "count"}, {"count", 5}}, {line});
        QCOMPARE(five.curveCount(), 5u);
        for (std::size_t c = 0; c < 5; ++c) QVERIFY(near(curveLength(five, c), 0.6, 1e-5));
        QCOMPARE((*five.values<std::int32_t>(Element::curve, "piece"))[4], 4);
        const Geometry beams = made("cut_curve", {{"mode", "length"}, {"length", 0.8}, {"rest", "leave"}, {"gap", 0.1}}, {line});
        QCOMPARE(beams.curveCount(), 4u);
        QVERIFY(near(curveLength(beams, 0), 0.7, 1e-5));
        QVERIFY(near(curveLength(beams, 3), 0.5, 1e-5));
        const Geometry corners = made("cut_curve", {{"mode", "corners"}}, {points(kSquare, "closed curve")});
        QCOMPARE(corners.curveCount(), 4u);
        QVERIFY(near(lengthOfAll(corners), 8, 1e-5));
        // A circle has no corner and stays whole.
        QVERIFY(made("cut_curve", {{"mode", "corners"}}, {made("polygon", {{"sides", 64}})}).topology().curveClosed(0));
        QCOMPARE(lastCode(runOp("cut_curve", {{"start", 0.8}, {"end", 0.2}}, {line})), std::string("setting.range"));
        QVERIFY(runOp("cut_curve", {{"mode", "length"}, {"length", 1e-6}}, {made("line", {{"length", 1e6}})}).failed);
    }

    void featureLines() {
        const Geometry box = made("box", {{"size", {1, 1, 1}}, {"cells", {3, 3, 3}}});
        const Geometry sharp = made("feature_curves", Json::object(), {box});
        QCOMPARE(sharp.curveCount(), 12u);
        QVERIFY(near(lengthOfAll(sharp), 12, 1e-5));
        QCOMPARE(made("feature_curves", {{"by", "open edges"}}, {box}).curveCount(), 0u);
        const Geometry tube = made("cylinder", {{"bottom", false}, {"top", false}, {"sides", 24}, {"radius_bottom", 1}, {"radius_top", 1}});
        const Geometry ends = made("feature_curves", {{"by", "open edges"}}, {tube});
        QCOMPARE(ends.curveCount(), 2u);
        QVERIFY(ends.topology().curveClosed(0) && ends.topology().curveClosed(1));
        // A level cut of a ball is a ring of the right length, on the ball, and in the plane.
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 40}});
        const Geometry ring = made("feature_curves", {{"by", "plane"}, {"origin", {0, 0.5, 0}}}, {ball});
        QCOMPARE(ring.curveCount(), 1u);
        QVERIFY(ring.topology().curveClosed(0));
        QVERIFY(near(curveLength(ring, 0), 2 * kPi * std::sqrt(0.75), 5e-3));
        for (Vec3 p : ring.positions()) QVERIFY(near(double(p.y), 0.5, 1e-5));
        const Geometry high = made("set_attribute", {{"name", "height"}, {"value", {{"formula", "position.y"}}}}, {ball});
        QVERIFY(near(curveLength(made("feature_curves", {{"by", "level of an attribute"}, {"tag", "height"}, {"level", 0.5}}, {high}), 0), curveLength(ring, 0),
                     1e-4));
        // The border of a tag, and an attribute that is not there.
        const Geometry side = made("feature_curves", {{"by", "tag"}, {"tag", "top"}}, {made("box")});
        QCOMPARE(side.curveCount(), 1u);
        QVERIFY(side.topology().curveClosed(0));
        QVERIFY(runOp("feature_curves", {{"by", "tag"}, {"tag", "tpo"}}, {made("box")}).failed);
    }

    void sweptTubes() {
        const Geometry line = made("line", {{"direction", {0, 0, 1}}, {"length", 2}, {"points", 5}});
        const Geometry tube = made("sweep", {{"form", "tube"}, {"width", 1}, {"columns", 24}}, {line});
        verifySolid(tube);
        QVERIFY(near(signedVolume(tube), 2 * 24 * 0.5 * 0.25 * std::sin(2 * kPi / 24), 1e-4));
        QCOMPARE(tagged(tube, "cap"), std::size_t(2));
        QCOMPARE(tagged(tube, "side"), std::size_t(4 * 24));
        // A ring path closes without caps: a torus.
        const Geometry ring = made("sweep", {{"form", "tube"}, {"width", 0.4}, {"columns", 32}}, {made("polygon", {{"sides", 128}, {"radius", 1}})});
        verifySolid(ring);
        QCOMPARE(euler(ring), 0l);
        QVERIFY(near(signedVolume(ring), 2 * kPi * kPi * 0.04, 0.01));
        // Straight parts keep their width around a sharp corner.
        const Geometry corner = points({{0, 0, 0}, {2, 0, 0}, {2, 0, 2}});
        const Geometry square = points({{-0.1, -0.1, 0}, {0.1, -0.1, 0}, {0.1, 0.1, 0}, {-0.1, 0.1, 0}}, "closed curve");
        const auto spec = operatorFor("sweep", Json::object());
        OperatorInput input = inputFor(*spec, Json::object(), {corner});
        input.ports[1] = {square};
        const Geometry beam = runOperator(*spec, input, RunContext()).geometry;
        verifySolid(beam);
        QVERIFY(near(signedVolume(beam), 4 * 0.04, 1e-4));
        // The same with the profile drawn the other way round, or lying on the ground.
        for (const Json& list :
             {Json{{-0.1, 0.1, 0}, {0.1, 0.1, 0}, {0.1, -0.1, 0}, {-0.1, -0.1, 0}}, Json{{-0.1, 0, -0.1}, {-0.1, 0, 0.1}, {0.1, 0, 0.1}, {0.1, 0, -0.1}}}) {
            input.ports[1] = {points(list, "closed curve")};
            const Geometry other = runOperator(*spec, input, RunContext()).geometry;
            verifySolid(other);
            QVERIFY(near(signedVolume(other), 4 * 0.04, 1e-4));
        }
        // Width by a ramp along the path: a cone of two straight halves.
        const Geometry taper = made("sweep", {{"form", "tube"}, {"columns", 64}, {"width", {{"ramp", {{"over", "along"}, {"knots", {{0, 1}, {1, 0.5}}}}}}}},
                                    {made("line", {{"length", 1}, {"points", 2}})});
        verifySolid(taper);
        QVERIFY(near(signedVolume(taper), kPi / 3 * (0.25 + 0.125 + 0.0625), 5e-3));
    }

    void sweptRibbons() {
        const Geometry path = made("line", {{"direction", {1, 0, 0}}, {"length", 4}, {"points", 3}});
        const Geometry ribbon = made("sweep", {{"form", "ribbon"}, {"width", 0.5}, {"columns", 3}}, {path});
        QCOMPARE(ribbon.faceCount(), std::size_t(6));
        QVERIFY(near(surfaceArea(ribbon), 2, 1e-5));
        for (Vec3 n : faceNormals(ribbon)) QVERIFY(n.y > 0.999f);
        const Geometry edges = made("sweep", {{"form", "edges only"}, {"width", 0.5}}, {path});
        QCOMPARE(edges.faceCount(), 0u);
        QCOMPARE(edges.curveCount(), 2u);
        // A winding, rising way that is kept level has no cross fall anywhere.
        const Geometry way = made("spiral", {{"turns", 2}, {"radius", 3}, {"rise", 2}, {"points_per_turn", 24}});
        const Geometry level = made("sweep", {{"form", "ribbon"}, {"width", 1}, {"columns", 1}, {"level", true}}, {way});
        for (std::size_t i = 0; i + 1 < level.pointCount(); i += 2) QVERIFY(near(double(level.positions()[i].y), double(level.positions()[i + 1].y), 1e-4));
        QCOMPARE(lastCode(runOp("sweep", Json::object(), {path})), std::string("sweep.tube"));
        // A twist of half a turn swaps the edges.
        const Geometry twisted = made("sweep", {{"form", "ribbon"}, {"width", 1}, {"columns", 1}, {"twist", {{"formula", "along * 180"}}}}, {path});
        const auto& at = twisted.positions();
        QVERIFY(near(double(at[0].z), double(at[at.size() - 1].z), 1e-5));
    }

    void rodsAndBalls() {
        const Geometry cube = made("box", {{"size", {1, 1, 1}}});
        const Geometry rods = made("edge_rods", {{"radius", 0.05}, {"sides", 12}}, {cube});
        QCOMPARE(checkupOf(rods).openEdges, std::size_t(0));
        QVERIFY(near(signedVolume(rods), 12 * 12 * 0.5 * 0.0025 * std::sin(2 * kPi / 12), 1e-5));
        QCOMPARE((*rods.values<std::int32_t>(Element::face, "piece")).back(), 11);
        const Geometry welded = made("edge_rods", {{"radius", 0.05}, {"sides", 12}, {"welded", true}}, {cube});
        verifySolid(welded);
        QCOMPARE(euler(welded), 2l - 2 * 5);  // twelve edges, eight corners: five handles
        QCOMPARE(welded.topology().connection().pieces, 1u);
        const Geometry berries = made("edge_rods", {{"rods", false}, {"balls", true}, {"ball_radius", 0.3}, {"sides", 40}}, {cube});
        QCOMPARE(berries.topology().connection().pieces, 8u);
        QVERIFY(near(signedVolume(berries), 8 * 4 * kPi / 3 * 0.027, 0.01));
        // A bent wire and one with a sharp point are joined as well.
        verifySolid(made("edge_rods", {{"radius", 0.02}, {"welded", true}}, {points({{0, 0, 0}, {1, 0, 0}, {1, 1, 0}, {0.2, 0.8, 0.4}})}));
        QCOMPARE(lastCode(runOp("edge_rods", {{"radius", 0.6}, {"welded", true}}, {cube})), std::string("rods.crowded"));
        QVERIFY(runOp("edge_rods", {{"radius", 0}}, {cube}).failed);
    }

    void raisedRegions() {
        const Geometry box = made("box", {{"size", {1, 1, 1}}, {"cells", {2, 2, 2}}});
        const Json top{{"formula", "normal.y > 0.5"}};
        const Geometry raised = made("extrude", {{"distance", 0.5}, {"where", top}}, {box});
        verifySolid(raised);
        QVERIFY(near(signedVolume(raised), 1.5, 1e-5));
        QCOMPARE(tagged(raised, "front"), std::size_t(4 + 4));  // and those of the box itself, which were not touched
        QCOMPARE(tagged(raised, "side"), std::size_t(8));
        QVERIFY(near(double(boundsOf(raised.positions()).size().y), 1.5, 1e-6));
        // Pushed in, and with an inset on all sides.
        const Geometry tray = made("extrude", {{"distance", -0.5}, {"inset", 0.1}, {"where", top}}, {box});
        verifySolid(tray);
        QVERIFY(near(signedVolume(tray), 1 - 0.5 * (1 + 0.64 + 0.8) / 3, 1e-4));
        // Rows along the side, exactly between.
        const Geometry rows = made("extrude", {{"distance", 0.4}, {"divisions", 4}, {"where", top}}, {box});
        verifySolid(rows);
        QCOMPARE(tagged(rows, "side"), std::size_t(32));
        // A distance holds around corners: a cube that grows on all sides.
        const Geometry grown = made("extrude", {{"distance", 0.1}}, {box});
        QVERIFY(near(signedVolume(grown), 1.728, 1e-4));
        // The rest is left bit for bit: faces that were not raised come first, in their order.
        const auto &before = *box.values<Vec2>(Element::corner, "uv"), &after = *raised.values<Vec2>(Element::corner, "uv");
        const auto normals = faceNormals(box);
        std::size_t at = 0;
        for (std::size_t f = 0; f < box.faceCount(); ++f)
            for (std::size_t k = 0; k < 4 && normals[f].y < 0.5f; ++k) QCOMPARE(after[at++], before[4 * f + k]);
        QCOMPARE(at, std::size_t(20 * 4));
    }

    void eachFaceAlone() {
        const Geometry ball = made("geodesic_sphere", {{"form", "panels"}, {"frequency", 3}, {"radius", 1}});
        const Geometry g = made("extrude", {{"of", "each face"}, {"distance", 0.05}, {"inset", 0.03}}, {ball});
        verifySolid(g);
        QCOMPARE(tagged(g, "front"), ball.faceCount());
        QCOMPARE(tagged(g, "side"), ball.cornerCount());
        // The inset is the distance of each border edge from the old one, to the bit of a hair.
        const Geometry flat = made("extrude", {{"of", "each face"}, {"distance", 0}, {"inset", 0.2}}, {made("grid", {{"size", {1, 1}}, {"cells", {1, 1}}})});
        for (std::size_t f = 0; f < flat.faceCount(); ++f)
            if ((*flat.values<std::uint8_t>(Element::face, "front"))[f])
                QVERIFY(near(double(length(areaVector(flat.topology().face(f), flat.positions()))), 0.36, 1e-5));
        // Larger than there is room for: held, and told.
        const OperatorOutcome held = runOp("extrude", {{"of", "each face"}, {"inset", 5}}, {ball});
        QCOMPARE(lastCode(held), std::string("extrude.inset"));
        const auto& fronts = *held.geometry.values<std::uint8_t>(Element::face, "front");
        const auto normals = faceNormals(held.geometry), centres = faceCentres(held.geometry);
        for (std::size_t f = 0; f < fronts.size(); ++f)
            if (fronts[f]) QVERIFY(dot(normals[f], centres[f]) > 0);
    }

    void sheetsEdgesAndCurves() {
        const Geometry sheet = made("grid", {{"size", {2, 1}}, {"cells", {4, 2}}});
        const Geometry slab = made("extrude", {{"distance", 0.2}, {"keep_back", true}}, {sheet});
        verifySolid(slab);
        QVERIFY(near(signedVolume(slab), 0.4, 1e-5));
        QCOMPARE(tagged(slab, "back"), std::size_t(8));
        const Geometry down = made("extrude", {{"distance", -0.2}, {"keep_back", true}}, {sheet});
        verifySolid(down);
        QVERIFY(near(signedVolume(down), 0.4, 1e-5));
        const Geometry skirt = made("extrude", {{"of", "edges"}, {"distance", 0.5}}, {sheet});
        QVERIFY(near(surfaceArea(skirt), 2 + 2 * 0.5 * 3 + 4 * 0.5 * 0.5 * 0.5, 0.2));
        QVERIFY(checkupOf(skirt).consistentWinding);
        QCOMPARE(skirt.faceCount(), std::size_t(8 + 12));
        const Geometry plan = points(kSquare, "closed curve");
        const Geometry wall = made("extrude", {{"of", "curves"}, {"distance", 3}}, {plan});
        QCOMPARE(wall.faceCount(), 4u);
        QVERIFY(near(surfaceArea(wall), 24, 1e-4));
        const Geometry tower = made("extrude", {{"of", "curves"}, {"distance", 3}, {"keep_back", true}, {"divisions", 3}}, {plan});
        verifySolid(tower);
        QVERIFY(near(signedVolume(tower), 12, 1e-4));
        QVERIFY(runOp("extrude", {{"of", "curves"}}, {sheet}).failed);
        QCOMPARE(lastCode(runOp("extrude", {{"direction", "fixed"}, {"axis", {0, 0, 0}}}, {sheet})), std::string("extrude.axis"));
    }
};

QTEST_APPLESS_MAIN(TestCurves)
#include "test_curves.moc"
