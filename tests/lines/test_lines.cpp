// Curves in numbers: lengths, distances and turns that each curve operator promises; letters, drawn lines and what is plugged in.
#include "files/FileIo.h"
#include "geometry/Digest.h"
#include "geometry/Rows.h"
#include "operators/curve/Chains.h"
#include "support/Sound.h"

#include <QtCore/QTemporaryDir>

#include <cmath>
#include <map>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

double lengthOf(const Geometry& g) {
    double out = 0;
    for (std::size_t c = 0; c < g.curveCount(); ++c) out += curveLength(g, c);
    return out;
}

Vec3 at(const Geometry& g, std::size_t curve, std::size_t i) {
    const auto points = g.topology().curve(curve);
    return g.positions()[points[i % points.size()]];
}

/// The area of a closed curve seen from above (x to the right, −z up): positive where it runs anticlockwise.
double areaAbove(const Geometry& g, std::size_t curve) {
    double out = 0;
    const std::size_t n = g.topology().curve(curve).size();
    for (std::size_t i = 0; i < n; ++i) {
        const Vec3 a = at(g, curve, i), b = at(g, curve, i + 1);
        out += (double(a.z) * b.x - double(a.x) * b.z) / 2;
    }
    return out;
}

double distanceToSegment(Vec3 p, Vec3 a, Vec3 b) {
    const Vec3 d = b - a;
    const float t = std::clamp(dot(p - a, d) / std::max(dot(d, d), 1e-20f), 0.0f, 1.0f);
    return double(length(p - (a + d * t)));
}
double distanceToCurve(const Geometry& g, Vec3 p) {
    double best = 1e9;
    for (std::size_t c = 0; c < g.curveCount(); ++c) {
        const std::size_t n = g.topology().curve(c).size();
        for (std::size_t i = 0; i + 1 < n + g.topology().curveClosed(c); ++i) best = std::min(best, distanceToSegment(p, at(g, c, i), at(g, c, i + 1)));
    }
    return best;
}

Geometry zigzag() { return made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {2.5, 0, 1}, {2.5, 0, 3}}}, {"join", "open curve"}}); }
Geometry square(double side = 2) {
    const double h = side / 2;
    return made("point_list", {{"points", {{-h, 0, h}, {h, 0, h}, {h, 0, -h}, {-h, 0, -h}}}, {"join", "closed curve"}});
}
Geometry circle(double radius, int sides = 256) { return made("polygon", {{"sides", sides}, {"radius", radius}}); }

}  // namespace

class TestLines : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // ---- resample

    void evenPointsLieOnTheCurveAtEvenDistances_data() {
        QTest::addColumn<int>("count");
        for (int count : {2, 3, 10, 77, 1000}) QTest::addRow("%d", count) << count;
    }
    void evenPointsLieOnTheCurveAtEvenDistances() {
        QFETCH(int, count);
        const Geometry in = zigzag(), out = made("resample", {{"count", count}}, {in});
        QCOMPARE(out.pointCount(), std::size_t(count));
        const auto& along = *out.values<float>(Element::point, "along");
        for (int i = 0; i < count; ++i) {
            QVERIFY(distanceToCurve(in, at(out, 0, std::size_t(i))) < 1e-5);
            QVERIFY(near(along[std::size_t(i)], double(i) / (count - 1), 1e-5));
        }
        QCOMPARE(at(out, 0, 0), at(in, 0, 0));
        QCOMPARE(at(out, 0, std::size_t(count) - 1), at(in, 0, 4));
        // On straight stretches neighbours are a step apart.
        const double step = lengthOf(in) / (count - 1);
        for (int i = 0; i + 1 < count; ++i) QVERIFY(double(length(at(out, 0, std::size_t(i) + 1) - at(out, 0, std::size_t(i)))) < step + 1e-4);
    }

    void spacingIsNearTheWantedAndCornersStay() {
        const Geometry out = made("resample", {{"mode", "spacing"}, {"spacing", 0.2}, {"keep_corners", true}}, {zigzag()});
        std::set<std::array<float, 3>> places;
        for (Vec3 p : out.positions()) places.insert({p.x, p.y, p.z});
        const Geometry in = zigzag();
        for (Vec3 corner : in.positions()) QVERIFY(places.count({corner.x, corner.y, corner.z}));
        for (std::size_t i = 0; i + 1 < out.pointCount(); ++i) {
            const double gap = double(length(at(out, 0, i + 1) - at(out, 0, i)));
            QVERIFY(gap > 0.13 && gap < 0.3);
        }
        QVERIFY(near(lengthOf(out), lengthOf(zigzag()), 1e-5));
    }

    void closedCurvesStayClosedAndGetTheirCount() {
        for (int count : {3, 8, 100}) {
            const Geometry out = made("resample", {{"count", count}}, {square()});
            QVERIFY(out.topology().curveClosed(0));
            QCOMPARE(out.pointCount(), std::size_t(count));
        }
        QVERIFY(near(lengthOf(made("resample", {{"count", 400}}, {square()})), 8, 0.02));
    }

    void smoothPointsPassThroughTheOldOnes() {
        const Geometry out = made("resample", {{"count", 401}, {"form", "smooth"}}, {zigzag()});
        const Geometry in = zigzag();
        for (Vec3 p : in.positions()) QVERIFY(distanceToCurve(out, p) < 0.02);
        // No turn is sharp any more.
        for (std::size_t i = 1; i + 1 < out.pointCount(); ++i) {
            const Vec3 before = normalized(at(out, 0, i) - at(out, 0, i - 1)), after = normalized(at(out, 0, i + 1) - at(out, 0, i));
            QVERIFY(dot(before, after) > 0.85f);
        }
    }

    // ---- offset

    void offsetCirclesAreCircles_data() {
        QTest::addColumn<double>("by");
        for (double by : {-0.5, -0.1, 0.0, 0.25, 2.0}) QTest::addRow("%g", by) << by;
    }
    void offsetCirclesAreCircles() {
        QFETCH(double, by);
        const Geometry in = circle(1), out = made("offset_curve", {{"distance", by}}, {in});
        QCOMPARE(out.pointCount(), in.pointCount());
        const double radius = double(length(out.positions()[0]));
        QVERIFY(near(std::abs(radius - 1), std::abs(by), 1e-3));
        for (Vec3 p : out.positions()) QVERIFY(near(double(length(p)), radius, 1e-4));
        if (std::abs(by) > 1) return;  // turned inside out on one side
        // The other way is the other side.
        const double back = double(length(made("offset_curve", {{"distance", -by}}, {in}).positions()[0]));
        QVERIFY(near(radius - 1, 1 - back, 1e-3));
    }

    void offsetCornersKeepTheDistanceToBothSides() {
        const Geometry out = made("offset_curve", {{"distance", 0.25}}, {square(2)});
        const double inner = std::abs(areaAbove(out, 0));
        QVERIFY(near(inner, 1.5 * 1.5, 1e-4) || near(inner, 2.5 * 2.5, 1e-4));
        const Geometry both = made("offset_curve", {{"distance", 0.25}, {"form", "keep both"}}, {square(2)});
        QCOMPARE(both.curveCount(), 2u);
        const Geometry outline = made("offset_curve", {{"distance", 0.1}, {"form", "outline"}}, {zigzag()});
        QCOMPARE(outline.curveCount(), 1u);
        QVERIFY(outline.topology().curveClosed(0));
        for (Vec3 p : outline.positions()) QVERIFY(distanceToCurve(zigzag(), p) > 0.09);
    }

    void thereAndBackAgainIsTheSameCurve() {
        const Geometry in = made("resample", {{"count", 50}, {"form", "smooth"}}, {zigzag()});
        const Geometry back = made("offset_curve", {{"distance", -0.05}}, {made("offset_curve", {{"distance", 0.05}}, {in})});
        for (Vec3 p : back.positions()) QVERIFY(distanceToCurve(in, p) < 0.01);
    }

    // ---- cut and join

    void piecesAddUpToTheWhole_data() {
        QTest::addColumn<QString>("settings");
        QTest::addColumn<int>("pieces");
        QTest::newRow("count") << R"({"mode": "count", "count": 7})" << 7;
        QTest::newRow("length shared") << R"({"mode": "length", "length": 0.5})" << 11;
        QTest::newRow("length left") << R"({"mode": "length", "length": 1, "rest": "leave"})" << 6;
        QTest::newRow("corners") << R"({"mode": "corners", "angle": 30})" << 4;
    }
    void piecesAddUpToTheWhole() {
        QFETCH(QString, settings);
        QFETCH(int, pieces);
        const Geometry in = zigzag(), out = made("cut_curve", Json::parse(settings.toStdString()), {in});
        QCOMPARE(out.curveCount(), std::size_t(pieces));
        QVERIFY(near(lengthOf(out), lengthOf(in), 1e-4));
        for (Vec3 p : out.positions()) QVERIFY(distanceToCurve(in, p) < 1e-5);
        // Each begins where the one before ended.
        for (std::size_t c = 0; c + 1 < out.curveCount(); ++c) QVERIFY(length(at(out, c, out.topology().curve(c).size() - 1) - at(out, c + 1, 0)) < 1e-5f);
    }

    void trimmedStretchesHaveTheirPartOfTheLength() {
        for (const auto& [start, end] : {std::pair{0.0, 0.5}, {0.25, 0.75}, {0.1, 0.9}, {0.9, 1.0}})
            QVERIFY(near(lengthOf(made("cut_curve", {{"start", start}, {"end", end}}, {zigzag()})), (end - start) * lengthOf(zigzag()), 1e-4));
    }

    void gapsAreTakenFromTheLength() {
        const Geometry out = made("cut_curve", {{"mode", "count"}, {"count", 5}, {"gap", 0.1}}, {zigzag()});
        QCOMPARE(out.curveCount(), 5u);
        QVERIFY(near(lengthOf(out), lengthOf(zigzag()) - 5 * 0.1, 1e-3));  // half a gap at either end
    }

    void whatWasCutIsJoinedToTheSameCurve() {
        const Geometry pieces = made("cut_curve", {{"mode", "count"}, {"count", 9}}, {zigzag()});
        const Geometry joined = made("join_curves", Json::object(), {pieces});
        QCOMPARE(joined.curveCount(), 1u);
        QVERIFY(near(lengthOf(joined), lengthOf(zigzag()), 1e-4));
        // Four sides of a square, whichever way they run, become a ring.
        const Geometry sides = made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}}}, {"join", "open curve"}});
        std::vector<Geometry> four{sides};
        for (int i = 1; i < 4; ++i) four.push_back(made("transform", {{"rotate", {0, 90 * i, 0}}, {"pivot", {0.5, 0, 0.5}}}, {sides}));
        const Geometry ring = made("join_curves", Json::object(), {made("merge", Json::object(), four)});
        QCOMPARE(ring.curveCount(), 1u);
        QVERIFY(ring.topology().curveClosed(0));
        QVERIFY(near(std::abs(areaAbove(ring, 0)), 1, 1e-4));
    }

    // ---- round corners

    void roundedSquaresHaveTheRightAreaAndTangents() {
        const double r = 0.4;
        const Geometry out = made("round_corners", {{"radius", r}, {"segments", 32}}, {square(2)});
        QVERIFY(near(std::abs(areaAbove(out, 0)), 4 - (4 - M_PI) * r * r, 2e-3));
        QVERIFY(near(lengthOf(out), 8 - 8 * r + 2 * M_PI * r, 2e-3));
        const std::size_t n = out.topology().curve(0).size();
        for (std::size_t i = 0; i < n; ++i) {
            const Vec3 a = normalized(at(out, 0, i + 1) - at(out, 0, i)), b = normalized(at(out, 0, i + 2) - at(out, 0, i + 1));
            QVERIFY(dot(a, b) > 0.99f);
        }
        QVERIFY(near(std::abs(areaAbove(made("round_corners", {{"radius", r}, {"form", "straight"}}, {square(2)}), 0)), 4 - 2 * r * r, 1e-4));
        // A radius that is too large gives way instead of overlapping.
        QVERIFY(std::abs(areaAbove(made("round_corners", {{"radius", 50}, {"segments", 32}}, {square(2)}), 0)) > 3);
    }

    // ---- feature curves

    void levelsAndPlanesAreWhereTheySay() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 12}});
        const Geometry cut = made("feature_curves", {{"by", "plane"}, {"origin", {0, 0.3, 0}}}, {ball});
        QCOMPARE(cut.curveCount(), 1u);
        QVERIFY(cut.topology().curveClosed(0));
        for (Vec3 p : cut.positions()) QVERIFY(near(p.y, 0.3, 1e-5));
        QVERIFY(near(lengthOf(cut), 2 * M_PI * std::sqrt(1 - 0.09), 0.05));
        const Geometry high = made("set_attribute", {{"name", "height"}, {"value", {{"formula", "position.y"}}}}, {ball});
        const Geometry level = made("feature_curves", {{"by", "level of an attribute"}, {"tag", "height"}, {"level", 0.3}}, {high});
        QVERIFY(near(lengthOf(level), lengthOf(cut), 1e-3));
        // The edges of a box: twelve of them; the border of a sheet: one ring.
        const Geometry edges = made("feature_curves", {{"angle", 45}}, {made("box", {{"cells", {3, 2, 4}}})});
        QVERIFY(near(lengthOf(edges), 12, 1e-4));
        const Geometry border = made("feature_curves", {{"by", "open edges"}}, {made("grid", {{"size", {2, 3}}, {"cells", {4, 5}}})});
        QCOMPARE(border.curveCount(), 1u);
        QVERIFY(near(lengthOf(border), 10, 1e-4));
        QVERIFY(made("feature_curves", {{"by", "open edges"}}, {ball}).curveCount() == 0);
    }

    // ---- revolve

    void turnedProfilesHaveTheVolumeOfPappus_data() {
        QTest::addColumn<double>("angle");
        for (double angle : {360.0, 180.0, 45.0}) QTest::addRow("%g", angle) << angle;
    }
    void turnedProfilesHaveTheVolumeOfPappus() {
        QFETCH(double, angle);
        // A square ring: area 0.04 at a distance of 1 from the axis.
        const Geometry profile = made("point_list", {{"points", {{0.9, 0, 0}, {1.1, 0, 0}, {1.1, 0.2, 0}, {0.9, 0.2, 0}}}, {"join", "closed curve"}});
        const int sides = 180;
        const Geometry out = made("revolve", {{"angle", angle}, {"sides", sides}}, {profile});
        verifySolid(out);
        QVERIFY(near(checkupOf(out).volume / (0.04 * 2 * M_PI * angle / 360), 1, 2e-3));
        QCOMPARE(euler(out), angle == 360 ? 0L : 2L);
        const Geometry doubled = made("revolve", {{"angle", angle}, {"sides", sides}, {"height_scale", 2}}, {profile});
        QVERIFY(near(checkupOf(doubled).volume / checkupOf(out).volume, 2, 1e-4));
    }

    void profilesThatMeetTheAxisAreClosedThere() {
        const Geometry profile = made("point_list", {{"points", {{0, 0, 0}, {1, 0, 0}, {0, 2, 0}}}, {"join", "open curve"}});
        for (const char* axis : {"y"}) {
            const Geometry cone = made("revolve", {{"axis", axis}, {"sides", 200}}, {profile});
            verifySolid(cone);
            QVERIFY(near(checkupOf(cone).volume, M_PI * 2 / 3, 2e-3));
            QCOMPARE(cone.pointCount(), 202u);
        }
        const Geometry open = made("point_list", {{"points", {{0.5, 0, 0}, {0.5, 1, 0}}}, {"join", "open curve"}});
        QVERIFY(!checkupOf(made("revolve", Json::object(), {open})).closed);
        verifySolid(made("revolve", {{"close_to_axis", "both"}}, {open}));
    }

    // ---- sweep

    void tubesHaveTheVolumeOfTheirWay() {
        const Geometry straight = made("line", {{"length", 3}, {"points", 4}});
        const Geometry tube = made("sweep", {{"form", "tube"}, {"width", 0.4}, {"columns", 64}}, {straight});
        verifySolid(tube);
        QVERIFY(near(checkupOf(tube).volume, 3 * M_PI * 0.04, 2e-3));
        const Geometry ring = made("sweep", {{"form", "tube"}, {"width", 0.2}, {"columns", 48}}, {circle(1)});
        verifySolid(ring);
        QCOMPARE(euler(ring), 0L);
        QVERIFY(near(checkupOf(ring).volume / (2 * M_PI * M_PI * 0.01), 1, 5e-3));
        const Geometry ribbon = made("sweep", {{"form", "ribbon"}, {"width", 0.5}, {"columns", 3}}, {straight});
        QCOMPARE(ribbon.faceCount(), 9u);
        QVERIFY(near(surfaceArea(ribbon), 1.5, 1e-4));
        // A width that follows the way: a cone.
        const Geometry cone = made("sweep", {{"form", "tube"}, {"columns", 64}, {"width", {{"formula", "2.0 * (1.0 - along) + 0.001"}}}},
                                   {made("line", {{"length", 3}, {"points", 40}})});
        QVERIFY(near(checkupOf(cone).volume, M_PI, 0.02));
    }

    // ---- text

    void lettersAreFilledAndSolid_data() {
        QTest::addColumn<QString>("font");
        for (const char* font : {"regular", "medium", "semibold", "bold", "mono"}) QTest::newRow(font) << font;
    }
    void lettersAreFilledAndSolid() {
        QFETCH(QString, font);
        const Geometry text = made("text", {{"text", "Boje 8 %&@ gäß"}, {"font", font.toStdString()}, {"plane", "ground"}});
        for (std::size_t c = 0; c < text.curveCount(); ++c) QVERIFY(text.topology().curveClosed(c));
        const Geometry faces = made("fill_curve", Json::object(), {text});
        double area = 0, holes = 0;
        for (std::size_t c = 0; c < text.curveCount(); ++c) (areaAbove(text, c) > 0 ? area : holes) += areaAbove(text, c);
        QVERIFY(area > 0 && holes < 0 && area > -holes);
        QVERIFY(near(surfaceArea(faces) / (area + holes), 1, 1e-3));
        verifySolid(made("extrude", {{"distance", 0.05}, {"keep_back", true}}, {faces}));
    }

    void boldIsHeavierThanRegularAndMonoIsEven() {
        const auto inked = [](const char* font, const char* word) {
            return surfaceArea(made("fill_curve", Json::object(), {made("text", {{"text", word}, {"font", font}})}));
        };
        QVERIFY(inked("regular", "Hull") < inked("medium", "Hull") && inked("medium", "Hull") < inked("semibold", "Hull") &&
                inked("semibold", "Hull") < inked("bold", "Hull"));
        const auto widthOf = [](const char* word) { return boundsOf(made("text", {{"text", word}, {"font", "mono"}})).size().x; };
        QVERIFY(near(double(widthOf("HHHH") - widthOf("HHH")), double(widthOf("HiiHH") - widthOf("HiiH")), 1e-4));
    }

    void linesSizeAndPlaceOfTextAreAsTold() {
        const Geometry one = made("text", {{"text", "H"}, {"size", 1}}), two = made("text", {{"text", "H\nH"}, {"size", 1}, {"line_height", 1.5}});
        QVERIFY(near(boundsOf(one).size().y, 0.7, 0.06));
        QVERIFY(near(boundsOf(two).size().y - boundsOf(one).size().y, 1.5, 1e-4));
        QVERIFY(near(boundsOf(made("text", {{"text", "H"}, {"size", 3}})).size().y / boundsOf(one).size().y, 3, 1e-4));
        const auto bounds = [](const char* align) { return boundsOf(made("text", {{"text", "Quay"}, {"align", align}})); };
        QVERIFY(bounds("left").min.x >= -1e-3f && bounds("right").max.x <= 1e-3f && near(bounds("middle").centre().x, 0, 0.02));
        const Bounds ground = boundsOf(made("text", {{"text", "Quay"}, {"plane", "ground"}}));
        QCOMPARE(ground.size().y, 0.0f);
        // Every letter has its number; blanks count, but have no outline.
        const Geometry words = made("text", {{"text", "ab c"}});
        const auto& letters = *words.values<std::int32_t>(Element::curve, "letter");
        QCOMPARE((std::set<std::int32_t>(letters.begin(), letters.end())), (std::set<std::int32_t>{0, 1, 3}));
    }

    void oddTextsAreToldOfOrGiveNothing() {
        QCOMPARE(lastCode(runOp("text", {{"text", ""}})), std::string("text.none"));
        QCOMPARE(lastCode(runOp("text", {{"text", " \n\n "}})), std::string("text.none"));
        QCOMPARE(lastCode(runOp("text", {{"text", "\xF3\xB0\x80\x80"}})), std::string("text.letters"));
        QVERIFY(!runOp("text", {{"text", "\xff\xfe broken \xc3"}}).failed);  // bytes that are no text
        Limits few;
        few.elements = 10000;
        QVERIFY(runOp("text", {{"text", std::string(5000, 'x')}}, {}, few).failed);
    }

    // ---- drawn curves and plugged geometry

    void drawnLinesBecomeEvenCurves() {
        const Json strokes{{{-1, 0, 0}, {-0.9, 0, 0.01}, {0, 0, 0}, {1, 0, 0}}, {{0, 0, 1}, {0, 0, 2}}};
        const Geometry drawn = made("drawn_curve", {{"strokes", strokes}, {"spacing", 0.1}});
        QCOMPARE(drawn.curveCount(), 2u);
        QVERIFY(near(lengthOf(drawn), 3, 0.02));
        for (std::size_t c = 0; c < 2; ++c)
            for (std::size_t i = 0; i + 1 < drawn.topology().curve(c).size(); ++i) QVERIFY(length(at(drawn, c, i + 1) - at(drawn, c, i)) < 0.13f);
        QCOMPARE(at(drawn, 0, 0), (Vec3{-1, 0, 0}));
        QCOMPARE(at(drawn, 1, drawn.topology().curve(1).size() - 1), (Vec3{0, 0, 2}));
        QVERIFY(made("drawn_curve", {{"strokes", strokes}, {"close", true}}).topology().curveClosed(0));
        QCOMPARE(runOp("drawn_curve").geometry.pointCount(), 0u);
        for (const Json& odd : {Json::parse("[[]]"), Json::parse("[[[0,0,0]]]"), Json::parse("[[[0,0,0],[0,0,0]]]")})
            QVERIFY(!runOp("drawn_curve", {{"strokes", odd}}).failed);
        for (const Json& wrong : {Json(7), Json::parse("[7]"), Json::parse("[[[0,\"a\",0],[1,1,1]]]")}) {
            const OperatorOutcome out = runOp("drawn_curve", {{"strokes", wrong}});
            QVERIFY(out.failed || out.geometry.pointCount() == 0);
        }
    }

    void hiddenLinesTakeNoPart() {
        const Json a = Json::parse("[[-1, 0, 0], [1, 0, 0]]"), b = Json::parse("[[0, 0, 1], [0, 0, 2]]");
        const auto digestWith = [](const Json& strokes) { return digestOf(made("drawn_curve", {{"strokes", strokes}, {"spacing", 0}})); };
        QCOMPARE(digestWith({a, {{"points", b}}}), digestWith({a, b}));
        QCOMPARE(digestWith({a, {{"points", b}, {"hidden", false}}}), digestWith({a, b}));
        QCOMPARE(digestWith({{{"points", a}, {"hidden", true}}, b}), digestWith(Json::array({b})));
        QCOMPARE(made("drawn_curve", {{"strokes", Json::array({{{"hidden", true}, {"points", a}}})}}).curveCount(), 0u);
        // Hidden and shown again, a line is written as it was.
        QCOMPARE(lineShown(lineShown(a, false), true), a);
        QCOMPARE(lineShown(a, true), a);
        const Json named{{"points", a}, {"note", "kept"}};
        QCOMPARE(lineShown(lineShown(named, false), true), named);
        for (const char* wrong : {R"([{"points": 7}])", R"([{"points": [[0, 0]]}])"}) QVERIFY(runOp("drawn_curve", {{"strokes", Json::parse(wrong)}}).failed);
        QVERIFY(runOp("drawn_curve", {{"strokes", {a, {{"points", {{0, 0, 0}, {0, 0}}}}}}}).notices.back().text.find("line 2, entry 2") != std::string::npos);
        for (const char* odd : {"[{}]", R"([{"hidden": 3, "points": []}])"}) QVERIFY(!runOp("drawn_curve", {{"strokes", Json::parse(odd)}}).failed);
    }

    void inputsShowAStandInOfTheirKind() {
        QVERIFY(made("input_geometry", {{"kind", "curve"}}).curveCount() > 0);
        QVERIFY(made("input_geometry", {{"kind", "mesh"}}).faceCount() > 0);
        const Geometry points = made("input_geometry", {{"kind", "points"}});
        QVERIFY(points.pointCount() > 0 && points.faceCount() == 0 && points.curveCount() == 0);
        QVERIFY(runOp("input_geometry", {{"sample", "/nowhere/at/all.obj"}}).failed);
        // It is told where a file holds nothing of the kind.
        const QTemporaryDir place;
        const auto sampled = [&](const char* kind, std::string_view text) {
            const std::string file = place.filePath("sample.obj").toStdString();
            if (writeFileAtomically(file, text)) qFatal("not written");
            return runOp("input_geometry", {{"sample", file}, {"kind", kind}});
        };
        constexpr const char *kLine = "v 0 0 0\nv 1 0 0\nl 1 2\n", *kFace = "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n", *kPoint = "v 0 0 0\n";
        for (const auto& fits : {sampled("curve", kLine), sampled("mesh", kFace), sampled("points", kPoint), sampled("points", kFace)})
            QVERIFY(!fits.failed && fits.notices.empty());
        for (const auto& [kind, text, holds] : {std::tuple{"curve", kFace, "holds a mesh where curves"},
                                                {"curve", kPoint, "holds points where curves"},
                                                {"mesh", kLine, "holds curves where faces"},
                                                {"points", "# none\n", "holds nothing where points"}}) {
            const auto told = sampled(kind, text);
            QVERIFY(!told.failed && told.notices.size() == 1 && told.notices.front().code == "input.kind" && told.notices.front().setting == "sample");
            QVERIFY2(told.notices.front().text.find(holds) != std::string::npos, told.notices.front().text.c_str());
        }
    }

    // ---- fill

    void filledCurvesKnowTheirOwnAttributes() {
        Geometry three = made("merge", Json::object(),
                              {circle(1, 24), made("transform", {{"move", {5, 0, 0}}}, {circle(0.5, 12)}), made("polygon", {{"sides", 8}, {"radius", 0.4}})});
        three.setColumn(Element::curve, "name", Column(std::vector<std::string>{"large", "small", "hole"}));
        const Geometry out = made("fill_curve", Json::object(), {three});
        const auto& names = *out.values<std::string>(Element::face, "name");
        std::map<std::string, double> area;
        for (Index f = 0; f < out.faceCount(); ++f) {
            const auto face = out.topology().face(f);
            for (std::size_t i = 1; i + 1 < face.size(); ++i)
                area[names[f]] +=
                    double(length(cross(out.positions()[face[i]] - out.positions()[face[0]], out.positions()[face[i + 1]] - out.positions()[face[0]]))) / 2;
        }
        const auto polygon = [](double r, int n) { return n * r * r * std::sin(2 * M_PI / n) / 2; };
        QCOMPARE(area.size(), 2u);
        QVERIFY(near(area["large"], polygon(1, 24) - polygon(0.4, 8), 1e-4));
        QVERIFY(near(area["small"], polygon(0.5, 12), 1e-4));
    }
    /// A wave has its ridges and valleys at known places; an egg of three axes bends most around its thin rim.
    void ridgesAndValleysOfAWave() {
        const Geometry sheet = made("grid", {{"size", {2, 1}}, {"cells", {120, 40}}});
        const Geometry wave = made("move_points", {{"by", {{"formula", "vec3(0, 0.1 * cos(position.x * 6.28318530718), 0)"}}}}, {sheet});
        const double most = 0.1 * 4 * kPi * kPi;
        for (const bool valleys : {false, true}) {
            const Geometry out = made("feature_curves", {{"by", valleys ? "valleys" : "ridges"}, {"strength", 1.5}, {"evened", 1}}, {wave});
            // Ridges at 0 (and at the open ends, which are cut off), valleys at ±0.5.
            QVERIFY2(out.curveCount() >= (valleys ? 2u : 1u) && out.curveCount() <= (valleys ? 2u : 3u), fmt::format("{}", out.curveCount()).c_str());
            const auto& curvature = *out.values<float>(Element::point, "curvature");
            const auto& strength = *out.values<float>(Element::curve, "strength");
            std::size_t inside = 0;
            for (std::size_t c = 0; c < out.curveCount(); ++c) {
                const auto curve = out.topology().curve(c);
                const Vec3 first = out.positions()[curve[curve.size() / 2]];
                if (std::abs(first.x) > 0.9f) continue;
                ++inside;
                QVERIFY2(near(double(strength[c]), most * curveLength(out, c), most * 0.1), fmt::format("{}", strength[c]).c_str());
                QVERIFY(curveLength(out, c) > 0.8);
                for (const Index p : curve) {
                    QVERIFY(near(double(std::abs(out.positions()[p].x)), valleys ? 0.5 : 0, 0.01));
                    if (std::abs(out.positions()[p].z) < 0.4f) QVERIFY2(near(double(curvature[p]), most, most * 0.05), fmt::format("{}", curvature[p]).c_str());
                }
            }
            QCOMPARE(inside, valleys ? std::size_t(2) : std::size_t(1));
            QVERIFY(made("feature_curves", {{"by", "ridges"}, {"strength", 100}}, {wave}).curveCount() == 0);
        }
    }
    void anEggHasARidgeAroundItsRim() {
        const Geometry egg = made("transform", {{"scale", {1, 0.3, 0.7}}}, {made("geodesic_sphere", {{"radius", 1}, {"frequency", 24}})});
        const Geometry out = made("feature_curves", {{"by", "ridges"}, {"strength", 1}}, {egg});
        QVERIFY2(out.curveCount() >= 1 && out.curveCount() <= 4, fmt::format("{}", out.curveCount()).c_str());
        double length = 0;
        for (std::size_t c = 0; c < out.curveCount(); ++c) length += curveLength(out, c);
        // An ellipse of half axes 1 and 0.7, by Ramanujan.
        QVERIFY2(near(length, 5.38, 0.4), fmt::format("{}", length).c_str());
        for (const Vec3 p : out.positions()) QVERIFY2(std::abs(p.y) < 0.03f, fmt::format("{}", p.y).c_str());
        // Nothing bends inwards anywhere.
        QCOMPARE(made("feature_curves", {{"by", "valleys"}, {"strength", 0}}, {egg}).curveCount(), 0u);
    }
};

QTEST_APPLESS_MAIN(TestLines)
#include "test_lines.moc"
