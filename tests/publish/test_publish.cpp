// Trials of a loom, verdicts, the smallest change that fails, what controls do, and sheets.
#include "publish/ControlEffects.h"
#include "publish/Post.h"
#include "publish/Publish.h"
#include "publish/Sheet.h"
#include "support/Run.h"

#include <algorithm>

using namespace seedloom;
using namespace seedloom::test;

namespace {

int countOf(const std::vector<Trial>& trials, Trial::Kind kind) {
    return int(std::count_if(trials.begin(), trials.end(), [&](const Trial& t) { return t.kind == kind; }));
}

}  // namespace

class TestPublish : public QObject {
    Q_OBJECT

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
};

QTEST_GUILESS_MAIN(TestPublish)
#include "test_publish.moc"
