// Editing as a whole: moves, notes, controls, copies, tidy, ten thousand random edits, and the journal that survives a kill.
#include "files/FileIo.h"
#include "formats/Journal.h"
#include "formats/LoomFile.h"
#include "graph/Controls.h"
#include "graph/Rebuild.h"
#include "graph/Tidy.h"
#include "support/Looms.h"
#include "support/RandomEdits.h"

#include <QtCore/QTemporaryDir>
#include <QtTest/QtTest>

#include <sys/wait.h>
#include <unistd.h>
#include <csignal>
#include <random>
#include <set>

using namespace seedloom;
using namespace seedloom::test;

namespace {

Loom after(const Loom& loom, const Edit& edit) {
    const auto result = applied(loom, edit);
    if (!result) qFatal("%s", result.error().text.c_str());
    return *result;
}

/// Two strands that meet: a post and a ring.
Loom example() {
    Loom loom;
    loom.name = "Post";
    loom.controls = {heightControl(0.3, 2.0)};
    loom.nodes = {node("pole", "line", {0, 0}), node("even", "resample", {1, 0}), node("body", "revolve", {2, 0}),
                  node("all", "merge", {3, 0}), node("out", "output", {4, 0}),    node("ball", "sphere", {2, 1})};
    loom.links = {linked("pole", "even"), linked("even", "body"), linked("body", "all"), linked("ball", "all"), linked("all", "out")};
    loom.output = "out";
    return loom;
}

std::set<Cell> cellsOf(const Loom& loom) {
    std::set<Cell> out;
    for (const Node& n : loom.nodes) out.insert(n.cell);
    return out;
}

}  // namespace

class TestEdits : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    std::filesystem::path file(const char* name) { return folder_.filePath(QLatin1String(name)).toStdString(); }

private Q_SLOTS:
    void severalNodesMoveTogetherAndPushWhatIsInTheWay() {
        const Loom loom = example();
        const Loom moved = after(loom, moveNodes(loom, {"ball"}, 0, -1));
        QCOMPARE(moved.node("ball")->cell, (Cell{2, 0}));
        QCOMPARE(moved.node("body")->cell, (Cell{3, 0}));
        QCOMPARE(moved.node("out")->cell, (Cell{5, 0}));
        const Loom both = after(loom, moveNodes(loom, {"pole", "even"}, 1, 1));
        QCOMPARE(both.node("pole")->cell, (Cell{1, 1}));
        QCOMPARE(both.node("even")->cell, (Cell{2, 1}));
        QCOMPARE(both.node("ball")->cell, (Cell{3, 1}));
        QVERIFY(moveNodes(loom, {"pole", "ball"}, -1, 0).empty());
        const Loom shifted = after(loom, moveNodes(loom, {"pole", "even", "body", "all", "out"}, 1, 0));
        QCOMPARE(shifted.node("pole")->cell, (Cell{1, 0}));
        QCOMPARE(shifted.node("out")->cell, (Cell{5, 0}));
        QVERIFY(moveNodes(loom, {"pole"}, 0, 0).empty());
    }

    /// What is told of the loom keeps its place in the file, whichever way it is changed, and goes through the journal.
    void factsKeepTheirOrder() {
        Loom loom = example();
        loom.name = "Post";
        loom.extra = {{"version", "1.0.0"}, {"author", "Gull Rock"}, {"licence", "CC0"}};
        Loom like = loom;
        like.name = "Quay post";
        like.extra = {{"author", "Harbour"}, {"licence", "CC0"}, {"summary", "A post."}};
        const Edit edit = setFacts(loom, like);
        const Loom changed = after(loom, edit);
        QCOMPARE(changed.name, std::string("Quay post"));
        QCOMPARE(changed.extra.dump(), like.extra.dump());
        const auto back = applied(changed, inverse(edit));
        QVERIFY(back && *back == loom);
        QCOMPARE(back->extra.dump(), loom.extra.dump());
        QVERIFY(setFacts(loom, loom).empty());
        // In the middle, at the front, and twice in a row as one change.
        Loom shorter = loom;
        shorter.extra.erase("author");
        const Edit less = setFacts(loom, shorter);
        QCOMPARE(applied(applied(loom, less).operator*(), inverse(less))->extra.dump(), loom.extra.dump());
        Loom again = like;
        again.extra["author"] = "Somebody";
        const Edit both = joined(setFacts(loom, like), setFacts(changed, again));
        QCOMPARE(applied(loom, both)->extra.dump(), again.extra.dump());
        const auto read = editFromJson(editToJson(edit, 0), loom);
        QVERIFY(read && read->changes == edit.changes);
        // An edit that was made for something else does not fit.
        Loom other = loom;
        other.extra["author"] = "Nobody";
        QVERIFY(!applied(other, edit));
    }

    void aNodeDroppedOnALinkIsWovenIn() {
        Loom loom = example();
        loom = after(loom, addNode(loom, "weld", {0, 3}, nullptr));
        const Loom woven = after(loom, weaveIn(loom, "weld", linked("even", "body")));
        QVERIFY(std::count(woven.links.begin(), woven.links.end(), linked("even", "weld")) == 1);
        QVERIFY(std::count(woven.links.begin(), woven.links.end(), linked("weld", "body")) == 1);
        QCOMPARE(woven.node("weld")->cell, (Cell{2, 0}));
        QCOMPARE(woven.node("body")->cell, (Cell{3, 0}));
        // From one strand to another: the old place closes up and what hung there keeps its feed.
        const Loom again = after(woven, weaveIn(woven, "weld", linked("pole", "even")));
        QVERIFY(std::count(again.links.begin(), again.links.end(), linked("even", "body")) == 1);
        QCOMPARE(again.node("weld")->cell, (Cell{1, 0}));
        QCOMPARE(again.node("body")->cell, (Cell{3, 0}));
        QVERIFY(weaveIn(loom, "ball", linked("even", "body")).empty());  // a sphere takes no input
        QVERIFY(weaveIn(loom, "body", linked("even", "body")).empty());
    }

    void notesAreAddedChangedAndRemoved() {
        const Loom loom = example();
        std::string id;
        const Loom noted = after(loom, addNote(loom, {1, 2}, "Keep the eye below the cap", &id));
        Note note = *noted.note(id);
        note.text = "or ropes slip off";
        note.columns = 3;
        const Loom changed = after(noted, changeNote(noted, note));
        QCOMPARE(changed.note(id)->text, std::string("or ropes slip off"));
        QCOMPARE(after(changed, removeNote(changed, id)).notes.size(), 0u);
        note.columns = 0;
        QVERIFY(changeNote(noted, note).empty());
        const auto read = loomFromText(loomToText(changed));
        QVERIFY(read && *read == changed);
    }

    void notesWithoutIdsGetSome() {
        const auto read = loomFromText(R"({"seedloom": 1, "notes": [{"text": "a"}, {"text": "b"}, {"id": "note_1", "text": "c"}]})");
        QVERIFY(read);
        std::set<std::string> ids;
        for (const Note& n : read->notes) QVERIFY(ids.insert(n.id).second && !n.id.empty());
    }

    void controlsAreMadeChangedMovedAndTakenAway() {
        Loom loom = example();
        Control control;
        control.id = "height";  // taken
        control.label = "Sides";
        control.fallback = 12;
        control.type = "integer";
        loom = after(loom, makeControl(loom, {}, "body", "sides", control));
        QCOMPARE(loom.controls.back().id, std::string("height_2"));
        QCOMPARE(loom.node("body")->settings["sides"], (Json{{"control", "height_2"}}));
        loom = after(loom, setControlValue(loom, "height_2", 30));
        Control narrowed = loom.controls.back();
        narrowed.min = 3;
        narrowed.max = 20;
        loom = after(loom, changeControl(loom, narrowed));
        QCOMPARE((*controlValues(loom))["height_2"], Json(20));
        const Loom moved = after(loom, moveControl(loom, "height_2", 0, "Body"));
        QCOMPARE(moved.controls.front().id, std::string("height_2"));
        QCOMPARE(moved.controls.front().section, std::string("Body"));
        Loom kept = after(loom, savePreset(loom, "Low"));
        QCOMPARE(kept.presets.front().values["height_2"], Json(20));
        kept = after(kept, removeControl(kept, "height_2"));
        QCOMPARE(kept.node("body")->settings["sides"], Json(20));
        QVERIFY(!kept.values.contains("height_2") && !kept.presets.front().values.contains("height_2"));
        QCOMPARE(after(kept, removePreset(kept, "Low")).presets.size(), 0u);
    }

    void copiesKeepLinksAndGetFreeIdsAndCells() {
        const Loom loom = example();
        const Loom fragment = fragmentOf(loom, {"even", "body"});
        QCOMPARE(fragment.links.size(), 1u);
        std::vector<std::string> ids;
        const Loom pasted = after(loom, pasteFragment(loom, fragment, {1, 0}, false, &ids));
        QCOMPARE(ids, (std::vector<std::string>{"even_2", "body_2"}));
        QVERIFY(std::count(pasted.links.begin(), pasted.links.end(), linked("even_2", "body_2")) == 1);
        QCOMPARE(cellsOf(pasted).size(), pasted.nodes.size());
        QVERIFY(!reaches(pasted, "pole", "even_2"));
        const Loom twin = after(loom, pasteFragment(loom, fragment, {1, 0}, true, nullptr));
        QVERIFY(reaches(twin, "pole", "body_2"));
        // As text, through the clipboard.
        const auto text = loomFromText(loomToText(fragment));
        QVERIFY(text && *text == fragment);
    }

    void oneSettingOfSeveralNodesIsOneEdit() {
        Loom loom = example();
        loom = after(loom, addNodeAfter(loom, "weld", "body", nullptr));
        loom = after(loom, addNodeAfter(loom, "weld", "weld", nullptr));
        const Edit edit = setSettings(loom, {"weld", "weld_2"}, "distance", 0.02);
        const Loom changed = after(loom, edit);
        QCOMPARE(changed.node("weld")->settings["distance"], Json(0.02));
        QCOMPARE(changed.node("weld_2")->settings["distance"], Json(0.02));
        QVERIFY(edit.label.find("2 nodes") != std::string::npos);
    }

    void compactedEditsHaveTheSameEffect() {
        std::mt19937 random(5);
        Loom now = example();
        for (int i = 0; i < 200; ++i) {
            Edit all;
            Loom end = now;
            for (int k = 0; k < 5; ++k) {
                const Edit step = someEdit(end, random);
                end = after(end, step);
                all.changes.insert(all.changes.end(), step.changes.begin(), step.changes.end());
            }
            const Edit less{"", compacted(all.changes)};
            QVERIFY(less.changes.size() <= all.changes.size());
            QVERIFY(after(now, less) == end);
            QVERIFY(after(end, inverse(less)) == now);
            now = end;
        }
    }

    /// A braid that a person would untangle: three strands in the wrong order.
    void tidyFindsTheLayoutWithoutCrossings() {
        Loom loom;
        loom.nodes = {node("a", "box", {0, 2}),        node("b", "box", {0, 1}),        node("c", "box", {0, 0}),     node("ta", "transform", {1, 0}),
                      node("tb", "transform", {1, 1}), node("tc", "transform", {1, 2}), node("all", "merge", {5, 1}), node("out", "output", {2, 2})};
        loom.links = {linked("a", "ta"),   linked("b", "tb"),   linked("c", "tc"),   linked("ta", "all"),
                      linked("tb", "all"), linked("tc", "all"), linked("all", "out")};
        const TidyCost before = tidyCost(loom);
        const Loom tidied = after(loom, tidy(loom));
        const TidyCost cost = tidyCost(tidied);
        QCOMPARE(cost.crossings, 0u);
        QCOMPARE(cost.overCards, 0u);
        QVERIFY(before.crossings + before.overCards > 0);
        for (const Link& l : tidied.links) QVERIFY(tidied.node(l.from)->cell.column < tidied.node(l.to)->cell.column);
        QCOMPARE(cellsOf(tidied).size(), tidied.nodes.size());
        QVERIFY(tidy(tidied).empty());
    }

    /// A thread behind half the weave to another row becomes two named ends; one along its own row stays, and so does what was cut by hand.
    void tidyCutsLongThreads() {
        Loom loom;
        for (int i = 0; i < 10; ++i) loom.nodes.push_back(node(fmt::format("n{}", i), i == 0 ? "box" : "transform", {i, 0}));
        loom.nodes.push_back(node("all", "merge", {10, 0}));
        loom.nodes.push_back(node("post", "box", {0, 1}));
        for (int i = 1; i < 10; ++i) loom.links.push_back(linked(fmt::format("n{}", i - 1), fmt::format("n{}", i)));
        loom.links.push_back(linked("n9", "all"));
        loom.links.push_back(linked("n0", "all"));
        loom.links[3].cut = true;
        const Loom tidied = *applied(loom, tidy(loom));
        for (std::size_t i = 0; i < tidied.links.size(); ++i) {
            const Cell from = tidied.node(tidied.links[i].from)->cell, to = tidied.node(tidied.links[i].to)->cell;
            QCOMPARE(tidied.links[i].cut, i == 3 || (to.column - from.column >= 7 && to.row != from.row));
        }
        QVERIFY(tidy(tidied).empty());
        // By hand, both ways.
        const Loom cut = *applied(loom, setCut(loom, loom.links.back(), true));
        QVERIFY(cut.links.back().cut);
        QVERIFY(*applied(cut, setCut(cut, cut.links.back(), false)) == loom);
        QVERIFY(setCut(loom, loom.links.front(), false).empty());
        QVERIFY(setCut(loom, linked("post", "all"), true).empty());
    }

    void tidyMovesLittleAfterASmallChange() {
        Loom loom = example();
        loom = after(loom, tidy(loom));
        std::string id;
        const Loom more = after(loom, addNodeAfter(loom, "weld", "ball", &id));
        const Loom tidied = after(more, tidy(more));
        for (const char* same : {"pole", "even", "body", "ball"}) QCOMPARE(tidied.node(same)->cell.row, loom.node(same)->cell.row);
        QCOMPARE(tidyCost(tidied).crossings, 0u);
    }

    void tidyTakesNotesAlongAndStandsRings() {
        Loom loom = example();
        for (Node& n : loom.nodes) n.cell.row += 3;
        loom = after(loom, addNote(loom, {2, 5}, "the ball", nullptr));
        const Loom tidied = after(loom, tidy(loom));
        QCOMPARE(tidied.notes[0].cell.row - tidied.node("ball")->cell.row, 1);
        Loom ring = example();
        ring.links.push_back(linked("out", "pole"));
        ring.links.push_back(linked("body", "body"));
        const Loom laid = after(ring, tidy(ring));
        QCOMPARE(cellsOf(laid).size(), laid.nodes.size());
        QVERIFY(tidy(Loom()).empty());
    }

    void tidyOfRandomGraphsNeverGetsWorseAndIsStable() {
        std::mt19937 random(17);
        for (int round = 0; round < 30; ++round) {
            Loom loom;
            const int count = 5 + int(random() % 30);
            for (int i = 0; i < count; ++i) loom.nodes.push_back(node("n" + std::to_string(i), "merge", {int(i), 0}));
            for (int i = 1; i < count; ++i)
                for (unsigned k = 0; k < 1 + random() % 2; ++k)
                    loom.links.push_back(linked("n" + std::to_string(random() % unsigned(i)), "n" + std::to_string(i)));
            const Loom once = after(loom, tidy(loom)), twice = after(once, tidy(once));
            QCOMPARE(cellsOf(once).size(), once.nodes.size());
            for (const Link& l : once.links) QVERIFY(once.node(l.from)->cell.column < once.node(l.to)->cell.column);
            const auto weight = [](const Loom& l) {
                const TidyCost c = tidyCost(l);
                return c.overCards * 12 + c.crossings * 4 + c.climbed;
            };
            QVERIFY(weight(once) <= weight(loom));
            QVERIFY(weight(twice) <= weight(once));
        }
    }

    /// Ten thousand edits: undone, done again, saved, read again: equal each time.
    void tenThousandRandomEdits() {
        std::mt19937 random(2026);
        Loom now = example();
        std::vector<Edit> done;
        for (int i = 0; i < 10000; ++i) {
            done.push_back(someEdit(now, random));
            now = after(now, done.back());
            if (i % 100 == 0) {
                QCOMPARE(cellsOf(now).size(), now.nodes.size());
                QVERIFY(linkCycles(now).empty());
            }
        }
        const Loom end = now;
        for (auto it = done.rbegin(); it != done.rend(); ++it)
            for (const Change& change : inverse(*it).changes) QVERIFY(applyChange(now, change));
        QVERIFY(now == example());
        for (const Edit& edit : done)
            for (const Change& change : edit.changes) QVERIFY(applyChange(now, change));
        QVERIFY(now == end);
        QVERIFY(!writeLoom(now, file("edited.loom")));
        const auto read = readLoom(file("edited.loom"));
        QVERIFY(read && *read == end);
    }

    void editsSurviveAsText() {
        std::mt19937 random(11);
        Loom now = example();
        for (int i = 0; i < 300; ++i) {
            const Edit edit = someEdit(now, random);
            const auto read = editFromJson(Json::parse(editToJson(edit).dump()), now);
            QVERIFY(read);
            QVERIFY(read->changes == edit.changes);
            QCOMPARE(read->label, edit.label);
            now = after(now, edit);
        }
        const Edit gone = removeNodes(now, {now.nodes.back().id});
        QCOMPARE(editFromJson(editToJson(gone), Loom()).error().code, std::string("journal.edit"));
        QCOMPARE(editFromJson(Json{{"label", 3}}, now).error().code, std::string("journal.edit"));
    }

    /// Cut off at every byte: what is read is always what the finished edits before it gave.
    void aJournalCutAnywhereGivesTheLastWholeEdit() {
        std::mt19937 random(3);
        const Loom base = example();
        auto writer = JournalWriter::start(file("cut.journal"), "/looms/post.loom", base);
        QVERIFY(writer);
        std::vector<Loom> states{base};
        std::vector<std::size_t> ends{std::size_t(writer->bytes())};
        for (int i = 0; i < 25; ++i) {
            const Edit edit = someEdit(states.back(), random);
            QVERIFY(!writer->append(edit));
            states.push_back(after(states.back(), edit));
            ends.push_back(std::size_t(writer->bytes()));
        }
        const std::string bytes = *readFile(file("cut.journal"));
        QCOMPARE(bytes.size(), ends.back());
        for (std::size_t cut = 0; cut <= bytes.size(); cut += 1 + random() % 7) {
            QVERIFY(!writeFileAtomically(file("part.journal"), std::string_view(bytes).substr(0, cut)));
            const auto content = readJournal(file("part.journal"));
            const auto whole = std::size_t(std::upper_bound(ends.begin(), ends.end(), cut) - ends.begin());
            if (whole == 0) {
                QCOMPARE(content.error().code, std::string("journal.broken"));
                continue;
            }
            QVERIFY(content);
            QCOMPARE(content->edits.size(), whole - 1);
            Loom now = content->base;
            for (const Edit& edit : content->edits) now = after(now, edit);
            QVERIFY(now == states[whole - 1]);
            QCOMPARE(content->torn, cut != ends[whole - 1]);
        }
        // A flipped bit is found by its sum, and nothing after it is believed.
        std::string flipped = bytes;
        flipped[ends[10] + 30] ^= 4;
        QVERIFY(!writeFileAtomically(file("part.journal"), flipped));
        QCOMPARE(readJournal(file("part.journal"))->edits.size(), 10u);
        QCOMPARE(QString::fromStdString(readJournal(file("part.journal"))->file.string()), QString("/looms/post.loom"));
    }

    /// A real process, killed without warning while it edits as fast as it can.
    void aKilledProcessLosesNoFinishedEdit() {
        for (int round = 0; round < 5; ++round) {
            int counted[2];
            QVERIFY(pipe(counted) == 0);
            const auto journal = file("killed.journal");
            const pid_t child = fork();
            if (child == 0) {
                std::mt19937 random{unsigned(round)};
                Loom now = example();
                auto writer = JournalWriter::start(journal, "", now);
                for (;;) {
                    const Edit edit = someEdit(now, random);
                    if (!writer || writer->append(edit)) _exit(1);
                    now = *applied(now, edit);
                    if (write(counted[1], "x", 1) != 1) _exit(1);
                }
            }
            close(counted[1]);
            const int wanted = 20 + round * 37;
            char mark;
            int finished = 0;
            while (finished < wanted && read(counted[0], &mark, 1) == 1) ++finished;
            kill(child, SIGKILL);
            int status = 0;
            waitpid(child, &status, 0);
            QVERIFY(WIFSIGNALED(status));
            while (read(counted[0], &mark, 1) == 1) ++finished;
            close(counted[0]);
            const auto content = readJournal(journal);
            QVERIFY(content);
            QVERIFY(int(content->edits.size()) >= finished);
            std::mt19937 random{unsigned(round)};
            Loom expected = example(), now = content->base;
            for (const Edit& edit : content->edits) {
                expected = after(expected, someEdit(expected, random));
                now = after(now, edit);
            }
            QVERIFY(now == expected);
        }
    }

    void aJournalThatCannotBeWrittenSaysSo() {
        const auto nowhere = JournalWriter::start("/nowhere/at/all.journal", "", example());
        QVERIFY(!nowhere);
        QCOMPARE(nowhere.error().code, std::string("file.write"));
        JournalWriter closed;
        QVERIFY(closed.append(setTint(example(), {"body"}, 2)));
        QCOMPARE(readJournal("/nowhere/at/all.journal").error().code, std::string("file.read"));
    }
};

QTEST_GUILESS_MAIN(TestEdits)
#include "test_edits.moc"
