// A scan becomes a base: what is found in it, what is offered, and what comes of it.
#include "files/FileIo.h"
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "geometry/Weld.h"
#include "graph/Controls.h"
#include "graph/Fixes.h"
#include "graph/Importing.h"
#include "meshes/MeshFile.h"
#include "support/Edited.h"
#include "support/Scan.h"
#include "support/Sound.h"
#include "surface/LooseParts.h"
#include "surface/Orient.h"
#include "surface/ScanFacts.h"
#include "surface/Upright.h"

#include <QTemporaryDir>

#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

const Notice* told(const std::vector<Notice>& notices, const std::string& code) {
    const auto it = std::find_if(notices.begin(), notices.end(), [&](const Notice& n) { return n.code == code; });
    return it == notices.end() ? nullptr : &*it;
}

const NoticeFix* offered(const std::vector<Notice>& notices, const std::string& label) {
    for (const Notice& notice : notices)
        for (const NoticeFix& fix : notice.fixes)
            if (fix.label == label) return &fix;
    return nullptr;
}

/// Faces of which side, tall foot and all, as a stump with a flat foot and a round top, that way up.
Geometry stump(SignedAxis up) {
    Geometry g = made("sphere", {{"radius", 1}, {"sides", 48}, {"rings", 24}});
    std::vector<Vec3> at = g.positions();
    for (Vec3& p : at) p.y = std::max(p.y, -0.6f);
    g.setPositions(std::move(at));
    return transformed(g, inverse(turnUpright(up)));
}

/// The part of a ball that is above a height.
Geometry bowl(double radius, float from) {
    const Geometry ball = made("geodesic_sphere", {{"radius", radius}, {"frequency", 12}});
    return made("plane_cut", {{"origin", {0, from, 0}}, {"normal", {0, 1, 0}}, {"fill", false}}, {ball});
}

std::size_t lookingIn(const Geometry& g) {
    std::size_t out = 0;
    for (Index f = 0; f < g.faceCount(); ++f) out += dot(areaVector(g.topology().face(f), g.positions()), centreOf(g.topology().face(f), g.positions())) < 0;
    return out;
}

}  // namespace

class TestScans : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    std::string written(const char* name, const Geometry& g) const {
        const std::string path = folder_.filePath(QString::fromLatin1(name)).toStdString();
        const auto problem = writeMesh(g, path);
        Q_ASSERT(!problem);
        return path;
    }
    struct Built {
        Geometry geometry;
        std::vector<Notice> notices;
    };
    static Built built(const Loom& loom) {
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        request.controls = *controlValues(loom);
        Memo memo;
        const RebuildResult result = rebuild(request, memo);
        const Geometry* g = result.geometry(loom.output);
        return {g ? *g : Geometry(), result.notices(loom)};
    }

private Q_SLOTS:
    void theFlattestSideIsTheFoot() {
        for (int axis = 0; axis < 3; ++axis)
            for (bool positive : {true, false}) {
                const SignedAxis up{axis, positive};
                const auto guess = guessedUp(stump(up));
                QVERIFY(guess && *guess == up);
                Vec3 way{};
                way[axis] = positive ? 1.0f : -1.0f;
                QCOMPARE(turnUpright(up).vector(way), (Vec3{0, 1, 0}));
                QVERIFY(near(turnUpright(up).determinant(), 1, 1e-6));
            }
        // Nothing says which way this one stands, and these may as well stay.
        QVERIFY(!guessedUp(made("geodesic_sphere", {{"frequency", 8}})));
        QVERIFY(guessedUp(made("box")) == SignedAxis{});
        QVERIFY(guessedUp(made("cylinder")) == SignedAxis{});
        QVERIFY(!guessedUp(Geometry()));
        // A foot with a hole in it is one as well, and what is left out has no say.
        const Geometry open =
            made("delete", {{"of", "faces"}, {"where", {{"formula", "position.z < -0.55 && length(position.xy) < 0.6"}}}}, {stump({2, true})});
        QVERIFY(open.faceCount() < stump({2, true}).faceCount());
        QVERIFY(guessedUp(open) == (SignedAxis{2, true}));
        const Geometry speck = made("transform", {{"scale", {0.01, 0.01, 0.01}}, {"move", {0, 0, -3}}}, {made("box")});
        const Geometry both = combine({stump({2, true}), speck});
        QVERIFY(!guessedUp(both));
        QVERIFY(guessedUp(both, looseParts(both, 0.05).small) == (SignedAxis{2, true}));
    }

    void smallPartsAreThoseUnderTheShare() {
        std::vector<Geometry> parts;
        for (double size : {1.0, 0.5, 0.06, 0.04})
            parts.push_back(made("transform", {{"scale", {size, size, size}}, {"move", {4 * size, 0, 0}}}, {made("box")}));
        const Geometry all = combine(parts);
        for (const auto& [share, count] : {std::pair{0.0, 0u}, {0.05, 1u}, {0.1, 2u}, {0.51, 3u}, {1.0, 3u}}) {
            const LooseParts loose = looseParts(all, share);
            QCOMPARE(loose.parts, std::size_t(count));
            QCOMPARE(std::size_t(std::count(loose.small.begin(), loose.small.end(), 1)), std::size_t(6 * count));
        }
        const std::string path = written("parts.stl", all);
        const OperatorOutcome out = runOp("import_mesh", {{"file", path}, {"smallest_part", 0.1}});
        QCOMPARE(out.geometry.topology().connection().pieces, 2u);
        QVERIFY(told(out.notices, "import.left_out"));
    }

    void openPartsLookOutOfTheirHollow() {
        for (float from : {-0.9f, 0.0f, 0.8f}) {
            const Geometry good = bowl(1, from), bad = flipped(good, std::vector<std::uint8_t>(good.faceCount(), 1));
            QVERIFY(!scanFactsOf(good).sheet && !scanFactsOf(good).insideOut && scanFactsOf(bad).insideOut);
            const auto turn = facesToTurn(bad, RunContext(), nullptr, OpenParts::outOfHollow);
            QCOMPARE(std::count(turn.begin(), turn.end(), 1), std::ptrdiff_t(bad.faceCount()));
            const auto stay = facesToTurn(good, RunContext(), nullptr, OpenParts::outOfHollow), most = facesToTurn(bad, RunContext());
            QCOMPARE(std::count(stay.begin(), stay.end(), 1) + std::count(most.begin(), most.end(), 1), 0);
        }
        // A sheet has no outside: it keeps what it had.
        const Geometry sheet = made("noise_displace", {{"amount", 0.1}}, {made("grid", {{"size", {2, 2}}, {"cells", {20, 20}}})});
        QVERIFY(scanFactsOf(sheet).sheet);
        const auto turn = facesToTurn(flipped(sheet, std::vector<std::uint8_t>(sheet.faceCount(), 1)), RunContext(), nullptr, OpenParts::outOfHollow);
        QCOMPARE(std::count(turn.begin(), turn.end(), 1), 0);
    }

    void factsAreCounted() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 10}});
        QCOMPARE(scanFactsOf(ball).openEdges, 0u);
        // Two holes that touch in no point, of five and six edges.
        const Geometry open = made("delete", {{"of", "faces"}, {"where", {{"formula", "abs(position.y) > 0.97"}}}}, {ball});
        const ScanFacts facts = scanFactsOf(open);
        QCOMPARE(facts.holes, 2u);
        QVERIFY(facts.openEdges >= 10 && facts.reversed == 0 && facts.crowded == 0 && !facts.sheet);
        QVERIFY(near(facts.area, surfaceArea(open), 1e-4));
        std::vector<std::uint8_t> one(ball.faceCount(), 0);
        one[17] = 1;
        QCOMPARE(scanFactsOf(flipped(ball, one)).reversed, 3u);
        QCOMPARE(scanFactsOf(weld(combine({ball, ball}), 0).geometry).crowded, ball.topology().edges().edges.size());
        QVERIFY(near(edgeOfTriangles(std::sqrt(3.0) / 4 * 0.25 * 7, 7), 0.5, 1e-9));
    }

    void sizeAndPlace() {
        const std::string path =
            written("stump.stl", made("transform", {{"scale", {30, 50, 20}}, {"move", {7, -9, 100}}}, {made("box", {{"size", {1, 1, 1}}})}));
        const auto sizeOf = [&](Json settings) {
            settings["file"] = path;
            return boundsOf(made("import_mesh", settings));
        };
        QVERIFY(near(sizeOf({{"size_by", "height"}, {"size", 0.4}}).size().y, 0.4, 1e-6));
        QVERIFY(near(sizeOf({{"size_by", "height"}, {"size", 0.4}, {"up", "z"}}).size().x, 0.4 * 30 / 20, 1e-6));
        QVERIFY(near(sizeOf({{"size_by", "longest side"}, {"size", 2}, {"up", "-x"}}).size().x, 2, 1e-6));
        const Bounds stands = sizeOf({{"size_by", "longest side"}, {"size", 2}, {"place", "on the ground"}});
        QVERIFY(near(stands.min.y, 0, 1e-6) && near(stands.centre().x, 0, 1e-6) && near(stands.centre().z, 0, 1e-6) && near(stands.size().y, 2, 1e-6));
        const std::string flat = written("flat.stl", made("grid"));
        const OperatorOutcome none = runOp("import_mesh", {{"file", flat}, {"size_by", "height"}, {"size", 1}});
        QVERIFY(told(none.notices, "import.no_size") && none.geometry.faceCount() > 0);
    }

    /// Each thing that is wrong is told beside the setting that helps, with one click for it, after which it is not told any more.
    void whatHelpsIsOfferedOneByOne() {
        const std::string path = written("stone.ply", DirtyScan{}.make());
        Json settings{{"file", path}};
        std::set<std::string> used;
        for (const char* code : {"import.loose", "import.up", "import.size", "import.winding", "import.place"}) {
            const OperatorOutcome before = runOp("import_mesh", settings);
            const Notice* notice = told(before.notices, code);
            QVERIFY2(notice && notice->level == NoticeLevel::info && notice->fixes.size() == 1, code);
            const NoticeFix& fix = notice->fixes.front();
            QVERIFY(fix.kind == NoticeFix::Kind::set && fix.setting == notice->setting && used.insert(fix.setting).second);
            settings[fix.setting] = fix.value;
            QVERIFY2(!told(runOp("import_mesh", settings).notices, code), code);
        }
        QCOMPARE(settings.at("up"), Json("z"));
        QCOMPARE(settings.at("winding"), Json("outwards"));
        QCOMPARE(settings.at("scale"), Json(0.001));
        const OperatorOutcome out = runOp("import_mesh", settings);
        QCOMPARE(out.geometry.topology().connection().pieces, 1u);
        QVERIFY(near(boundsOf(out.geometry).min.y, 0, 1e-6) && near(boundsOf(out.geometry).size().y, 0.17, 0.02));
        QCOMPARE(scanFactsOf(out.geometry).holes, 5u);
        QVERIFY(scanFactsOf(out.geometry).reversed == 0 && !scanFactsOf(out.geometry).insideOut);
        // Points on top of each other are joined unless somebody says no.
        const OperatorOutcome loose = runOp("import_mesh", {{"file", path}, {"weld", false}});
        QVERIFY(told(loose.notices, "import.doubled") && !told(out.notices, "import.doubled"));
        // What has no flat side is turned as most files of its kind are.
        const Geometry ball = made("geodesic_sphere", {{"frequency", 8}});
        QCOMPARE(told(runOp("import_mesh", {{"file", written("ball.stl", ball)}}).notices, "import.up")->fixes.front().value, Json("z"));
        QVERIFY(!told(runOp("import_mesh", {{"file", written("ball.ply", ball)}}).notices, "import.up"));
    }

    void nothingIsOfferedForWhatIsClean() {
        const OperatorOutcome out =
            runOp("import_mesh", {{"file", written("clean.ply", made("transform", {{"move", {0, 1, 0}}}, {made("geodesic_sphere", {{"radius", 1}})}))}});
        QCOMPARE(out.notices.size(), std::size_t(1));
        QVERIFY(out.notices.front().fixes.empty());
    }

    void madeCleanInOneStep_data() {
        QTest::addColumn<QString>("way");
        QTest::newRow("wrapped") << "Make it clean";
        QTest::newRow("patched") << "Make it clean, holes patched";
    }
    void madeCleanInOneStep() {
        QFETCH(QString, way);
        const DirtyScan scan{.triangles = 40'000};
        const std::string path = written("dirty.stl", scan.make());
        const Loom loom = loomImporting({{path, ImportedAs::mesh}});
        const std::string import = loom.nodes.front().id;
        const Built raw = built(loom);
        const NoticeFix* fix = offered(raw.notices, way.toStdString());
        QVERIFY(fix);
        std::string made;
        const Loom clean = after(loom, fixed(loom, {}, import, *fix, &made));
        QCOMPARE(clean.node(made)->op, std::string("snap_to_surface"));
        QCOMPARE(clean.controls.size(), std::size_t(1));
        const Built result = built(clean);
        for (const Notice& n : result.notices) QVERIFY2(n.level == NoticeLevel::info, n.text.c_str());
        const Geometry& g = result.geometry;
        verifySolid(g);
        QCOMPARE(g.topology().connection().pieces, 1u);
        QCOMPARE(euler(g), 2l);
        QVERIFY(crossingsOf(g).faces.empty());
        QVERIFY(near(boundsOf(g).min.y, 0, 1e-4) && near(boundsOf(g).centre().x, 0, 1e-4));
        // As even as asked for.
        const double edge = clean.controls.front().fallback.get<double>();
        double sum = 0;
        std::size_t odd = 0;
        const auto& edges = g.topology().edges().edges;
        for (const auto& [a, b] : edges) {
            const double own = double(length(g.positions()[a] - g.positions()[b]));
            sum += own, odd += own < edge / 2 || own > 1.6 * edge;
        }
        QVERIFY2(near(sum / double(edges.size()), edge, 0.15 * edge), qPrintable(QString::number(sum / double(edges.size()) / edge)));
        QVERIFY2(odd * 200 < edges.size(), qPrintable(QString::number(odd)));
        // On the scan again, but for what lies over its holes, which is a small part of it.
        const Geometry scanned = test::made("import_mesh", clean.node(import)->settings.get());
        const NearestPlace places(scanned, NearestPlace::On::faces);
        std::size_t off = 0;
        for (Vec3 p : g.positions()) off += places.find(p).squaredDistance > 1e-12f;
        QVERIFY2(off * 20 < g.pointCount(), qPrintable(QString::number(off)));
        // The other length of the control works as well.
        for (double times : {0.8, 4.0}) {
            const Geometry other = built(after(clean, setControlValue(clean, "edge_length", times * edge))).geometry;
            verifySolid(other);
            QVERIFY(times < 1 ? other.faceCount() > g.faceCount() : other.faceCount() * 8 < g.faceCount());
        }
        // With the mirror used, both halves are the same.
        const auto mirror = std::find_if(clean.nodes.begin(), clean.nodes.end(), [](const Node& n) { return n.op == "mirror"; });
        QVERIFY(mirror != clean.nodes.end() && mirror->skipped);
        const Geometry both = built(after(clean, setSkipped(clean, {mirror->id}, false))).geometry;
        QVERIFY(checkupOf(both).closed && checkupOf(both).manifold);
        const NearestPlace image(both, NearestPlace::On::points);
        for (Vec3 p : both.positions()) QVERIFY(image.find({-p.x, p.y, p.z}).squaredDistance < 1e-14f);
    }

    /// A relief that was scanned from one side encloses nothing: it is made even, and stays open.
    void aSheetStaysASheet() {
        const Geometry sheet = made("noise_displace", {{"amount", 0.05}, {"size", 0.4}}, {made("grid", {{"size", {1, 1}}, {"cells", {60, 60}}})});
        std::vector<std::uint8_t> some(sheet.faceCount(), 0);
        for (std::size_t f = 0; f < some.size(); f += 37) some[f] = 1;
        const Loom loom = loomImporting({{written("relief.stl", flipped(sheet, some)), ImportedAs::mesh}});
        const Built raw = built(loom);
        QVERIFY(!offered(raw.notices, "Make it clean, holes patched"));
        const NoticeFix* fix = offered(raw.notices, "Make it clean");
        QVERIFY(fix);
        std::string made;
        const Built result = built(after(loom, fixed(loom, {}, loom.nodes.front().id, *fix, &made)));
        const Checkup checkup = checkupOf(result.geometry);
        QVERIFY(checkup.manifold && checkup.consistentWinding && checkup.openEdges > 0);
        QCOMPARE(scanFactsOf(result.geometry).holes, 1u);
    }

    void fewAndBadTriangles() {
        const auto two = [&](std::vector<Vec3> at) {
            const std::size_t count = at.size();
            std::vector<Index> corners(count), start{0};
            for (Index c = 0; c < count; ++c) corners[c] = c;
            for (Index c = 3; c <= count; c += 3) start.push_back(c);
            return Geometry(std::move(at), Topology(count, std::move(start), std::move(corners), {0}, {}, {}));
        };
        const float nan = std::numeric_limits<float>::quiet_NaN();
        for (const std::vector<Vec3>& at : {std::vector<Vec3>{{0, 0, 0}, {1, 0, 0}, {0, 0, 1}, {5, 0, 0}, {6, 0, 0}, {5, 0, 1}},
                                            {{0, 0, 0}, {0, 0, 0}, {0, 0, 0}},
                                            {{nan, 0, 0}, {1, 0, 0}, {0, 0, 1}}}) {
            const OperatorOutcome out = runOp("import_mesh", {{"file", written("few.ply", two(at))},
                                                              {"winding", "outwards"},
                                                              {"smallest_part", 0.05},
                                                              {"place", "on the ground"},
                                                              {"size_by", "longest side"}});
            QVERIFY(!out.notices.empty());
            for (const Notice& n : out.notices)
                for (const NoticeFix& fix : n.fixes) QVERIFY(fix.kind != NoticeFix::Kind::clean || fix.value.at("edge_length").get<double>() > 0);
        }
    }

    void pointsOverHolesStay() {
        const Geometry ball = made("geodesic_sphere", {{"radius", 1}, {"frequency", 16}}), target = bowl(1.1, 0);
        const Geometry all = madeOf("snap_to_surface", {{ball}, {target}}), kept = madeOf("snap_to_surface", {{ball}, {target}}, {{"at_open_edges", "stay"}});
        const Geometry near = madeOf("snap_to_surface", {{ball}, {target}}, {{"within", 0.3}});
        std::size_t stay = 0;
        for (Index p = 0; p < ball.pointCount(); ++p) {
            const Vec3 at = ball.positions()[p];
            if (at.y < -0.05f) QVERIFY(kept.positions()[p] == at && !(all.positions()[p] == at));
            if (at.y > 0.05f) QVERIFY(kept.positions()[p] == all.positions()[p] && !(all.positions()[p] == at));
            QCOMPARE(near.positions()[p], length(all.positions()[p] - at) > 0.3f ? at : all.positions()[p]);
            stay += kept.positions()[p] == at;
        }
        QVERIFY(stay > ball.pointCount() / 3);
        // Inside of a wall the near skin looks the other way.
        const Geometry wall =
            madeOf("boolean", {{made("geodesic_sphere", {{"radius", 1.3}, {"frequency", 8}})}, {made("geodesic_sphere", {{"radius", 1.1}, {"frequency", 8}})}},
                   {{"form", "subtract"}});
        const Geometry turned = madeOf("snap_to_surface", {{ball}, {wall}}), stays = madeOf("snap_to_surface", {{ball}, {wall}}, {{"same_side", true}});
        QVERIFY(turned.positions() != ball.positions() && stays.positions() == ball.positions());
        // Snapped onto a ball far smaller than its holes: without care the lower half crosses itself.
        const Geometry sound = madeOf("snap_to_surface", {{ball}, {bowl(0.4, -0.1f)}}, {{"no_crossing", true}}),
                       careless = madeOf("snap_to_surface", {{ball}, {bowl(0.4, -0.1f)}});
        QVERIFY(crossingsOf(sound).faces.empty());
        QVERIFY(!crossingsOf(careless).faces.empty() || checkupOf(careless).degenerateFaces > 0);
    }

    void oneSideMirrored() {
        const Geometry lopsided =
            made("transform", {{"move", {0.3, 0, 0}}, {"scale", {1, 0.8, 1.3}}}, {made("geodesic_sphere", {{"radius", 1}, {"frequency", 10}})});
        for (const char* side : {"above", "below"}) {
            const Geometry both = made("mirror", {{"cut", true}, {"side", side}}, {lopsided});
            verifySolid(both);
            const Geometry half = made("plane_cut", {{"origin", {0, 0, 0}}, {"normal", {side == std::string("above") ? 1 : -1, 0, 0}}}, {lopsided});
            QVERIFY(near(checkupOf(both).volume, 2 * checkupOf(half).volume, 1e-4));
        }
        const OperatorOutcome none = runOp("mirror", {{"cut", true}, {"offset", 5}}, {lopsided});
        QCOMPARE(lastCode(none), std::string("mirror.side"));
        QCOMPARE(none.geometry.faceCount(), lopsided.faceCount());
    }

    void whatCannotBeCleanedIsLeft() {
        const Loom loom = loomImporting({{"nothing.stl", ImportedAs::mesh}});
        std::string made;
        QVERIFY(fixed(loom, {}, "gone", cleanFix("Make it clean", {}, {{"edge_length", 0.1}, {"holes", "wrap"}}), &made).empty());
        QVERIFY(fixed(loom, {}, loom.nodes.front().id, cleanFix("Make it clean", {}, nullptr), &made).empty());
        QVERIFY(made.empty());
    }
};

QTEST_GUILESS_MAIN(TestScans)
#include "test_scans.moc"
