// Edits of a graph as values: what they do, that they can be taken back, and the history of them.
#include "formats/LoomFile.h"
#include "graph/Edit.h"
#include "graph/Fixes.h"
#include "graph/History.h"
#include "graph/Rebuild.h"
#include "support/Edited.h"
#include "support/Looms.h"
#include "support/Run.h"

#include <random>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

class TestEditing : public QObject {
    Q_OBJECT

private Q_SLOTS:
    void settingAndResetting() {
        const Loom loom = turnedPost();
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
        const Loom loom = turnedPost();
        const Loom tall = after(loom, setControlValue(loom, "height", 2.0));
        QCOMPARE(tall.values.at("height"), Json(2.0));
        QVERIFY(!after(tall, setControlValue(tall, "height", 1.0)).values.contains("height"));
        Preset preset{"Low", {{"height", 0.5}}, Json::object()};
        QCOMPARE(after(tall, applyPreset(tall, preset)).values.at("height"), Json(0.5));
    }

    /// A document is the same however its values came to be in it.
    void valuesInUseHaveNoOrder() {
        Loom loom = turnedPost();
        Control width = loom.controls.front();
        width.id = "width";
        loom.controls.push_back(width);
        loom.values = {{"height", 2.0}, {"width", 3.0}};
        const Edit reset = setControlValue(loom, "height", 1.0);
        QVERIFY(after(after(loom, reset), inverse(reset)) == loom);
        Loom other = loom;
        other.values.clear();
        for (const char* id : {"width", "height"}) other = after(other, setControlValue(other, id, loom.values[id]));
        QCOMPARE(loomToText(other), loomToText(loom));
    }

    void addedNodesPushTheirFollowersOn() {
        const Loom loom = turnedPost();
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
        // Before what waits for its input goes what that could work on; anything else begins a strand of its own.
        std::string turned, profile, solid, file;
        const Loom waiting = after(loom, addNode(loom, "revolve", {0, 6}, &turned));
        const Loom fed = after(waiting, addNodeAfter(waiting, "polygon", turned, &profile));
        QVERIFY(reaches(fed, profile, turned));
        const Loom beside = after(waiting, addNodeAfter(waiting, "box", turned, &solid));
        QVERIFY(!reaches(beside, solid, turned) && !reaches(beside, turned, solid));
        const Loom scanned = after(waiting, addNodeAfter(waiting, "import_mesh", turned, &file));
        QVERIFY(reaches(scanned, file, turned));  // who knows what is in it
        QVERIFY(!reaches(after(fed, addNodeAfter(fed, "line", turned, nullptr)), "line", turned));
        QCOMPARE(box.node(maker)->cell.row, 1);
        QCOMPARE(box.links.size(), again.links.size());
    }

    void removedNodesLetTheStrandCloseUp() {
        const Loom loom = turnedPost();
        const Loom less = after(loom, removeNodes(loom, {"even"}));
        QVERIFY(!less.node("even"));
        QCOMPARE(less.node("body")->cell, (Cell{1, 0}));
        QVERIFY(std::count(less.links.begin(), less.links.end(), linked("pole", "body")) == 1);
        const Loom none = after(loom, removeNodes(loom, {"pole", "even", "body", "out"}));
        QVERIFY(none.nodes.empty() && none.links.empty() && none.output.empty());
    }

    void insertOnALinkAndBack() {
        const Loom loom = turnedPost();
        std::string id;
        const Loom more = after(loom, insertOnLink(loom, "transform", loom.links[1], &id));
        QVERIFY(std::count(more.links.begin(), more.links.end(), linked("even", id.c_str())) == 1);
        QVERIFY(std::count(more.links.begin(), more.links.end(), linked(id.c_str(), "body")) == 1);
        const Loom back = after(more, removeNodes(more, {id}));
        QVERIFY(reaches(back, "pole", "out"));
        QCOMPARE(back.node("out")->cell, (Cell{3, 0}));
    }

    void linksReplaceAndNeverCloseARing() {
        Loom loom = turnedPost();
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
        const Loom loom = turnedPost();
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
        const Loom loom = turnedPost();
        Edit all = setControlValue(loom, "height", 1.1);
        Loom now = *applied(loom, all);
        for (double v : {1.2, 1.3, 1.4}) {
            const Edit step = setControlValue(now, "height", v);
            now = *applied(now, step);
            all = joined(all, step);
        }
        QCOMPARE(all.changes.size(), 1u);
        QCOMPARE(after(loom, all).values.at("height"), Json(1.4));
        QVERIFY(joined(all, inverse(all)).empty());
    }

    void staleEditsAreRefusedWhole() {
        const Loom loom = turnedPost();
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
            Loom now = turnedPost();
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
            QVERIFY(now == turnedPost());
        }
    }

    /// What a notice offers is one edit, whichever kind it is; what does not fit any more is none.
    void fixesAreEdits() {
        const Loom loom = turnedPost();
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
        // A link may call the first port by its name.
        Loom named;
        const auto node = [&](const char* id, const char* op, Cell cell) {
            Node made;
            made.id = id, made.op = op, made.cell = cell;
            named.nodes.push_back(made);
        };
        node("sheet", "grid", {0, 0}), node("line", "line", {0, 1}), node("cut", "cut_along_curves", {1, 0});
        named.links = {{"sheet", "", "cut", "solid", Json::object()}, {"line", "", "cut", "curves", Json::object()}};
        const Loom mended = after(named, fixed(named, {}, "cut", insertFix("Give it a wall before it", "thicken"), &made));
        QVERIFY(reaches(mended, "sheet", made) && reaches(mended, made, "cut") && !reaches(mended, "line", made));
        NoticeFix show = showFix("Show the lines", Element::curve, {0});
        QCOMPARE(nodeShownBy(named, "cut", show), std::string("cut"));
        show.port = "curves";
        QCOMPARE(nodeShownBy(named, "cut", show), std::string("line"));
        QVERIFY(fixed(loom, {}, "gone", addFix("Add Weld", "weld"), &made).empty());
        QVERIFY(fixed(loom, {}, "even", addFix("Add nothing", "no_such"), &made).empty());
        QVERIFY(fixed(loom, {}, "even", showFix("Show", Element::face, {1, 2}), &made).empty());
        QVERIFY(fixed(loom, {}, "even", setFix("Set", "count", loom.node("even")->settings.at("count")), &made).empty());
    }

    /// A new node feeds the output where nothing does yet, and the output stands behind all else.
    void theStrandThatIsBuiltFeedsTheOutput() {
        Loom loom;
        Node out;
        out.id = out.op = loom.output = "output";
        out.cell = {1, 0};
        loom.nodes = {out};
        std::string box, bend, ball, move;
        loom = after(loom, addNodeAfter(loom, "box", "output", &box));
        QCOMPARE(loom.node(box)->cell, (Cell{0, 0}));
        QVERIFY(reaches(loom, box, "output"));
        loom = after(loom, addNodeAfter(loom, "bend", box, &bend));
        QVERIFY(reaches(loom, box, bend) && reaches(loom, bend, "output"));
        QCOMPARE(loom.links.size(), std::size_t(2));
        QCOMPARE(loom.node("output")->cell, (Cell{2, 0}));
        // Somebody has decided: a second strand changes nothing of that, but the output stays last.
        loom = after(loom, addNode(loom, "sphere", {0, 1}, &ball));
        QVERIFY(!reaches(loom, ball, "output"));
        for (int i = 0; i < 3; ++i) loom = after(loom, addNodeAfter(loom, "transform", i ? move : ball, &move));
        QVERIFY(!reaches(loom, move, "output"));
        for (const Node& n : loom.nodes)
            if (n.id != "output") QVERIFY(n.cell.column < loom.node("output")->cell.column);
        // Unlinked by hand, the next node feeds it again; at an output, what comes goes before it.
        loom = after(loom, removeLink(loom, *std::find_if(loom.links.begin(), loom.links.end(), [](const Link& l) { return l.to == "output"; })));
        std::string more;
        loom = after(loom, addNodeAfter(loom, "twist", bend, &more));
        QVERIFY(reaches(loom, bend, "output") && reaches(loom, more, "output"));
        std::string last;
        loom = after(loom, addNodeAfter(loom, "smooth", "output", &last));
        QVERIFY(reaches(loom, more, last) && reaches(loom, last, "output"));
        std::string apart;
        loom = after(loom, addNodeAfter(loom, "box", "output", &apart));
        QVERIFY(!reaches(loom, apart, "output"));
        // A graph without an output takes the first that comes.
        Loom bare;
        std::string first, end;
        bare = after(bare, addNode(bare, "box", {0, 0}, &first));
        bare = after(bare, addNodeAfter(bare, "output", first, &end));
        QCOMPARE(bare.output, end);
        QVERIFY(reaches(bare, first, end));
    }

    /// A weave reads from left to right: what is linked to something further right moves behind it, and so does what hangs on that.
    void whatIsLinkedStandsBehindItsSource() {
        Loom loom;
        const auto node = [&](const char* id, const char* op, Cell cell) {
            Node made;
            made.id = id, made.op = op, made.cell = cell;
            loom.nodes.push_back(made);
        };
        node("late", "box", {4, 1}), node("early", "bend", {0, 0}), node("next", "twist", {1, 0}), node("beside", "smooth", {5, 0}),
            node("out", "output", {2, 0});
        loom.links = {{"early", "", "next", "", Json::object()}, {"next", "", "out", "", Json::object()}};
        const Loom linked = after(loom, addLink(loom, {"late", "", "early", "", Json::object()}));
        const auto column = [&](const char* id) { return linked.node(id)->cell.column; };
        QVERIFY(column("early") > column("late") && column("next") > column("early") && column("out") > column("next"));
        QCOMPARE(linked.node("early")->cell.row, 0);
        std::set<Cell> cells;
        for (const Node& n : linked.nodes) QVERIFY(cells.insert(n.cell).second);
        // Where all is well, nothing moves.
        Loom fine = linked;
        const Loom again = after(fine, addLink(fine, {"late", "", "beside", "", Json::object()}));
        QVERIFY(again.nodes == fine.nodes);
        QCOMPARE(again.links.size(), fine.links.size() + 1);
        QVERIFY(*applied(linked, inverse(addLink(loom, {"late", "", "early", "", Json::object()}))) == loom);
    }

    /// Where lines are missing to break something along, they are drawn on it.
    void linesAreDrawnOnWhatBreaks() {
        Loom loom;
        Node box, cut;
        box.id = box.op = "box";
        cut.id = cut.op = "cut_along_curves", cut.cell = {1, 0};
        loom.nodes = {box, cut};
        loom.links = {{"box", "", "cut_along_curves", "", Json::object()}};
        const auto told = runPorts("cut_along_curves", {{made("box")}, {}});
        QCOMPARE(lastCode(told), std::string("input.missing"));
        std::string drawn;
        const Loom with = after(loom, fixed(loom, {}, "cut_along_curves", told.notices.back().fixes.front(), &drawn));
        QCOMPARE(with.node(drawn)->op, std::string("drawn_curve"));
        QVERIFY(reaches(with, "box", drawn) && reaches(with, drawn, "cut_along_curves"));
        QVERIFY(std::any_of(with.links.begin(), with.links.end(), [](const Link& l) { return l.in == "curves"; }));
    }

    /// What errors offer, taken as it stands, makes them go away.
    void errorsOfferTheirOwnCure_data() {
        QTest::addColumn<QString>("feed");
        QTest::addColumn<QString>("op");
        QTest::addColumn<QString>("settings");
        const char* rows[][3] = {{"", "thicken", "{}"},
                                 {"", "resample", "{}"},
                                 {"polygon", "thicken", "{}"},
                                 {"line", "thicken", "{}"},
                                 {"box", "resample", R"({"count": 30})"},
                                 {"box", "place_copies", "{}"},
                                 {"line", "beads", "{}"},
                                 {"box", "bend", R"({"angle": {"attribute": "postion"}})"},
                                 {"box", "bevel", R"({"width": -3})"},
                                 {"box", "plane_cut", R"({"normal": [0, 0, 0]})"},
                                 {"box", "sweep", "{}"},
                                 {"", "grid", R"({"cells": [1e6, 1e6]})"},
                                 {"line", "resample", R"({"mode": "spacing", "spacing": 1e-9})"},
                                 {"box", "extrude", R"({"of": "curves"})"},
                                 {"box", "extrude", R"({"of": "sideways"})"}};
        for (const auto& row : rows) QTest::newRow((std::string(row[0]) + ">" + row[1] + row[2]).c_str()) << row[0] << row[1] << row[2];
    }
    void errorsOfferTheirOwnCure() {
        QFETCH(QString, feed);
        QFETCH(QString, op);
        QFETCH(QString, settings);
        Loom loom;
        Node it;
        it.id = "it", it.op = op.toStdString(), it.cell = {1, 0};
        it.settings = Json::parse(settings.toStdString());
        loom.nodes = {it};
        if (!feed.isEmpty()) {
            Node before;
            before.id = "feed", before.op = feed.toStdString(), before.cell = {0, 0};
            loom.nodes.push_back(before);
            loom.links = {{"feed", "", "it", "", Json::object()}};
        }
        const auto errors = [](const Loom& of) {
            RebuildRequest request;
            request.loom = std::make_shared<const Loom>(of);
            Memo memo;
            std::vector<Notice> out;
            for (const Notice& n : rebuild(request, memo).notices(of))
                if (n.level == NoticeLevel::error) out.push_back(n);
            return out;
        };
        const auto told = errors(loom);
        QVERIFY(!told.empty());
        QVERIFY(!told.front().fixes.empty());
        std::string made;
        const Edit edit = fixed(loom, {}, "it", told.front().fixes.front(), &made);
        QVERIFY(!edit.empty());
        for (const Notice& left : errors(after(loom, edit))) QVERIFY2(left.code != told.front().code, qPrintable(QString::fromStdString(left.text)));
    }

    /// What somebody wrote is not offered to be thrown away for a slip.
    void whatHasASlipIsLedTo() {
        for (const auto& [op, settings] : {std::pair("formula", Json{{"text", "height = zzzzzz;"}}), std::pair("bend", Json{{"angle", {{"formula", "90 +"}}}}),
                                           std::pair("drawn_curve", Json{{"strokes", {{{0, 0, 0}, {1, 0}}}}})}) {
            const OperatorOutcome out = runOp(op, settings, {made("box")});
            QVERIFY(out.failed);
            QCOMPARE(out.notices.back().fixes.size(), std::size_t(1));
            QCOMPARE(out.notices.back().fixes[0].kind, NoticeFix::Kind::ask);
            QVERIFY(settings.contains(out.notices.back().fixes[0].setting));
        }
    }

    void theHistoryForgetsWhatCantComeBack() {
        Loom loom = turnedPost();
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
        loom = after(turnedPost(), setSetting(turnedPost(), "even", "count", 5));
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
};

QTEST_APPLESS_MAIN(TestEditing)
#include "test_editing.moc"
