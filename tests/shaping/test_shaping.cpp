// Extruding, bevelling and sweeping in numbers: areas, volumes and places that can be reckoned by hand.
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "operators/curve/SweepKernel.h"
#include "operators/surface/BevelKernel.h"
#include "support/Chance.h"
#include "support/Sound.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// Without the tags of its sides, so that those that operators make are the only ones.
Geometry cube() {
    Geometry out = made("box", {{"size", {1, 1, 1}}, {"anchor", "middle"}});
    for (const char* tag : {"front", "back", "left", "right", "top", "bottom"}) out.removeColumn(Element::face, tag);
    return out;
}
Geometry lineOf(const Json& points, const char* join = "open curve") { return made("point_list", {{"points", points}, {"join", join}}); }
const Json kUpward{{"formula", "normal.y > 0.5"}};

Geometry swept(const Geometry& path, const Geometry& profile, Json settings = Json::object()) {
    settings["form"] = "profile";
    return madeOf("sweep", {{path}, {profile}}, settings);
}
/// A rectangle upright around the path.
Geometry rectangle(double width, double height) {
    return lineOf({{-width / 2, -height / 2, 0}, {width / 2, -height / 2, 0}, {width / 2, height / 2, 0}, {-width / 2, height / 2, 0}}, "closed curve");
}

double areaOf(const Geometry& g, const char* tag) {
    const auto* tagged = g.values<std::uint8_t>(Element::face, tag);
    double sum = 0;
    for (std::size_t f = 0; tagged && f < g.faceCount(); ++f)
        if ((*tagged)[f]) sum += double(length(areaVector(g.topology().face(f), g.positions())));
    return sum;
}

}  // namespace

class TestShaping : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // Extruding faces

    void aTowerOnACube_data() {
        QTest::addColumn<double>("distance");
        QTest::addColumn<double>("inset");
        QTest::addColumn<int>("divisions");
        for (double distance : {0.3, 1.0, -0.4})
            for (double inset : {0.0, 0.1, 0.25})
                for (int divisions : {1, 3}) QTest::addRow("%g %g %d", distance, inset, divisions) << distance << inset << divisions;
    }
    void aTowerOnACube() {
        QFETCH(double, distance);
        QFETCH(double, inset);
        QFETCH(int, divisions);
        const Geometry g = made("extrude", {{"distance", distance}, {"inset", inset}, {"divisions", divisions}, {"where", kUpward}}, {cube()});
        verifySolid(g);
        // A cut-off pyramid on the cube, or out of it.
        const double top = 1 - 2 * inset, middle = 1 - inset, volume = distance * (1 + 4 * middle * middle + top * top) / 6;
        QVERIFY2(near(signedVolume(g), 1 + volume, 1e-5), qPrintable(QString::number(signedVolume(g))));
        QCOMPARE(tagged(g, "front"), std::size_t(1));
        QCOMPARE(tagged(g, "side"), std::size_t(4 * divisions));
        QVERIFY(near(areaOf(g, "front"), top * top, 1e-5));
        QVERIFY(near(areaOf(g, "side"), 4 * (1 + top) / 2 * std::hypot(distance, inset), 1e-5));
        QCOMPARE(g.pointCount(), std::size_t(8 + 4 * divisions));
        QCOMPARE(euler(g), 2L);
    }
    void facesAloneAndTogether() {
        const Geometry plate = made("grid", {{"size", {3, 1}}, {"cells", {3, 1}}});
        const Geometry together = made("extrude", {{"distance", 0.5}, {"keep_back", true}}, {plate}),
                       alone = made("extrude", {{"of", "each face"}, {"distance", 0.5}, {"keep_back", true}}, {plate});
        verifySolid(together);
        QVERIFY2(near(signedVolume(together), 1.5, 1e-5) && near(signedVolume(alone), 1.5, 1e-5),
                 qPrintable(QStringLiteral("%1 %2").arg(signedVolume(together)).arg(signedVolume(alone))));
        QCOMPARE(tagged(together, "side"), std::size_t(8));
        QCOMPARE(tagged(alone, "side"), std::size_t(12));
        // Each has walls of its own; the back stays one sheet.
        QCOMPARE(alone.faceCount(), std::size_t(3 + 12 + 3));
        QCOMPARE(together.topology().connection().pieces, Index(1));
    }
    /// The distance holds for each face of a region, also where they lean against each other.
    void aFoldedRegionKeepsItsDistance() {
        const Geometry ridge = made("move_points", {{"by", {{"formula", "vec3(0, abs(position.x) < 0.01 ? 0.5 : 0.0, 0)"}}}},
                                    {made("grid", {{"size", {2, 1}}, {"cells", {2, 1}}})});
        const Geometry g = made("extrude", {{"distance", 0.2}}, {ridge});
        const NearestPlace below(ridge, NearestPlace::On::faces);
        const auto& front = *g.values<std::uint8_t>(Element::face, "front");
        const auto normals = faceNormals(ridge);
        for (Index f = 0; f < g.faceCount(); ++f) {
            if (!front[f]) continue;
            for (Index p : g.topology().face(f)) {
                float nearest = 9;
                for (Index k = 0; k < ridge.faceCount(); ++k)
                    nearest = std::min(nearest, std::abs(dot(g.positions()[p] - ridge.positions()[ridge.topology().face(k)[0]], normals[k]) - 0.2f));
                QVERIFY2(nearest < 1e-5f, qPrintable(QString::number(double(nearest))));
            }
        }
        QVERIFY(boundsOf(g.positions()).max.y > 0.7f);
    }
    void distancesMayDifferAndDirectionsBeFixed() {
        const Geometry steps = made("extrude", {{"of", "each face"}, {"distance", {{"formula", "0.1 + 0.2 * float(index)"}}}},
                                    {made("grid", {{"size", {3, 1}}, {"cells", {3, 1}}})});
        const auto& front = *steps.values<std::uint8_t>(Element::face, "front");
        std::vector<double> heights;
        for (Index f = 0; f < steps.faceCount(); ++f)
            if (front[f]) heights.push_back(double(steps.positions()[steps.topology().face(f)[0]].y));
        std::sort(heights.begin(), heights.end());
        QCOMPARE(heights.size(), std::size_t(3));
        for (std::size_t i = 0; i < 3; ++i) QVERIFY(near(heights[i], 0.1 + 0.2 * double(i), 1e-6));
        const Geometry slanted = made("extrude", {{"direction", "fixed"}, {"axis", {3, 4, 0}}, {"distance", 0.5}, {"where", kUpward}}, {cube()});
        QVERIFY(near(signedVolume(slanted), 1 + 0.5 * 0.8, 1e-5));
        QVERIFY(near(double(boundsOf(slanted.positions()).max.x), 0.5 + 0.3, 1e-5));
    }
    void tooLargeAnInsetIsHeld() {
        const OperatorOutcome out = runOp("extrude", {{"distance", 0.2}, {"inset", 3}, {"where", kUpward}}, {cube()});
        QVERIFY(!out.failed && !out.notices.empty());
        QVERIFY(out.notices.front().level != NoticeLevel::error);
        for (Vec3 p : out.geometry.positions()) QVERIFY(isFinite(p) && std::abs(p.x) <= 0.5001f && std::abs(p.z) <= 0.5001f);
        QVERIFY(signedVolume(out.geometry) >= 1);
    }

    // Extruding edges and curves

    void wallsOfCurves() {
        const Geometry square = lineOf({{0, 0, 0}, {2, 0, 0}, {2, 0, 1}, {0, 0, 1}}, "closed curve");
        for (int divisions : {1, 4}) {
            const Geometry wall = made("extrude", {{"of", "curves"}, {"distance", 3}, {"divisions", divisions}}, {square});
            QVERIFY(near(surfaceArea(wall), 6 * 3, 1e-5));
            QCOMPARE(wall.faceCount(), std::size_t(4 * divisions));
            QVERIFY(near(double(boundsOf(wall.positions()).size().y), 3, 1e-6));
        }
        const Geometry block = made("extrude", {{"of", "curves"}, {"distance", 3}, {"keep_back", true}}, {square});
        const Checkup facts = checkupOf(block);
        QVERIFY(facts.closed && facts.consistentWinding && near(std::abs(facts.volume), 6, 1e-5));
    }
    void rimsOfOpenEdges() {
        const Geometry sheet = made("grid", {{"size", {2, 2}}, {"cells", {4, 4}}});
        const Geometry wider = made("extrude", {{"of", "edges"}, {"distance", 0.5}}, {sheet});
        QCOMPARE(wider.faceCount(), std::size_t(16 + 16));
        QVERIFY(checkupOf(wider).consistentWinding);
        QVERIFY(surfaceArea(wider) > surfaceArea(sheet) + 3.9);
    }

    // Bevelling

    /// One straight cut along an edge of a block takes away a prism; many of them, the round, less.
    void bevelledEdgesInNumbers_data() {
        QTest::addColumn<int>("segments");
        for (int n : {1, 2, 3, 6, 12}) QTest::addRow("%d", n) << n;
    }
    void bevelledEdgesInNumbers() {
        QFETCH(int, segments);
        const double width = 0.2;
        const Geometry g = made("bevel", {{"width", width}, {"segments", segments}, {"where", {{"formula", "position.x > 0 && position.y > 0"}}}}, {cube()});
        verifySolid(g);
        QCOMPARE(tagged(g, "bevel"), std::size_t(segments));
        // The corner square less the fan of triangles under the arc.
        const double fan = segments * std::sin(kPi / 2 / segments) * width * width / 2, taken = segments == 1 ? width * width / 2 : width * width - fan;
        QVERIFY2(near(signedVolume(g), 1 - taken, 1e-4), qPrintable(QString::number(signedVolume(g))));
        // The other edges are where they were.
        const Bounds bounds = boundsOf(g.positions());
        QVERIFY(length(bounds.min - Vec3{-0.5f, -0.5f, -0.5f}) < 1e-6f && length(bounds.max - Vec3{0.5f, 0.5f, 0.5f}) < 1e-6f);
    }
    void cutCornersInNumbers() {
        const Geometry g = made("bevel", {{"of", "points"}, {"width", 0.25}}, {cube()});
        verifySolid(g);
        QCOMPARE(tagged(g, "bevel"), std::size_t(8));
        QCOMPARE(g.faceCount(), std::size_t(14));
        QCOMPARE(euler(g), 2L);
        // All eight are alike: the solid is its own mirror image.
        double sums[3] = {};
        for (Vec3 p : g.positions())
            for (int c = 0; c < 3; ++c) sums[c] += double(p[c]);
        for (double sum : sums) QVERIFY(near(sum, 0, 1e-5));
        QVERIFY(signedVolume(g) < 1 && signedVolume(g) > 0.8);
    }
    void everySolidCanBeBevelled_data() {
        QTest::addColumn<QString>("kind");
        for (const char* kind : {"tetrahedron", "cube", "octahedron", "dodecahedron", "icosahedron", "truncated icosahedron", "cuboctahedron",
                                 "truncated octahedron", "icosidodecahedron", "rhombicuboctahedron"})
            QTest::newRow(kind) << kind;
    }
    void everySolidCanBeBevelled() {
        QFETCH(QString, kind);
        const Geometry solid = made("solid", {{"kind", qPrintable(kind)}, {"radius", 1}});
        const std::size_t edges = solid.topology().edges().edges.size();
        for (int segments : {1, 4}) {
            const Geometry g = made("bevel", {{"width", 0.03}, {"segments", segments}, {"angle_over", 5}}, {solid});
            verifySolid(g);
            QCOMPARE(euler(g), 2L);
            QVERIFY(signedVolume(g) < signedVolume(solid) && signedVolume(g) > signedVolume(solid) * 0.9);
            // Old faces stay in their planes; a strip lies along every edge.
            QVERIFY(tagged(g, "bevel") >= edges * std::size_t(segments));
            QVERIFY(g.faceCount() - tagged(g, "bevel") == solid.faceCount());
            const NearestPlace skin(solid, NearestPlace::On::faces);
            for (Vec3 p : g.positions()) QVERIFY(skin.find(p).squaredDistance < 0.03f * 0.03f);
        }
    }
    void twinsRunAgainstEachOther() {
        const Geometry ball = made("geodesic_sphere", {{"form", "panels"}, {"frequency", 2}});
        const auto twins = twinCorners(ball.topology());
        const auto& t = ball.topology();
        const auto ends = [&](Index c) {
            const Index f = t.faceOfCorner()[c], begin = t.faceStart()[f], end = t.faceStart()[f + 1];
            return std::pair(t.cornerPoint()[c], t.cornerPoint()[c + 1 == end ? begin : c + 1]);
        };
        for (Index c = 0; c < twins.size(); ++c) {
            QVERIFY(twins[c] != ~0u);
            QCOMPARE(twins[twins[c]], c);
            QCOMPARE(ends(twins[c]).first, ends(c).second);
            QCOMPARE(ends(twins[c]).second, ends(c).first);
        }
        const auto open = twinCorners(made("grid", {{"cells", {1, 1}}}).topology());
        QVERIFY(std::all_of(open.begin(), open.end(), [](Index c) { return c == ~0u; }));
    }

    // Sweeping

    void straightBeams() {
        const Geometry beam = swept(made("line", {{"direction", {1, 0, 0}}, {"length", 4}, {"points", 5}}), rectangle(0.4, 0.2));
        verifySolid(beam);
        QVERIFY(near(signedVolume(beam), 4 * 0.08, 1e-5));
        QVERIFY(length(boundsOf(beam.positions()).size() - Vec3{4, 0.2f, 0.4f}) < 1e-5f);
        QCOMPARE(tagged(beam, "cap"), std::size_t(2));
        QCOMPARE(tagged(beam, "side"), std::size_t(16));
        const Geometry open = swept(made("line", {{"direction", {1, 0, 0}}, {"length", 4}, {"points", 5}}), rectangle(0.4, 0.2), {{"caps", false}});
        QCOMPARE(checkupOf(open).openEdges, std::size_t(8));
    }
    /// At a mitred corner straight parts keep their width, so the volume is the middle line's length times the section.
    void mitredCornersKeepTheSection() {
        for (const Json& points : {Json{{0, 0, 0}, {3, 0, 0}, {3, 0, 3}}, Json{{0, 0, 0}, {3, 0, 0}, {4.5, 0, 2}, {4.5, 0, 6}}}) {
            const Geometry path = lineOf(points), beam = swept(path, rectangle(0.3, 0.2));
            verifySolid(beam);
            QVERIFY2(near(signedVolume(beam), curveLength(path, 0) * 0.06, 1e-4), qPrintable(QString::number(signedVolume(beam))));
        }
        const Geometry frame = swept(lineOf({{0, 0, 0}, {3, 0, 0}, {3, 0, 2}, {0, 0, 2}}, "closed curve"), rectangle(0.3, 0.2));
        verifySolid(frame);
        QVERIFY(near(signedVolume(frame), 10 * 0.06, 1e-4));
        QCOMPARE(euler(frame), 0L);
    }
    void ringsAreTori() {
        const Geometry ring = made("sweep", {{"form", "tube"}, {"width", 0.4}, {"columns", 48}}, {made("polygon", {{"sides", 256}, {"radius", 1}})});
        verifySolid(ring);
        QCOMPARE(euler(ring), 0L);
        QVERIFY2(near(signedVolume(ring), 2 * kPi * kPi * 0.04, 0.005), qPrintable(QString::number(signedVolume(ring))));
        for (Vec3 p : ring.positions()) QVERIFY(near(double(std::hypot(std::hypot(p.x, p.z) - 1, p.y)), 0.2, 2e-3));
    }
    void scalesAndTwistsFollowThePath() {
        const Geometry line = made("line", {{"direction", {0, 1, 0}}, {"length", 2}, {"points", 41}});
        const Geometry cone = made(
            "sweep",
            {{"form", "tube"}, {"width", 1}, {"columns", 64}, {"scale", {{"ramp", {{"over", "along"}, {"range", {0, 1}}, {"knots", {{0, 1}, {1, 0.5}}}}}}}},
            {line});
        verifySolid(cone);
        QVERIFY(near(signedVolume(cone), kPi * 2 / 3 * (0.25 + 0.125 + 0.0625), 5e-3));
        // A twisted square keeps its volume, but for the diagonals of its twisted sides, and turns as far as asked.
        const Geometry twisted = swept(line, rectangle(1, 1), {{"twist", {{"formula", "along * 90.0"}}}});
        verifySolid(twisted);
        QVERIFY2(near(signedVolume(twisted), 2, 0.04), qPrintable(QString::number(signedVolume(twisted))));
        const auto plainTop = swept(line, rectangle(1, 1));
        const auto topOf = [](const Geometry& g) {
            std::vector<Vec3> out;
            for (Vec3 p : g.positions())
                if (p.y > 1.9999f + boundsOf(g.positions()).min.y) out.push_back(p);
            return out;
        };
        // A square turned by a quarter stands on itself.
        for (Vec3 p : topOf(twisted)) {
            float nearest = 9;
            for (Vec3 q : topOf(plainTop)) nearest = std::min(nearest, distance(p, q));
            QVERIFY(nearest < 1e-4f);
        }
    }
    void ribbonsLieAsWideAsAsked() {
        const Geometry path = made("resample", {{"mode", "count"}, {"count", 60}}, {made("spiral", {{"turns", 1}, {"radius", 2}, {"rise", 0}})});
        const Geometry ribbon = made("sweep", {{"form", "ribbon"}, {"width", 0.3}, {"columns", 2}}, {path});
        QCOMPARE(ribbon.faceCount(), std::size_t(2 * 59));
        QVERIFY(near(surfaceArea(ribbon), curveLength(path, 0) * 0.3, 0.02));
        for (Vec3 n : faceNormals(ribbon)) QVERIFY(n.y > 0.99f);
        QVERIFY(checkupOf(ribbon).consistentWinding);
    }
    void profilesAreReadFromTheirPlane() {
        const auto upright = profilesOf(rectangle(2, 1));
        QCOMPARE(upright.size(), std::size_t(1));
        QVERIFY(upright[0].closed);
        const auto area = [](const SweepProfile& p) {
            double sum = 0;
            for (std::size_t i = 0; i < p.places.size(); ++i) {
                const Vec2 a = p.places[i], b = p.places[(i + 1) % p.places.size()];
                sum += double(a.x) * double(b.y) - double(b.x) * double(a.y);
            }
            return sum / 2;
        };
        QVERIFY(near(std::abs(area(upright[0])), 2, 1e-6));
        const auto lying = profilesOf(made("polygon", {{"sides", 64}, {"radius", 1}}));
        QVERIFY(near(area(lying[0]), kPi, 0.01));  // anticlockwise
        const SweepProfile circle = roundProfile(6);
        QCOMPARE(circle.places.size(), std::size_t(6));
        for (Vec2 p : circle.places) QVERIFY(near(double(std::hypot(p.x, p.y)), 0.5, 1e-6));
        const SweepProfile ribbon = ribbonProfile(4);
        QVERIFY(!ribbon.closed && ribbon.places.size() == 5);
        QVERIFY(near(double(std::abs(ribbon.places.front().x - ribbon.places.back().x)), 1, 1e-6));
    }

    // Rods

    void rodsOfAFrameInNumbers() {
        const Geometry wire = made("edge_rods", {{"radius", 0.05}, {"sides", 16}, {"balls", false}, {"welded", false}}, {cube()});
        QCOMPARE(wire.topology().connection().pieces, Index(12));
        const double section = 16 * std::sin(2 * kPi / 16) / 2 * 0.0025;
        QVERIFY2(near(signedVolume(wire), 12 * section, 12 * section * 0.02), qPrintable(QString::number(signedVolume(wire) / section)));
        const Geometry welded = made("edge_rods", {{"radius", 0.05}, {"sides", 8}, {"welded", true}}, {cube()});
        verifySolid(welded);
        QCOMPARE(welded.topology().connection().pieces, Index(1));
        QCOMPARE(euler(welded), 2L - 2 * 5);  // a cube's frame has five holes
    }
};

QTEST_APPLESS_MAIN(TestShaping)
#include "test_shaping.moc"
