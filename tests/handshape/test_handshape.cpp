// Shaping by strokes of a hand: what each brush does, that nothing is folded or torn, and that a finer base keeps what was shaped.
#include "geometry/Digest.h"
#include "geometry/NearestPlace.h"
#include "geometry/SelfIntersections.h"
#include "parallel/Loops.h"
#include "support/Chance.h"
#include "support/Run.h"
#include "support/Sound.h"

using namespace seedloom;
using namespace seedloom::test;

namespace {

Json placeJson(Vec3 at, Vec3 normal) { return {at.x, at.y, at.z, normal.x, normal.y, normal.z}; }
Json strokeOf(const char* mode, const std::vector<std::pair<Vec3, Vec3>>& places, double radius = 0.3, double strength = 1, double soft = 0.5) {
    Json points = Json::array();
    for (const auto& [at, normal] : places) points.push_back(placeJson(at, normal));
    return {{"points", points}, {"radius", radius}, {"strength", strength}, {"soft", soft}, {"mode", mode}};
}
Geometry shaped(const Geometry& in, const Json& strokes, Json settings = Json::object()) {
    settings["strokes"] = strokes;
    return made("hand_shape", settings, {in});
}

constexpr Vec3 kUp{0, 1, 0};
Geometry sheet(int cells = 40) { return made("grid", {{"size", {2, 2}}, {"cells", {cells, cells}}}); }
Geometry ball(int frequency = 12) { return made("geodesic_sphere", {{"radius", 0.5}, {"frequency", frequency}}); }

/// By how much the surface is moved straight up over a place.
double heightAt(const Geometry& g, float x, float z) {
    double best = 1e9, out = 0;
    for (const Vec3 p : g.positions())
        if (const double d = std::hypot(double(p.x - x), double(p.z - z)); d < best) best = d, out = double(p.y);
    return out;
}
std::size_t crossings(const Geometry& g) { return crossingsOfAll(g).pairs; }

}  // namespace

class TestHandShape : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void grabTakesAlongWhatIsUnderIt() {
        const Geometry in = sheet(), out = shaped(in, Json::array({strokeOf("grab", {{{}, kUp}, {{0, 0.1f, 0.05f}, kUp}}, 0.3, 0.2)}));
        QCOMPARE(out.topology().cornerPoint(), in.topology().cornerPoint());
        for (Index p = 0; p < in.pointCount(); ++p) {
            const Vec3 was = in.positions()[p], is = out.positions()[p];
            const double d = double(length(was));
            if (d < 0.05) QVERIFY(double(length(is - (was + Vec3{0, 0.1f, 0.05f}))) < 1e-5);
            // What the brush comes over on its way goes along a little.
            if (d > 0.3 + 0.12) QVERIFY(is == was);
            if (d > 0.18 && d < 0.25) QVERIFY(double(is.y) > 0.005 && double(is.y) < 0.095);
        }
    }
    /// There and back again is where it was, but for what the steps leave.
    void grabGoesBack() {
        const Geometry in = ball();
        const Vec3 a{0, 0.5f, 0}, b{0.05f, 0.62f, 0};
        const Geometry there = shaped(in, Json::array({strokeOf("grab", {{a, kUp}, {b, kUp}})})),
                       back = shaped(in, Json::array({strokeOf("grab", {{a, kUp}, {b, kUp}}), strokeOf("grab", {{b, kUp}, {a, kUp}})}));
        double most = 0, left = 0;
        for (Index p = 0; p < in.pointCount(); ++p) {
            most = std::max(most, double(distance(in.positions()[p], there.positions()[p])));
            left = std::max(left, double(distance(in.positions()[p], back.positions()[p])));
        }
        QVERIFY(near(most, 0.13, 1e-4));
        QVERIFY2(left < 0.02, qPrintable(QString::number(left)));
    }

    void pushAndPullAreHalfTheRadiusDeep_data() {
        QTest::addColumn<QByteArray>("mode");
        QTest::addColumn<double>("strength");
        QTest::addColumn<double>("height");
        // The middle leaves the full pressure of the brush on its way: that begins to fall off at half of the radius.
        QTest::newRow("push") << QByteArray("push") << 1.0 << -0.15;
        QTest::newRow("pull") << QByteArray("pull") << 1.0 << 0.15;
        QTest::newRow("half") << QByteArray("pull") << 0.5 << 0.075;
    }
    void pushAndPullAreHalfTheRadiusDeep() {
        QFETCH(QByteArray, mode);
        QFETCH(double, strength);
        QFETCH(double, height);
        const Json once = strokeOf(mode.constData(), {{{-0.4f, 0, 0}, kUp}, {{0.4f, 0, 0}, kUp}}, 0.3, strength);
        const Geometry out = shaped(sheet(), Json::array({once}));
        QVERIFY2(near(heightAt(out, 0, 0), height, 0.002), qPrintable(QString::number(heightAt(out, 0, 0))));
        QVERIFY(near(heightAt(out, 0.4f, 0), height, 0.002));
        QVERIFY(near(heightAt(out, 0, 0.4f), 0, 1e-9) && near(heightAt(out, 0.9f, 0), 0, 1e-9));
        // However often a stroke passes, and however many places it has.
        const Json often = strokeOf(mode.constData(),
                                    {{{-0.4f, 0, 0}, kUp}, {{0.4f, 0, 0}, kUp}, {{-0.4f, 0, 0}, kUp}, {{0.1f, 0, 0}, kUp}, {{0.4f, 0, 0}, kUp}}, 0.3, strength);
        QVERIFY(near(heightAt(shaped(sheet(), Json::array({often})), 0, 0), height, 0.002));
        // A second stroke goes on.
        QVERIFY(std::abs(heightAt(shaped(sheet(), Json::array({once, once})), 0, 0)) > std::abs(height) * 1.2);
    }

    void flattenLaysOntoThePlaneOfTheStroke() {
        const Vec3 n = normalized(Vec3{1, 2, 1});
        const Geometry in = ball(24), out = shaped(in, Json::array({strokeOf("flatten", {{n * 0.45f, n}}, 0.3, 1, 0.2)}));
        std::size_t flat = 0;
        for (Index p = 0; p < in.pointCount(); ++p) {
            const Vec3 was = in.positions()[p];
            const double before = double(dot(was, n)) - 0.45, after = double(dot(out.positions()[p], n)) - 0.45;
            if (double(distance(was, n * 0.45f)) > 0.3001) QVERIFY(out.positions()[p] == was);
            if (double(distance(was, n * 0.45f)) > 0.2399) continue;
            QVERIFY(near(after, before * 0.03, 1e-5));
            flat += std::abs(before) > 0.005;
        }
        QVERIFY(flat > 30);
        verifySolid(out);
    }
    /// The far side of a plate stays, what stands over the plane comes down with both its sides.
    void flattenKeepsThickness() {
        const Geometry plate = made("box", {{"size", {1, 0.05, 1}}, {"cells", {30, 1, 30}}});
        Json strokes = Json::array({strokeOf("flatten", {{{0, 0.015f, 0}, kUp}}, 0.3)});
        const Geometry out = shaped(plate, strokes);
        for (const Vec3 p : out.positions())
            if (std::hypot(p.x, p.z) < 0.1f) QVERIFY(near(p.y, p.y > 0 ? 0.0153 : -0.025, 1e-5));
        QVERIFY(near(boundsOf(out).min.y, -0.025, 1e-6));
        verifySolid(out);
        QCOMPARE(crossings(out), std::size_t(0));
    }

    void pinchDrawsToTheLine() {
        const Geometry in = sheet(), out = shaped(in, Json::array({strokeOf("pinch", {{{-1, 0, 0}, kUp}, {{1, 0, 0}, kUp}}, 0.3)}));
        for (Index p = 0; p < in.pointCount(); ++p) {
            const Vec3 was = in.positions()[p], is = out.positions()[p];
            QVERIFY(near(is.y, 0, 1e-6) && near(is.x, was.x, 1e-5));
            QVERIFY(double(is.z) * double(was.z) >= 0);
            if (std::abs(was.z) < 0.14) QVERIFY(near(is.z, double(was.z) * 0.3, 1e-5));
            if (std::abs(was.z) >= 0.3) QVERIFY(is == was);
        }
        QCOMPARE(checkupOf(out).degenerateFaces, 0u);
    }

    void smoothIsTheSameForFinerMeshes() {
        // A bump, smoothed on three meshes.
        double heights[3];
        int i = 0;
        for (const int cells : {40, 80, 120}) {
            const Geometry bump = made("formula", {{"text", "position.y = 0.2 * exp(-dot(position.xz, position.xz) / 0.01);"}}, {sheet(cells)});
            heights[i++] = heightAt(shaped(bump, Json::array({strokeOf("smooth", {{{}, kUp}}, 0.5, 0.8, 0.3)})), 0, 0);
        }
        QVERIFY2(heights[0] < 0.1 && heights[0] > 0.02, qPrintable(QString::number(heights[0])));
        for (const double h : heights) QVERIFY2(near(h, heights[0], 0.012), qPrintable(QString::number(h)));
        const Geometry flat = shaped(sheet(), Json::array({strokeOf("smooth", {{{}, kUp}})}));
        for (const Vec3 p : flat.positions()) QVERIFY(near(p.y, 0, 1e-7));
    }

    /// Symmetric strokes keep what is symmetric, also where both brushes overlap.
    void mirrorsAreSymmetric_data() {
        QTest::addColumn<QByteArray>("mode");
        for (const char* mode : {"grab", "push", "pull", "flatten", "pinch", "smooth"}) QTest::newRow(mode) << QByteArray(mode);
    }
    void mirrorsAreSymmetric() {
        QFETCH(QByteArray, mode);
        const Vec3 at{0.1f, 0, 0.1f}, to{0.16f, 0.1f, 0.12f};
        Json stroke = strokeOf(mode.constData(), {{at, kUp}, {to, kUp}}, 0.4, 0.7);
        stroke["mirror"] = "xz";
        const Geometry in = made("noise_displace", {{"amount", 0.0}}, {sheet(20)}), out = shaped(in, Json::array({stroke}));
        const NearestPlace places(out, NearestPlace::On::points);
        std::size_t moved = 0;
        for (Index p = 0; p < out.pointCount(); ++p) {
            moved += !(out.positions()[p] == in.positions()[p]);
            for (const Vec3 sign : {Vec3{-1, 1, 1}, Vec3{1, 1, -1}, Vec3{-1, 1, -1}})
                QVERIFY(double(places.find(out.positions()[p] * sign).squaredDistance) < 1e-10);
        }
        if (mode != "smooth" && mode != "flatten") QVERIFY(moved > 30);
    }

    /// Strong strokes by chance over the whole range: what is closed stays so, and nothing crosses.
    void nothingFolds_data() {
        QTest::addColumn<int>("seed");
        for (int seed = 0; seed < 32; ++seed) QTest::addRow("%d", seed) << seed;
    }
    void nothingFolds() {
        QFETCH(int, seed);
        Chance chance(seed + 100);
        const bool thin = seed % 3 == 0;
        const Geometry in = thin ? made("thicken", {{"thickness", 0.04}}, {ball(20)}) : ball(24);
        const char* modes[] = {"grab", "push", "pull", "flatten", "pinch", "smooth"};
        Json strokes = Json::array();
        Geometry out = in;
        for (int i = 0; i < 6; ++i) {
            const Vec3 n = normalized(chance.place()), side = normalized(cross(n, Vec3{0.3f, 0.8f, -0.5f}));
            const NearestPlace surface(out, NearestPlace::On::faces);
            const auto on = [&](Vec3 direction) { return std::pair{surface.find(direction * 0.6f).position, direction}; };
            const char* mode = modes[(seed + i) % 6];
            const Vec3 to = normalized(n + side * 0.5f);
            Json stroke =
                std::string_view(mode) == "grab"
                    ? strokeOf(mode, {on(n), {on(n).first + chance.place(0.3f), n}}, chance.number(0.15f, 0.4f), 1, chance.number(0.3f, 1))
                    : strokeOf(mode, {on(n), on(normalized(n + to)), on(to)}, chance.number(0.15f, 0.4f), chance.number(0.3f, 1), chance.number(0.3f, 1));
            if (chance.below(3) == 0) stroke["mirror"] = "x";
            strokes.push_back(stroke);
            out = shaped(in, strokes);
        }
        const Checkup c = checkupOf(out);
        QVERIFY(c.closed && c.manifold && c.consistentWinding && c.volume > 0);
        if (crossings(out) == 0) return;
        // Faces of a thin wall that are large beside the brush: that is told, with how much of it is sound.
        const OperatorOutcome told = runOp("hand_shape", {{"strokes", strokes}}, {in});
        QCOMPARE(lastCode(told), std::string("hand_shape.crosses"));
        QVERIFY2(told.notices.back().fixes.size() == 1, told.notices.back().text.c_str());
        const double amount = told.notices.back().fixes[0].value.get<double>();
        QVERIFY(amount > 0.1 && crossings(shaped(in, strokes, {{"amount", amount}})) == 0);
    }

    void amountFadesAll() {
        const Json strokes = Json::array({strokeOf("pull", {{{}, kUp}}), strokeOf("grab", {{{0.5f, 0, 0.5f}, kUp}, {{0.6f, 0.2f, 0.5f}, kUp}})});
        const Geometry in = sheet();
        QVERIFY(shaped(in, strokes, {{"amount", 0}}).positions() == in.positions());
        const double half = heightAt(shaped(in, strokes, {{"amount", 0.5}}), 0, 0), whole = heightAt(shaped(in, strokes), 0, 0);
        QVERIFY(near(half, whole / 2, 0.003) && whole > 0.1);
        const Geometry masked = shaped(in, strokes, {{"where", {{"formula", "position.x < 0 ? 1 : 0"}}}});
        for (Index p = 0; p < in.pointCount(); ++p)
            if (in.positions()[p].x > 0) QVERIFY(masked.positions()[p] == in.positions()[p]);
        QVERIFY(heightAt(masked, -0.1f, 0) > 0.1);
    }

    void hiddenStrokesTakeNoPart() {
        Json one = strokeOf("pull", {{{}, kUp}}), other = strokeOf("push", {{{0.5f, 0, 0}, kUp}});
        const Geometry both = shaped(sheet(), Json::array({one, other}));
        other["hidden"] = true;
        const Geometry out = shaped(sheet(), Json::array({one, other}));
        QVERIFY(out.positions() == shaped(sheet(), Json::array({one})).positions() && !(out.positions() == both.positions()));
        one["hidden"] = true;
        QVERIFY(shaped(sheet(), Json::array({one, other})).positions() == sheet().positions());
    }

    /// A finer base gets the same shape.
    void finerBasesKeepTheShape() {
        const Json strokes = Json::array({strokeOf("pull", {{{-0.3f, 0, 0}, kUp}, {{0.3f, 0, 0.2f}, kUp}}), strokeOf("flatten", {{{0.3f, 0.05f, 0}, kUp}}),
                                          strokeOf("grab", {{{0, 0, -0.5f}, kUp}, {{0.1f, 0.2f, -0.6f}, kUp}})});
        const Geometry coarse = shaped(sheet(50), strokes), fine = shaped(sheet(150), strokes);
        for (const auto& [x, z] : {std::pair{0.0f, 0.08f}, {-0.28f, 0.0f}, {0.28f, 0.2f}, {0.8f, 0.8f}})
            QVERIFY(near(heightAt(coarse, x, z), heightAt(fine, x, z), 0.02));
        const NearestPlace on(fine, NearestPlace::On::faces);
        for (const Vec3 p : coarse.positions()) QVERIFY(double(on.find(p).squaredDistance) < 4e-4);
    }

    void sameForAnyThreads() {
        const Json strokes = Json::array(
            {strokeOf("smooth", {{{0, 0.5f, 0}, kUp}}), strokeOf("pull", {{{0.5f, 0, 0}, {1, 0, 0}}}), strokeOf("pinch", {{{0.5f, 0, 0}, {1, 0, 0}}})});
        const std::string whole = digestOf(shaped(ball(24), strokes)).hex();
        const SmallChunks small(7);
        QCOMPARE(digestOf(shaped(ball(24), strokes)).hex(), whole);
    }

    void curvesCanBeShaped() {
        const Geometry line = made("line", {{"direction", {1, 0, 0}}, {"length", 2}, {"anchor", "middle"}, {"points", 51}});
        const Geometry out = shaped(line, Json::array({strokeOf("grab", {{{}, kUp}, {{0, 0.2f, 0}, kUp}})}));
        QVERIFY(near(boundsOf(out).max.y, 0.2, 1e-4));
    }

    void badStrokesAreTold_data() {
        QTest::addColumn<QByteArray>("strokes");
        QTest::addColumn<QByteArray>("code");
        QTest::newRow("no list") << QByteArray(R"("all")") << QByteArray("setting.type");
        QTest::newRow("a number") << QByteArray("[3]") << QByteArray("setting.type");
        QTest::newRow("no points") << QByteArray(R"([{"radius": 1}])") << QByteArray("setting.type");
        QTest::newRow("unknown brush") << QByteArray(R"([{"points": [[0,0,0,0,1,0]], "mode": "melt"}])") << QByteArray("setting.type");
        QTest::newRow("text in a point") << QByteArray(R"([{"points": [[0,0,"a"]]}])") << QByteArray("setting.type");
        QTest::newRow("two numbers") << QByteArray(R"([{"points": [[0,0]]}])") << QByteArray("setting.type");
        QTest::newRow("radius in words") << QByteArray(R"([{"points": [[0,0,0]], "radius": "wide"}])") << QByteArray("setting.type");
        QTest::newRow("push without normals") << QByteArray(R"([{"points": [[0,0,0]], "mode": "push"}])") << QByteArray("hand_shape.normals");
        QTest::newRow("nothing under it") << QByteArray(R"([{"points": [[9,0,0,0,1,0]], "mode": "push"}])") << QByteArray("hand_shape.idle");
        QTest::newRow("between the points") << QByteArray(R"([{"points": [[0.01,0,0.02,0,1,0]], "mode": "pull", "radius": 0.001}])")
                                            << QByteArray("hand_shape.idle");
    }
    void badStrokesAreTold() {
        QFETCH(QByteArray, strokes);
        QFETCH(QByteArray, code);
        const OperatorOutcome out = runOp("hand_shape", {{"strokes", Json::parse(strokes.toStdString())}}, {sheet()});
        QCOMPARE(QByteArray::fromStdString(lastCode(out)), code);
        QVERIFY(out.geometry.positions() == sheet().positions());
    }
    /// Huge and empty ones neither crash nor leave places that are no numbers.
    void hostileStrokes() {
        const Json wild = Json::parse(R"([{"points": []}, {"points": [[0,0,0,0,0,0]], "mode": "push"}, {"points": [[0,0,0,0,0,0]], "mode": "flatten"},
            {"points": [[0,0,0,0,1,0],[1e30,1e30,0,0,1,0]], "radius": 0.2}, {"points": [[0,0,0,0,1,0],[3e8,0,0,0,1,0]], "radius": 1e9, "soft": 0},
            {"points": [[0,0,0,0,1,0]], "radius": 1e9, "strength": 7, "mode": "smooth"},
            {"points": [[0,0,0,0,1,0]], "mode": "pinch", "soft": 0, "mirror": "xyzxyz"}])");
        for (const Geometry& in : {sheet(), ball(4), Geometry(), made("line")}) {
            const Geometry out = runOp("hand_shape", {{"strokes", wild}}, {in}).geometry;
            QCOMPARE(out.pointCount(), in.pointCount());
            for (const Vec3 p : out.positions()) QVERIFY(isFinite(p));
        }
        std::vector<Vec3> at = sheet().positions();
        at[5].y = std::numeric_limits<float>::quiet_NaN();
        Geometry holed = sheet();
        holed.setPositions(at);
        const Geometry out = shaped(holed, Json::array({strokeOf("smooth", {{{}, kUp}}, 2), strokeOf("pull", {{{}, kUp}}, 2)}));
        QCOMPARE(std::count_if(out.positions().begin(), out.positions().end(), [](Vec3 p) { return !isFinite(p); }), 1);
    }
};

QTEST_GUILESS_MAIN(TestHandShape)
#include "test_handshape.moc"
