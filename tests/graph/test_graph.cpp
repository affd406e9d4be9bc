// Documents, edits, controls, rebuilding and the memo.
#include "geometry/Digest.h"
#include "graph/Controls.h"
#include "graph/Edit.h"
#include "graph/Fixes.h"
#include "graph/History.h"
#include "graph/Origin.h"
#include "graph/Rebuild.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <mutex>
#include <set>
#include <thread>

#include <random>

using namespace seedloom;
using namespace seedloom::test;

namespace {

/// line → noise → revolve → out, with a control for the height.
Loom sample() {
    Loom loom;
    loom.name = "Post";
    loom.controls = {heightControl(0.2, 3.0)};
    loom.nodes = {node("pole", "point_list", {0, 0}, {{"points", {{0.3, 0, 0}, {0.2, 1, 0}}}}), node("even", "resample", {1, 0}, {{"count", 9}}),
                  node("body", "revolve", {2, 0}, {{"height_scale", {{"control", "height"}}}}), node("out", "output", {3, 0})};
    loom.links = {linked("pole", "even"), linked("even", "body"), linked("body", "out")};
    loom.output = "out";
    return loom;
}

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

/// Applies an edit, checks that it can be taken back, and gives the result.
Loom after(const Loom& loom, const Edit& edit) {
    const auto next = applied(loom, edit);
    if (!next) QTest::qFail(next.error().text.c_str(), __FILE__, __LINE__);
    const auto back = applied(*next, inverse(edit));
    if (!back || !(*back == loom)) QTest::qFail("the edit can't be taken back", __FILE__, __LINE__);
    return *next;
}

}  // namespace

class TestGraph : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void settingAndResetting() {
        const Loom loom = sample();
        const Loom changed = after(loom, setSetting(loom, "even", "count", 20));
        QCOMPARE(changed.node("even")->settings["count"], Json(20));
        QVERIFY(setSetting(changed, "even", "count", 20).empty());
        // The default is not written.
        const Loom reset = after(changed, setSetting(changed, "even", "count", 16));
        QVERIFY(!reset.node("even")->settings.contains("count"));
        QVERIFY(!after(changed, setSetting(changed, "even", "count", Json())).node("even")->settings.contains("count"));
        QCOMPARE(setSetting(loom, "even", "count", 20).label, std::string("Change Count of Resample"));
    }

    void controlValuesAreEdits() {
        const Loom loom = sample();
        const Loom tall = after(loom, setControlValue(loom, "height", 2.0));
        QCOMPARE(tall.values["height"], Json(2.0));
        QVERIFY(!after(tall, setControlValue(tall, "height", 1.0)).values.contains("height"));
        Preset preset{"Low", {{"height", 0.5}}, Json::object()};
        QCOMPARE(after(tall, applyPreset(tall, preset)).values["height"], Json(0.5));
    }

    void addedNodesPushTheirFollowersOn() {
        const Loom loom = sample();
        std::string id;
        const Loom more = after(loom, addNodeAfter(loom, "smooth_curve", "even", &id));
        QCOMPARE(more.node(id)->cell, (Cell{2, 0}));
        QCOMPARE(more.node("body")->cell, (Cell{3, 0}));
        QCOMPARE(more.node("out")->cell, (Cell{4, 0}));
        QVERIFY(std::count(more.links.begin(), more.links.end(), linked("even", id.c_str())) == 1);
        QVERIFY(std::count(more.links.begin(), more.links.end(), linked(id.c_str(), "body")) == 1);
        QVERIFY(std::count(more.links.begin(), more.links.end(), linked("even", "body")) == 0);
        // A second one of the kind gets an id of its own; a maker starts a strand of its own.
        std::string second, maker;
        const Loom again = after(more, addNodeAfter(more, "smooth_curve", "even", &second));
        QVERIFY(second != id);
        const Loom box = after(again, addNodeAfter(again, "box", "even", &maker));
        QCOMPARE(box.node(maker)->cell.row, 1);
        QCOMPARE(box.links.size(), again.links.size());
    }

    void removedNodesLetTheStrandCloseUp() {
        const Loom loom = sample();
        const Loom less = after(loom, removeNodes(loom, {"even"}));
        QVERIFY(!less.node("even"));
        QCOMPARE(less.node("body")->cell, (Cell{1, 0}));
        QVERIFY(std::count(less.links.begin(), less.links.end(), linked("pole", "body")) == 1);
        const Loom none = after(loom, removeNodes(loom, {"pole", "even", "body", "out"}));
        QVERIFY(none.nodes.empty() && none.links.empty() && none.output.empty());
    }

    void insertOnALinkAndBack() {
        const Loom loom = sample();
        std::string id;
        const Loom more = after(loom, insertOnLink(loom, "transform", loom.links[1], &id));
        QVERIFY(std::count(more.links.begin(), more.links.end(), linked("even", id.c_str())) == 1);
        QVERIFY(std::count(more.links.begin(), more.links.end(), linked(id.c_str(), "body")) == 1);
        const Loom back = after(more, removeNodes(more, {id}));
        QVERIFY(reaches(back, "pole", "out"));
        QCOMPARE(back.node("out")->cell, (Cell{3, 0}));
    }

    void linksReplaceAndNeverCloseARing() {
        Loom loom = sample();
        loom.nodes.push_back(node("ball", "sphere", {0, 1}));
        loom.nodes.push_back(node("all", "merge", {2, 1}));
        const Loom replaced = after(loom, addLink(loom, linked("ball", "out")));
        QCOMPARE(std::count_if(replaced.links.begin(), replaced.links.end(), [](const Link& l) { return l.to == "out"; }), std::ptrdiff_t(1));
        Loom merged = after(loom, addLink(loom, linked("ball", "all")));
        merged = after(merged, addLink(merged, linked("body", "all")));
        QCOMPARE(std::count_if(merged.links.begin(), merged.links.end(), [](const Link& l) { return l.to == "all"; }), std::ptrdiff_t(2));
        QVERIFY(addLink(loom, linked("body", "even")).empty());
        QVERIFY(addLink(loom, linked("body", "ball")).empty());
        QVERIFY(addLink(loom, linked("pole", "even")).empty());
        const Loom cut = after(loom, removeLink(loom, loom.links[0]));
        QVERIFY(!reaches(cut, "pole", "out"));
    }

    void movingPushesAndSkippingAndNaming() {
        const Loom loom = sample();
        const Loom moved = after(loom, moveNode(loom, "pole", {2, 0}));
        QCOMPARE(moved.node("body")->cell, (Cell{3, 0}));
        QVERIFY(moveNode(loom, "pole", {-1, 0}).empty());
        QVERIFY(after(loom, setSkipped(loom, {"even"}, true)).node("even")->skipped);
        const Loom named = after(loom, renameNode(loom, "even", "Even out"));
        QCOMPARE(displayName(*named.node("even")), std::string("Even out"));
        QCOMPARE(displayName(*after(named, renameNode(named, "even", "Resample")).node("even")), std::string("Resample"));
        QCOMPARE(after(loom, renameLoom(loom, "Quay post")).name, std::string("Quay post"));
    }

    void gesturesBecomeOneEdit() {
        const Loom loom = sample();
        Edit all = setControlValue(loom, "height", 1.1);
        Loom now = *applied(loom, all);
        for (double v : {1.2, 1.3, 1.4}) {
            const Edit step = setControlValue(now, "height", v);
            now = *applied(now, step);
            all = joined(all, step);
        }
        QCOMPARE(all.changes.size(), 1u);
        QCOMPARE(after(loom, all).values["height"], Json(1.4));
        QVERIFY(joined(all, inverse(all)).empty());
    }

    void staleEditsAreRefusedWhole() {
        const Loom loom = sample();
        Edit edit = setSetting(loom, "even", "count", 20);
        const Edit second = setSetting(loom, "body", "sides", 7);
        edit.changes.insert(edit.changes.begin(), second.changes.begin(), second.changes.end());
        const Loom other = after(loom, setSetting(loom, "even", "count", 30));
        const auto result = applied(other, edit);
        QVERIFY(!result);
        QCOMPARE(result.error().code, std::string("edit.conflict"));
    }

    /// Hundreds of random edits, all undone again, end at the document they began with.
    void randomEditsUndoToTheStart() {
        std::mt19937 random(99);
        const char* ops[] = {"transform", "noise_displace", "weld", "merge", "box", "flip", "output"};
        for (int round = 0; round < 3; ++round) {
            Loom now = sample();
            std::vector<Edit> done;
            for (int i = 0; i < 40; ++i) {
                const std::string some = now.nodes.empty() ? "" : now.nodes[random() % now.nodes.size()].id,
                                  other = now.nodes.empty() ? "" : now.nodes[random() % now.nodes.size()].id;
                Edit edit;
                switch (random() % 8) {
                    case 0: edit = addNodeAfter(now, ops[random() % 7], some, nullptr); break;
                    case 1: edit = removeNodes(now, {some, other}); break;
                    case 2: edit = addLink(now, {some, "", other, "", Json::object()}); break;
                    case 3: edit = moveNode(now, some, {int(random() % 6), int(random() % 3)}); break;
                    case 4: edit = setSkipped(now, {some}, random() % 2); break;
                    case 5: edit = now.links.empty() ? Edit{} : insertOnLink(now, ops[random() % 7], now.links[random() % now.links.size()], nullptr); break;
                    case 6: edit = setControlValue(now, "height", double(random() % 20) / 10 + 0.3); break;
                    default: edit = renameNode(now, some, std::to_string(random())); break;
                }
                now = after(now, edit);
                done.push_back(edit);
                QVERIFY(linkCycles(now).empty());
                std::set<Cell> cells;
                for (const Node& n : now.nodes) QVERIFY(cells.insert(n.cell).second);
            }
            for (auto it = done.rbegin(); it != done.rend(); ++it) now = *applied(now, inverse(*it));
            QVERIFY(now == sample());
        }
    }

    void controlsTakePresetsGivenValuesAndFormulas() {
        Loom loom = sample();
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
        const Loom loom = sample();
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
        Loom loom = sample();
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
        request.loom = std::make_shared<const Loom>(sample());
        request.controls = *controlValues(*request.loom);
        request.targets = {"even"};
        const RebuildResult result = rebuild(request, memo);
        QCOMPARE(result.nodes.size(), 2u);
        QVERIFY(!result.geometry("out"));
    }

    void timeMattersOnlyWhereItIsRead() {
        Loom loom = sample();
        loom.nodes[2].settings["height_scale"] = {{"formula", "1 + time"}};
        Memo memo;
        QCOMPARE(boundsOf(*run(loom, memo, 0, {}, 0).geometry("out")).max.y, 1.0f);
        const RebuildResult later = run(loom, memo, 0, {}, 24);
        QCOMPARE(boundsOf(*later.geometry("out")).max.y, 2.0f);
        QVERIFY(later.nodes.at("even").remembered);
        QVERIFY(run(loom, memo, 0, {}, 0).nodes.at("out").remembered);
    }

    void failuresPassTheInputOnAndAreTold() {
        Loom loom = sample();
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
        Loom loom = sample();
        loom.nodes[2].skipped = true;
        Memo memo;
        const RebuildResult result = run(loom, memo);
        QCOMPARE(result.nodes.at("body").state, NodeState::skipped);
        QCOMPARE(result.geometry("out")->faceCount(), 0u);
        QCOMPARE(result.geometry("out")->curveCount(), 1u);
    }

    void brokenLinksAndRingsAreNamed() {
        Loom loom = sample();
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
        Loom loom = sample();
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
        Loom loom = sample();
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
        Loom loom = sample();
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

    /// What a notice offers is one edit, whichever kind it is; what does not fit any more is none.
    void fixesAreEdits() {
        const Loom loom = sample();
        std::string made;
        const Loom set = after(loom, fixed(loom, {}, "even", setFix("Set count to 12", "count", 12), &made));
        QCOMPARE(set.node("even")->settings.at("count"), Json(12));
        const Loom added = after(loom, fixed(loom, {}, "even", addFix("Add Weld", "weld", {{"distance", 0.25}}), &made));
        QCOMPARE(added.node(made)->op, std::string("weld"));
        QCOMPARE(added.node(made)->settings.at("distance"), Json(0.25));
        QVERIFY(reaches(added, "even", made) && reaches(added, made, "body"));
        const Loom inserted = after(loom, fixed(loom, {}, "even", insertFix("Put Smooth before", "smooth_curve"), &made));
        QVERIFY(reaches(inserted, made, "even") && !reaches(inserted, "even", made));
        // Nothing comes behind an output.
        const Loom before = after(loom, fixed(loom, {}, "out", addFix("Add Weld", "weld"), &made));
        QVERIFY(reaches(before, made, "out"));
        Loom apart = loom;
        apart.links.clear();
        const Loom linkedNow = after(apart, fixed(apart, {}, "even", linkFix("Link", "pole"), &made));
        QVERIFY(reaches(linkedNow, "pole", "even"));
        QVERIFY(fixed(loom, {}, "gone", addFix("Add Weld", "weld"), &made).empty());
        QVERIFY(fixed(loom, {}, "even", addFix("Add nothing", "no_such"), &made).empty());
        QVERIFY(fixed(loom, {}, "even", showFix("Show", Element::face, {1, 2}), &made).empty());
        QVERIFY(fixed(loom, {}, "even", setFix("Set", "count", loom.node("even")->settings.at("count")), &made).empty());
    }

    void theHistoryForgetsWhatCantComeBack() {
        Loom loom = sample();
        History history(3);
        QVERIFY(history.clean() && !history.undoable() && !history.redoable());
        const auto change = [&](int value, int gesture = 0) {
            const Edit edit = setSetting(loom, "even", "count", value);
            loom = after(loom, edit);
            history.push(edit, gesture);
        };
        change(5);
        change(6);
        history.setClean();
        change(7);
        QVERIFY(!history.clean());
        history.stepBack();
        QVERIFY(history.clean());
        history.stepBack();
        QCOMPARE(history.redoable()->label, std::string("Change Count of Resample"));
        loom = after(sample(), setSetting(sample(), "even", "count", 5));
        change(8);
        // The state that was saved lies on a way that is gone.
        QVERIFY(!history.clean() && !history.redoable());
        QCOMPARE(history.count(), std::size_t(2));
        for (int i = 0; i < 5; ++i) change(20 + i);
        QCOMPARE(history.count(), std::size_t(3));
        // A gesture goes on only on top of what is newest, and never over the saved state.
        change(30, 4);
        change(31, 4);
        QCOMPARE(history.count(), std::size_t(3));
        history.setClean();
        change(32, 4);
        QVERIFY(!history.clean());
        history.stepBack();
        QVERIFY(history.clean());
    }

    void plansFollowTheSettingsThatTheyWereMadeFrom() {
        PlanCache cache;
        Node node = sample().nodes[1];
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
};

QTEST_APPLESS_MAIN(TestGraph)
#include "test_graph.moc"
