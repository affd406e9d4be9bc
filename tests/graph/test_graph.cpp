// Controls, rebuilding and the memo.
#include "geometry/Digest.h"
#include "graph/Controls.h"
#include "graph/Edit.h"
#include "graph/Importing.h"
#include "graph/Origin.h"
#include "graph/Rebuild.h"
#include "support/Edited.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <mutex>
#include <set>
#include <thread>

using namespace seedloom;
using namespace seedloom::test;

namespace {

RebuildResult run(const Loom& loom, Memo& memo, int threads = 0, const ControlValues& given = {}, double frame = 0) {
    RebuildRequest request;
    request.loom = std::make_shared<const Loom>(loom);
    request.controls = *controlValues(loom, {"", given});
    request.threads = threads;
    request.frame = frame;
    request.time = frame / 24;
    return rebuild(request, memo);
}

std::string codeAt(const RebuildResult& result, const char* id) {
    const auto it = result.nodes.find(id);
    return it == result.nodes.end() || !it->second.outcome || it->second.outcome->notices.empty() ? std::string() : it->second.outcome->notices.front().code;
}

}  // namespace

class TestGraph : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void controlsTakePresetsGivenValuesAndFormulas() {
        Loom loom = turnedPost();
        Control foot;
        foot.id = "foot";
        foot.fallback = {{"formula", "ctl.height * 0.5"}};
        loom.controls.push_back(foot);
        loom.presets = {{"Low", {{"height", 0.5}}, Json::object()}};
        QCOMPARE((*controlValues(loom))["foot"], Json(0.5));
        QCOMPARE((*controlValues(loom, {"Low", {}}))["foot"], Json(0.25));
        QCOMPARE((*controlValues(loom, {"Low", {{"height", 2.0}}}))["foot"], Json(1.0));
        QCOMPARE(controlValues(loom, {"High", {}}).error().code, std::string("control.preset"));
        QCOMPARE(controlValues(loom, {"", {{"heigth", 1}}}).error().code, std::string("control.unknown"));
        QCOMPARE(controlValues(loom, {"", {{"height", 9}}}).error().code, std::string("control.range"));
        QCOMPARE(controlValues(loom, {"", {{"height", "tall"}}}).error().code, std::string("control.type"));
    }

    void ringsOfControlsAreNamed() {
        Loom loom;
        for (auto [id, text] : {std::pair{"a", "ctl.b + 1"}, {"b", "ctl.c"}, {"c", "ctl.a"}}) {
            Control c;
            c.id = id;
            c.fallback = {{"formula", text}};
            loom.controls.push_back(c);
        }
        const auto values = controlValues(loom);
        QVERIFY(!values);
        QCOMPARE(values.error().code, std::string("control.cycle"));
        QVERIFY(values.error().text.find("a → b → c → a") != std::string::npos);
    }

    void controlTextsOfTheCommandLine() {
        Control number, whole, flag, place, word;
        whole.type = "integer", flag.type = "boolean", place.type = "vec3", word.type = "choice";
        word.choices = {"in", "out"};
        QCOMPARE(*controlValueFromText(number, "0.25"), Json(0.25));
        QVERIFY(!controlValueFromText(number, "0.25m"));
        QVERIFY(!controlValueFromText(number, "nan"));
        QCOMPARE(*controlValueFromText(whole, "12"), Json(12));
        QVERIFY(!controlValueFromText(whole, "12.5"));
        QCOMPARE(*controlValueFromText(flag, "true"), Json(true));
        QVERIFY(!controlValueFromText(flag, "perhaps"));
        QCOMPARE(*controlValueFromText(place, "1,2,3.5"), Json({1.0, 2.0, 3.5}));
        QVERIFY(!controlValueFromText(place, "1,2"));
        QVERIFY(!controlValueFromText(word, "up"));
    }

    void rebuildFollowsControlsAndRemembers() {
        Memo memo;
        const Loom loom = turnedPost();
        const RebuildResult first = run(loom, memo);
        QVERIFY(!first.failed());
        QCOMPARE(boundsOf(*first.geometry("out")).max.y, 1.0f);
        const RebuildResult second = run(loom, memo);
        for (const auto& [id, report] : second.nodes) QVERIFY2(report.remembered, id.c_str());
        const RebuildResult taller = run(loom, memo, 0, {{"height", 2.0}});
        QCOMPARE(boundsOf(*taller.geometry("out")).max.y, 2.0f);
        QVERIFY(taller.nodes.at("even").remembered);
        QVERIFY(!taller.nodes.at("body").remembered);
        // Going back costs nothing.
        QVERIFY(run(loom, memo).nodes.at("body").remembered);
    }

    void moreThreadsAndAFreshMemoGiveTheSameBits() {
        Loom loom = turnedPost();
        for (int i = 0; i < 12; ++i) {
            const std::string id = "side" + std::to_string(i);
            loom.nodes.push_back(node(id.c_str(), "noise_displace", {i, 1}, {{"seed", i}, {"octaves", 3}}));
            loom.links.push_back({"body", "", id, "", Json::object()});
            loom.links.push_back({id, "", "all", "", Json::object()});
        }
        loom.nodes.push_back(node("all", "merge", {13, 1}));
        Memo a, b;
        const RebuildResult one = run(loom, a, 1), many = run(loom, b, 8);
        QCOMPARE(one.geometry("all")->faceCount(), std::size_t(12 * 8 * 32));
        for (const auto& [id, report] : one.nodes) QCOMPARE(digestOf(report.outcome->geometry), digestOf(*many.geometry(id)));
    }

    void originsOfElementsAreFollowedUpstream() {
        Loom loom;
        loom.nodes = {node("plate", "grid", {0, 0}, {{"cells", {4, 4}}}),
                      node("lift", "transform", {1, 0}, {{"move", {0, 1, 0}}}),
                      node("mask", "set_attribute", {2, 0}),
                      node("block", "box", {0, 1}),
                      node("both", "merge", {3, 0}),
                      node("bump", "move_points", {4, 0}, {{"by", {0, 0.5, 0}}, {"where", {{"formula", "index == 0 ? 1.0 : 0.0"}}}}),
                      node("cut", "triangulate", {5, 0}, {{"where", {{"formula", "index == 3 ? 1.0 : 0.0"}}}})};
        loom.links = {linked("plate", "lift"), linked("lift", "mask"), linked("mask", "both"),
                      linked("block", "both"), linked("both", "bump"), linked("bump", "cut")};
        Memo memo;
        const RebuildResult result = run(loom, memo);
        QVERIFY(!result.failed());
        const auto outcomeOf = [&](const std::string& id) { return result.nodes.at(id).outcome; };
        const auto of = [&](const char* at, Element element, Index row) { return elementOriginsOf(loom, at, element, row, outcomeOf); };
        // A point of the plate: made there, lifted, and the first one bumped; the mask did not move it.
        QCOMPARE(of("cut", Element::point, 0),
                 (std::vector<Origin>{{"plate", OriginKind::made}, {"lift", OriginKind::changed}, {"bump", OriginKind::changed}}));
        QCOMPARE(of("cut", Element::point, 7), (std::vector<Origin>{{"plate", OriginKind::made}, {"lift", OriginKind::changed}}));
        // A point of the block came in at the second port.
        QCOMPARE(of("cut", Element::point, 26), (std::vector<Origin>{{"block", OriginKind::made}}));
        // Faces: one that was cut is made by the cut, the one beside it is as old as the plate.
        QCOMPARE(of("cut", Element::face, 3), (std::vector<Origin>{{"cut", OriginKind::made}}));
        QCOMPARE(of("cut", Element::face, 9), (std::vector<Origin>{{"plate", OriginKind::made}, {"lift", OriginKind::changed}}));
        QCOMPARE(of("cut", Element::face, 18), (std::vector<Origin>{{"block", OriginKind::made}}));
        QVERIFY(of("cut", Element::face, 99999).empty() && of("cut", Element::corner, 0).empty());
    }

    void originsTellWhoMadeAndChangedAnAttribute() {
        Loom loom;
        loom.nodes = {node("plate", "grid", {0, 0}, {{"cells", {4, 4}}}),
                      node("mask", "set_attribute", {1, 0}, {{"value", {{"formula", "position.x"}}}}),
                      node("move", "transform", {2, 0}, {{"move", {1, 0, 0}}}),
                      node("soft", "blur_attribute", {3, 0}),
                      node("fine", "subdivide", {4, 0}),
                      node("end", "output", {5, 0}),
                      node("other", "box", {0, 1}),
                      node("both", "merge", {6, 0})};
        loom.links = {linked("plate", "mask"), linked("mask", "move"), linked("move", "soft"), linked("soft", "fine"), linked("fine", "end")};
        Memo memo;
        const RebuildResult result = run(loom, memo);
        QVERIFY(!result.failed() || codeAt(result, "both") == "input.missing");
        const auto outcomeOf = [&](const std::string& id) { return result.nodes.at(id).outcome; };
        QCOMPARE(originsOf(loom, "end", "mask", outcomeOf),
                 (std::vector<Origin>{{"mask", OriginKind::made}, {"soft", OriginKind::changed}, {"fine", OriginKind::spread}}));
        QCOMPARE(originsOf(loom, "move", "mask", outcomeOf), (std::vector<Origin>{{"mask", OriginKind::made}}));
        QCOMPARE(originsOf(loom, "end", "position", outcomeOf),
                 (std::vector<Origin>{{"plate", OriginKind::made}, {"move", OriginKind::changed}, {"fine", OriginKind::spread}}));
        QVERIFY(originsOf(loom, "plate", "mask", outcomeOf).empty());
        QVERIFY(originsOf(loom, "nowhere", "mask", [](const std::string&) { return std::shared_ptr<const NodeOutcome>(); }).empty());
    }

    void eachNodeIsWorkedOnOnce() {
        // Short branches that end while the later ones are still being started.
        Loom loom;
        constexpr int branches = 4000;
        const auto name = [](char row, int i) { return row + std::to_string(i); };
        for (int i = 0; i < branches; ++i) loom.nodes.push_back(node(name('a', i).c_str(), "box", {i, 0}, {{"size", {1 + i, 1, 1}}}));
        for (int i = 0; i < branches; ++i) {
            loom.nodes.push_back(node(name('b', i).c_str(), "flip", {i, 1}));
            loom.links.push_back(linked(name('a', i).c_str(), name('b', i).c_str()));
        }
        for (int round = 0; round < 3; ++round) {
            Memo memo;
            RebuildRequest request;
            request.loom = std::make_shared<const Loom>(loom);
            request.threads = 4;
            std::mutex mutex;
            std::map<std::string, int> ends;
            request.onNode = [&](const std::string& id, const NodeReport& report) {
                if (report.state != NodeState::fresh) return;
                const std::lock_guard lock(mutex);
                ++ends[id];
            };
            (void)rebuild(request, memo);
            QCOMPARE(ends.size(), loom.nodes.size());
            for (const auto& [id, count] : ends) QVERIFY2(count == 1, id.c_str());
        }
    }

    void onlyWhatIsWantedIsBuilt() {
        Memo memo;
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(turnedPost());
        request.controls = *controlValues(*request.loom);
        request.targets = {"even"};
        const RebuildResult result = rebuild(request, memo);
        QCOMPARE(result.nodes.size(), 2u);
        QVERIFY(!result.geometry("out"));
    }

    void timeMattersOnlyWhereItIsRead() {
        Loom loom = turnedPost();
        loom.nodes[2].settings["height_scale"] = {{"formula", "1 + time"}};
        Memo memo;
        QCOMPARE(boundsOf(*run(loom, memo, 0, {}, 0).geometry("out")).max.y, 1.0f);
        const RebuildResult later = run(loom, memo, 0, {}, 24);
        QCOMPARE(boundsOf(*later.geometry("out")).max.y, 2.0f);
        QVERIFY(later.nodes.at("even").remembered);
        QVERIFY(run(loom, memo, 0, {}, 0).nodes.at("out").remembered);
    }

    void failuresPassTheInputOnAndAreTold() {
        Loom loom = turnedPost();
        loom.nodes[1].op = "polish";
        Memo memo;
        const RebuildResult result = run(loom, memo);
        QVERIFY(result.failed());
        QCOMPARE(result.nodes.at("even").state, NodeState::failed);
        QCOMPARE(codeAt(result, "even"), std::string("operator.unknown"));
        QVERIFY(result.geometry("out")->faceCount() > 0);
        QCOMPARE(result.notices(loom).front().node, std::string("even"));
    }

    void skippedNodesAreNotThere() {
        Loom loom = turnedPost();
        loom.nodes[2].skipped = true;
        Memo memo;
        const RebuildResult result = run(loom, memo);
        QCOMPARE(result.nodes.at("body").state, NodeState::skipped);
        QCOMPARE(result.geometry("out")->faceCount(), 0u);
        QCOMPARE(result.geometry("out")->curveCount(), 1u);
    }

    void brokenLinksAndRingsAreNamed() {
        Loom loom = turnedPost();
        loom.links.push_back(linked("ghost", "even"));
        loom.nodes.push_back(node("a", "transform", {0, 2}));
        loom.nodes.push_back(node("b", "weld", {1, 2}));
        loom.links.push_back(linked("a", "b"));
        loom.links.push_back(linked("b", "a"));
        loom.links.push_back({"pole", "", "body", "nose", Json::object()});
        Memo memo;
        const RebuildResult result = run(loom, memo);
        QCOMPARE(codeAt(result, "even"), std::string("link.from"));
        QCOMPARE(codeAt(result, "a"), std::string("graph.cycle"));
        QVERIFY(result.nodes.at("a").outcome->notices.front().text.find("a → b → a") != std::string::npos);
        QCOMPARE(codeAt(result, "body"), std::string("link.port"));
        QCOMPARE(linkCycles(loom).size(), 1u);
    }

    void unknownSettingsAndControlsAreTold() {
        Loom loom = turnedPost();
        loom.nodes[1].settings["cuont"] = 4;
        loom.nodes[2].settings["sides"] = {{"control", "sids"}};
        Memo memo;
        const RebuildResult result = run(loom, memo);
        QCOMPARE(codeAt(result, "even"), std::string("setting.unknown"));
        QVERIFY(result.nodes.at("even").outcome->notices.front().text.find("count") != std::string::npos);
        QCOMPARE(codeAt(result, "body"), std::string("setting.unknown_control"));
    }

    void aLongChainDoesNotOverflowTheStack() {
        Loom loom;
        loom.nodes.push_back(node("n0", "line", {0, 0}));
        for (int i = 1; i < 20000; ++i) {
            loom.nodes.push_back(node(("n" + std::to_string(i)).c_str(), "output", {i, 0}));
            loom.links.push_back({"n" + std::to_string(i - 1), "", "n" + std::to_string(i), "", Json::object()});
        }
        QVERIFY(linkCycles(loom).empty());
        Memo memo;
        QCOMPARE(run(loom, memo).geometry("n19999")->pointCount(), 2u);
    }

    /// Cancelled at many different moments, a rebuild gives either all or says that it was stopped.
    void cancellingAnywhereIsClean() {
        Loom loom = turnedPost();
        loom.nodes[1].settings["count"] = 400;
        loom.nodes.push_back(node("rough", "noise_displace", {4, 0}, {{"octaves", 8}}));
        loom.links.push_back(linked("body", "rough"));
        Memo whole;
        const Digest expected = digestOf(*run(loom, whole).geometry("rough"));
        for (int microseconds : {0, 50, 200, 1000, 5000, 100000}) {
            std::atomic<bool> stop{false};
            Memo memo;
            RebuildRequest request;
            request.loom = std::make_shared<const Loom>(loom);
            request.controls = *controlValues(loom);
            request.cancel = &stop;
            std::thread stopper([&] {
                std::this_thread::sleep_for(std::chrono::microseconds(microseconds));
                stop = true;
            });
            const RebuildResult result = rebuild(request, memo);
            stopper.join();
            if (!result.cancelled) QCOMPARE(digestOf(*result.geometry("rough")), expected);
            // What was remembered on the way is whole: the next run ends at the same bits.
            QCOMPARE(digestOf(*run(loom, memo).geometry("rough")), expected);
        }
    }

    void theMemoKeepsItsBudget() {
        Memo memo(100000);
        for (std::uint64_t i = 0; i < 50; ++i) {
            auto outcome = std::make_shared<NodeOutcome>();
            outcome->geometry = Geometry(std::vector<Vec3>(1000));
            outcome->ms = i == 3 ? 5000 : 1;
            memo.store({i, i}, outcome);
            QVERIFY(memo.bytes() <= 100000);
        }
        QVERIFY(memo.find({3, 3}));  // dear to compute: kept the longest
        QVERIFY(!memo.find({4, 4}));
        QVERIFY(memo.find({49, 49}));
        auto huge = std::make_shared<NodeOutcome>();
        huge->geometry = Geometry(std::vector<Vec3>(100000));
        memo.store({77, 77}, huge);
        QVERIFY(!memo.find({77, 77}));
    }

    void deferredNodesWaitWithTheirFollowersAndNothingElseDoes() {
        Loom loom = turnedPost();
        Memo memo;
        run(loom, memo);
        loom = after(loom, setSetting(loom, "even", "count", 17));
        RebuildRequest request;
        request.loom = std::make_shared<const Loom>(loom);
        request.controls = *controlValues(loom);
        request.deferred = {"body"};
        const RebuildResult part = rebuild(request, memo);
        QVERIFY(part.incomplete && !part.cancelled);
        QCOMPARE(part.nodes.at("even").state, NodeState::fresh);
        for (const char* id : {"body", "out"}) QVERIFY(!part.nodes.at(id).outcome && part.nodes.at(id).state == NodeState::waiting);
        // What the memo knows is given at once, deferred or not.
        const RebuildResult whole = run(loom, memo);
        QVERIFY(!whole.incomplete);
        const RebuildResult again = rebuild(request, memo);
        QVERIFY(!again.incomplete && again.nodes.at("body").remembered);
    }

    void plansFollowTheSettingsThatTheyWereMadeFrom() {
        PlanCache cache;
        Node node = turnedPost().nodes[1];
        const auto first = cache.of(node, {}, {});
        QCOMPARE(cache.of(node, {}, {}), first);
        node.settings["count"] = 12;
        const auto second = cache.of(node, {}, {});
        QVERIFY(second != first && second->digest != first->digest);
        node.cell = {7, 7};
        node.label = "Even out";
        QCOMPARE(cache.of(node, {}, {}), second);
        node.op = "polish";
        QCOMPARE(cache.of(node, {}, {})->problems.front().code, std::string("operator.unknown"));
        node.op = "resample";
        node.settings["cuont"] = 3;
        QCOMPARE(cache.of(node, {}, {})->problems.front().code, std::string("setting.unknown"));
        node.settings = {{"count", {{"formula", "frame + ctl.height"}}}};
        const auto timed = cache.of(node, {}, {});
        QVERIFY(timed->uses.time && timed->uses.controls.count("height"));
    }

    void everyOutputFlowsWhereItIsLinked() {
        Loom loom;
        loom.nodes = {node("box", "box", {0, 0}, {{"cells", {2, 2, 2}}}), node("parts", "split", {1, 0}, {{"where", {{"formula", "position.y < 0"}}}}),
                      node("a", "transform", {2, 0}, Json::object()), node("b", "transform", {2, 1}, Json::object()),
                      node("c", "transform", {2, 2}, Json::object())};
        loom.links = {linked("box", "parts"), linked("parts", "a"), {"parts", "rest", "b", "", Json::object()}, {"parts", "crumbs", "c", "", Json::object()}};
        Memo memo;
        const RebuildResult result = run(loom, memo);
        const std::size_t all = result.geometry("box")->faceCount();
        QCOMPARE(result.geometry("a")->faceCount() + result.geometry("b")->faceCount(), all);
        QVERIFY(result.geometry("a")->faceCount() != result.geometry("b")->faceCount() || !(result.nodes.at("a").key == result.nodes.at("b").key));
        QVERIFY(result.nodes.at("a").key != result.nodes.at("b").key);
        QCOMPARE(codeAt(result, "c"), std::string("link.output"));
        // Skipped, all of it goes out of the first output.
        const RebuildResult skipped = run(after(loom, setSkipped(loom, {"parts"}, true)), memo);
        QCOMPARE(skipped.geometry("a")->faceCount(), all);
        QVERIFY(skipped.geometry("b")->empty());
        // Twice the same: from the memo, both outputs.
        const RebuildResult again = run(loom, memo);
        QVERIFY(again.nodes.at("b").remembered && again.geometry("b")->faceCount() == result.geometry("b")->faceCount());
    }

    void meshesAreImportedByANewLoom() {
        const Loom one = loomImporting({{"/some/old-quay_stone.obj"}});
        QCOMPARE(one.name, std::string("Old quay stone"));
        QCOMPARE(one.nodes.size(), std::size_t(2));
        QCOMPARE(one.nodes[0].settings.at("file"), Json("/some/old-quay_stone.obj"));
        QVERIFY(reaches(one, one.nodes[0].id, one.output));
        const Loom three = loomImporting({{"a.obj"}, {"b.stl"}, {"c.ply"}});
        QCOMPARE(three.nodes.size(), std::size_t(5));
        std::set<Cell> cells;
        for (const Node& n : three.nodes) {
            QVERIFY(cells.insert(n.cell).second);
            QVERIFY(reaches(three, n.id, three.output));
        }
        QCOMPARE(loomImporting({}).nodes.size(), std::size_t(1));
    }
};

QTEST_APPLESS_MAIN(TestGraph)
#include "test_graph.moc"
