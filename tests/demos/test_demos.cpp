// Each demo asset from end to end: its defaults and presets build without a warning, and what its controls promise holds.
#include "breaking/PieceCheckup.h"
#include "formats/AssetShelf.h"
#include "formats/LoomFile.h"
#include "geometry/Bake.h"
#include "geometry/Digest.h"
#include "geometry/Materials.h"
#include "geometry/NearestPlace.h"
#include "geometry/Rows.h"
#include "geometry/SelfIntersections.h"
#include "geometry/ShadingBreaks.h"
#include "graph/Controls.h"
#include "publish/FitCheck.h"
#include "scatter/CopyOverlap.h"
#include "support/Chance.h"
#include "support/Pieces.h"
#include "support/Run.h"

#include <fmt/ranges.h>

#include <fstream>

using namespace seedloom;
using namespace seedloom::test;

namespace {

struct Built {
    Geometry geometry;
    RebuildResult result;
};

/// A demo with a preset, or with values of controls; fails the test on warnings and errors.
class Asset {
public:
    explicit Asset(const char* name) {
        const auto read = readLoom(std::filesystem::path(SEEDLOOM_SOURCE) / "demo" / (std::string(name) + ".loom"));
        if (!read) QTest::qFail(read.error().text.c_str(), __FILE__, __LINE__);
        else loom_ = std::make_shared<const Loom>(*read);
    }
    const Loom& loom() const { return *loom_; }
    Geometry build(const std::map<std::string, Json>& given = {}, const std::string& preset = {}, const std::string& at = {}) {
        RebuildRequest request;
        request.loom = loom_;
        request.folder = std::string(SEEDLOOM_SOURCE) + "/demo";
        request.assets = assetsOf(*loom_, request.folder);
        const auto values = controlValues(*loom_, {preset, given});
        if (!values) QTest::qFail(values.error().text.c_str(), __FILE__, __LINE__);
        else request.controls = *values;
        request.targets = {at.empty() ? loom_->output : at};
        result_ = rebuild(request, memo_);
        for (const Notice& notice : result_.notices(*loom_))
            if (notice.level != NoticeLevel::info) QTest::qFail((preset + ": " + notice.node + ": " + notice.text).c_str(), __FILE__, __LINE__);
        const Geometry* out = result_.geometry(request.targets[0]);
        return out ? *out : Geometry();
    }

private:
    std::shared_ptr<const Loom> loom_;
    Memo memo_;
    RebuildResult result_;
};

Vec3 sizeOf(const Geometry& g) { return boundsOf(g.positions()).size(); }

}  // namespace

class TestDemos : public QObject {
    Q_OBJECT

private Q_SLOTS:
    /// What a control allows builds a sound model without a warning: defaults, presets, both ends of each control, and some settings of all at once
    /// (SEEDLOOM_SWEEP_SEED, SEEDLOOM_SWEEP_RANDOM: others). scripts/sweep does more.
    void everySettingIsSound_data() {
        QTest::addColumn<QString>("name");
        for (const char* name :
             {"mooring-bollard", "fish-crate", "dune-boardwalk", "radar-dome", "roof-shingle", "shingled-turret", "whelk", "carved-seal", "harbour-sign",
              "crusted-rock", "basket-of-floats", "net-floats", "attribute-tour", "knotted-fender", "seal-in-strokes", "chipped-quay-steps"})
            QTest::newRow(name) << name;
    }
    void everySettingIsSound() {
        QFETCH(QString, name);
        const auto given = [](const char* variable, int usual) { return qEnvironmentVariableIsSet(variable) ? qEnvironmentVariableIntValue(variable) : usual; };
        const int seed = given("SEEDLOOM_SWEEP_SEED", 1130), random = given("SEEDLOOM_SWEEP_RANDOM", 1);
        const auto demo = fitSubjectFrom(std::filesystem::path(SEEDLOOM_SOURCE) / "demo" / (name.toStdString() + ".loom"));
        QVERIFY2(bool(demo), demo ? "" : demo.error().text.c_str());
        const auto trials = trialsOf(*demo->loom, {.random = random, .seed = unsigned(seed)});
        const auto verdicts = checkFit(*demo, trials);
        for (std::size_t i = 0; i < trials.size(); ++i)
            QVERIFY2(verdicts[i].faults.empty(), fmt::format("{} (seed {}): {}", trials[i].text(), seed, fmt::join(verdicts[i].faults, "; ")).c_str());
    }
    /// The stones stay apart, lose what the chips take, and only where the chips are.
    void chippedQuaySteps() {
        Asset asset("chipped-quay-steps");
        const Geometry whole = asset.build({}, {}, "flight");
        for (const char* guide : {"flat", "over the edge", "domed"})
            for (int steps : {2, 5}) {
                const Geometry g = asset.build({{"guide", guide}, {"steps", steps}, {"which", 2}, {"spread", 1.0}, {"along", 0.1}});
                verifySolid(g);
                QCOMPARE(g.topology().connection().pieces, Index(3 * steps));
                // Where chips meet, not across the stones.
                QVERIFY(shadingBreaks(g).size() * 500 < g.faceCount());
                const auto* inside = g.values<std::uint8_t>(Element::face, "inside");
                QVERIFY(inside);
                std::set<Index> cut;
                for (Index f = 0; f < g.faceCount(); ++f)
                    if ((*inside)[f]) {
                        cut.insert(g.topology().connection().pieceOfPoint[g.topology().face(f).front()]);
                        for (Index p : g.topology().face(f)) QVERIFY(g.positions()[p].y < 0.31f && g.positions()[p].y > 0.09f);
                    }
                QVERIFY(cut.size() >= 2);
            }
        // Deeper takes more away, and over the edge more than flat.
        const auto volumeOf = [&](const char* guide, double depth) { return checkupOf(asset.build({{"guide", guide}, {"depth", depth}})).volume; };
        const double all = checkupOf(whole).volume;
        QVERIFY(all > volumeOf("over the edge", 0.01) && volumeOf("over the edge", 0.01) > volumeOf("over the edge", 0.05));
        QVERIFY(volumeOf("flat", 0.035) > volumeOf("over the edge", 0.035));
        for (const Preset& preset : asset.loom().presets) verifySolid(asset.build({}, preset.name));
    }
    void fishCrate() {
        Asset asset("fish-crate");
        for (int slats : {1, 4, 7}) {
            const Geometry g = asset.build({{"slats", slats}, {"length", 0.9}, {"width", 0.6}, {"slat", 0.06}, {"gap", 0.02}, {"board", 0.02}});
            QVERIFY(near(double(sizeOf(g).x), 0.9, 1e-4) && near(double(sizeOf(g).z), 0.6 + 0.3 * 0.02, 1e-4));
            // Four slats a row, four posts, the planks of the floor, and the fish.
            const int planks = int(std::lround((0.9 - 2.06 * 0.02) / 0.11));
            QCOMPARE(int(g.topology().connection().pieces), 4 * slats + 4 + planks + 1);
        }
    }

    void duneBoardwalk() {
        Asset asset("dune-boardwalk");
        const auto planks = [&](double plank) { return asset.build({{"plank", plank}}, {}, "deck").topology().connection().pieces; };
        QVERIFY(planks(0.1) > planks(0.2) + 30);
        // Piles reach into the sand, however high the way is.
        const Geometry sand = asset.build({}, {}, "sand");
        const NearestPlace ground(sand, NearestPlace::On::faces);
        for (double rise : {0.0, 1.6, 4.0}) {
            const Geometry piles = asset.build({{"rise", rise}}, {}, "piles");
            const Index pieces = piles.topology().connection().pieces;
            QVERIFY(pieces >= 10);
            std::vector<Bounds> bounds(pieces);
            for (std::size_t p = 0; p < piles.pointCount(); ++p) bounds[piles.topology().connection().pieceOfPoint[p]].add(piles.positions()[p]);
            for (const Bounds& b : bounds) {
                const Vec3 foot{b.centre().x, b.min.y, b.centre().z};
                const Place under = ground.find(foot);
                QVERIFY2(foot.y < under.position.y + 0.05f, qPrintable(QString("%1 over %2").arg(double(foot.y)).arg(double(under.position.y))));
            }
        }
        // The rope is as high above the deck as the control says.
        const Bounds low = boundsOf(asset.build({{"rail", 0.5}}, {}, "rope").positions()),
                     high = boundsOf(asset.build({{"rail", 1.4}}, {}, "rope").positions());
        QVERIFY(near(double(high.max.y) - double(low.max.y), 0.9, 1e-3));
    }

    void tumbledBreakwater() {
        Asset asset("tumbled-breakwater");
        using Settings = std::map<std::string, Json>;
        const Settings few{{"blocks", 6}};
        for (const Settings& settings :
             {few, Settings{{"blocks", 5}, {"broken", 1}, {"seed", 8}}, Settings{{"blocks", 4}, {"broken", 0}, {"size", 1.6}, {"slope", 0.5}}}) {
            const Geometry heap = asset.build(settings, {}, "settled"), bed = asset.build(settings, {}, "bed");
            QVERIFY((*heap.values<std::int32_t>(Element::model, "settled_at"))[0] != 0);
            // Blocks are what they were, on the bed and not in it.
            const Geometry before = asset.build(settings, {}, "broken");
            QVERIFY(near(signedVolume(heap), signedVolume(before), 1e-4));
            // One by one: what is still glued has its points in the same places.
            for (const Geometry& piece : eachPieceOf(heap)) verifySolid(piece);
            const NearestPlace ground(bed, NearestPlace::On::faces);
            const std::vector<Vec3> normals = faceNormals(bed);
            for (const Vec3 p : heap.positions()) {
                const Place place = ground.find(p);
                QVERIFY2(dot(p - place.position, normals[place.element]) > -0.04f, Json(settings).dump().c_str());
            }
        }
        // Nothing stands in anything else (a warning would tell).
        for (const Preset& preset : asset.loom().presets) QVERIFY(asset.build({}, preset.name, "settled").pointCount() > 100);
        // Strong blocks hold together, without any strength all cracks open.
        const auto bonds = [&](double strength) {
            return (*asset.build({{"blocks", 8}, {"broken", 1}, {"strength", strength}}, {}, "settled").values<std::int32_t>(Element::model, "bonds"))[0];
        };
        QVERIFY(bonds(10000) > bonds(300) && bonds(0) == 0);
        // Frame 0 is how they were dropped; another seed is another heap.
        QCOMPARE(asset.build({{"blocks", 6}, {"frame", 0}}, {}, "settled").positions(), asset.build(few, {}, "broken").positions());
        QVERIFY(digestOf(asset.build({{"blocks", 6}, {"seed", 9}}, {}, "settled")) != digestOf(asset.build(few, {}, "settled")));
    }

    void radarDome() {
        Asset asset("radar-dome");
        const Geometry panels = asset.build({}, {}, "panels"), open = asset.build({}, {}, "open");
        verifySolid(panels);
        // Every panel was lifted by itself, grooves and tags kept after the rounding.
        const auto& front = *panels.values<std::uint8_t>(Element::face, "front");
        const auto& bevelled = *panels.values<std::uint8_t>(Element::face, "bevel");
        std::size_t lifted = 0, fives = 0;
        const auto& five = *panels.values<std::uint8_t>(Element::face, "five");
        for (std::size_t f = 0; f < panels.faceCount(); ++f)
            if (front[f] && !bevelled[f] && panels.topology().face(f).size() >= 5) ++lifted, fives += five[f];
        QCOMPARE(lifted, open.faceCount());
        QVERIFY(fives > 3 && fives <= 12);
        QVERIFY(double(boundsOf(asset.build({{"raise", 0.2}}, {}, "panels").positions()).max.y) >
                double(boundsOf(asset.build({{"raise", 0.02}}, {}, "panels").positions()).max.y) + 0.15);
    }

    void shingles() {
        Asset shingle("roof-shingle");
        const Geometry one = shingle.build({{"width", 0.4}, {"height", 0.6}, {"thick", 0.08}});
        verifySolid(one);
        QVERIFY(distance(sizeOf(one), {0.4f, 0.6f, 0.08f}) < 1e-4f);
        Asset turret("shingled-turret");
        const Geometry six = turret.build({{"rows", 6}}, {}, "shingles"), twelve = turret.build({{"rows", 12}}, {}, "shingles");
        QVERIFY(twelve.topology().connection().pieces > six.topology().connection().pieces + 40);
        QVERIFY(near(double(boundsOf(turret.build({{"wall", 3.0}}).positions()).max.y) - double(boundsOf(turret.build({{"wall", 1.0}}).positions()).max.y), 2,
                     1e-3));
    }

    /// Shells where it is wet and not too steep, none in another, and those that are there stay where more come.
    void crustedRock() {
        Asset asset("crusted-rock");
        for (const std::string preset : {"", "Thick crust", "Sparse and large", "Smooth boulder"}) {
            const Geometry shells = asset.build({}, preset, "room");
            QVERIFY2(shells.copyCount() > 40, preset.c_str());
            const CopyOverlaps found = overlapsOf(shells, OverlapBy::meshes, RunContext());
            QVERIFY2(found.pairs.empty() && found.doubled.empty(), preset.c_str());
        }
        for (double steep : {30.0, 90.0}) {
            const Geometry shells = asset.build({{"steep", steep}}, {}, "shells");
            QVERIFY(shells.copyCount() > 50);
            // A shell lies within a face whose corners are not all of one slope.
            const auto& slope = *shells.values<float>(Element::copy, "slope");
            QVERIFY(*std::max_element(slope.begin(), slope.end()) < steep + 12);
            for (float wet : *shells.values<float>(Element::copy, "wet")) QVERIFY(wet > 0);
        }
        const auto placesOf = [](const Geometry& shells) {
            std::map<std::int32_t, Affine> out;
            for (std::size_t i = 0; i < shells.copyCount(); ++i) out[shells.values<std::int32_t>(Element::copy, "id")->at(i)] = shells.copies()->place[i];
            return out;
        };
        const auto few = placesOf(asset.build({{"density", 200}}, {}, "shells")), many = placesOf(asset.build({{"density", 900}}, {}, "shells"));
        QVERIFY(many.size() > few.size() * 3);
        for (const auto& [id, place] : few) QVERIFY(many.contains(id) && many.at(id) == place);
        // It lies on the rock that is shown.
        QVERIFY(distance(sizeOf(asset.build({}, {}, "stone")), sizeOf(asset.build({}, {}, "bed"))) < 1e-6f);
        // Every material of stone, shells and pebbles is in the one list of the whole.
        QCOMPARE(materialsOf(asset.build()).size(), std::size_t(6));
        // Pebbles touch what they lie on.
        const Geometry pebbles = asset.build({}, {}, "pebble_rest");
        const NearestPlace ground(asset.build({}, {}, "ground"), NearestPlace::On::faces);
        for (std::size_t i = 0; i < pebbles.copyCount(); ++i) {
            const Geometry one = bakeCopies(takeCopies(pebbles, {Index(i)}));
            float nearest = 1;
            for (Vec3 p : one.positions()) nearest = std::min(nearest, ground.find(p).squaredDistance);
            QVERIFY2(std::sqrt(nearest) < 0.012f, qPrintable(QString::number(double(std::sqrt(nearest)))));
        }
    }

    /// Floats on two domes: none doubled, none in another, inside of the basket, painted by shares.
    void basketOfFloats() {
        Asset asset("basket-of-floats");
        for (const std::string preset : {"", "Heaped high", "Small floats", "Wide and low"}) {
            const Geometry floats = asset.build({}, preset, "paint");
            QVERIFY2(floats.copyCount() > 15, preset.c_str());
            const CopyOverlaps found = overlapsOf(floats, OverlapBy::meshes, RunContext());
            QVERIFY2(found.pairs.empty() && found.doubled.empty(), preset.c_str());
        }
        QVERIFY(asset.build({}, {}, "floats").copyCount() > asset.build({}, {}, "single").copyCount());
        const Bounds heap = boundsOf(asset.build({}, {}, "single"));
        QVERIFY(heap.max.x < 0.36f && heap.min.x > -0.36f && heap.max.y > 0.4f);
        std::array<int, 3> painted{};
        for (int other : {1, 2, 3, 4, 5, 6})
            for (std::int32_t n : *asset.build({{"other", other}}, {}, "paint").values<std::int32_t>(Element::copy, "material")) ++painted[std::size_t(n)];
        QVERIFY(painted[0] > painted[1] && painted[1] > painted[2] && painted[2] > 0);
        // The rim is wound all around: its first and last twig are as near as any two.
        const Geometry rim = asset.build({}, {}, "rim");
        const auto& twigs = rim.copies()->place;
        const float step = distance(twigs[0].move, twigs[1].move);
        QVERIFY(std::abs(distance(twigs.front().move, twigs.back().move) - step) < step * 0.02f);
    }

    void knottedFender() {
        Asset asset("knotted-fender");
        const auto folds = [](const Geometry& g, const char* name) { return g.values<std::int32_t>(Element::model, name)->front(); };
        const Geometry ball = asset.build({{"shown", 2}}, {}, "round"), rope = asset.build({{"shown", 1}});
        QVERIFY(folds(ball, "overlap_before") > 1000);
        QCOMPARE(folds(ball, "overlap_after"), 0);
        const Vec3 middle = boundsOf(ball.positions()).centre();
        for (Vec3 p : ball.positions()) QVERIFY(near(double(distance(p, middle)), 1.1, 0.01));
        // The rope stays clear of itself, however often it goes round: one piece with one surface, and a volume that grows with its length.
        double before = 0;
        for (double turns : {0.5, 1.0, 2.0, 3.0}) {
            const double now = signedVolume(asset.build({{"shown", 1}, {"turns", turns}, {"thick", 0.42}}));
            QVERIFY(now > before * 1.4);
            before = now;
        }
        // Both stand on the ground, beside each other.
        const Geometry both = asset.build();
        QCOMPARE(both.topology().connection().pieces, 2u);
        QVERIFY(near(double(boundsOf(both.positions()).min.y), 0, 1e-4) && near(double(boundsOf(rope.positions()).min.y), 0, 1e-4));
        QCOMPARE(both.faceCount(), rope.faceCount() + ball.faceCount());
    }

    void whelk() {
        Asset asset("whelk");
        const Geometry g = asset.build();
        verifySolid(g);
        QCOMPARE(g.topology().connection().pieces, 1u);
        QVERIFY2(shadingBreaks(g).size() * 500 < g.faceCount(), qPrintable(QString("%1 of %2").arg(shadingBreaks(g).size()).arg(g.faceCount())));
        QVERIFY(near(double(boundsOf(g.positions()).min.y), 0, 1e-3));
        QVERIFY(signedVolume(asset.build({{"wall", 0.0025}}, {}, "wall")) > signedVolume(asset.build({{"wall", 0.001}}, {}, "wall")) * 1.5);
        // The pillar closes the gap between the turns.
        QVERIFY(signedVolume(g) > signedVolume(asset.build({}, {}, "wall")) * 1.2);
    }

    void carvedSeal() {
        Asset asset("carved-seal");
        const Geometry scan = asset.build({}, {}, "scan"), even = asset.build({}, {}, "even");
        QVERIFY(!checkupOf(scan).closed);
        verifySolid(even);
        QVERIFY(distance(sizeOf(scan), sizeOf(even)) < 0.01f);
        QVERIFY(asset.build({{"faces", 500}}, {}, "low").faceCount() <= 600);
    }

    void harbourSign() {
        Asset asset("harbour-sign");
        const Geometry quay = asset.build({{"words", "Quay"}}, {}, "carved");
        verifySolid(quay);
        QCOMPARE(quay.topology().connection().pieces, 1u);
        QVERIFY(tagged(quay, "inside") > 20);
        QVERIFY(near(double(sizeOf(asset.build({{"width", 2.0}}, {}, "soft")).x), 2, 1e-4));
    }

    /// Broken things at their presets, at both ends of every control and at random settings: every piece is sound, and nothing is told but what is missing.
    void brokenThingsAreSoundOverTheirWholeRange_data() {
        QTest::addColumn<QString>("name");
        QTest::newRow("sea wall") << "cracked-sea-wall";
        QTest::newRow("urchin shell") << "broken-urchin";
    }
    void brokenThingsAreSoundOverTheirWholeRange() {
        QFETCH(QString, name);
        Asset asset(qPrintable(name));
        const auto check = [&](const std::map<std::string, Json>& given, const std::string& preset = {}) {
            const Geometry built = asset.build(given, preset);
            const std::string at = Json(given).dump() + preset;
            QVERIFY2(built.faceCount() > 0, at.c_str());
            for (const Geometry& piece : eachPieceOf(built)) {
                const Checkup c = checkupOf(piece);
                QVERIFY2(c.closed && c.manifold && c.consistentWinding && c.volume > 0 && c.degenerateFaces == 0, at.c_str());
            }
            // Before pieces are turned: that rounds places, and faces of the skin that lay in one plane may cross by as much.
            const Geometry still = asset.build(given, preset, name == "cracked-sea-wall" ? "lighter" : "");
            QVERIFY2(crossingsOf(still).pairs == 0, at.c_str());
        };
        check({});
        for (const Preset& preset : asset.loom().presets) check({}, preset.name);
        for (const Control& control : asset.loom().controls)
            for (const auto& end : {control.min, control.max}) check({{control.id, *end}});
        Chance chance(12);
        for (int i = 0; i < 2; ++i) {
            std::map<std::string, Json> given;
            for (const Control& control : asset.loom().controls) {
                const double value = double(chance.number(float(*control.min), float(*control.max)));
                given[control.id] = control.type == "integer" ? std::round(value) : value;
            }
            check(given);
        }
    }
    /// What the controls of the broken things say.
    void brokenThingsFollowTheirControls() {
        Asset wall("cracked-sea-wall"), shell("broken-urchin");
        QVERIFY(near(double(sizeOf(wall.build({{"apart", 0}}, {}, "moved")).y), 1.4, 1e-3));
        QCOMPARE(eachPieceOf(wall.build({}, {}, "cracked")).size(), std::size_t(6));
        QVERIFY(eachPieceOf(shell.build({{"lost", 0.5}})).size() < eachPieceOf(shell.build({{"lost", 0.1}})).size());
        QVERIFY(near(double(sizeOf(shell.build({{"ribs", 0}, {"lost", 0}, {"gap", 0}, {"width", 0.2}})).x), 0.2, 0.004));
        const auto names = materialsOf(wall.build());
        QCOMPARE(names.size(), std::size_t(1));
        QCOMPARE(names[0].name, std::string("broken concrete"));
    }
    /// Large pieces of the sea wall stay where mortar gives way, crumbs come down, and nothing ends in anything else (a warning would tell).
    void theSeaWallFallsApart() {
        Asset wall("cracked-sea-wall");
        const auto at = [&](int frame) { return wall.build({{"frame", frame}}, "Falling apart", "falls"); };
        const auto bonds = [](const Geometry& g) { return (*g.values<std::int32_t>(Element::model, "bonds"))[0]; };
        const Geometry standing = at(0), fallen = at(72);
        QVERIFY(bonds(fallen) > 0 && bonds(fallen) < bonds(standing) / 3);
        const std::vector<Geometry> before = eachPieceOf(standing), after = eachPieceOf(fallen);
        QCOMPARE(before.size(), after.size());
        int low = 0, crumbs = 0;
        for (std::size_t i = 0; i < after.size(); ++i) {
            const bool crumb = (*before[i].values<std::uint8_t>(Element::face, "crumb"))[0];
            if (!crumb) QCOMPARE(after[i].positions(), before[i].positions());
            const Vec3 place = boundsOf(after[i].positions()).centre();
            crumbs += crumb, low += crumb && place.y < 0.15f;
            QVERIFY(place.y > 0 && boundsOf(after[i].positions()).min.y > -0.005f);
        }
        QVERIFY2(crumbs > 100 && low > crumbs / 2, fmt::format("{} of {} crumbs came down", low, crumbs).c_str());
    }
};

QTEST_APPLESS_MAIN(TestDemos)
#include "test_demos.moc"
