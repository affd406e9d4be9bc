// Sheets that are laid over solids: on them, as long as they were, bent by the edges in their way.
#include "geometry/NearestPlace.h"
#include "support/Run.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// A sheet in the plane y = 0 with its middle there.
Geometry sheetAt(Vec3 middle, double width, double depth, int cells = 12) {
    return made("transform", {{"move", {middle.x, middle.y, middle.z}}}, {made("grid", {{"size", {width, depth}}, {"cells", {cells, cells}}})});
}
Geometry laid(const Geometry& sheet, const Geometry& target, Json settings = Json::object()) {
    settings["form"] = "laid over";
    return madeOf("snap_to_surface", {{sheet}, {target}}, settings);
}
double farthest(const Geometry& g, const Geometry& from) {
    const NearestPlace places(from, NearestPlace::On::faces);
    double out = 0;
    for (Vec3 p : g.positions()) out = std::max(out, std::sqrt(double(places.find(p).squaredDistance)));
    return out;
}

/// 2 m wide, its top at y = 0 with the front edge at z = 0.
Geometry block() { return made("transform", {{"move", {0, -0.25, -0.5}}}, {made("box", {{"size", {2, 0.5, 1}}})}); }

}  // namespace

class TestLaying : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void aSheetBendsOverAnEdge() {
        const Geometry sheet = sheetAt({0.2f, 0.3f, -0.1f}, 0.8, 0.6), on = laid(sheet, block());
        QCOMPARE(on.topology().cornerPoint(), sheet.topology().cornerPoint());
        std::size_t bent = 0;
        for (Index p = 0; p < on.pointCount(); ++p) {
            const Vec3 was = sheet.positions()[p], is = on.positions()[p];
            const Vec3 wanted = was.z <= 0 ? Vec3{was.x, 0, was.z} : Vec3{was.x, -was.z, 0};
            QVERIFY2(double(length(is - wanted)) < 1e-5, qPrintable(QString("%1: %2 %3 %4").arg(p).arg(is.x).arg(is.y).arg(is.z)));
            bent += was.z > 1e-6f;
        }
        QVERIFY(bent > 20 && bent < on.pointCount() / 2);
    }

    void heightsAndTheOffsetStandOnTheSurface() {
        Geometry sheet = sheetAt({0, 0.3f, -0.1f}, 0.8, 0.6);
        std::vector<Vec3> at = sheet.positions();
        // Up here and down there, so that the middle stays.
        const std::size_t one = 3, other = 5;
        at[one].y += 0.05f, at[other].y -= 0.05f;
        sheet.setPositions(at);
        const Geometry on = laid(sheet, block(), {{"offset", 0.01}});
        for (Index p = 0; p < on.pointCount(); ++p) {
            const double high = 0.01 + (p == one ? 0.05 : p == other ? -0.05 : 0);
            const Vec3 is = on.positions()[p];
            QVERIFY(near(at[p].z <= 0 ? double(is.y) : double(is.z), high, 1e-5));
        }
    }

    /// However the sheet stands: its own up goes along the surface's normal, its sides are turned as little as possible.
    void aSheetThatStandsIsLaidToo() {
        const Geometry standing =
            made("transform", {{"rotate", {90, 0, 0}}, {"move", {0, -0.2, 0.3}}}, {made("grid", {{"size", {0.6, 0.3}}, {"cells", {6, 6}}})});
        const Geometry on = laid(standing, block());
        for (Index p = 0; p < on.pointCount(); ++p) {
            const Vec3 was = standing.positions()[p];
            QVERIFY(double(length(on.positions()[p] - Vec3{was.x, was.y, 0})) < 1e-5);
        }
        // Looking down it is turned over onto the top, and still lies on it with all its lengths.
        const Geometry over =
            laid(made("transform", {{"rotate", {180, 0, 0}}, {"move", {0, 0.1, -0.4}}}, {made("grid", {{"size", {0.6, 0.3}}, {"cells", {6, 6}}})}), block());
        QVERIFY(farthest(over, block()) < 1e-5 && near(surfaceArea(over), 0.18, 1e-5));
    }

    void onATubeItRollsUp() {
        const double radius = 0.5;
        const Geometry tube = made("cylinder", {{"radius_bottom", radius}, {"radius_top", radius}, {"height", 3}, {"sides", 720}});
        const Geometry sheet = made("transform", {{"rotate", {90, 0, 0}}, {"move", {0, 1.5, 0.6}}}, {made("grid", {{"size", {1.2, 0.8}}, {"cells", {12, 8}}})});
        const Geometry on = laid(sheet, tube);
        QVERIFY(farthest(on, tube) < 1e-5);
        for (Index p = 0; p < on.pointCount(); ++p) {
            const Vec3 was = sheet.positions()[p], is = on.positions()[p];
            const double angle = double(was.x) / radius;
            QVERIFY(near(is.x, radius * std::sin(angle), 2e-3) && near(is.z, radius * std::cos(angle), 2e-3) && near(is.y, was.y, 2e-3));
        }
    }

    void onABallAllStayAsFarFromTheMiddle() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 60}}), sheet = sheetAt({0, 1.5f, 0}, 1.2, 1.2);
        const Geometry on = laid(sheet, ball);
        QVERIFY(farthest(on, ball) < 1e-5);
        const Vec3 top = laid(sheetAt({0, 1.5f, 0}, 1.2, 1.2, 2), ball).positions()[4];
        for (Index p = 0; p < on.pointCount(); ++p) {
            const Vec3 was = sheet.positions()[p] - Vec3{0, 1.5f, 0}, is = on.positions()[p];
            const double arc = std::acos(std::clamp(double(dot(normalized(top), normalized(is))), -1.0, 1.0));
            QVERIFY2(near(arc, double(length(was)), 2e-3), qPrintable(QString("%1 %2").arg(arc).arg(double(length(was)))));
        }
    }

    void whereTheTargetEndsTheSheetEnds() {
        const Geometry small = made("grid", {{"size", {1, 1}}, {"cells", {4, 4}}}), sheet = sheetAt({0.4f, 0.2f, 0.1f}, 0.6, 0.4);
        const OperatorOutcome out = runPorts("snap_to_surface", {{sheet}, {small}}, {{"form", "laid over"}});
        QCOMPARE(lastCode(out), std::string("snap.beyond"));
        for (Index p = 0; p < sheet.pointCount(); ++p) {
            QVERIFY(out.geometry.positions()[p].x <= 0.5f + 1e-5f);
            if (sheet.positions()[p].x < 0.5f - 1e-5f)
                QVERIFY(double(length(out.geometry.positions()[p] - Vec3{sheet.positions()[p].x, 0, sheet.positions()[p].z})) < 1e-5);
        }
    }

    void badPlaces() {
        Geometry sheet = sheetAt({0, 0.3f, -0.1f}, 0.8, 0.6);
        std::vector<Vec3> at = sheet.positions();
        at[7].x = std::numeric_limits<float>::quiet_NaN();
        sheet.setPositions(at);
        const Geometry on = laid(sheet, block());
        for (Index p = 0; p < on.pointCount(); ++p) QCOMPARE(isFinite(on.positions()[p]), p != 7);
        QCOMPARE(lastCode(runPorts("snap_to_surface", {{sheetAt({0, 1, 0}, 1, 1)}, {sheet}}, {{"form", "laid over"}})), std::string("mesh.non_finite"));
        QCOMPARE(laid(Geometry(), block()).pointCount(), 0u);
    }
};

QTEST_GUILESS_MAIN(TestLaying)
#include "test_laying.moc"
