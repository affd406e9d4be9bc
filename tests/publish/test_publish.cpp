// Trials of a loom, verdicts, the smallest change that fails, and packs that build the same.
#include "files/FileIo.h"
#include "files/PackWriter.h"
#include "formats/AssetShelf.h"
#include "formats/FilePaths.h"
#include "formats/LoomFile.h"
#include "formats/Shelf.h"
#include "publish/ControlEffects.h"
#include "publish/Publish.h"
#include "publish/Sheet.h"
#include "publish/UpdateResults.h"
#include "support/Run.h"

#include <QtCore/QTemporaryDir>

#include <algorithm>

using namespace seedloom;
using namespace seedloom::test;

namespace {

namespace fs = std::filesystem;

/// A post with a bore that must stay inside of it, a cap that opens it, and heights above 1.5 that fail.
constexpr const char* kPost = R"({"seedloom": 1, "name": "Post", "version": "1.2.0", "summary": "A post.", "author": "Gull Rock", "licence": "CC0",
"tags": ["post"],
"controls": [
 {"id": "height", "label": "Height", "type": "number", "default": 1, "min": 0.5, "max": 2, "help": "How high."},
 {"id": "width", "label": "Width", "type": "number", "default": 0.4, "min": 0.2, "max": 1, "help": "How wide.", "allowed_when": "ctl.width < ctl.height"},
 {"id": "open", "label": "Open", "type": "boolean", "default": false, "help": "Without a top."}],
"presets": [{"name": "Low", "values": {"height": 0.6}}],
"nodes": [
 {"id": "box", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(ctl.width, ctl.height, ctl.width) "}}},
 {"id": "less", "op": "delete", "cell": [1, 0], "settings": {"where": {"formula": "ctl.open ? normal.y > 0.5 : false"}}},
 {"id": "stand", "op": "transform", "cell": [2, 0], "settings": {"move": {"formula": "vec3(0, ctl.height * 0.5, 0) "}}},
 {"id": "out", "op": "output", "cell": [3, 0]}],
"links": [["box", "less"], ["less", "stand"], ["stand", "out"]], "output": "out"})";

FitSubject subject(const std::string& text, const std::string& folder = {}) {
    auto loom = loomFromText(text);
    if (!loom) qFatal("%s", loom.error().text.c_str());
    FitSubject out;
    out.assets = assetsOf(*loom, folder);
    out.loom = std::make_shared<const Loom>(std::move(*loom));
    out.folder = folder;
    return out;
}

int countOf(const std::vector<Trial>& trials, Trial::Kind kind) {
    return int(std::count_if(trials.begin(), trials.end(), [&](const Trial& t) { return t.kind == kind; }));
}

Digest defaults(const FitSubject& from) {
    RebuildRequest request;
    request.loom = from.loom, request.folder = from.folder, request.files = from.files, request.assets = from.assets;
    request.controls = *controlValues(*from.loom);
    Memo memo;
    const RebuildResult result = rebuild(request, memo);
    for (const Notice& notice : result.notices(*from.loom))
        if (notice.level != NoticeLevel::info) qFatal("%s", notice.text.c_str());
    return digestOf(*result.geometry(from.loom->output));
}

}  // namespace

class TestPublish : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    fs::path path(const char* name) const { return folder_.filePath(name).toStdString(); }
    fs::path write(const char* name, const std::string& text) const {
        if (auto error = writeFileAtomically(path(name), text)) qFatal("%s", error->text.c_str());
        return path(name);
    }

private Q_SLOTS:
    void trialsCoverWhatControlsAllow() {
        const FitSubject post = subject(kPost);
        const auto trials = trialsOf(*post.loom, {.middles = true, .pairs = true, .random = 20, .seed = 3});
        QCOMPARE(countOf(trials, Trial::Kind::plain), 1);
        QCOMPARE(countOf(trials, Trial::Kind::preset), 1);
        // Two ends each, but a width of 1 beside a height of 1 is not allowed.
        QCOMPARE(countOf(trials, Trial::Kind::end), 5);
        QCOMPARE(countOf(trials, Trial::Kind::middle), 2);
        // Of height and width, which the box reads both: 4 pairs, less a width of 1 at a height of 0.5.
        QCOMPARE(countOf(trials, Trial::Kind::pair), 3);
        QVERIFY(countOf(trials, Trial::Kind::random) > 10 && countOf(trials, Trial::Kind::random) <= 20);
        for (const Trial& trial : trials) QVERIFY2(controlValues(*post.loom, {trial.preset, trial.given}), trial.text().c_str());
        // The same for the same seed, others for another.
        const auto again = trialsOf(*post.loom, {.middles = true, .pairs = true, .random = 20, .seed = 3});
        QVERIFY(std::equal(trials.begin(), trials.end(), again.begin(), again.end(), [](const Trial& a, const Trial& b) { return a.given == b.given; }));
        QVERIFY(trialsOf(*post.loom, {.random = 1, .seed = 4}).back().given != trialsOf(*post.loom, {.random = 1, .seed = 5}).back().given);
        QCOMPARE(trials[0].text(), std::string("defaults"));
        QCOMPARE(trials[1].text(), std::string("Low"));
    }

    void valuesInUseDoNotCount() {
        FitSubject post = subject(kPost);
        Loom used = *post.loom;
        used.values = {{"open", true}, {"height", 0.5}};
        FitSubject inUse = post;
        inUse.loom = std::make_shared<const Loom>(used);
        const TrialPlan plan{.middles = true, .pairs = true, .random = 5};
        const auto trials = trialsOf(*post.loom, plan), same = trialsOf(used, plan);
        QVERIFY(std::equal(trials.begin(), trials.end(), same.begin(), same.end(), [](const Trial& a, const Trial& b) { return a.given == b.given; }));
        QVERIFY(judge(inUse, {}).fit());
        QVERIFY(checkFit(inUse, {{Trial::Kind::preset, "Low", {}}}).front().fit());
        QVERIFY(controlEffects(inUse)[1].failed == 0);
        QVERIFY(*asPublished(inUse.loom) == *post.loom && asPublished(post.loom) == post.loom);
        QVERIFY(*publishedPack(inUse) == *publishedPack(post));
    }

    void whatHasNoEndsIsLeftAlone() {
        std::string text = kPost;
        const std::string limits = R"("default": 1, "min": 0.5, "max": 2)";
        text.replace(text.find(limits), limits.size(), R"("default": 1)");
        const auto trials = trialsOf(*subject(text).loom, {.middles = true, .random = 6});
        for (const Trial& trial : trials) QVERIFY(!trial.given.contains("height"));
        QVERIFY(trials.back().given.contains("width"));
        // Ends of the slider stand for limits.
        text.replace(text.find(R"("default": 1,)"), 13, R"("default": 1, "low": 0.7, "high": 0.9,)");
        int ends = 0;
        for (const Trial& trial : trialsOf(*subject(text).loom, {}))
            if (const auto it = trial.given.find("height"); it != trial.given.end()) ends += it->second == 0.7 || it->second == 0.9;
        QCOMPARE(ends, 2);
    }

    /// More copies than can be baked are looked at by their shapes.
    void manyCopiesAreLookedAtByShape() {
        const auto tiled = [](const char* shape) {
            return subject(fmt::format(R"({{"seedloom": 1, "name": "Tiles", "nodes": [{{"id": "g", "op": "grid", "settings": {{"cells": [599, 599]}}}},
                {{"id": "b", "op": "{}"}}, {{"id": "c", "op": "place_copies"}}, {{"id": "o", "op": "output"}}],
                "links": [{{"from": "g", "to": "c"}}, {{"from": "b", "to": "c", "in": "shapes"}}, ["c", "o"]], "output": "o"}})",
                                       shape));
        };
        const Verdict boxes = judge(tiled("box"), {});
        QVERIFY2(boxes.state == Verdict::State::sound, boxes.faults.empty() ? "" : boxes.faults.front().c_str());
        QCOMPARE(boxes.triangles, std::size_t(12) * 360000);
        const Verdict sheets = judge(tiled("grid"), {});
        QVERIFY(sheets.state == Verdict::State::unsound && sheets.faults.front().find("open edges") != std::string::npos);
        // Copies in copies as well, and those that are scaled to nothing.
        const auto few = [](const char* shape, const char* second) {
            return judge(subject(fmt::format(R"({{"seedloom": 1, "name": "Few", "nodes": [{{"id": "g", "op": "grid", "settings": {{"cells": [2, 2]}}}},
                {{"id": "b", "op": "{}"}}, {{"id": "c", "op": "place_copies"}},
                {{"id": "d", "op": "place_copies", "settings": {{{}}}}}, {{"id": "o", "op": "output"}}],
                "links": [{{"from": "g", "to": "c"}}, {{"from": "b", "to": "c", "in": "shapes"}}, {{"from": "g", "to": "d"}},
                {{"from": "c", "to": "d", "in": "shapes"}},
                ["d", "o"]], "output": "o"}})",
                                             shape, second)),
                         {});
        };
        QVERIFY(few("box", "").state == Verdict::State::sound);
        QVERIFY(few("grid", "").faults.front().find("open edges") != std::string::npos);
        const Verdict flat = few("box", R"("size": {"formula": "position.x > 0.2 ? 0 : 1"})");
        QVERIFY2(flat.state == Verdict::State::unsound && flat.faults.front() == "copies without extent",
                 flat.faults.empty() ? "none" : flat.faults.front().c_str());
    }

    void verdictsTellWhatIsWrong() {
        const FitSubject post = subject(kPost);
        const std::vector<Trial> trials{{}, {Trial::Kind::end, {}, {{"open", true}}}, {Trial::Kind::end, {}, {{"height", 9}}}};
        std::vector<std::size_t> told;
        FitOptions options;
        options.onTrial = [&](std::size_t i, const Verdict&) { told.push_back(i); };
        const auto verdicts = checkFit(post, trials, options);
        QCOMPARE(told.size(), trials.size());
        QVERIFY(verdicts[0].fit() && verdicts[0].faults.empty());
        QCOMPARE(verdicts[0].triangles, std::size_t(12));
        QCOMPARE(verdicts[1].state, Verdict::State::unsound);
        QCOMPARE(verdicts[1].faults, std::vector<std::string>{"4 open edges"});
        QCOMPARE(verdicts[1].triangles, std::size_t(10));
        QCOMPARE(verdicts[2].state, Verdict::State::failed);
        QVERIFY(verdicts[2].faults.front().find("outside") != std::string::npos);
        // Where an open surface is meant, it is none; where the budget is smaller than the model, that is told.
        options.closed = false, options.mostTriangles = 11, options.onTrial = {};
        const auto open = checkFit(post, trials, options);
        QVERIFY(open[1].fit() && open[0].heavy && !open[0].fit());
        QVERIFY(judge(post, trials[1]).faults == verdicts[1].faults);
    }

    void aFailingNodeIsNamed() {
        std::string text = kPost;
        text.replace(text.find("vec3(ctl.width"), 14, "vec3(ctl.wide_");
        const Verdict verdict = judge(subject(text), {});
        QCOMPARE(verdict.state, Verdict::State::failed);
        QCOMPARE(verdict.node, std::string("box"));
    }

    void whatTakesLongIsTold() {
        std::string text = kPost;
        // One setting makes ten thousand times the faces.
        text.replace(text.find("\"op\": \"delete\""), 14, "\"op\": \"subdivide\"");
        text.replace(text.find("\"where\": {\"formula\": \"ctl.open ? normal.y > 0.5 : false\"}"), 57, "\"levels\": {\"formula\": \"ctl.open ? 7 : 0\"}");
        const FitSubject post = subject(text);
        auto trials = trialsOf(*post.loom, {});
        const auto verdicts = checkFit(post, trials, {.closed = true});
        for (std::size_t i = 0; i < trials.size(); ++i)
            QCOMPARE(verdicts[i].slow && verdicts[i].fit() && !verdicts[i].fine(),
                     trials[i].given.contains("open") && trials[i].given.at("open") == Json(true));
    }

    void threadsDoNotChangeVerdicts() {
        const FitSubject post = subject(kPost);
        const auto trials = trialsOf(*post.loom, {.pairs = true, .random = 12});
        const auto one = checkFit(post, trials, {.threads = 1}), four = checkFit(post, trials, {.threads = 4});
        for (std::size_t i = 0; i < trials.size(); ++i)
            QVERIFY(one[i].state == four[i].state && one[i].faults == four[i].faults && one[i].triangles == four[i].triangles);
    }

    void aCancelLeavesTheRestWaiting() {
        const FitSubject post = subject(kPost);
        const auto trials = trialsOf(*post.loom, {.random = 30});
        std::atomic<bool> stop{false};
        FitOptions options;
        options.threads = 1, options.cancel = &stop;
        options.onTrial = [&](std::size_t i, const Verdict&) { stop = stop || i == 2; };
        const auto verdicts = checkFit(post, trials, options);
        for (std::size_t i = 0; i < trials.size(); ++i) QCOMPARE(verdicts[i].state == Verdict::State::waiting, i > 2);
        QVERIFY(shrunk(post, trials.back(), options).given == trials.back().given);
    }

    void theSmallestChangeIsFound() {
        // Fails above 1.5, whatever the others are.
        std::string text = kPost;
        text.replace(text.find("ctl.open ? normal.y > 0.5 : false"), 33, "ctl.height > 1.5 && normal.y > 0.5");
        const FitSubject post = subject(text);
        const Trial far{Trial::Kind::random, {}, {{"height", 2.0}, {"width", 0.9}, {"open", true}}};
        const Trial near = shrunk(post, far);
        QCOMPARE(near.given.size(), std::size_t(1));
        const double height = near.given.at("height").get<double>();
        QVERIFY2(height > 1.5 && height < 1.52, std::to_string(height).c_str());
        QCOMPARE(judge(post, near).state, Verdict::State::unsound);
        // What does not fail is left as it is; a preset's values count as well.
        const Trial fine{Trial::Kind::random, {}, {{"height", 1.2}}};
        QVERIFY(shrunk(post, fine).given == fine.given);
        std::string low = text;
        low.replace(low.find("{\"height\": 0.6}"), 15, "{\"height\": 1.9, \"width\": 0.5}");
        const Trial preset = shrunk(subject(low), {Trial::Kind::preset, "Low", {}});
        QVERIFY(preset.preset.empty() && preset.given.size() == 1 && preset.given.contains("height"));
    }

    void whatControlsDoIsTold() {
        std::string text = kPost;
        // Fails above 1.5; `open` does nothing any more.
        text.replace(text.find("ctl.open ? normal.y > 0.5 : false"), 33, "ctl.height > 1.5 && normal.y > 0.5");
        const FitSubject post = subject(text);
        const auto effects = controlEffects(post);
        QCOMPARE(effects.size(), std::size_t(3));
        const ControlEffect &height = effects[0], &width = effects[1], &open = effects[2];
        QCOMPARE(height.control, std::string("height"));
        QCOMPARE(height.nodes, (std::vector<std::string>{"box", "less", "stand", "out"}));
        QCOMPARE(width.nodes, (std::vector<std::string>{"box", "less", "stand", "out"}));
        // Above 1.5 faces are gone, so all of it is another.
        QCOMPARE(height.changed, 1.0);
        QVERIFY(height.tried == 9 && height.failed == 3 && width.failed == 0 && !width.safe);
        QVERIFY2(height.safe && height.safe->first == 0.5 && height.safe->second <= 1.5 && height.safe->second > 1.48,
                 height.safe ? std::to_string(height.safe->second).c_str() : "no safe range");
        QVERIFY(height.ms > 0 && !height.nothing() && !width.nothing());
        QVERIFY(open.nothing() && open.tried == 2 && open.changed == 0);
        // Values that are not allowed beside the others are not tried: a width of 0.9 is the last below a height of 1.
        QCOMPARE(width.tried, 8);
        // A value at which nothing is built is one at which it is not fit.
        std::string none = kPost;
        none.replace(none.find("ctl.open ? normal.y > 0.5 : false"), 33, "ctl.height > 1.9                 ");
        const auto gone = controlEffects(subject(none));
        QVERIFY(gone[0].failed == 1 && gone[0].changed == 1 && gone[0].safe && gone[0].safe->second < 1.9);
        // Half of the points move where only the top goes up.
        std::string half = kPost;
        half.replace(half.find("ctl.height * 0.5"), 16, "0.0 + 1.0 * 0.5 ");
        half.replace(half.find("vec3(ctl.width, ctl.height, ctl.width)"), 38, "vec3(0.4, 1.0, 0.4)");
        half.replace(half.find("\"op\": \"delete\""), 14, "\"op\": \"move_points\"");
        half.replace(half.find("\"where\": {\"formula\": \"ctl.open ? normal.y > 0.5 : false\"}"), 57,
                     "\"by\": {\"formula\": \"vec3(0, position.y > 0 ? ctl.height - 1 : 0, 0) \"}");
        const auto top = controlEffects(subject(half));
        QCOMPARE(top[0].changed, 0.5);
        QCOMPARE(top[0].nodes, (std::vector<std::string>{"less", "stand", "out"}));
        // Whole numbers have whole borders; a loom that fails at its defaults has none.
        std::string broken = text;
        broken.replace(broken.find("ctl.height > 1.5"), 16, "ctl.height > 0.1");
        QVERIFY(!controlEffects(subject(broken))[0].safe);
        std::atomic<bool> stop{true};
        FitOptions options;
        options.cancel = &stop;
        QVERIFY(controlEffects(post, options).empty());
    }

    void whatPublishingNeedsIsSaid() {
        Loom loom = *loomFromText(kPost);
        QVERIFY(!publishProblem(loom) && publishAdvice(loom).empty());
        const auto code = [](Loom changed) { return publishProblem(changed) ? publishProblem(changed)->code : std::string(); };
        Loom changed = loom;
        changed.name.clear();
        QCOMPARE(code(changed), std::string("publish.name"));
        for (const char* bad : {"", "1", "1.2", "1.2.3.4", "1.2.x", "-1.0.0", "1..2"}) {
            changed = loom;
            changed.extra["version"] = bad;
            QCOMPARE(code(changed), std::string("publish.version"));
        }
        changed = loom;
        changed.output = "gone";
        QCOMPARE(code(changed), std::string("publish.output"));
        const Loom bare = withAbout(loom, {loom.name, "1.0.0", "", "", "", {}});
        QCOMPARE(publishAdvice(bare).size(), std::size_t(4));
        changed = loom;
        changed.controls[0].help.clear();
        changed.presets.clear();
        QCOMPARE(publishAdvice(changed).size(), std::size_t(2));
        changed.controls.clear();
        QCOMPARE(publishAdvice(changed).size(), std::size_t(1));
    }

    void versionsAreCompared() {
        QVERIFY(compareVersions("1.2.3", "1.2.3") == 0 && compareVersions("1.2.3", "1.10.0") < 0 && compareVersions("2.0.0", "1.9.9") > 0);
        QVERIFY(compareVersions("draft", "0.0.1") < 0 && compareVersions("0.0.1", "") > 0 && compareVersions("", "draft") == 0);
        const AssetAbout about{"Post", "3.1.4", "A post.", "Gull Rock", "CC0", {"post", "quay"}};
        QVERIFY(aboutOf(withAbout(Loom(), about)) == about);
    }

    void packsHoldWhatTheLoomReads() {
        // Two meshes of the same name from different folders, and an asset that reads one beside it.
        const std::string square = "v 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nf 1 2 3 4\n", larger = "v 0 0 0\nv 2 0 0\nv 2 2 0\nv 0 2 0\nf 1 2 3 4\n";
        fs::create_directories(path("a"));
        fs::create_directories(path("b"));
        write("a/tile.obj", square);
        write("b/tile.obj", larger);
        write("b/shown.png", "a picture");
        write("b/plate.loom", R"({"seedloom": 1, "name": "Plate", "version": "0.1.0",
            "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": "tile.obj"}}, {"id": "o", "op": "output"}],
            "links": [["m", "o"]], "output": "o"})");
        const fs::path file = write("a/tiles.loom", R"({"seedloom": 1, "name": "Tiles", "version": "1.0.0",
            "controls": [{"id": "tile", "label": "Tile", "type": "file", "default": "tile.obj"},
                         {"id": "kind", "label": "Kind", "type": "choice", "default": "a", "choices": ["a", "b"], "pictures": ["../b/shown.png", ""]}],
            "values": {"tile": "../b/tile.obj"},
            "presets": [{"name": "Large", "values": {"tile": "../b/tile.obj"}}],
            "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": {"control": "tile"}}},
                      {"id": "p", "op": "asset", "asset": {"file": "../b/plate.loom"}, "settings": {}},
                      {"id": "j", "op": "merge"}, {"id": "o", "op": "output"}],
            "links": [["m", "j"], ["p", "j"], ["j", "o"]], "output": "o"})");
        FitSubject tiles = *fitSubjectFrom(file);
        const auto bytes = publishedPack(tiles);
        QVERIFY2(bool(bytes), bytes ? "" : bytes.error().text.c_str());
        const fs::path packFile = write("elsewhere.loompack", *bytes);
        const auto pack = readPack(packFile);
        QVERIFY2(bool(pack), pack ? "" : pack.error().text.c_str());
        QCOMPARE(pack->files->paths(), (std::vector<std::string>{"asset.loom", "files/plate.loom", "files/shown.png", "files/tile-2.obj", "files/tile.obj",
                                                                 "manifest.json", "picture.png"}));
        QCOMPARE(pack->about.version, std::string("1.0.0"));
        QCOMPARE(pack->loom.control("kind")->pictures, (std::vector<std::string>{"files/shown.png", ""}));
        QCOMPARE(withPathsMoved(*tiles.loom, "/quay/a", "/quay").control("kind")->pictures, (std::vector<std::string>{"b/shown.png", ""}));
        QVERIFY(pack->loom.values.empty());
        const Json manifest = Json::parse(*pack->files->read("manifest.json"));
        QVERIFY(manifest["name"] == "Tiles" && manifest["controls"] == Json::array({"tile", "kind"}) && manifest["loompack"] == 1);
        // Wherever it lies, and with all that it was made from gone, it builds the same.
        Loom plain = *tiles.loom;
        plain.values.clear();
        tiles.loom = std::make_shared<const Loom>(plain);
        const Digest before = defaults(tiles);
        fs::remove_all(path("b"));
        fs::remove(path("a/tile.obj"));
        QVERIFY(defaults(*fitSubjectFrom(packFile)) == before);
        QCOMPARE(manifest["digests"]["defaults"].get<std::string>(), before.hex());
        // As an asset of another loom, too; a pack with another mesh is noticed, though its loom is the same.
        write("user.loom", R"({"seedloom": 1, "name": "User", "nodes": [{"id": "p", "op": "asset", "asset": {"file": "elsewhere.loompack"}, "settings": {}},
            {"id": "o", "op": "output"}], "links": [["p", "o"]], "output": "o"})");
        const FitSubject user = *fitSubjectFrom(path("user.loom"));
        QVERIFY(defaults(user) == before);
        std::map<std::string, std::string> other;
        for (const std::string& name : pack->files->paths()) other[name] = *pack->files->read(name);
        std::swap(other["files/tile.obj"], other["files/tile-2.obj"]);
        write("elsewhere.loompack", *packedBytes(other));
        const FitSubject changed = *fitSubjectFrom(path("user.loom"));
        Memo memo;
        RebuildRequest request;
        std::vector<Digest> built;
        for (const FitSubject& each : {user, changed}) {
            request.loom = each.loom, request.folder = each.folder, request.assets = each.assets;
            const RebuildResult result = rebuild(request, memo);
            built.push_back(digestOf(*result.geometry("o")));
        }
        QVERIFY(built[0] != built[1]);
    }

    void shelvesAreLookedThrough() {
        const fs::path shelf = path("shelf");
        const FitSubject post = subject(kPost);
        const auto pack = publishedPack(post);
        FitSubject newer = post;
        Loom loom = *post.loom;
        loom.extra["version"] = "1.10.0";
        newer.loom = std::make_shared<const Loom>(loom);
        fs::create_directories(shelf / "iron" / ".hidden");
        fs::create_directories(shelf / "1/2/3/4/5/6/7/8/9");
        write("shelf/post-1.2.0.loompack", *pack);
        write("shelf/iron/post-1.10.0.loompack", *publishedPack(newer));
        write("shelf/iron/post.loom", kPost);
        write("shelf/iron/torn.loompack", pack->substr(0, pack->size() / 2));
        write("shelf/iron/torn.loom", "{");
        for (const char* other :
             {"shelf/notes.txt", "shelf/.post.loom", "shelf/iron/.hidden/post.loom", "shelf/1/2/3/4/5/6/7/8/9/deep.loom", "shelf/post.loom~"})
            write(other, kPost);
        fs::create_directory_symlink(shelf, shelf / "iron" / "round");
        const auto files = filesOnShelf(shelf);
        QVERIFY(bool(files));
        std::vector<std::string> names;
        for (const fs::path& file : *files) names.push_back(fs::relative(file, shelf).string());
        QCOMPARE(names,
                 (std::vector<std::string>{"iron/post-1.10.0.loompack", "iron/post.loom", "iron/torn.loom", "iron/torn.loompack", "post-1.2.0.loompack"}));
        std::vector<ShelfAsset> assets;
        for (const fs::path& file : *files) assets.push_back(shelfAsset(file));
        QCOMPARE(assets[0].about.name, std::string("Post"));
        QCOMPARE(assets[0].about.version, std::string("1.10.0"));
        QVERIFY(assets[0].pack && assets[0].problem.empty() && assets[0].about.tags == std::vector<std::string>{"post"});
        QCOMPARE(assets[0].controls, (std::vector<std::string>{"height", "width", "open"}));
        QVERIFY(!assets[1].pack && assets[1].about == assets[4].about && assets[1].controls == assets[0].controls);
        QVERIFY(!assets[2].problem.empty() && assets[2].about.name == "torn" && !assets[3].problem.empty() && assets[3].about.name == "torn");
        // What is worked on first, then the newest; 1.10 is newer than 1.2.
        const auto groups = versionsOf(assets);
        QCOMPARE(groups, (std::vector<std::vector<std::size_t>>{{1, 0, 4}, {2, 3}}));
        QVERIFY(shelfPicture(assets[0].file).starts_with("\x89PNG"));
        QVERIFY(shelfPicture(assets[1].file).empty() && shelfPicture(assets[3].file).empty());
        QVERIFY(loomOnShelf(assets[0]) && loomOnShelf(assets[0])->fact("version") == "1.10.0" && loomOnShelf(assets[1]) && !loomOnShelf(assets[3]));
        fs::remove_all(shelf);
        QCOMPARE(filesOnShelf(shelf).error().code, std::string("shelf.gone"));
        QVERIFY(!shelfAsset(shelf / "gone.loompack").problem.empty());
    }

    void aPackIsUnpackedToWorkOn() {
        write("tile.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n");
        const fs::path loom = write("tiles.loom", R"({"seedloom": 1, "name": "Tiles", "version": "1.0.0",
            "nodes": [{"id": "m", "op": "import_mesh", "settings": {"file": "tile.obj"}}, {"id": "o", "op": "output"}],
            "links": [["m", "o"]], "output": "o"})");
        const FitSubject tiles = *fitSubjectFrom(loom);
        const fs::path pack = write("tiles.loompack", *publishedPack(tiles, nullptr, {{"sheet/sheet.html", "<p>"}}));
        const auto copy = unpacked(pack, path("copy"));
        QVERIFY2(bool(copy), copy ? "" : copy.error().text.c_str());
        QCOMPARE(copy->filename().string(), std::string("copy.loom"));
        QVERIFY(defaults(*fitSubjectFrom(*copy)) == defaults(tiles));
        QVERIFY(fs::exists(path("copy") / "files/tile.obj") && !fs::exists(path("copy") / "manifest.json") && !fs::exists(path("copy") / "sheet"));
        // What is there stays; a damaged pack leaves nothing behind.
        QCOMPARE(unpacked(pack, path("copy")).error().code, std::string("shelf.taken"));
        std::map<std::string, std::string> files;
        const auto read = readPack(pack);
        for (const std::string& name : read->files->paths()) files[name] = *read->files->read(name);
        files["second.loom"] = "taken";
        const fs::path clash = write("clash.loompack", *packedBytes(files));
        QCOMPARE(unpacked(clash, path("second")).error().code, std::string("shelf.taken"));
        QVERIFY(!fs::exists(path("second")));
        QVERIFY(!unpacked(path("none.loompack"), path("third")) && !fs::exists(path("third")));
        // A folder that can't be written.
        write("file", "");
        QVERIFY(!unpacked(pack, path("file") / "inside"));
    }

    void aPeekSeesWhatReadingSees() {
        const fs::path pack = write("peek.loompack", *publishedPack(subject(kPost)));
        const auto whole = PackFiles::open(pack), some = PackFiles::peek(pack);
        QVERIFY(whole && some);
        QCOMPARE((*some)->paths(), (*whole)->paths());
        for (const std::string& name : (*whole)->paths()) QVERIFY(*(*some)->read(name) == *(*whole)->read(name));
        QCOMPARE((*some)->digest(), (*whole)->digest());
        write("empty.loompack", "");
        QCOMPARE(PackFiles::peek(path("empty.loompack")).error().code, std::string("pack.format"));
        QCOMPARE(PackFiles::peek(path("missing.loompack")).error().code, std::string("file.read"));
    }

    void anUpdateIsShownBeforeItIsTaken() {
        write("post.loom", kPost);
        Json other = Json::parse(kPost);
        other["controls"][0]["default"] = 1.25;
        write("taller.loom", other.dump());
        write("quay.loom", R"({"seedloom": 1, "name": "Quay", "nodes": [{"id": "p", "op": "asset", "asset": {"file": "post.loom"}, "settings": {}},
            {"id": "o", "op": "output"}], "links": [["p", "o"]], "output": "o"})");
        const FitSubject quay = *fitSubjectFrom(path("quay.loom"));
        const Edit taller = setSetting(*quay.loom, "p", "asset", "taller.loom");
        const auto results = updateResults(quay, taller, "p");
        QVERIFY(results && results->before && results->after && !results->same && results->told.empty());
        QVERIFY(std::abs(boundsOf(results->before->geometry).size().y - 1.0f) < 1e-5f && std::abs(boundsOf(results->after->geometry).size().y - 1.25f) < 1e-5f);
        QVERIFY(updateResults(quay, setSetting(*quay.loom, "p", "height", 1.0, quay.assets), "p")->same);
        // What fails only then is told; what did before is not.
        const auto broken = updateResults(quay, setSetting(*quay.loom, "p", "asset", "none.loom"), "p");
        QVERIFY(broken && !broken->told.empty() && !broken->same);
        FitSubject failing = quay;
        failing.loom = std::make_shared<const Loom>(*applied(*quay.loom, setSetting(*quay.loom, "p", "asset", "none.loom")));
        failing.assets = assetsOf(*failing.loom, failing.folder);
        QVERIFY(updateResults(failing, Edit{}, "p")->told.empty());
        std::atomic<bool> cancel{true};
        QCOMPARE(updateResults(quay, taller, "p", &cancel).error().code, std::string("build.cancelled"));
    }

    void aSheetShowsEachControl() {
        Json json = Json::parse(kPost);
        json["controls"].push_back(
            {{"id", "kind"}, {"label", "Kind <b>"}, {"type", "choice"}, {"default", "round"}, {"choices", {"round", "square"}}, {"help", "A & B."}});
        json["controls"].push_back({{"id", "count"}, {"label", "Count"}, {"type", "integer"}, {"default", 3}, {"min", 1}, {"max", 3}});
        json["controls"].push_back({{"id", "paint"}, {"label", "Paint"}, {"type", "color"}, {"default", {1, 0.5, 0}}});
        json["presets"].push_back({{"name", "Torn"}, {"values", {{"width", 1}, {"height", 0.6}}}});
        const FitSubject post = subject(json.dump());
        std::vector<std::size_t> told;
        const auto sheet = assetSheet(post, {.threads = 2, .cancel = nullptr, .onEntry = [&](std::size_t done, std::size_t all) {
                                                 told.push_back(done);
                                                 QCOMPARE(all, std::size_t(2 + 3 + 3 + 2 + 2 + 2 + 1));
                                             }});
        QVERIFY2(bool(sheet), sheet ? "" : sheet.error().text.c_str());
        QCOMPARE(told.size(), std::size_t(15));
        QCOMPARE(sheet->about.name, std::string("Post"));
        QVERIFY(sheet->closed && sheet->main.triangles == 12 && sheet->points == 8 && sheet->faces == 6 && sheet->size == "0.4 × 1 × 0.4 m");
        QVERIFY(sheet->main.picture && sheet->fewest == 10 && sheet->most == 12);  // without its top there are two less
        const auto titles = [&](std::size_t control) {
            std::vector<std::string> out;
            for (const SheetEntry& entry : sheet->controls[control].entries) out.push_back(entry.title);
            return out;
        };
        QCOMPARE(titles(0), (std::vector<std::string>{"0.5", "1, the default", "2"}));
        QCOMPARE(titles(2), (std::vector<std::string>{"no, the default", "yes"}));
        QCOMPARE(titles(3), (std::vector<std::string>{"round, the default", "square"}));
        QCOMPARE(titles(4), (std::vector<std::string>{"1", "3, the default"}));
        QCOMPARE(titles(5), (std::vector<std::string>{"1, 0.5, 0, the default"}));
        QCOMPARE(sheet->controls[0].range, std::string("0.5 to 2"));
        QCOMPARE(sheet->controls[3].range, std::string("round, square"));
        // A setting that is not allowed says so, and has no picture.
        QVERIFY(sheet->presets[0].picture && sheet->presets[0].problem.empty());
        QVERIFY(!sheet->presets[1].picture && sheet->presets[1].problem.find("must hold") != std::string::npos);
        QVERIFY(!sheet->controls[1].entries[2].picture && !sheet->controls[1].entries[2].problem.empty());
        // Pictures of one row are taken from one place: what is larger covers more.
        const auto covered = [](const Picture& p) { return std::count_if(p.pixels.begin(), p.pixels.end(), [](Colour c) { return c.r < 150; }); };
        QVERIFY(covered(*sheet->controls[0].entries[0].picture) * 2 < covered(*sheet->controls[0].entries[2].picture));
        // The same for any number of threads.
        const auto again = assetSheet(post, {.threads = 1, .cancel = nullptr, .onEntry = {}});
        QVERIFY(sheetHtml(*again) == sheetHtml(*sheet) && sheetPicture(*again) == sheetPicture(*sheet));

        const std::string html = sheetHtml(*sheet);
        QVERIFY(html.find("Kind &lt;b&gt;") != std::string::npos && html.find("A &amp; B.") != std::string::npos && html.find("<b>") == std::string::npos);
        QVERIFY(html.find("http") == std::string::npos && html.find("src=\"data:image/png;base64,") != std::string::npos);
        QVERIFY(html.find("prefers-color-scheme: dark") != std::string::npos);
        const auto count = [&](const std::string& what) {
            int n = 0;
            for (std::size_t at = html.find(what); at != std::string::npos; at = html.find(what, at + 1)) ++n;
            return n;
        };
        QCOMPARE(count("<figure>"), 15);
        QCOMPARE(count("</figure>"), 15);
        QCOMPARE(count("<img "), 14);  // two settings are not allowed, and there is the large one
        const Picture page = sheetPicture(*sheet);
        QCOMPARE(page.width, 1280);
        // A row of each control and of presets is some 250 pixels high.
        QVERIFY2(page.height > 7 * 220 + 400 && page.height < 7 * 330 + 600, std::to_string(page.height).c_str());
    }

    void whatHasNoSheetSaysWhy() {
        std::atomic<bool> cancel{true};
        QCOMPARE(assetSheet(subject(kPost), {.threads = 0, .cancel = &cancel, .onEntry = {}}).error().code, std::string("sheet.cancelled"));
        Json empty = Json::parse(kPost);
        empty["links"].erase(2);
        QCOMPARE(assetSheet(subject(empty.dump())).error().code, std::string("sheet.build"));
    }

    void theSamePackTwiceIsTheSame() {
        const FitSubject post = subject(kPost);
        const auto first = publishedPack(post), second = publishedPack(post);
        QVERIFY(first && second && *first == *second);
    }

    void whatCantBePackedIsSaid() {
        std::string text = kPost;
        const std::string more = R"({"id": "more", "op": "import_mesh", "settings": {"file": "nowhere.obj"}}, )";
        text.insert(text.find("{\"id\": \"box\""), more);
        const auto missing = publishedPack(subject(text, folder_.path().toStdString()));
        QCOMPARE(missing ? std::string() : missing.error().code, std::string("pack.file"));
        QVERIFY(missing.error().text.find("nowhere.obj") != std::string::npos);
        std::atomic<bool> stop{true};
        QCOMPARE(publishedPack(subject(kPost), &stop).error().code, std::string("pack.cancelled"));
        text = kPost;
        text.replace(text.find("1.2.0"), 5, "soon.");
        QCOMPARE(publishedPack(subject(text)).error().code, std::string("publish.version"));
    }

    void damagedPacksAreRefused() {
        const std::string good = *publishedPack(subject(kPost));
        QVERIFY(packFromBytes(good, "post"));
        // Cut anywhere, it is refused in words.
        for (std::size_t size = 0; size < good.size(); size += good.size() / 37 + 1) {
            const auto cut = packFromBytes(good.substr(0, size), "post");
            QVERIFY(!cut && !cut.error().text.empty());
        }
        const auto refused = [](const std::map<std::string, std::string>& files) {
            const auto pack = packFromBytes(*packedBytes(files), "post");
            return pack ? std::string() : pack.error().code;
        };
        QCOMPARE(refused({{"readme", "no asset"}}), std::string("pack.format"));
        QCOMPARE(refused({{"asset.loom", kPost}, {"manifest.json", R"({"loompack": 99})"}}), std::string("pack.format"));
        QCOMPARE(refused({{"asset.loom", kPost}, {"manifest.json", "[]"}}), std::string("pack.format"));
        QCOMPARE(refused({{"asset.loom", "{"}}), std::string("loom.syntax"));
        QCOMPARE(refused({{"asset.loom", kPost}}), std::string());
        // A loom in a pack reads nothing of the disk around it.
        write("secret.obj", "v 0 0 0\nv 1 0 0\nv 1 1 0\nf 1 2 3\n");
        for (const std::string& outside : {path("secret.obj").string(), std::string("../secret.obj")}) {
            const Json prying{{"seedloom", 1},
                              {"nodes",
                               Json::array({{{"id", "m"}, {"op", "import_mesh"}, {"settings", {{"file", outside}}}}, {{"id", "o"}, {"op", "output"}}})},
                              {"links", Json::array({Json::array({"m", "o"})})},
                              {"output", "o"}};
            const FitSubject pry = *fitSubjectFromPack(*packedBytes({{"asset.loom", prying.dump()}}), "prying");
            const Verdict verdict = judge(pry, {});
            QCOMPARE(verdict.state, Verdict::State::failed);
            QVERIFY2(verdict.faults.front().find("outside of the pack") != std::string::npos, verdict.faults.front().c_str());
        }
    }
};

QTEST_GUILESS_MAIN(TestPublish)
#include "test_publish.moc"
