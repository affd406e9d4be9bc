// Looms used in other looms: what an asset node gives, what it is told, and what it never sees.
#include "files/FileIo.h"
#include "formats/AssetShelf.h"
#include "formats/FilePaths.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "graph/AssetUpdate.h"
#include "graph/Controls.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"
#include "meshes/MeshFile.h"
#include "operators/flow/Containers.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <QTemporaryDir>

#include <thread>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// A post of a height, with a thickness that follows it unless it is given, and what is plugged in as "cap" on top.
constexpr const char* kPost = R"x({"seedloom": 1, "name": "Post", "version": "1.2",
  "controls": [
    {"id": "height", "label": "Height", "type": "number", "default": 1.0, "min": 0.2, "max": 4.0, "unit": "m"},
    {"id": "thick", "label": "Thick", "type": "number", "default": {"formula": "ctl.height / 4"}, "min": 0.01, "max": 2.0, "unit": "m"},
    {"id": "cells", "label": "Cells", "type": "integer", "default": 1, "min": 1, "max": 50}],
  "nodes": [
    {"id": "body", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(ctl.thick, ctl.height, ctl.thick)"},
"cells": {"formula": "vec3(1, ctl.cells, 1)"}, "anchor": "bottom"}},
    {"id": "cap", "op": "input_geometry", "cell": [0, 1], "settings": {"name": "cap", "kind": "mesh"}},
    {"id": "up", "op": "transform", "cell": [1, 1], "settings": {"move": {"formula": "vec3(0, ctl.height, 0)"}}},
    {"id": "all", "op": "merge", "cell": [2, 0], "settings": {}},
    {"id": "out", "op": "output", "cell": [3, 0], "settings": {}}],
  "links": [["body", "all"], ["cap", "up"], ["up", "all"], ["all", "out"]], "output": "out"})x";

/// A quay that uses the post, with settings given as JSON members, and a ball as its cap.
std::string quay(const std::string& settings, const std::string& file = "post.loom", bool plugged = true) {
    return R"x({"seedloom": 1, "name": "Quay", "controls": [{"id": "height", "type": "number", "default": 3.0, "min": 0.0, "max": 9.0}], "nodes": [
    {"id": "ball", "op": "geodesic_sphere", "cell": [0, 0], "settings": {"radius": 0.2}},
    {"id": "post", "op": "asset", "cell": [1, 0], "asset": {"file": ")x" +
           file + R"x("}, "settings": {)x" + settings + R"x(}},
    {"id": "out", "op": "output", "cell": [2, 0], "settings": {}}],
  "links": [)x" +
           (plugged ? R"({"from": "ball", "to": "post", "in": "cap"},)" : "") + R"x( ["post", "out"]], "output": "out"})x";
}

}  // namespace

class TestAssets : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    Memo memo_;

    std::filesystem::path at(const std::string& name) const { return folder_->filePath(QString::fromStdString(name)).toStdString(); }
    void write(const std::string& name, const std::string& text) const {
        std::filesystem::create_directories(at(name).parent_path());
        const auto problem = writeFileAtomically(at(name), text);
        QVERIFY2(!problem, problem ? problem->text.c_str() : "");
    }
    RebuildResult rebuilt(const Loom& loom, ControlValues values = {}) {
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        request.controls = *controlValues(loom);
        for (const auto& [id, value] : values) request.controls[id] = value;
        request.folder = folder_->path().toStdString();
        request.assets = assetsOf(loom, request.folder);
        return rebuild(request, memo_);
    }
    RebuildResult rebuilt(const std::string& name) { return rebuilt(*readLoom(at(name))); }
    Geometry result(const std::string& name) {
        const RebuildResult r = rebuilt(name);
        for (const auto& [id, report] : r.nodes)
            for (const Notice& n : report.outcome->notices)
                if (n.level == NoticeLevel::error) QTest::qFail(n.text.c_str(), __FILE__, __LINE__);
        return *r.geometry("out");
    }
    std::string firstError(const RebuildResult& r) {
        for (const Notice& n : r.nodes.at("post").outcome->notices)
            if (n.level == NoticeLevel::error) return n.code + ": " + n.text;
        return {};
    }

private Q_SLOTS:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        write("post.loom", kPost);
    }

    void controlsAreSettingsAndPluggedThingsInputs() {
        write("quay.loom", quay(""));
        const Loom loom = *readLoom(at("quay.loom"));
        const auto spec = specOf(*loom.node("post"), assetsOf(loom, folder_->path().toStdString()));
        QVERIFY(spec->input("cap"));
        QCOMPARE(spec->inputs.size(), 1u);
        for (const char* id : {"height", "thick", "cells", "asset"}) QVERIFY2(spec->setting(id), id);
        QCOMPARE(spec->setting("height")->max.value(), 4.0);
        // A default that the asset computes is shown as what it comes to.
        QCOMPARE(spec->setting("thick")->fallback, Json(0.25));
        QVERIFY(!canBeEntered(*loom.node("post")));
    }

    void itGivesWhatItsLoomGivesByItself() {
        write("quay.loom", quay(R"("height": 2.0, "cells": 3)"));
        RebuildRequest alone;
        alone.loom = std::make_shared<const Loom>(*readLoom(at("post.loom")));
        ControlChoice choice;
        choice.given = {{"height", 2.0}, {"cells", 3}};
        alone.controls = *controlValues(*alone.loom, choice);
        alone.plugged["cap"] = made("geodesic_sphere", {{"radius", 0.2}});
        const RebuildResult byItself = rebuild(alone, memo_);
        QCOMPARE(digestOf(result("quay.loom")), digestOf(*byItself.geometry("out")));
        QVERIFY(near(boundsOf(result("quay.loom")).size().x, 0.5, 1e-6));  // the thickness follows the height
    }

    void settingsTakeSourcesOfTheirSurroundings() {
        write("quay.loom", quay(R"x("height": {"formula": "ctl.height / 2"}, "cells": {"formula": "1 + 1"}, "thick": {"control": "height"})x"));
        const Loom loom = *readLoom(at("quay.loom"));
        const RebuildResult r = rebuilt(loom, {{"height", 1.0}});
        QCOMPARE(firstError(r), std::string());
        const Geometry& g = *r.geometry("out");
        const Vec3 size = boundsOf(g).size();
        QVERIFY(near(size.y, 0.7, 1e-5) && near(size.x, 1, 1e-6));  // half a metre, and the upper half of the ball
        QCOMPARE(g.faceCount(), made("geodesic_sphere", {{"radius", 0.2}}).faceCount() + 4 * 2 + 2);
    }

    void nothingAroundItIsSeenInside() {
        // A control of the surroundings that the asset itself does not have.
        write("thief.loom",
              R"x({"seedloom": 1, "name": "Thief", "nodes": [{"id": "b", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(ctl.height)"}}},
                                {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["b", "out"]], "output": "out"})x");
        write("quay.loom", quay("", "thief.loom", false));
        QVERIFY2(firstError(rebuilt("quay.loom")).find("height") != std::string::npos, firstError(rebuilt("quay.loom")).c_str());
    }

    void wrongValuesAreRefusedByName_data() {
        QTest::addColumn<QString>("settings");
        QTest::addColumn<QString>("code");
        QTest::newRow("range") << R"("height": 9.0)"
                               << "control.range";
        QTest::newRow("type") << R"("height": "tall")"
                              << "control.type";
        QTest::newRow("part") << R"("cells": {"formula": "2.5"})"
                              << "control.type";
    }
    void wrongValuesAreRefusedByName() {
        QFETCH(QString, settings);
        QFETCH(QString, code);
        write("quay.loom", quay(settings.toStdString()));
        QVERIFY2(firstError(rebuilt("quay.loom")).find(code.toStdString()) == 0, firstError(rebuilt("quay.loom")).c_str());
    }

    void whatCannotBeReadIsToldAtItsNode() {
        write("quay.loom", quay("", "lost.loom"));
        QVERIFY(firstError(rebuilt("quay.loom")).find("lost.loom") != std::string::npos);
        write("broken.loom", "{\"seedloom\": 1, ");
        write("quay.loom", quay("", "broken.loom"));
        QVERIFY(firstError(rebuilt("quay.loom")).find("'broken.loom' is no loom") != std::string::npos);
        write("quay.loom", quay("", ""));
        QVERIFY(firstError(rebuilt("quay.loom")).find("Choose the loom") != std::string::npos);
        std::set<std::string> codes;
        for (const LoomProblem& p : loomProblems(*readLoom(at("quay.loom")), assetsOf(*readLoom(at("quay.loom")), folder_->path().toStdString())))
            codes.insert(p.code);
        QVERIFY(codes.count("input.missing"));
        // A step inside that fails names itself.
        write("post.loom", QString::fromLatin1(kPost).replace("ctl.thick, ctl.height", "ctl.thikc, ctl.height").toStdString());
        write("quay.loom", quay(""));
        QVERIFY2(firstError(rebuilt("quay.loom")).find("thikc") != std::string::npos, firstError(rebuilt("quay.loom")).c_str());
    }

    void anAssetThatHoldsItselfEnds() {
        write("ring.loom", quay("", "post.loom", false));
        write("post.loom", quay("", "ring.loom", false));
        write("quay.loom", quay("", "post.loom", false));
        QVERIFY2(firstError(rebuilt("quay.loom")).find("holds itself") != std::string::npos, firstError(rebuilt("quay.loom")).c_str());
        write("self.loom", quay("", "self.loom", false));
        QVERIFY(rebuilt("self.loom").failed());
    }

    void assetsOfAssetsLieBesideTheirOwnLooms() {
        std::filesystem::create_directories(at("parts/meshes"));
        QVERIFY(!writeMesh(made("box", {{"size", {3, 1, 1}}}), at("parts/meshes/slab.obj")));
        write("parts/slab.loom",
              R"x({"seedloom": 1, "name": "Slab", "nodes": [{"id": "m", "op": "import_mesh", "cell": [0, 0], "settings": {"file": "meshes/slab.obj"}},
                                {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["m", "out"]], "output": "out"})x");
        write("parts/row.loom",
              R"x({"seedloom": 1, "name": "Row", "nodes": [{"id": "s", "op": "asset", "cell": [0, 0], "asset": {"file": "slab.loom"}, "settings": {}},
                                {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["s", "out"]], "output": "out"})x");
        write("yard.loom",
              R"x({"seedloom": 1, "name": "Yard", "nodes": [{"id": "post", "op": "asset", "cell": [0, 0], "asset": {"file": "parts/row.loom"}, "settings": {}},
                                {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["post", "out"]], "output": "out"})x");
        QVERIFY(near(boundsOf(result("yard.loom")).size().x, 3, 1e-6));
        // The mesh in the innermost folder changes: the memo does not hide that.
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
        QVERIFY(!writeMesh(made("box", {{"size", {5, 1, 1}}}), at("parts/meshes/slab.obj")));
        QVERIFY(near(boundsOf(result("yard.loom")).size().x, 5, 1e-6));
    }

    void aFileInsideOfANestIsNoticedWhenItChanges() {
        QVERIFY(!writeMesh(made("box", {{"size", {3, 1, 1}}}), at("slab.obj")));
        write("nest.loom", R"x({"seedloom": 1, "name": "N", "nodes": [{"id": "post", "op": "nest", "cell": [0, 0], "settings": {}, "graph": {"nodes": [
                                {"id": "m", "op": "import_mesh", "cell": [0, 0], "settings": {"file": "slab.obj"}},
{"id": "r", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["m", "r"]], "output": "r"}},
                                {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["post", "out"]], "output": "out"})x");
        QVERIFY(near(boundsOf(result("nest.loom")).size().x, 3, 1e-6));
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
        QVERIFY(!writeMesh(made("box", {{"size", {4, 1, 1}}}), at("slab.obj")));
        QVERIFY(near(boundsOf(result("nest.loom")).size().x, 4, 1e-6));
    }

    void aChangedAssetIsReadAgainAndUnchangedOnesAreShared() {
        write("quay.loom", quay(R"("height": 2.0)"));
        AssetShelf shelf;
        const Loom loom = *loomFromText(*readFile(at("quay.loom")));
        const std::filesystem::path folder = folder_->path().toStdString();
        const Assets first = shelf.assetsOf(loom, folder), again = shelf.assetsOf(loom, folder);
        QCOMPARE(again.get(), first.get());
        QCOMPARE(shelf.files(), (std::set<std::filesystem::path>{at("post.loom")}));
        std::this_thread::sleep_for(std::chrono::milliseconds(20));
        write("post.loom", QString::fromLatin1(kPost).replace("\"Post\"", "\"Pile\"").toStdString());
        const Assets changed = shelf.assetsOf(loom, folder);
        QVERIFY(changed != first);
        QCOMPARE(insideOf(*loom.node("post"), changed)->name, std::string("Pile"));
        QCOMPARE(insideOf(*loom.node("post"), first)->name, std::string("Post"));
        std::filesystem::remove(at("post.loom"));
        const Inside gone = insideOf(*loom.node("post"), shelf.assetsOf(loom, folder));
        QVERIFY(!gone && !gone.problem.empty());
    }

    void theShelfLooksIntoNests() {
        write("quay.loom", quay(""));
        Loom loom = *readLoom(at("quay.loom"));
        const auto folded = applied(loom, foldIntoNest(loom, {"ball", "post"}, nullptr));
        QVERIFY(bool(folded));
        const Loom reread = *loomFromText(loomToText(*folded));
        const Node* nest = reread.node("nest");
        QVERIFY(nest && nest->graph);
        const Assets assets = assetsOf(reread, folder_->path().toStdString());
        QCOMPARE(insideOf(*nest->graph->node("post"), assets)->name, std::string("Post"));
        QCOMPARE(digestOf(*rebuilt(reread).geometry("out")), digestOf(result("quay.loom")));
    }

    void theFileKeepsNameVersionAndPathButNotTheGraph() {
        write("quay.loom", quay(R"("height": 2.0)"));
        const Loom loom = *readLoom(at("quay.loom"));
        const Loom noted = withAssetsNoted(loom, assetsOf(loom, folder_->path().toStdString()));
        const Json written = Json::parse(loomToText(noted));
        const Json& node = written["nodes"][1];
        QCOMPARE(node["asset"].dump(), R"({"file":"post.loom","name":"Post","version":"1.2"})");
        QVERIFY(!node.contains("graph"));
        QCOMPARE(node["settings"], (Json{{"height", 2.0}}));
        QVERIFY(!writeLoom(noted, at("again.loom")));
        QCOMPARE(*readLoom(at("again.loom")), *readLoom(at("again.loom")));
        QCOMPARE(digestOf(result("again.loom")), digestOf(result("quay.loom")));
        // Another version is told of, once the file has moved on.
        write("post.loom", QString::fromLatin1(kPost).replace("1.2", "2.0").toStdString());
        const RebuildResult r = rebuilt("again.loom");
        const auto& notices = r.nodes.at("post").outcome->notices;
        QVERIFY(std::any_of(notices.begin(), notices.end(), [](const Notice& n) {
            return n.code == "asset.version" && n.text.find("2.0") != std::string::npos && n.text.find("1.2") != std::string::npos;
        }));
    }

    void whatThisVersionDoesNotKnowOfAnAssetIsKept() {
        const std::string text =
            R"x({"seedloom": 1, "name": "Q", "nodes": [{"id": "a", "op": "asset", "cell": [0, 0], "asset": {"file": "x.loom", "name": "X", "version": "3",
"digest": "ab"}, "settings": {"size": 2}}], "links": [], "output": ""})x";
        const Json node = Json::parse(loomToText(*loomFromText(text)))["nodes"][0];
        QCOMPARE(node["asset"], (Json{{"file", "x.loom"}, {"name", "X"}, {"version", "3"}, {"digest", "ab"}}));
        QCOMPARE(node["settings"], (Json{{"size", 2}}));
        QVERIFY(!loomFromText(R"x({"seedloom": 1, "name": "Q", "nodes": [{"id": "a", "op": "asset", "asset": 7}], "links": []})x"));
    }

    /// Saved into another folder, a loom finds its files where they were.
    void pathsFollowALoomToAnotherFolder() {
        QVERIFY(!writeMesh(made("box", {{"size", {3, 1, 1}}}), at("slab.obj")));
        write("a/quay.loom", quay(R"("height": 2.0)", "../post.loom"));
        const std::filesystem::path home = at("a"), other = at("b/c");
        std::filesystem::create_directories(other);
        Loom loom = *readLoom(at("a/quay.loom"));
        Node import = node("m", "import_mesh", {5, 0}, {{"file", "../slab.obj"}}),
             fixed = node("f", "import_mesh", {6, 0}, {{"file", at("slab.obj").string()}});
        Loom inner;
        inner.nodes = {import};
        Node nest = node("n", "nest", {7, 0});
        nest.graph = InnerGraph(inner);
        loom.nodes.insert(loom.nodes.end(), {import, fixed, nest});
        const Loom moved = withPathsMoved(loom, home, other);
        QCOMPARE(moved.node("post")->settings.at("asset"), Json("../../post.loom"));
        QCOMPARE(moved.node("m")->settings.at("file"), Json("../../slab.obj"));
        QCOMPARE(moved.node("n")->graph->node("m")->settings.at("file"), Json("../../slab.obj"));
        QCOMPARE(moved.node("f")->settings.at("file"), Json(at("slab.obj").string()));
        QCOMPARE(moved.node("ball")->settings, loom.node("ball")->settings);
        QCOMPARE(withPathsMoved(moved, other, home), withPathsMoved(loom, home, home));
        QVERIFY(!writeLoom(moved, other / "quay.loom"));
        const Loom reread = *readLoom(other / "quay.loom");
        QCOMPARE(insideOf(*reread.node("post"), assetsOf(reread, other))->name, std::string("Post"));
    }

    /// `asset` means something on assets only; elsewhere, and wrongly written, it is kept and hurts nothing.
    void anythingMayBeWrittenAsAnAsset() {
        for (const char* odd : {"7", "[1]", "\"x\"", "{\"version\": 3}"}) {
            write("odd.loom",
                  std::string(R"x({"seedloom": 1, "name": "N", "nodes": [{"id": "post", "op": "nest", "cell": [0, 0], "settings": {}, "asset": )x") + odd +
                      R"x(, "graph": {"nodes": [
                                {"id": "b", "op": "box", "cell": [0, 0], "settings": {}},
{"id": "r", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["b", "r"]], "output": "r"}},
                                {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["post", "out"]], "output": "out"})x");
            QCOMPARE(result("odd.loom").faceCount(), 6u);
            QCOMPARE(Json::parse(loomToText(*readLoom(at("odd.loom"))))["nodes"][0]["asset"], Json::parse(odd));
        }
        // A path that is no text, or comes from a source: nothing can be read, and the node says so.
        for (const char* odd : {"7", "{\"control\": \"height\"}", "{\"formula\": \"1\"}"}) {
            Loom loom = *loomFromText(quay("", "post.loom", false));
            for (Node& n : loom.nodes)
                if (n.op == "asset") n.settings["asset"] = Json::parse(odd);
            QVERIFY2(!firstError(rebuilt(loom)).empty(), odd);
            QVERIFY(!loomToText(loom).empty());
        }
    }

    void usesAreFoundWhereverTheyAre() {
        write("quay.loom", quay(""));
        Loom loom = *readLoom(at("quay.loom"));
        loom = *applied(loom, foldIntoNest(loom, {"post"}, nullptr));
        Node gone = *readLoom(at("quay.loom"))->node("post");
        gone.id = "gone", gone.cell = {5, 5};
        gone.settings["asset"] = "nowhere.loom";
        gone.extra["asset"] = Json{{"name", "Lamp"}, {"version", "2.0.0"}};
        loom.nodes.push_back(gone);
        const auto uses = assetUses(loom, assetsOf(loom, folder_->path().toStdString()));
        QCOMPARE(uses.size(), std::size_t(2));
        const auto& nested = uses[0].path.empty() ? uses[1] : uses[0];
        const auto& lost = uses[0].path.empty() ? uses[0] : uses[1];
        QCOMPARE(nested.path.size(), std::size_t(1));
        QVERIFY(nested.name == "Post" && nested.version == "1.2" && nested.file == "post.loom");
        // What can't be read is known by what was noted when the loom was saved.
        QVERIFY(lost.name == "Lamp" && lost.version == "2.0.0" && lost.node == "gone");
        QVERIFY(assetUses(*readLoom(at("post.loom")), {}).empty());
    }

    void differencesOfControlsAreTold() {
        const Loom before = *readLoom(at("post.loom"));
        QVERIFY(controlDifferences(before, before).empty());
        Loom after = before;
        after.controls[0].max = 5, after.controls[0].fallback = 1.5, after.controls[0].help = "How high.";
        after.controls.erase(after.controls.begin() + 2);
        Control style;
        style.id = "style", style.label = "Style", style.type = "choice", style.fallback = "plain", style.choices = {"plain", "fluted"};
        after.controls.insert(after.controls.begin() + 1, style);
        std::erase_if(after.nodes, [](const Node& n) { return n.id == "cap"; });
        using Kind = ControlDifference::Kind;
        const std::vector<ControlDifference> told{{Kind::changed, "Height", {"Default: 1.0 → 1.5", "Largest: 4 → 5", "Another help"}},
                                                  {Kind::added, "Style", {"Default: plain"}},
                                                  {Kind::removed, "Cells", {}},
                                                  {Kind::removed, "cap", {"An input for geometry"}}};
        QVERIFY(controlDifferences(before, after) == told);
        // The other way round, what went comes.
        const auto back = controlDifferences(after, before);
        QVERIFY(back.size() == 4 && back[1].kind == Kind::added && back[1].label == "Cells" && back[2].kind == Kind::removed && back[3].kind == Kind::added);
    }

    void anUpdateKeepsWhatItCan() {
        write("quay.loom", quay(R"x("height": 3.5, "cells": 40, "thick": {"formula": "ctl.height / 10"})x"));
        Json newer = Json::parse(kPost);
        newer["version"] = "1.3.0";
        newer["controls"][0]["max"] = 2.0;
        newer["controls"].erase(2);
        newer["nodes"][0]["settings"].erase("cells");
        write("post-2.loom", newer.dump());
        const Loom loom = *readLoom(at("quay.loom"));
        const Assets assets = assetsOf(loom, folder_->path().toStdString());
        const auto uses = assetUses(loom, assets);
        std::vector<LostValue> lost;
        const Loom post = *readLoom(at("post-2.loom"));
        const Edit edit = updateAssets(loom, uses, "post-2.loom", post, assets, &lost);
        const Loom now = *applied(loom, edit);
        QCOMPARE(edit.label, std::string("Update Post"));
        const Node& node = *now.node("post");
        QCOMPARE(node.settings["asset"], Json("post-2.loom"));
        QCOMPARE(node.settings["height"], Json(2.0));
        QVERIFY(!node.settings.contains("cells"));
        QCOMPARE(node.settings["thick"], Json({{"formula", "ctl.height / 10"}}));
        QCOMPARE(lost.size(), std::size_t(2));
        QVERIFY2(lost[0].label == "Height" && lost[0].text.find("3.5 becomes 2.0") == 0, lost[0].text.c_str());
        QVERIFY2(lost[1].label == "Cells" && lost[1].text.find("40 goes") == 0, lost[1].text.c_str());
        QCOMPARE(now.links.size(), loom.links.size());
        QCOMPARE(*applied(now, inverse(edit)), loom);
        QCOMPARE(firstError(rebuilt(now)), std::string());
    }

    void threadsIntoInputsThatAreNoMoreGo() {
        write("quay.loom", quay(""));
        const Loom loom = *readLoom(at("quay.loom"));
        const Assets assets = assetsOf(loom, folder_->path().toStdString());
        Loom bare = *readLoom(at("post.loom"));
        std::erase_if(bare.nodes, [](const Node& n) { return n.id == "cap"; });
        std::vector<LostValue> lost;
        const Edit edit = updateAssets(loom, assetUses(loom, assets), "bare.loom", bare, assets, &lost);
        const Loom now = *applied(loom, edit);
        QCOMPARE(now.links.size(), loom.links.size() - 1);
        QVERIFY(lost.size() == 1 && lost[0].label == "cap");
        QCOMPARE(*applied(now, inverse(edit)), loom);
        // One that has another input keeps none of that name, but those of its own.
        for (Node& node : bare.nodes)
            if (node.id == "up") node.op = "input_geometry", node.settings = Json{{"name", "cap"}};
        QVERIFY(applied(loom, updateAssets(loom, assetUses(loom, assets), "bare.loom", bare, assets))->links.size() == loom.links.size());
        // Nothing is changed where no use is left.
        QVERIFY(updateAssets(loom, {}, "bare.loom", bare, assets).empty());
        QVERIFY(updateAssets(loom, {{{}, "ball", "x", "", ""}, {{"no"}, "post", "x", "", ""}}, "bare.loom", bare, assets).empty());
    }

    void timeReachesInside() {
        write("clock.loom",
              R"x({"seedloom": 1, "name": "Clock", "nodes": [{"id": "b", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(1 + time)"}}},
                                {"id": "out", "op": "output", "cell": [1, 0], "settings": {}}], "links": [["b", "out"]], "output": "out"})x");
        write("quay.loom", quay("", "clock.loom", false));
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(*readLoom(at("quay.loom")));
        request.controls = *controlValues(*request.loom);
        request.folder = folder_->path().toStdString();
        request.assets = assetsOf(*request.loom, request.folder);
        for (double time : {0.0, 2.0}) {
            request.time = time;
            QVERIFY(near(boundsOf(*rebuild(request, memo_).geometry("out")).size().x, 1 + time, 1e-5));
        }
    }
};

QTEST_APPLESS_MAIN(TestAssets)
#include "test_assets.moc"
