// What the makers of solids, the deformers and the surface tools promise.
#include "geometry/Rows.h"
#include "support/Run.h"
#include "support/Sound.h"

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// How far a face's points lie from its plane, at most.
double outOfPlane(const Geometry& g) {
    double worst = 0;
    const auto normals = faceNormals(g), centres = faceCentres(g);
    for (std::size_t f = 0; f < g.faceCount(); ++f)
        for (Index p : g.topology().face(f)) worst = std::max(worst, std::abs(double(dot(g.positions()[p] - centres[f], normals[f]))));
    return worst;
}

std::size_t openEdges(const Geometry& g) {
    const auto& counts = g.topology().edges().faceCount;
    return std::size_t(std::count(counts.begin(), counts.end(), 1));
}

const Json kTopHalf{{"formula", "position.y > 0.001 ? 1.0 : 0.0"}};

/// A bar of 2 m along x.
Geometry bar() { return made("box", {{"size", {2, 0.2, 0.2}}, {"cells", {40, 2, 2}}, {"anchor", "middle"}}); }

}  // namespace

class TestModelling : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // Make

    void cylindersAndCones() {
        const Geometry g = made("cylinder", {{"sides", 48}, {"rings", 3}, {"height", 2}, {"radius_bottom", 1}, {"radius_top", 1}});
        verifySolid(g);
        QCOMPARE(g.pointCount(), 48u * 4);
        QCOMPARE(g.faceCount(), 48u * 3 + 2);
        QVERIFY(near(signedVolume(g), 2 * 48 * 0.5 * std::sin(2 * kPi / 48), 1e-4));
        QCOMPARE(tagged(g, "side"), std::size_t(144));
        QCOMPARE(tagged(g, "top"), std::size_t(1));
        QCOMPARE(boundsOf(g.positions()).min.y, 0.0f);
        const Geometry cone = made("cylinder", {{"sides", 32}, {"rings", 4}, {"radius_top", 0}, {"anchor", "top"}});
        verifySolid(cone);
        QCOMPARE(cone.pointCount(), 32u * 4 + 1);
        QVERIFY(near(signedVolume(cone), 32 * 0.5 * 0.25 * std::sin(2 * kPi / 32) / 3, 1e-4));
        QCOMPARE(boundsOf(cone.positions()).max.y, 0.0f);
        verifySolid(made("cylinder", {{"radius_bottom", 0}}));
        const Geometry tube = made("cylinder", {{"bottom", false}, {"top", false}, {"sides", 12}});
        QCOMPARE(euler(tube), 0l);
        QCOMPARE(openEdges(tube), std::size_t(24));
        QCOMPARE(lastCode(runOp("cylinder", {{"radius_bottom", 0}, {"radius_top", 0}})), std::string("cylinder.radius"));
        // Both ends show the square of uv the right way round: seen from outside, uv runs anticlockwise like the corners.
        const auto& uv = *g.values<Vec2>(Element::corner, "uv");
        for (std::size_t f = 0; f < g.faceCount(); ++f) {
            double area = 0;
            const Index first = g.topology().faceStart()[f], end = g.topology().faceStart()[f + 1];
            for (Index c = first; c < end; ++c) {
                const Vec2 a = uv[c], b = uv[c + 1 == end ? first : c + 1];
                area += double(a.x) * double(b.y) - double(b.x) * double(a.y);
            }
            QVERIFY(area > 0);
        }
    }

    void torus() {
        const Geometry g = made("torus", {{"radius", 1}, {"tube", 0.3}, {"sides", 96}, {"tube_sides", 48}});
        verifySolid(g);
        QCOMPARE(euler(g), 0l);
        QCOMPARE(g.pointCount(), std::size_t(96 * 48));
        QVERIFY(near(signedVolume(g), 2 * kPi * kPi * 0.09, 0.01));
        QCOMPARE(lastCode(runOp("torus", {{"radius", 0.2}, {"tube", 0.2}})), std::string("torus.tube"));
    }

    void spirals() {
        const Geometry screw = made("spiral", {{"turns", 4}, {"radius", 0.5}, {"rise", 0.25}, {"points_per_turn", 360}});
        QCOMPARE(screw.pointCount(), 1441u);
        QVERIFY(near(curveLength(screw, 0), 4 * std::hypot(kPi, 0.25), 1e-3));
        QVERIFY(near(double(screw.positions().back().y), 1, 1e-5));
        for (Vec3 p : screw.positions()) QVERIFY(near(std::hypot(double(p.x), double(p.z)), 0.5, 1e-5));
        // Each turn of a whelk is as much wider as the one before.
        const Geometry whelk = made("spiral", {{"turns", 3}, {"radius", 0.1}, {"growth", 2}, {"points_per_turn", 20}});
        for (int turn = 0; turn <= 3; ++turn)
            QVERIFY(near(double(length(Vec3{whelk.positions()[std::size_t(turn) * 20].x, 0, whelk.positions()[std::size_t(turn) * 20].z})),
                         0.1 * std::pow(2, turn), 1e-5));
        // A radius that follows along; a spiral that ends at the axis.
        const Geometry flat = made("spiral", {{"turns", 2}, {"rise", 0}, {"radius", {{"formula", "1 - along"}}}});
        QVERIFY(length(flat.positions().back()) < 1e-6f);
        QCOMPARE(flat.values<float>(Element::point, "along")->back(), 1.0f);
        QVERIFY(runOp("spiral", {{"turns", 10000}, {"points_per_turn", 100000}}).failed);
    }

    void solids_data() {
        QTest::addColumn<QString>("kind");
        QTest::addColumn<int>("points");
        QTest::addColumn<int>("faces");
        QTest::newRow("4") << "tetrahedron" << 4 << 4;
        QTest::newRow("6") << "cube" << 8 << 6;
        QTest::newRow("8") << "octahedron" << 6 << 8;
        QTest::newRow("12") << "dodecahedron" << 20 << 12;
        QTest::newRow("20") << "icosahedron" << 12 << 20;
        QTest::newRow("football") << "truncated icosahedron" << 60 << 32;
        QTest::newRow("14") << "cuboctahedron" << 12 << 14;
        QTest::newRow("cut 8") << "truncated octahedron" << 24 << 14;
        QTest::newRow("32") << "icosidodecahedron" << 30 << 32;
        QTest::newRow("26") << "rhombicuboctahedron" << 24 << 26;
    }
    void solids() {
        QFETCH(QString, kind);
        QFETCH(int, points);
        QFETCH(int, faces);
        const Geometry g = made("solid", {{"kind", kind.toStdString()}, {"radius", 2}});
        QCOMPARE(int(g.pointCount()), points);
        QCOMPARE(int(g.faceCount()), faces);
        verifySolid(g);
        QVERIFY(outOfPlane(g) < 1e-5);
        for (Vec3 p : g.positions()) QVERIFY(near(double(length(p)), 2, 1e-5));
        // All edges are equally long: each of these solids is regular in that.
        double least = 1e9, most = 0;
        for (const auto& edge : g.topology().edges().edges) {
            const double size = double(distance(g.positions()[edge.a], g.positions()[edge.b]));
            least = std::min(least, size), most = std::max(most, size);
        }
        QVERIFY2(near(least, most, 1e-5), qPrintable(QString("%1 %2").arg(least).arg(most)));
        const auto& corners = *g.values<std::int32_t>(Element::face, "corners");
        for (std::size_t f = 0; f < g.faceCount(); ++f) QCOMPARE(std::size_t(corners[f]), g.topology().face(f).size());
    }

    void geodesicSpheres() {
        for (int f : {1, 2, 3, 7}) {
            const Geometry ball = made("geodesic_sphere", {{"frequency", f}, {"radius", 3}});
            QCOMPARE(ball.faceCount(), std::size_t(20 * f * f));
            QCOMPARE(ball.pointCount(), std::size_t(10 * f * f + 2));
            verifySolid(ball);
            for (Vec3 p : ball.positions()) QVERIFY(near(double(length(p)), 3, 1e-5));
            const Geometry panels = made("geodesic_sphere", {{"frequency", f}, {"radius", 3}, {"form", "panels"}});
            QCOMPARE(panels.faceCount(), std::size_t(10 * f * f + 2));
            QCOMPARE(tagged(panels, "pentagon"), std::size_t(12));
            verifySolid(panels);
            QVERIFY2(outOfPlane(panels) < 2e-5, qPrintable(QString::number(outOfPlane(panels))));
            // Each panel touches the ball at a point of the triangles.
            const auto normals = faceNormals(panels), centres = faceCentres(panels);
            for (std::size_t i = 0; i < normals.size(); ++i) QVERIFY(near(double(dot(normals[i], centres[i])), 3, 1e-4));
        }
        // Near-even: the largest triangle is less than twice the least.
        const Geometry fine = made("geodesic_sphere", {{"frequency", 12}});
        double least = 1e9, most = 0;
        for (std::size_t f = 0; f < fine.faceCount(); ++f) {
            const double area = double(length(areaVector(fine.topology().face(f), fine.positions())));
            least = std::min(least, area), most = std::max(most, area);
        }
        QVERIFY(most < 2.2 * least);
    }

    // Deform

    void bendingKeepsLengths() {
        const Geometry g = made("bend", {{"axis", "x"}, {"angle", 180}}, {bar()});
        // The middle line keeps its 2 m: half a circle of radius 2/π.
        const Bounds bounds = boundsOf(g.positions());
        QVERIFY(near(double(bounds.size().y), 4 / kPi + 0.2, 2e-3));
        QVERIFY(near(signedVolume(g), 0.08, 2e-4));
        QCOMPARE(checkupOf(g).closed, true);
        // Unbent is as it was, and a half that is left alone stays bit for bit.
        QCOMPARE(made("bend", {{"axis", "x"}, {"angle", 0}}, {bar()}).positions(), bar().positions());
        const Geometry half = made("bend", {{"axis", "x"}, {"angle", 60}, {"start", 0.5}}, {bar()});
        for (std::size_t i = 0; i < half.pointCount(); ++i)
            if (bar().positions()[i].x < -0.01f) QVERIFY(distance(half.positions()[i], bar().positions()[i]) < 1e-6f);
        // Beyond the end it goes on straight: the last quarter keeps its shape.
        const Geometry early = made("bend", {{"axis", "x"}, {"angle", 90}, {"end", 0.5}}, {bar()});
        const Bounds top = boundsOf(early.positions());
        QVERIFY(near(double(top.max.y), 2 / kPi + 1, 2e-3));
        QCOMPARE(lastCode(runOp("bend", {{"start", 1}, {"end", 1}}, {bar()})), std::string("axis.stretch"));
    }

    void twistingKeepsDistances() {
        const Geometry g = made("twist", {{"axis", "x"}, {"angle", 360}}, {bar()});
        for (std::size_t i = 0; i < g.pointCount(); ++i) {
            const Vec3 a = bar().positions()[i], b = g.positions()[i];
            QCOMPARE(a.x, b.x);
            QVERIFY(near(std::hypot(double(a.y), double(a.z)), std::hypot(double(b.y), double(b.z)), 1e-6));
            if (a.x == 1) QVERIFY(distance(a, b) < 1e-5f);                    // once around
            if (a.x == 0) QVERIFY(distance(a, Vec3{0, -b.y, -b.z}) < 1e-5f);  // half around
        }
        // Stored normals turn along.
        const Geometry shaded = made("twist", {{"axis", "x"}, {"angle", 90}}, {made("normals", {{"on", "points"}}, {bar()})});
        const auto& normals = *shaded.values<Vec3>(Element::point, "normal");
        const auto fresh = pointNormals(shaded);
        for (std::size_t i = 0; i < normals.size(); ++i)
            if (std::abs(shaded.positions()[i].x) < 0.9f) QVERIFY(dot(normals[i], fresh[i]) > 0.97f);
    }

    void taperAndProfile() {
        const Geometry wedge = made("taper", {{"axis", "x"}, {"scale_end", 0}}, {bar()});
        // A pyramid: a third of the volume.
        QVERIFY(near(signedVolume(wedge), 0.08 / 3, 2e-4));
        const Geometry waist = made("profile_scale", {{"axis", "x"}, {"ramp", {{"knots", {{0, 1, "straight"}, {0.5, 0.5, "straight"}, {1, 1}}}}}}, {bar()});
        for (std::size_t i = 0; i < waist.pointCount(); ++i)
            QVERIFY(near(double(waist.positions()[i].y), double(bar().positions()[i].y) * (0.5 + 0.5 * std::abs(double(bar().positions()[i].x))), 1e-6));
        // Masked points stay to the last bit.
        const Geometry masked = made("taper", {{"axis", "x"}, {"scale_end", 0.2}, {"where", {{"formula", "position.x > 0.0 ? 1.0 : 0.0"}}}}, {bar()});
        for (std::size_t i = 0; i < masked.pointCount(); ++i)
            if (bar().positions()[i].x <= 0) QCOMPARE(masked.positions()[i], bar().positions()[i]);
    }

    void fitting() {
        const Geometry to = made("fit", {{"size", {3, 1, 0.5}}, {"anchor_x", "min"}, {"anchor_y", "max"}}, {bar()});
        const Bounds bounds = boundsOf(to.positions());
        QVERIFY(distance(bounds.size(), Vec3{3, 1, 0.5f}) < 1e-5f);
        QVERIFY(near(double(bounds.min.x), -1, 1e-6) && near(double(bounds.max.y), 0.1, 1e-6) && near(double(bounds.centre().z), 0, 1e-6));
        const Geometry even = made("fit", {{"size", {1, 1, 1}}, {"proportional", true}}, {bar()});
        QVERIFY(distance(boundsOf(even.positions()).size(), Vec3{1, 0.1f, 0.1f}) < 1e-5f);
        const Geometry kept = made("fit", {{"size", {9, 9, 9}}, {"anchor_x", "keep"}}, {bar()});
        QVERIFY(near(double(boundsOf(kept.positions()).size().x), 2, 1e-5));
        // Into another geometry's bounds, foot on its top.
        const auto spec = operatorFor("fit", Json::object());
        OperatorInput input = inputFor(*spec, {{"anchor_y", "min"}}, {bar()});
        input.ports[1] = {made("box", {{"size", {4, 2, 6}}, {"anchor", "bottom"}})};
        const Bounds placed = boundsOf(runOperator(*spec, input, RunContext()).geometry.positions());
        QVERIFY(distance(placed.min, Vec3{-2, 0, -3}) < 1e-5f && distance(placed.max, Vec3{2, 2, 3}) < 1e-5f);
        // A sheet has no height to stretch.
        QCOMPARE(boundsOf(made("fit", {{"size", {2, 2, 2}}}, {made("grid")}).positions()).size(), (Vec3{2, 0, 2}));
    }

    void movingPoints() {
        const Geometry by = made("move_points", {{"by", {{"formula", "vec3(0.0, position.x * 2.0, 0.0)"}}}}, {bar()});
        for (std::size_t i = 0; i < by.pointCount(); ++i)
            QVERIFY(near(double(by.positions()[i].y), double(bar().positions()[i].y) + 2 * double(bar().positions()[i].x), 1e-5));
        const Geometry to = made("move_points", {{"mode", "to"}, {"to", {1, 2, 3}}, {"blend", 0.5}}, {bar()});
        QVERIFY(distance(to.positions()[0], (bar().positions()[0] + Vec3{1, 2, 3}) * 0.5f) < 1e-6f);
    }

    // Surface

    void deleting() {
        const Geometry box = made("box", {{"cells", {3, 3, 3}}});
        const Geometry lidless = made("delete", {{"where", {{"attribute", "top"}}}}, {box});
        QCOMPARE(lidless.faceCount(), std::size_t(45));
        QCOMPARE(openEdges(lidless), std::size_t(12));
        QCOMPARE(lidless.pointCount(), box.pointCount() - 4);  // the four inside the lid go with it
        const Geometry lid = made("delete", {{"where", {{"attribute", "top"}}}, {"keep_instead", true}}, {box});
        QCOMPARE(lid.faceCount(), std::size_t(9));
        QCOMPARE(lid.pointCount(), std::size_t(16));
        QCOMPARE(lid.values<Vec2>(Element::corner, "uv")->size(), std::size_t(36));
        // One point takes its faces, one edge both of its own.
        QCOMPARE(made("delete", {{"of", "points"}, {"where", {{"formula", "index == 0 ? 1.0 : 0.0"}}}}, {made("box")}).faceCount(), std::size_t(3));
        QCOMPARE(made("delete", {{"of", "edges"}, {"where", {{"formula", "position.x > 0.0 && position.y > 0.0 ? 1.0 : 0.0"}}}},
                      {made("box", {{"anchor", "middle"}})})
                     .faceCount(),
                 std::size_t(4));
        // A curve closes up without its point; pieces go whole.
        const Geometry ring = made("delete", {{"of", "points"}, {"where", {{"formula", "index == 2 ? 1.0 : 0.0"}}}}, {made("polygon", {{"sides", 8}})});
        QCOMPARE(ring.pointCount(), std::size_t(7));
        QVERIFY(ring.topology().curveClosed(0));
        const Geometry two = combine({made("box"), made("transform", {{"move", {3, 0, 0}}}, {made("box")})});
        const Geometry one = made("delete", {{"of", "pieces"}, {"where", {{"formula", "position.x > 0.0 ? 1.0 : 0.0"}}}}, {two});
        QCOMPARE(one.pointCount(), std::size_t(8));
        verifySolid(one);
        QCOMPARE(lastCode(runOp("delete", {}, {box})), std::string("delete.nothing"));
        QCOMPARE(lastCode(runOp("delete", {{"where", true}}, {box})), std::string("delete.all"));
    }

    void orienting() {
        // Any faces turned over: as before, all outward.
        const Geometry ball = made("sphere", {{"sides", 12}, {"rings", 7}});
        const Geometry mixed = made("flip", {{"where", {{"random", {{"range", {0, 1}}, {"seed", 4}}}}}}, {ball});
        QVERIFY(!checkupOf(mixed).consistentWinding);
        verifySolid(made("orient", {}, {mixed}));
        verifySolid(made("orient", {}, {made("flip", {}, {ball})}));
        // Two parts: each for itself. An open one keeps the way that most of it looks.
        const Geometry sheet = made("flip", {{"where", {{"formula", "index < 30 ? 1.0 : 0.0"}}}}, {made("grid")});
        const Geometry level = made("orient", {}, {combine({sheet, mixed})});
        QVERIFY(checkupOf(level).consistentWinding);
        QVERIFY(faceNormals(level)[0].y > 0.9f);
        // A band with half a twist has only one side, and that is said.
        std::vector<Vec3> p;
        std::vector<Index> start{0}, corners;
        constexpr Index n = 12;
        for (Index i = 0; i < n; ++i) {
            const double a = 2 * kPi * i / n;
            for (double side : {-0.2, 0.2})
                p.push_back(
                    {float((1 + side * std::cos(a / 2)) * std::cos(a)), float(side * std::sin(a / 2)), float((1 + side * std::cos(a / 2)) * std::sin(a))});
        }
        for (Index i = 0; i < n; ++i) {
            const bool last = i + 1 == n;
            corners.insert(corners.end(), {2 * i, 2 * i + 1, last ? 0 : 2 * i + 3, last ? 1 : 2 * i + 2});
            start.push_back(Index(corners.size()));
        }
        const Geometry band(std::move(p), Topology(2 * n, std::move(start), std::move(corners), {0}, {}, {}));
        const OperatorOutcome outcome = runOp("orient", {}, {band});
        QVERIFY(std::any_of(outcome.notices.begin(), outcome.notices.end(), [](const Notice& notice) { return notice.code == "orient.one_sided"; }));
    }

    void smoothing() {
        const Geometry rough = made("noise_displace", {{"amount", 0.05}, {"size", 0.012}}, {made("geodesic_sphere", {{"frequency", 24}})});
        const auto roughness = [](const Geometry& g) {
            double sum = 0;
            for (Vec3 p : g.positions()) sum += std::abs(double(length(p)) - 0.5);
            return sum / double(g.pointCount());
        };
        const Geometry kept = made("smooth", {{"iterations", 20}}, {rough}), plain = made("smooth", {{"iterations", 20}, {"keep_volume", false}}, {rough});
        QVERIFY(roughness(kept) < roughness(rough) * 0.5);
        QVERIFY(std::abs(signedVolume(kept) - signedVolume(rough)) < 0.01 * signedVolume(rough));
        QVERIFY(signedVolume(plain) < signedVolume(kept) * 0.99);
        // Where nothing is to be smoothed, no bit changes; open edges are held.
        QCOMPARE(made("smooth", {{"where", 0}}, {rough}).positions(), rough.positions());
        const Geometry sheet = made("noise_displace", {{"amount", 0.1}}, {made("grid")});
        const Geometry held = made("smooth", {}, {sheet});
        for (std::size_t i = 0; i < sheet.pointCount(); ++i) {
            const bool rim = std::abs(made("grid").positions()[i].x) > 0.499f || std::abs(made("grid").positions()[i].z) > 0.499f;
            if (rim) QCOMPARE(held.positions()[i], sheet.positions()[i]);
        }
        // Strong and long smoothing stays finite and inside.
        const Bounds bounds = boundsOf(made("smooth", {{"amount", 1}, {"iterations", 500}}, {rough}).positions());
        QVERIFY(bounds.diagonal() < boundsOf(rough.positions()).diagonal());
    }

    void mirroring() {
        // Half a box, open at the plane: mirrored it is whole.
        const Geometry half = made("delete", {{"where", {{"attribute", "left"}}}}, {made("box", {{"cells", {2, 2, 2}}, {"anchor", "corner"}})});
        const Geometry whole = made("mirror", {}, {half});
        verifySolid(whole);
        QVERIFY(near(signedVolume(whole), 2, 1e-5));
        QCOMPARE(whole.pointCount(), 2 * half.pointCount() - 8);
        QCOMPARE(tagged(whole, "mirrored"), half.faceCount());
        // With a face in the plane the wall between both sides goes.
        verifySolid(made("mirror", {}, {made("box", {{"anchor", "corner"}})}));
        const Geometry apart = made("mirror", {{"weld", false}}, {half});
        QCOMPARE(apart.pointCount(), 2 * half.pointCount());
        const Geometry image = made("mirror", {{"plane", "z"}, {"offset", 2}, {"keep_original", false}}, {made("box", {{"anchor", "corner"}})});
        verifySolid(image);
        QVERIFY(near(double(boundsOf(image.positions()).min.z), 3, 1e-6));
    }

    void triangulating() {
        const Geometry star = made("point_list", {{"join", "filled"}, {"points", {{0, 0, 0}, {2, 0, 0}, {2, 0, -2}, {1, 0, -0.5}, {0, 0, -2}}}});
        const Geometry cut = made("triangulate", {}, {star});
        QCOMPARE(cut.faceCount(), std::size_t(3));
        QVERIFY(near(surfaceArea(cut), surfaceArea(star), 1e-6));
        const Geometry box = made("box", {{"cells", {2, 3, 4}}}), all = made("triangulate", {}, {box});
        verifySolid(all);
        QCOMPARE(all.faceCount(), 2 * box.faceCount());
        QCOMPARE(all.pointCount(), box.pointCount());
        QCOMPARE(tagged(all, "top"), 2 * tagged(box, "top"));
        const Geometry part = made("triangulate", {{"where", {{"attribute", "top"}}}}, {box});
        QCOMPARE(part.faceCount(), box.faceCount() + tagged(box, "top"));
    }

    void separating() {
        const Geometry box = made("box", {{"cells", {2, 2, 2}}});
        const Geometry each = made("separate", {}, {box});
        QCOMPARE(each.pointCount(), box.cornerCount());
        const auto& numbers = *each.values<std::int32_t>(Element::face, "piece");
        QCOMPARE(std::set<int>(numbers.begin(), numbers.end()).size(), box.faceCount());
        // Sides of a box meet at a right angle; the faces of each stay together.
        for (const Json& settings : {Json{{"by", "angle"}}, Json{{"by", "tag"}, {"tag", "top"}}}) {
            const Geometry g = made("separate", settings, {box});
            QVERIFY(near(surfaceArea(g), surfaceArea(box), 1e-6));
            const auto& piece = *g.values<std::int32_t>(Element::face, "piece");
            QCOMPARE(std::set<int>(piece.begin(), piece.end()).size(), settings["by"] == "angle" ? std::size_t(6) : std::size_t(2));
            QCOMPARE(g.topology().connection().pieces, settings["by"] == "angle" ? Index(6) : Index(2));
        }
        QCOMPARE(lastCode(runOp("separate", {{"by", "tag"}, {"tag", "tpo"}}, {box})), std::string("setting.unknown_attribute"));
    }

    void fillingHoles() {
        const Geometry open = made("delete", {{"where", {{"attribute", "top"}}}}, {made("box", {{"cells", {3, 3, 3}}})});
        const Geometry lid = made("fill_holes", {}, {open});
        verifySolid(lid);
        QCOMPARE(tagged(lid, "filled"), std::size_t(1));
        QVERIFY(near(signedVolume(lid), 1, 1e-5));
        const Geometry fan = made("fill_holes", {{"form", "fan"}}, {open});
        verifySolid(fan);
        QCOMPARE(tagged(fan, "filled"), std::size_t(12));
        QCOMPARE(fan.pointCount(), open.pointCount() + 1);
        // Both ends of a tube; large holes can be left.
        verifySolid(made("fill_holes", {}, {made("cylinder", {{"bottom", false}, {"top", false}})}));
        const OperatorOutcome left = runOp("fill_holes", {{"most_edges", 11}}, {open});
        QCOMPARE(lastCode(left), std::string("fill_holes.left"));
        QCOMPARE(left.geometry.faceCount(), open.faceCount());
        // Two holes that touch at one point are two holes; the rim of the sheet is a ring as well.
        QCOMPARE(tagged(made("fill_holes", {},
                             {made("delete", {{"where", {{"formula", "index == 6 || index == 12 ? 1.0 : 0.0"}}}}, {made("grid", {{"cells", {5, 5}}})})}),
                        "filled"),
                 std::size_t(3));
    }

    void planeCutsKeepVolumes_data() {
        QTest::addColumn<QString>("shape");
        for (const char* shape : {"box", "ball", "torus", "tube", "star", "football"}) QTest::newRow(shape) << QString(shape);
    }
    void planeCutsKeepVolumes() {
        QFETCH(QString, shape);
        const Geometry solid =
            shape == "box"     ? made("box", {{"cells", {4, 4, 4}}, {"anchor", "middle"}})
            : shape == "ball"  ? made("geodesic_sphere", {{"frequency", 9}})
            : shape == "torus" ? made("torus", {{"sides", 40}, {"tube_sides", 13}})
            : shape == "tube"  ? made("thicken", {{"thickness", 0.1}}, {made("cylinder", {{"bottom", false}, {"top", false}, {"anchor", "middle"}})})
            : shape == "star"  ? made("thicken", {{"thickness", 0.5}, {"side", "both"}},
                                      {made("point_list", {{"join", "filled"}, {"points", {{0, 0, 0}, {2, 0, 0}, {2, 0, -2}, {1, 0, -0.5}, {0, 0, -2}}}})})
                               : made("solid", {{"kind", "truncated icosahedron"}});
        const double whole = signedVolume(solid);
        const Vec3 middle = boundsOf(solid.positions()).centre();
        const std::vector<Json> normals{{0, 1, 0}, {1, 0, 0}, {0.3, 1, 0.2}, {-1, 0.1, 2}, {0, 0, 1}};
        for (const Json& normal : normals)
            for (double shift : {0.0, 0.07, -0.11}) {
                Json settings{{"normal", normal}, {"origin", {middle.x + shift, middle.y + shift, middle.z + shift}}};
                const Geometry above = made("plane_cut", settings, {solid});
                settings["keep"] = "below";
                const Geometry below = made("plane_cut", settings, {solid});
                for (const Geometry* part : {&above, &below}) {
                    const Checkup c = checkupOf(*part);
                    QVERIFY2(c.closed && c.consistentWinding, qPrintable(QString::fromStdString(settings.dump())));
                    QVERIFY(tagged(*part, "cut") >= 1);
                }
                QVERIFY2(near(signedVolume(above) + signedVolume(below), whole, 1e-5 * std::max(whole, 1.0)),
                         qPrintable(QString::fromStdString(settings.dump())));
                // Every point lies on its side, and those of the cut exactly on the plane.
                const Vec3 n = normalized({normal[0].get<float>(), normal[1].get<float>(), normal[2].get<float>()}),
                           at = middle + Vec3{float(shift), float(shift), float(shift)};
                for (Vec3 p : above.positions()) QVERIFY(dot(p - at, n) > -2e-6f);
                for (Vec3 p : below.positions()) QVERIFY(dot(p - at, n) < 2e-6f);
                settings["keep"] = "both";
                QVERIFY(near(signedVolume(made("plane_cut", settings, {solid})), whole, 1e-5 * std::max(whole, 1.0)));
            }
    }

    void planeCutsKeepAttributes() {
        const Geometry box = made("box", {{"anchor", "middle"}, {"size", {2, 2, 2}}});
        Geometry marked = box;
        std::vector<float> height;
        for (Vec3 p : box.positions()) height.push_back(p.y * 3);
        marked.setColumn(Element::point, "height", Column(height));
        const Geometry top = made("plane_cut", {{"origin", {0, 0.25, 0}}}, {marked});
        QCOMPARE(top.faceCount(), std::size_t(6));
        QCOMPARE(top.pointCount(), std::size_t(8));
        QCOMPARE(tagged(top, "top"), std::size_t(1));
        QCOMPARE(boundsOf(top.positions()).min.y, 0.25f);
        for (std::size_t p = 0; p < top.pointCount(); ++p)
            QVERIFY(near(double((*top.values<float>(Element::point, "height"))[p]), double(top.positions()[p].y) * 3, 1e-5));
        // uv on the sides runs on; what was not cut is there bit for bit.
        const auto& uv = *top.values<Vec2>(Element::corner, "uv");
        for (std::size_t f = 0; f < top.faceCount(); ++f)
            if ((*top.values<std::uint8_t>(Element::face, "front"))[f] && !(*top.values<std::uint8_t>(Element::face, "cut"))[f])
                for (Index c = top.topology().faceStart()[f]; c < top.topology().faceStart()[f + 1]; ++c)
                    QVERIFY(near(double(uv[c].y), (double(top.positions()[top.topology().cornerPoint()[c]].y) + 1) / 2, 1e-6));
        // A face in the plane closes the side it belongs to, and the other side has nothing.
        QCOMPARE(made("plane_cut", {{"origin", {0, -1, 0}}}, {box}).faceCount(), std::size_t(6));
        QCOMPARE(made("plane_cut", {{"origin", {0, -1, 0}}, {"keep", "below"}}, {box}).faceCount(), std::size_t(0));
        QCOMPARE(made("plane_cut", {{"origin", {0, 9, 0}}}, {box}).pointCount(), std::size_t(0));
        // Unfilled it is open; an open sheet cannot be closed, and that is said only where a ring is missing.
        QCOMPARE(openEdges(made("plane_cut", {{"fill", false}}, {box})), std::size_t(4));
        QCOMPARE(lastCode(runOp("plane_cut", {{"normal", {1, 0, 0}}}, {made("grid")})), std::string("plane_cut.open"));
        QCOMPARE(lastCode(runOp("plane_cut", {{"normal", {0, 0, 0}}}, {box})), std::string("plane_cut.normal"));
    }

    void planeCutsHoldCurves() {
        const Geometry ring = made("polygon", {{"sides", 32}, {"radius", 1}});
        const Geometry half = made("plane_cut", {{"normal", {1, 0, 0}}, {"origin", {0.01, 0, 0}}}, {ring});
        QCOMPARE(half.curveCount(), std::size_t(1));
        QVERIFY(!half.topology().curveClosed(0));
        QVERIFY(near(curveLength(half, 0) + curveLength(made("plane_cut", {{"normal", {-1, 0, 0}}, {"origin", {0.01, 0, 0}}}, {ring}), 0), curveLength(ring, 0),
                     1e-4));
        // A wave that is cut along its middle falls into pieces.
        const Geometry wave = made("move_points", {{"by", {{"formula", "vec3(0.0, sin(position.x * 20.0 + 0.3), 0.0)"}}}},
                                   {made("line", {{"direction", {1, 0, 0}}, {"length", 2}, {"points", 400}})});
        const std::size_t up = made("plane_cut", {}, {wave}).curveCount(), down = made("plane_cut", {{"keep", "below"}}, {wave}).curveCount();
        QVERIFY(up >= 6 && down >= 6 && std::max(up, down) - std::min(up, down) <= 1);
    }

    void cutsThroughNestedRingsAreFilled() {
        // A tube in a tube: rings in rings, each with a hole; nothing is filled between them.
        const auto tube = [](double radius) {
            return made("thicken", {{"thickness", 0.1}},
                        {made("cylinder", {{"bottom", false}, {"top", false}, {"radius_bottom", radius}, {"radius_top", radius}, {"sides", 24}})});
        };
        const Geometry nested = combine({tube(1), tube(0.5)});
        const Geometry cut = made("plane_cut", {{"origin", {0, 0.5, 0}}}, {nested});
        const Checkup c = checkupOf(cut);
        QVERIFY(c.closed && c.consistentWinding);
        QVERIFY(near(signedVolume(cut), signedVolume(nested) / 2, 1e-4));
        double area = 0;
        for (std::size_t f = 0; f < cut.faceCount(); ++f)
            if ((*cut.values<std::uint8_t>(Element::face, "cut"))[f]) area += double(length(areaVector(cut.topology().face(f), cut.positions())));
        QVERIFY(near(area, signedVolume(nested), 1e-3));  // it is 1 m high
    }
};

QTEST_APPLESS_MAIN(TestModelling)
#include "test_modelling.moc"
