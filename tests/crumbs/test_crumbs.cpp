// Crumbs along the edges of breaks and along lines: they fit their holes, both sides stay one surface, and what is not cut stays as it is.
#include "breaking/BodyCuts.h"
#include "breaking/BreakLines.h"
#include "breaking/Crumbled.h"
#include "breaking/MirroredTriangles.h"
#include "breaking/RoughWalls.h"
#include "breaking/TwinFaces.h"
#include "geometry/Digest.h"
#include "geometry/Rows.h"
#include "parallel/Loops.h"
#include "support/Solids.h"

#include <tbb/task_arena.h>

using namespace seedloom;
using namespace seedloom::test;

namespace {

std::vector<std::uint8_t> crumbOf(const Geometry& g) { return *g.values<std::uint8_t>(Element::face, "crumb"); }

/// By piece: whether all its faces have the tag; fails where only some have it.
std::map<std::int32_t, bool> crumbPieces(const Geometry& g) {
    std::map<std::int32_t, bool> out;
    for (Index f = 0; f < g.faceCount(); ++f) {
        const auto [it, isNew] = out.try_emplace(pieceOf(g)[f], crumbOf(g)[f]);
        if (it->second != bool(crumbOf(g)[f])) QTest::qFail("a piece is partly a crumb", __FILE__, __LINE__);
    }
    return out;
}

std::size_t crumbCount(const Geometry& g) {
    std::size_t out = 0;
    for (const auto& [piece, crumb] : crumbPieces(g)) out += crumb;
    return out;
}

/// What cut corners carry is mixed by where they lie, however thin the triangles are that were cut: corners that carried their places before carry them
/// afterwards. In metres, the farthest off.
double farthestMix(const Geometry& out) {
    const auto& place = *out.values<Vec3>(Element::corner, "place");
    double far = 0;
    for (Index c = 0; c < out.cornerCount(); ++c)
        if (place[c] != Vec3{}) far = std::max(far, double(distance(place[c], out.positions()[out.topology().cornerPoint()[c]])));
    return far;
}
/// Every corner carries its place.
Geometry placed(Geometry g) {
    std::vector<Vec3> place;
    for (Index p : g.topology().cornerPoint()) place.push_back(g.positions()[p]);
    g.setColumn(Element::corner, "place", Column(std::move(place)));
    return g;
}

Geometry lineOnTop() { return made("line", {{"direction", {1, 0, 0}}, {"length", 0.8}, {"points", 5}}); }
Geometry boxUnderIt() { return made("transform", {{"move", {0.4, -0.5, 0}}}, {made("box", {{"cells", {4, 4, 4}}})}); }

std::vector<LineStretch> oneLine(double width, double rate) { return {{{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {width, width}, {rate, rate}}}; }

}  // namespace

class TestCrumbs : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void crumbsFitTheirHoles_data() {
        QTest::addColumn<QString>("solid");
        QTest::addColumn<QString>("before");
        QTest::addColumn<QString>("settings");
        int i = 0;
        for (const char* solid : {"box", "plain box", "ball", "ring", "hollow", "two", "horseshoe"})
            for (const char* before : {R"({"pieces": 5, "seed": 4})", R"({"pieces": 4, "roughness": 0.02, "noise_size": 0.3})"})
                QTest::addRow("%s %s", solid, before) << solid << before
                                                      << (++i % 2 ? R"({"width": 0.1, "crumbs": 6})"
                                                                  : R"({"width": 0.05, "crumbs": 14, "size": [0.1, 0.8], "seed": 3})");
        QTest::newRow("apart") << "box"
                               << R"({"pieces": 4, "gap": 0.02})"
                               << R"({"width": 0.1, "crumbs": 8})";
    }
    void crumbsFitTheirHoles() {
        QFETCH(QString, solid);
        QFETCH(QString, before);
        QFETCH(QString, settings);
        const Geometry broken = placed(made("shatter", Json::parse(before.toStdString()), {marked(solidNamed(solid))}));
        const auto out = runOp("crumble_edges", Json::parse(settings.toStdString()), {broken});
        QVERIFY2(!out.failed, out.notices.empty() ? "" : out.notices.back().text.c_str());
        QCOMPARE(lastCode(out), std::string("crumble.count"));
        verifyPieces(out.geometry);
        const double whole = checkupOf(broken).volume;
        QVERIFY(near(checkupOf(out.geometry).volume, whole, whole * 1e-5));
        QVERIFY(crumbCount(out.geometry) > 10);
        if (!before.contains("gap")) QCOMPARE(loneInsideFaces(out.geometry), loneInsideFaces(broken));
        QCOMPARE(changedCorners(marked(solidNamed(solid)), out.geometry), 0u);
        QCOMPARE(overlappingInside(out.geometry), 0u);
        QVERIFY2(farthestMix(out.geometry) < 2e-5, qPrintable(QString::number(farthestMix(out.geometry))));
        // Pieces come first and keep their numbers; the most of each is still there.
        const auto kinds = crumbPieces(out.geometry);
        const auto was = eachPieceOf(broken), is = eachPieceOf(out.geometry);
        for (std::size_t p = 0; p < was.size(); ++p) {
            QVERIFY(!kinds.at(std::int32_t(p)));
            QVERIFY(checkupOf(is[p]).volume <= checkupOf(was[p]).volume * (1 + 1e-6));
            const Bounds now = boundsOf(is[p].positions()), then = boundsOf(was[p].positions());
            for (int c = 0; c < 3; ++c) QVERIFY(now.min[c] >= then.min[c] - 1e-5f && now.max[c] <= then.max[c] + 1e-5f);
        }
    }

    void alongALine() {
        const auto out = runPorts("crumble_edges", {{boxUnderIt()}, {lineOnTop()}}, {{"width", 0.1}, {"crumbs", 20}});
        QVERIFY(!out.failed);
        verifyPieces(out.geometry);
        QCOMPARE(crumbPieces(out.geometry).begin()->second, false);
        QVERIFY(crumbCount(out.geometry) >= 4);
        QVERIFY(near(checkupOf(out.geometry).volume, 1, 1e-5));
        QCOMPARE(loneInsideFaces(out.geometry), 0u);
        for (Index f = 0; f < out.geometry.faceCount(); ++f) {
            if (!crumbOf(out.geometry)[f]) continue;
            for (Index p : out.geometry.topology().face(f)) {
                const Vec3 at = out.geometry.positions()[p];
                QVERIFY2(std::hypot(at.y, at.z) < 0.2f && at.x > -0.2f && at.x < 1.0f, "near the line");
            }
        }
        QCOMPARE(lastCode(runPorts("crumble_edges", {{boxUnderIt()}, {made("transform", {{"move", {0, 3, 0}}}, {lineOnTop()})}}, {})),
                 std::string("crumble.none"));
    }
    /// What the surface carries under a line decides; so does what the line carries itself.
    void aMaskMakesOneStretchCrumble() {
        const Json where = Json::parse(R"({"formula": "mask"})");
        const auto masked = [](const Geometry& g) {
            return made("set_attribute", {{"name", "mask"}, {"element", "point"}, {"value", {{"formula", "position.x > 0.4"}}}}, {g});
        };
        for (const bool onLine : {false, true}) {
            const Geometry solid = onLine ? boxUnderIt() : masked(boxUnderIt()), line = onLine ? masked(lineOnTop()) : lineOnTop();
            const auto out = runPorts("crumble_edges", {{solid}, {line}}, {{"width", 0.06}, {"crumbs", 40}, {"where", where}});
            QVERIFY2(!out.failed, out.notices.back().text.c_str());
            QVERIFY(crumbCount(out.geometry) > 3);
            const auto everywhere = runPorts("crumble_edges", {{solid}, {line}}, {{"width", 0.06}, {"crumbs", 40}});
            QVERIFY(crumbCount(everywhere.geometry) > crumbCount(out.geometry) * 3 / 2);
            for (Index f = 0; f < out.geometry.faceCount(); ++f)
                if (crumbOf(out.geometry)[f])
                    for (Index p : out.geometry.topology().face(f)) QVERIFY(out.geometry.positions()[p].x > 0.1f);
        }
    }
    void moreCrumbsLeaveThoseThatAreThere() {
        const auto few = crumbsAlong(oneLine(0.1, 5), {0.2, 0.6}, 3, RunContext()), many = crumbsAlong(oneLine(0.1, 60), {0.2, 0.6}, 3, RunContext());
        QVERIFY(few.size() >= 3 && many.size() > 2 * few.size());
        for (std::size_t i = 0; i < few.size(); ++i) QCOMPARE(few[i].centre, many[i].centre);
        for (std::size_t i = 0; i < many.size(); ++i) {
            QVERIFY(many[i].radius >= 0.02 && many[i].radius <= 0.06);
            QVERIFY(std::hypot(many[i].centre.y, many[i].centre.z) <= 0.1f);
            for (std::size_t k = 0; k < i; ++k) QVERIFY(double(distance(many[i].centre, many[k].centre)) >= 0.79 * (many[i].radius + many[k].radius));
        }
        auto turned = oneLine(0.1, 60);
        std::swap(turned[0].from, turned[0].to);
        const auto back = crumbsAlong(turned, {0.2, 0.6}, 3, RunContext());
        QCOMPARE(back.size(), many.size());
        for (std::size_t i = 0; i < back.size(); ++i) QVERIFY(distance(back[i].centre, many[i].centre) < 1e-5f);
        QVERIFY(crumbsAlong(oneLine(0.1, 60), {0.2, 0.6}, 4, RunContext())[0].centre != many[0].centre);
        QVERIFY(crumbsAlong(oneLine(0, 60), {0.2, 0.6}, 3, RunContext()).empty());
        QVERIFY(crumbsAlong(oneLine(0.1, 0), {0.2, 0.6}, 3, RunContext()).empty());
        // Where it is twice as wide, crumbs are twice as large; where none are wanted there are none.
        std::vector<LineStretch> cone = oneLine(0.1, 60);
        cone[0].width[1] = 0.2, cone[0].rate[0] = 0;
        for (const Crumb& c : crumbsAlong(cone, {0.5, 0.5}, 3, RunContext())) QVERIFY(near(c.radius, 0.05 + 0.05 * double(c.centre.x), 1e-6));
    }
    void cellsOfCrumbs() {
        const auto crumbs = crumbsAlong(oneLine(0.1, 60), {0.2, 0.6}, 3, RunContext());
        const Bounds around{{-1, -1, -1}, {2, 1, 1}};
        const FlatWalls cells = crumbCells(crumbs, around, RunContext());
        const auto rest = Index(crumbs.size());
        std::vector<std::size_t> wallsOf(crumbs.size(), 0);
        bool together = false;
        for (const auto& wall : cells.walls) {
            QVERIFY(wall.cells[0] > wall.cells[1] && wall.cells[0] <= rest);
            together |= wall.cells[0] < rest;
            for (Index cell : wall.cells)
                if (cell < rest) {
                    ++wallsOf[cell];
                    for (Index p : wall.ring) {
                        const auto& at = cells.points[p];
                        const Vec3 c = crumbs[cell].centre;
                        QVERIFY(std::hypot(at[0] - double(c.x), at[1] - double(c.y), at[2] - double(c.z)) <= 2.5 * crumbs[cell].radius);
                    }
                }
        }
        QVERIFY(together);
        QVERIFY(std::count_if(wallsOf.begin(), wallsOf.end(), [](std::size_t n) { return n > 5; }) * 10 > std::ptrdiff_t(8 * crumbs.size()));
        std::vector<std::uint8_t> gone(crumbs.size(), 0);
        gone[1] = 1;
        for (const auto& wall : crumbsLeft(cells, gone).walls) QVERIFY(wall.cells[0] > wall.cells[1] && wall.cells[1] != 1 && wall.cells[0] != 1);
        QVERIFY(crumbCells({}, around, RunContext()).walls.empty());
    }

    void edgesOfABreak() {
        const Geometry plain = made("box");
        QVERIFY(breakEdges(plain).empty());
        // Two halves: a square of edges around the break, told once, facing what the skin faces.
        const Geometry cut = madeOf("cut_along_curves", {{plain}, {made("point_list", {{"join", "open curve"}, {"points", {{0, 0.6, -0.6}, {0, 0.6, 0.6}}}})}},
                                    {{"direction", {0, -1, 0}}});
        QCOMPARE(eachPieceOf(cut).size(), std::size_t(2));
        double length = 0;
        for (const BreakEdge& e : breakEdges(cut)) {
            const Vec3 a = cut.positions()[e.a], b = cut.positions()[e.b];
            length += double(distance(a, b));
            QVERIFY(near(double(a.x), 0, 1e-6) && near(double(b.x), 0, 1e-6));
            QVERIFY(near(double(dot(e.out, (a + b) / 2)), 0.5, 1e-6));
            QVERIFY(std::abs(e.out.x) < 1e-6f);
        }
        QVERIFY(near(length, 4, 1e-5));
    }
    void trianglesSeenFromBothSides() {
        const Geometry g = made("polygon", {{"sides", 9}, {"form", "filled"}});
        const auto sets = [](const Geometry& of) {
            std::set<std::set<std::array<float, 3>>> out;
            const Triangles t = mirroredTriangles(of);
            for (std::size_t i = 0; i < t.count(); ++i) {
                std::set<std::array<float, 3>> corners;
                for (std::size_t k = 0; k < 3; ++k) {
                    const Vec3 p = of.positions()[of.topology().cornerPoint()[t.corners[3 * i + k]]];
                    corners.insert({p.x, p.y, p.z});
                }
                out.insert(corners);
            }
            return out;
        };
        const auto front = sets(g);
        QCOMPARE(front.size(), std::size_t(7));
        QVERIFY(sets(made("flip", Json::object(), {g})) == front);
        // Every triangle keeps the winding of its face.
        const Geometry flipped = made("flip", Json::object(), {g});
        for (const Geometry& of : {g, flipped}) {
            const Triangles t = mirroredTriangles(of);
            const Vec3 facing = areaVector(of.topology().face(0), of.positions());
            for (std::size_t i = 0; i < t.count(); ++i) {
                const auto at = [&](std::size_t k) { return of.positions()[of.topology().cornerPoint()[t.corners[3 * i + k]]]; };
                QVERIFY(dot(cross(at(1) - at(0), at(2) - at(0)), facing) > 0);
            }
        }
    }
    void twins() {
        const Geometry box = made("box");
        const auto count = [](const Geometry& g) {
            const auto have = haveTwins(g);
            return std::count(have.begin(), have.end(), 1);
        };
        QCOMPARE(count(box), 0);
        QCOMPARE(count(combine({box, made("flip", Json::object(), {box})})), 12);
        QCOMPARE(count(combine({box, box})), 12);
        QCOMPARE(count(combine({box, box, box})), 0);
        QCOMPARE(count(combine({box, made("transform", {{"move", {1, 0, 0}}}, {box})})), 2);
        QCOMPARE(count(combine({box, made("transform", {{"move", {1.0001, 0, 0}}}, {box})})), 0);
    }
    /// Bodies that the same walls reach are not cut anew, and come out as if they were.
    void cutsAreRepeated() {
        const Geometry two = combine({made("box"), made("transform", {{"move", {3, 0, 0}}}, {made("box")})});
        const std::vector<Crumb> crumbs{{{0, 0.5f, 0}, 0.1}, {{3, 0.5f, 0}, 0.1}};
        const Bounds bounds = boundsOf(two.positions());
        const FlatWalls all = crumbCells(crumbs, bounds, RunContext());
        const auto rest = [](Vec3) { return Index(2); };
        const auto walls = [&](const FlatWalls& flat) { return wallFaces(flat, bounds, {}, RunContext()); };
        BodyCuts cuts(two, rest, RunContext());
        cuts.cut(walls(all));
        QCOMPARE(cuts.pieces().cellOfPiece, (std::vector<Index>{0, 2, 1, 2}));
        QCOMPARE(cuts.bodyOfPiece(), (std::vector<Index>{0, 0, 1, 1}));
        const Walls left = walls(crumbsLeft(all, {1, 0}));
        cuts.cut(left);
        const SolidPieces again = cuts.pieces(), once = cutBodies(two, left, rest, RunContext());
        QCOMPARE(again.cellOfPiece, (std::vector<Index>{2, 1, 2}));
        QCOMPARE(digestOf(again.geometry).hex(), digestOf(once.geometry).hex());
        for (std::size_t f = 0; f < again.faces.size(); ++f) {
            QCOMPARE(again.faces[f].source, once.faces[f].source);
            QCOMPARE(again.faces[f].inside, once.faces[f].inside);
        }
    }
    /// Crumbs that would leave almost nothing are left out.
    void slivers() {
        const Geometry box = made("box");
        for (const double out : {0.0, 0.05, 0.09, 0.095, 0.11}) {
            const Crumbled made_ = crumbled(box, {{{0, float(0.5 + out), 0}, 0.1}}, RunContext());
            double least = 1;
            for (const Geometry& piece : eachPieceOf(made_.pieces.geometry)) least = std::min(least, checkupOf(piece).volume);
            QCOMPARE(made_.pieces.cellOfPiece.size(), std::size_t(out < 0.09 ? 2 : 1));
            QVERIFY(least > 0.02 * 4.18 * 1e-3);
        }
        // A hair's breadth of the body remains over a crumb that lies just under its skin.
        QCOMPARE(crumbled(box, {{{0, 0.41f, 0}, 0.1}}, RunContext()).pieces.cellOfPiece.size(), std::size_t(2));
    }

    void theSameOnEveryRunAndForAnyThreads() {
        const Geometry broken = made("shatter", {{"pieces", 6}, {"roughness", 0.02}}, {made("box")});
        const auto once = [&](int threads) {
            tbb::task_arena arena(threads);
            std::string out;
            arena.execute([&] { out = digestOf(made("crumble_edges", {{"crumbs", 15}}, {broken})).hex(); });
            return out;
        };
        const std::string one = once(1);
        QCOMPARE(once(4), one);
        QCOMPARE(once(1), one);
        QVERIFY(digestOf(made("crumble_edges", {{"crumbs", 15}, {"seed", 1}}, {broken})).hex() != one);
    }
    void crumbledTwice() {
        Geometry g = made("shatter", {{"pieces", 3}}, {made("box")});
        std::size_t crumbs = 0;
        for (int i = 0; i < 2; ++i) {
            g = made("crumble_edges", {{"crumbs", 4}, {"width", 0.1}, {"seed", i}}, {g});
            // What breaks off a crumb is one, wholly.
            QVERIFY(crumbCount(g) > crumbs);
            crumbs = crumbCount(g);
            QCOMPARE(crumbPieces(g).size() - crumbs, std::size_t(3));
        }
        verifyPieces(g);
        QVERIFY(near(checkupOf(g).volume, 1, 1e-5));
    }
    void whatIsWrong() {
        const Geometry broken = made("shatter", {{"pieces", 4}}, {made("box")});
        const auto code = [&](const Json& settings, const Geometry& g) { return lastCode(runOp("crumble_edges", settings, {g})); };
        QCOMPARE(code({}, made("grid")), std::string("crumble.open"));
        const auto whole = runOp("crumble_edges", {}, {made("box")});
        QVERIFY(!whole.failed);
        QCOMPARE(lastCode(whole), std::string("crumble.no_edges"));
        QCOMPARE(whole.notices.back().fixes.size(), std::size_t(1));
        QCOMPARE(lastCode(runPorts("crumble_edges", {{broken}, {made("box")}})), std::string("cut.no_lines"));
        QCOMPARE(code({{"size", {0.8, 0.3}}}, broken), std::string("setting.range"));
        QCOMPARE(code({{"size", {0, 0.3}}}, broken), std::string("setting.range"));
        const auto turned = runOp("crumble_edges", {{"size", {0.75, 0.25}}}, {broken});
        QCOMPARE(turned.notices.back().fixes.size(), std::size_t(1));
        QCOMPARE(turned.notices.back().fixes[0].value, Json::array({0.25, 0.75}));
        QCOMPARE(code({{"size", {0.5, 1.5}}}, broken), std::string("setting.range"));
        QCOMPARE(code({{"crumbs", 1e6}}, broken), std::string("limit.elements"));
        // Crumbs as small as rounding: told with a width that makes some.
        const auto tiny = runOp("crumble_edges", {{"width", 3e-6}, {"crumbs", 2}}, {broken});
        QVERIFY2(lastCode(tiny) == "crumble.none", tiny.notices.empty() ? "" : tiny.notices.back().text.c_str());
        QCOMPARE(tiny.notices.back().fixes.size(), std::size_t(1));
        const double width = tiny.notices.back().fixes[0].value.get<double>();
        QCOMPARE(code({{"width", width}, {"crumbs", 2}}, broken), std::string("crumble.count"));
        for (const double small : {1e-6, 1e-5, 1e-4, 3e-4, 1e-3, 1e-2}) {
            const auto out = runOp("crumble_edges", {{"width", small}, {"crumbs", 3}}, {broken});
            QVERIFY2(!out.failed, out.notices.back().text.c_str());
            verifyPieces(out.geometry);
            QCOMPARE(crumbCount(out.geometry) > 0, small > 2e-4);
        }
        // Far too wide: what is left is sound.
        for (const double wide : {0.5, 3.0, 1000.0}) {
            const auto out = runOp("crumble_edges", {{"width", wide}, {"crumbs", 3}}, {broken});
            QVERIFY2(!out.failed, out.notices.back().text.c_str());
            verifyPieces(out.geometry);
            QVERIFY(near(checkupOf(out.geometry).volume, 1, 1e-5));
        }
        // Nothing wanted: nothing happens.
        for (const Json& settings : {Json{{"width", 0}}, Json{{"crumbs", 0}}, Json{{"where", 0}}}) {
            const auto out = runOp("crumble_edges", settings, {broken});
            QVERIFY(!out.failed);
            Geometry same = out.geometry;
            QCOMPARE(crumbCount(same), 0u);
            same.removeColumn(Element::face, "crumb");
            QCOMPARE(digestOf(same).hex(), digestOf(broken).hex());
        }
    }
};

QTEST_GUILESS_MAIN(TestCrumbs)
#include "test_crumbs.moc"
