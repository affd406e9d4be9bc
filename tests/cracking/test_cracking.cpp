// Thin surfaces cracked into fragments, and solids cut along lines.
#include "breaking/PieceCheckup.h"
#include "breaking/ShellCracks.h"
#include "geometry/Digest.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "operators/Shapes.h"
#include "parallel/Loops.h"
#include "support/Chance.h"
#include "support/Pieces.h"

#include <tbb/task_arena.h>

#include <numbers>

using namespace seedloom;
using namespace seedloom::test;

namespace {

Geometry shellNamed(const QString& name) {
    if (name == "sheet") return made("grid", {{"cells", {20, 20}}});
    if (name == "plain box") return made("box");
    if (name == "ball") return made("geodesic_sphere", {{"radius", 0.5}, {"frequency", 12}});
    if (name == "ring") return made("torus");
    return made("delete", {{"where", {{"formula", "position.y > 0.2"}}}}, {made("sphere", {{"sides", 40}, {"rings", 20}})});
}

using Place = FacePlaces::value_type;

/// Directed sides of faces that no other face runs along the other way round, by place.
std::set<std::pair<Place, Place>> borderOf(const Geometry& g) {
    std::set<std::pair<Place, Place>> sides, lone;
    const auto at = [&](Index p) { return Place{g.positions()[p].x, g.positions()[p].y, g.positions()[p].z}; };
    for (Index f = 0; f < g.faceCount(); ++f) {
        const auto face = g.topology().face(f);
        for (std::size_t i = 0; i < face.size(); ++i) sides.insert({at(face[i]), at(face[(i + 1) % face.size()])});
    }
    for (const auto& [a, b] : sides)
        if (!sides.count({b, a})) lone.insert({a, b});
    return lone;
}
double lengthOf(const std::set<std::pair<Place, Place>>& sides) {
    double sum = 0;
    for (const auto& [a, b] : sides) sum += std::hypot(double(a[0] - b[0]), double(a[1] - b[1]), double(a[2] - b[2]));
    return sum;
}

Geometry across(std::vector<Vec3> at, bool closed = false) { return curveThrough(std::move(at), closed); }
Geometry circle(Vec3 middle, Vec3 u, Vec3 v, int count = 24) {
    std::vector<Vec3> at;
    for (int i = 0; i < count; ++i) {
        const auto a = float(i) * 2 * std::numbers::pi_v<float> / float(count);
        at.push_back(middle + u * std::cos(a) + v * std::sin(a));
    }
    return curveThrough(std::move(at), true);
}

OperatorOutcome cutAlong(const Geometry& solid, const std::vector<Geometry>& lines, const Json& settings = Json::object()) {
    return runPorts("cut_along_curves", {{solid}, lines}, settings);
}
std::size_t piecesOf(const OperatorOutcome& out) { return eachPieceOf(out.geometry).size(); }

}  // namespace

class TestCracking : public QObject {
    Q_OBJECT

private Q_SLOTS:
    // ---- Crack shell

    void fragmentsFit_data() {
        QTest::addColumn<QString>("shell");
        QTest::addColumn<int>("pieces");
        QTest::addColumn<double>("roughness");
        for (const char* shell : {"sheet", "plain box", "ball", "ring", "bowl"})
            for (int pieces : {1, 7, 40})
                for (double roughness : {0.0, 0.03}) QTest::addRow("%s %d %g", shell, pieces, roughness) << shell << pieces << roughness;
    }
    void fragmentsFit() {
        QFETCH(QString, shell);
        QFETCH(int, pieces);
        QFETCH(double, roughness);
        const Geometry before = shellNamed(shell);
        const Geometry after = made("crack_shell", {{"pieces", pieces}, {"roughness", roughness}, {"noise_size", 0.3}, {"seed", pieces}}, {before});
        const Checkup c = checkupOf(after);
        QVERIFY(c.consistentWinding && c.degenerateFaces == 0 && c.nonmanifoldEdges == 0);
        QVERIFY(near(c.area, checkupOf(before).area, c.area * 1e-5));
        QCOMPARE(eachPieceOf(after).size(), std::size_t(after.topology().connection().pieces));
        QVERIFY(shell == "plain box" || eachPieceOf(after).size() >= std::size_t(pieces) * 9 / 10);
        // Without gaps the borders are the same to the bit: what is open is what was open.
        QVERIFY(near(lengthOf(borderOf(after)), lengthOf(borderOf(before)), 1e-4));
        const auto& crack = *after.values<std::uint8_t>(Element::point, "crack");
        QCOMPARE(std::count(crack.begin(), crack.end(), 1) > 0, pieces > 1);
    }
    /// Cells hardly larger than the faces: borders that were moved onto a corner meet others inside of the faces around it.
    void bordersThroughCorners() {
        const Geometry sheet = made("grid", {{"cells", {20, 20}}});
        for (int seed = 130; seed < 150; ++seed) {
            const Geometry after = made("crack_shell", {{"pieces", 60}, {"seed", seed}}, {sheet});
            QVERIFY2(near(checkupOf(after).area, 1, 1e-6), qPrintable(QString::number(seed)));
            QVERIFY(near(lengthOf(borderOf(after)), 4, 1e-5));
        }
    }
    /// Two borders through one point: the fragment between them must not hang together by it.
    void aFragmentThatMeetsItselfIsParted() {
        const Geometry sheet = made("grid", {{"size", {10, 10}}, {"cells", {10, 10}}});
        const Vec3 across{0.0191f, 0, 0.0059f};
        const Geometry out = madeOf("crack_shell", {{sheet}, {Geometry(std::vector<Vec3>{across * -1, {0, 0, 0}, across})}}, {{"gap", 0.001}});
        QVERIFY(touchingPoints(out.topology()).empty());
        const auto& piece = *out.values<std::int32_t>(Element::face, "piece");
        QCOMPARE(*std::max_element(piece.begin(), piece.end()), 3);
        QVERIFY(near(checkupOf(out).area, 100, 0.05));
        const Checkup thick = checkupOf(made("thicken", {{"thickness", 0.002}}, {out}));
        QVERIFY(thick.closed && thick.manifold && thick.consistentWinding);
    }
    void fragmentsAreSoundWhenThick_data() {
        QTest::addColumn<QString>("shell");
        for (const char* shell : {"sheet", "ball", "ring", "bowl"}) QTest::newRow(shell) << QString(shell);
    }
    void fragmentsAreSoundWhenThick() {
        QFETCH(QString, shell);
        for (double gap : {0.0, 0.01, 0.05})
            for (double roughness : {0.0, 0.04}) {
                const Geometry cracked =
                    made("crack_shell", {{"pieces", 25}, {"gap", gap}, {"roughness", roughness}, {"noise_size", 0.3}, {"seed", 2}}, {shellNamed(shell)});
                const OperatorOutcome wall = runOp("thicken", {{"thickness", 0.02}, {"flat_rims", false}}, {cracked});
                for (const Notice& n : wall.notices) QVERIFY2(n.level == NoticeLevel::info, n.text.c_str());  // as thick as asked, at slivers, too
                for (const Geometry& piece : eachPieceOf(wall.geometry)) {
                    const Checkup c = checkupOf(piece);
                    QVERIFY(c.closed && c.manifold && c.consistentWinding && c.degenerateFaces == 0);
                }
            }
    }
    /// Neighbours are as far apart as the gap says, measured along the surface, and it may differ from place to place.
    void theGapIsMeasuredAlongTheSurface() {
        const Geometry sheet = made("grid", {{"cells", {40, 40}}});
        const std::vector<Vec3> seeds{{-0.25f, 0, 0}, {0.25f, 0, 0}};
        const Geometry out = madeOf("crack_shell", {{sheet}, {Geometry(seeds)}}, {{"gap", 0.1}});
        QCOMPARE(eachPieceOf(out).size(), std::size_t(2));
        QVERIFY(near(checkupOf(out).area, 0.9, 1e-4));
        // The border stands at a slant to the sheet: seeds one over the other, half moved.
        const Geometry slanted = madeOf("crack_shell", {{sheet}, {Geometry(std::vector<Vec3>{{-0.1f, 0.1f, 0}, {0.1f, -0.1f, 0}})}}, {{"gap", 0.1}});
        QVERIFY2(near(checkupOf(slanted).area, 0.9, 1e-3), qPrintable(QString::number(checkupOf(slanted).area)));
        const Geometry wedge = madeOf("crack_shell", {{sheet}, {Geometry(seeds)}}, {{"gap", {{"formula", "0.1 * (position.z + 0.5)"}}}});
        QVERIFY2(near(checkupOf(wedge).area, 0.95, 2e-3), qPrintable(QString::number(checkupOf(wedge).area)));
    }
    void whatIsNotCutStays() {
        Geometry before = shellNamed("ball");
        Chance chance(3);
        std::vector<Vec3> mark(before.cornerCount());
        std::vector<std::int32_t> number(before.faceCount());
        for (auto& m : mark) m = chance.place();
        for (std::size_t f = 0; f < number.size(); ++f) number[f] = std::int32_t(f);
        before.setColumn(Element::corner, "mark", Column(mark));
        before.setColumn(Element::face, "number", Column(number));
        const Geometry after = made("crack_shell", {{"pieces", 12}}, {before});
        const auto& of = *after.values<std::int32_t>(Element::face, "number");
        const auto& marks = *after.values<Vec3>(Element::corner, "mark");
        std::size_t whole = 0;
        for (Index f = 0; f < after.faceCount(); ++f) {
            if (placesOf(after, f) != placesOf(before, Index(of[f]))) continue;
            ++whole;
            for (Index k = 0; k < 3; ++k) QCOMPARE(marks[after.topology().faceStart()[f] + k], mark[std::size_t(of[f]) * 3 + k]);
        }
        QVERIFY(whole > before.faceCount() / 2 && whole < before.faceCount());
    }
    void crackingIsTheSameForAnyThreads() {
        const SmallChunks small(64);
        const auto run = [](int threads) {
            Digest digest;
            tbb::task_arena arena(threads);
            arena.execute([&] { digest = digestOf(made("crack_shell", {{"pieces", 30}, {"gap", 0.01}, {"roughness", 0.01}}, {shellNamed("ball")})); });
            return digest;
        };
        const Digest one = run(1);
        QVERIFY(run(8) == one);
    }
    void whatCantBeCracked() {
        QCOMPARE(lastCode(runOp("crack_shell", Json::object(), {made("line")})), std::string("surface.none"));
        QCOMPARE(lastCode(runOp("crack_shell", {{"pieces", 0}}, {made("grid")})), std::string("setting.range"));
        const auto wide = runOp("crack_shell", {{"gap", 3}}, {shellNamed("sheet")});
        QCOMPARE(lastCode(wide), std::string("break.gap"));
        QVERIFY(!runOp("crack_shell", {{"gap", wide.notices.back().fixes[0].value}}, {shellNamed("sheet")}).failed);
        QCOMPARE(lastCode(runPorts("crack_shell", {{made("grid")}, {Geometry()}})), std::string("break.no_seeds"));
        Geometry odd = made("grid");
        auto at = odd.positions();
        at[0].x = std::numeric_limits<float>::quiet_NaN();
        odd.setPositions(at);
        QCOMPARE(lastCode(runOp("crack_shell", Json::object(), {odd})), std::string("mesh.non_finite"));
        // All seeds in one place: one fragment, as it was.
        const Geometry one = madeOf("crack_shell", {{shellNamed("ball")}, {Geometry(std::vector<Vec3>(5, Vec3{0.1f, 0, 0}))}});
        QCOMPARE(one.faceCount(), shellNamed("ball").faceCount());
    }

    // ---- Cut along curves

    void cutsPart_data() {
        QTest::addColumn<int>("which");
        QTest::addColumn<int>("pieces");
        QTest::newRow("across a face") << 0 << 2;
        QTest::newRow("two that cross") << 1 << 4;
        QTest::newRow("ends inside, drawn on") << 2 << 2;
        QTest::newRow("a ring on a face") << 3 << 2;
        QTest::newRow("a ring around") << 4 << 2;
        QTest::newRow("crosses itself") << 5 << 3;
        QTest::newRow("along an edge of faces") << 6 << 2;
        QTest::newRow("through corners") << 7 << 2;
        QTest::newRow("three that meet in one point") << 8 << 6;
        QTest::newRow("leaves and comes back") << 9 << 3;
    }
    void cutsPart() {
        QFETCH(int, which);
        QFETCH(int, pieces);
        const float y = 0.5f;
        std::vector<Geometry> lines;
        Geometry solid = made("box", {{"cells", {4, 4, 4}}});
        if (which == 0) lines = {across({{-0.6f, y, 0.1f}, {0, y, -0.1f}, {0.6f, y, 0.07f}})};
        if (which == 1) lines = {across({{-0.6f, y, 0.1f}, {0.6f, y, -0.1f}}), across({{0.07f, y, -0.6f}, {-0.11f, y, 0.6f}})};
        if (which == 2) lines = {across({{-0.2f, y, 0.1f}, {0.1f, y, -0.1f}})};
        if (which == 3) lines = {circle({0, y, 0}, {0.3f, 0, 0}, {0, 0, -0.3f})};
        if (which == 4) lines = {circle({0, 0.1f, 0}, {0.5f, 0, 0.5f}, {-0.5f, 0, 0.5f}, 4)};
        if (which == 5) lines = {across({{-0.6f, y, -0.2f}, {0.3f, y, 0.2f}, {0.3f, y, -0.3f}, {-0.6f, y, 0.3f}})};
        if (which == 6) lines = {across({{-0.5f, y, 0}, {0.5f, y, 0}})};
        if (which == 7) lines = {across({{-0.5f, y, -0.5f}, {0.5f, y, 0.5f}})};
        if (which == 8)
            for (int i = 0; i < 3; ++i) {
                const float a = 0.3f + float(i) * 1.0472f, c = std::cos(a) * 0.8f, s = std::sin(a) * 0.8f;
                lines.push_back(across({{-c, y, -s}, {0, y, 0}, {c, y, s}}));
            }
        if (which == 9) lines = {across({{-0.3f, y, -0.6f}, {-0.3f, y, 0.6f}, {0.2f, y, 0.6f}, {0.2f, y, -0.6f}})};
        const Json settings = which == 4 ? Json::object() : Json{{"direction", {0, -1, 0}}};
        for (double roughness : {0.0, 0.02}) {
            Json with = settings;
            with["roughness"] = roughness;
            const auto out = cutAlong(solid, lines, with);
            QVERIFY2(!out.failed, out.notices.empty() ? "" : out.notices.back().text.c_str());
            for (const Notice& n : out.notices) QVERIFY2(n.level == NoticeLevel::info, n.text.c_str());
            verifyPieces(out.geometry);
            if (roughness == 0) QCOMPARE(piecesOf(out), std::size_t(pieces));
            else QVERIFY(piecesOf(out) >= std::size_t(pieces));
            QVERIFY(near(checkupOf(out.geometry).volume, 1, 1e-5));
            QCOMPARE(loneInsideFaces(out.geometry), 0u);
        }
    }
    /// Where walls cross and opposite parts hang together elsewhere, a piece meets itself along an edge: its points stand twice there.
    void aPieceThatMeetsItselfStaysSound() {
        const Geometry box = made("box");
        const auto out = cutAlong(box,
                                  {across({{-0.6f, 0.5f, 0}, {0.6f, 0.5f, 0}}), across({{0, 0.5f, -0.6f}, {0, 0.5f, 0.6f}}),
                                   circle({0, 0.5f, 0}, {0.2f, 0, 0}, {0, 0, -0.2f})},
                                  {{"direction", {0, -1, 0}}});
        QCOMPARE(piecesOf(out), std::size_t(8));
        verifyPieces(out.geometry);
        // A figure of eight with both halves left to one piece.
        const auto eight =
            cutAlong(box, {across({{-0.3f, 0.5f, -0.2f}, {0.3f, 0.5f, 0.2f}, {0.3f, 0.5f, -0.2f}, {-0.3f, 0.5f, 0.2f}}, true)}, {{"direction", {0, -1, 0}}});
        QCOMPARE(piecesOf(eight), std::size_t(3));
        verifyPieces(eight.geometry);
        for (const Geometry& piece : eachPieceOf(eight.geometry)) QVERIFY(checkupOf(piece).manifold);
    }
    /// Pieces that were broken before are cut each by itself.
    void cutsThroughPieces() {
        const Geometry before = made("shatter", {{"pieces", 8}}, {made("box")});
        const auto out = cutAlong(before, {across({{-0.6f, 0.5f, 0.03f}, {0.6f, 0.5f, -0.05f}})}, {{"direction", {0, -1, 0}}, {"roughness", 0.01}});
        QVERIFY(!out.failed && piecesOf(out) > 10);
        verifyPieces(out.geometry);
        QVERIFY(near(checkupOf(out.geometry).volume, 1, 1e-5));
    }
    void linesAgainstTheSurface() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 0.5}, {"frequency", 10}});
        const auto out = cutAlong(ball, {circle({0, 0.43f, 0}, {0.25f, 0, 0}, {0, 0, -0.25f})});
        QCOMPARE(piecesOf(out), std::size_t(2));  // a plug out of the ball, all the way through
        const auto around = cutAlong(ball, {circle({0, 0.1f, 0}, {0.49f, 0, 0}, {0, 0, -0.49f})});
        QCOMPARE(piecesOf(around), std::size_t(2));
        verifyPieces(around.geometry);
        const auto parts = eachPieceOf(around.geometry);
        const double whole = checkupOf(ball).volume, lesser = std::min(checkupOf(parts[0]).volume, checkupOf(parts[1]).volume);
        QVERIFY(lesser > whole * 0.3 && lesser < whole * 0.45);
    }
    void depthAndWhatPartsNothing() {
        const Geometry box = made("box");
        const Geometry line = across({{-0.6f, 0.5f, 0}, {0.6f, 0.5f, 0}});
        QCOMPARE(piecesOf(cutAlong(box, {line}, {{"depth", 1.2}})), std::size_t(2));
        const auto shallow = cutAlong(box, {line}, {{"depth", 0.4}});
        QVERIFY(!shallow.failed);
        QCOMPARE(piecesOf(shallow), std::size_t(1));
        QCOMPARE(shallow.geometry.faceCount(), std::size_t(6));
        QCOMPARE(lastCode(shallow), std::string("cut.idle"));
        QCOMPARE(shallow.notices.back().fixes.size(), std::size_t(2));
        QCOMPARE(shallow.notices.back().fixes[0].port, std::string("curves"));
        QCOMPARE(shallow.notices.back().fixes[1].setting, std::string("depth"));
        const auto beside = cutAlong(box, {line, across({{-0.6f, 0.5f, 3}, {0.6f, 0.5f, 3}})});
        QCOMPARE(piecesOf(beside), std::size_t(2));
        QCOMPARE(lastCode(beside), std::string("cut.idle"));
        QVERIFY(beside.notices.back().fixes.empty());  // which of both inputs would be shown?
        const auto both = cutAlong(box, {combine({line, across({{-0.6f, 0.5f, 3}, {0.6f, 0.5f, 3}})})});
        QCOMPARE(both.notices.back().fixes[0].rows, std::vector<Index>{1});
        const auto inside = cutAlong(box, {across({{-0.2f, 0.5f, 0}, {0.2f, 0.5f, 0}})}, {{"extend", false}});
        QCOMPARE(piecesOf(inside), std::size_t(1));
        QCOMPARE(inside.notices.back().fixes[1].setting, std::string("extend"));
        QCOMPARE(lastCode(cutAlong(box, {Geometry()})), std::string("cut.no_lines"));
        QCOMPARE(lastCode(cutAlong(made("grid"), {line})), std::string("cut.open"));
        QCOMPARE(lastCode(cutAlong(box, {across({{0, 0.5f, 0}, {0, 0.5f, 0}})})), std::string("cut.idle"));
    }
    /// The second output: lines as they cut, and what was drawn on.
    void extensionsAreGiven() {
        const auto out = cutAlong(made("box"), {across({{-0.2f, 0.5f, 0}, {0.2f, 0.5f, 0.1f}})}, {{"direction", {0, -1, 0}}});
        QCOMPARE(out.others.size(), std::size_t(1));
        const Geometry& lines = out.others[0];
        QCOMPARE(lines.curveCount(), std::size_t(3));
        const auto& drawnOn = *lines.values<std::uint8_t>(Element::curve, "drawn_on");
        QCOMPARE(std::count(drawnOn.begin(), drawnOn.end(), 1), 2);
        const Bounds box = boundsOf(lines.positions());
        QVERIFY(box.min.x < -0.5f && box.max.x > 0.5f && box.min.x > -0.6f && box.max.x < 0.6f);
        QVERIFY(near(double(box.max.z - box.min.z), double(box.max.x - box.min.x) * 0.25, 1e-3));  // straight on
    }
    void roughCutsMatchAndCarryATexture() {
        const auto out =
            cutAlong(made("box", {{"cells", {3, 3, 3}}}), {across({{-0.6f, 0.5f, 0}, {0.6f, 0.5f, 0}})}, {{"roughness", 0.03}, {"noise_size", 0.3}});
        QCOMPARE(loneInsideFaces(out.geometry), 0u);
        const auto& inside = *out.geometry.values<std::uint8_t>(Element::face, "inside");
        const auto& uv = *out.geometry.values<Vec2>(Element::corner, "uv");
        double area = 0;
        const Topology& t = out.geometry.topology();
        for (Index f = 0; f < out.geometry.faceCount(); ++f) {
            if (!inside[f]) continue;
            for (Index c = t.faceStart()[f]; c < t.faceStart()[f + 1]; ++c) {
                const Index next = c + 1 == t.faceStart()[f + 1] ? t.faceStart()[f] : c + 1;
                area += double(uv[c].x * uv[next].y - uv[next].x * uv[c].y) / 2;
            }
        }
        QVERIFY2(near(area, 2, 0.1), qPrintable(QString::number(area)));  // both sides of one square metre, none mirrored
    }

    /// Points along a crack stand far closer than the surface's own and face different ways: the wall must not fold there.
    void thickenedFragmentsDoNotFold() {
        for (const int seed : {3, 8})
            for (const double gap : {0.0, 0.01})
                for (const double thickness : {0.02, 0.06}) {
                    const Geometry ball = made("geodesic_sphere", {{"frequency", 12}});
                    const Geometry cracked = made("crack_shell", {{"pieces", 36}, {"seed", seed}, {"gap", gap}}, {ball});
                    for (const char* side : {"in", "out", "both"}) {
                        const Geometry solid = made("thicken", {{"thickness", thickness}, {"side", side}}, {cracked});
                        QCOMPARE(crossingsOf(solid).pairs, std::size_t(0));
                        const auto figures = pieceFigures(solid);
                        QVERIFY(figures && figures->closed);
                        // About as thick as asked for.
                        const double volume = checkupOf(solid).volume, shell = surfaceArea(cracked) * thickness;
                        QVERIFY2(volume > shell * 0.85 && volume < shell * 1.15, qPrintable(QString("%1 of %2").arg(volume).arg(shell)));
                    }
                }
    }
};

QTEST_GUILESS_MAIN(TestCracking)
#include "test_cracking.moc"
