// A loom that is worked on: what was done can be undone, also where files change around it, and a killed program loses no finished edit.
#include "files/FileIo.h"
#include "formats/FilePaths.h"
#include "formats/LoomFile.h"
#include "formats/OpenLoom.h"
#include "support/RandomEdits.h"

#include <QtCore/QTemporaryDir>
#include <QtTest/QtTest>

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <sstream>

using namespace seedloom;
using namespace seedloom::test;

namespace {

std::string assetText(const std::string& name, double width) {
    return fmt::format(R"({{"seedloom": 1, "name": "{}", "version": "1", "controls": [{{"id": "wide", "type": "number", "default": {}}}], "nodes": [
        {{"id": "b", "op": "box", "settings": {{}}}}, {{"id": "o", "op": "output", "settings": {{}}}}], "links": [["b", "o"]], "output": "o"}})",
                       name, width);
}

Loom startLoom() {
    Loom loom;
    loom.name = "Quay";
    loom.controls = {heightControl(0.1, 9)};
    loom.nodes = {node("outline", "line", {0, 0}),
                  node("body", "revolve", {1, 0}, {{"sides", 8}}),
                  node("post", "asset", {0, 1}, {{"asset", "post.loom"}}),
                  node("slab", "import_mesh", {0, 2}, {{"file", "slab.obj"}}),
                  node("all", "merge", {2, 0}),
                  node("out", "output", {3, 0})};
    loom.links = {linked("outline", "body"), linked("body", "all"), linked("post", "all"), linked("slab", "all"), linked("all", "out")};
    loom.output = "out";
    return loom;
}

/// One change as a person makes it, now and then a step back; several may be one gesture.
void change(OpenLoom& open, std::mt19937& random, int& gesture) {
    if (random() % 4 == 0) gesture = random() % 2 ? int(random() % 1000) + 1 : 0;
    if (random() % 8 == 0 && open.history().undoable()) {
        QVERIFY(!open.undo());
        return;
    }
    const auto error = open.apply(someDeepEdit(open.loom(), random), gesture);
    QVERIFY2(!error, error ? error->text.c_str() : "");
}

}  // namespace

class TestOpened : public QObject {
    Q_OBJECT

private:
    std::unique_ptr<QTemporaryDir> folder_;

    std::filesystem::path at(const std::string& name) const { return folder_->filePath(QString::fromStdString(name)).toStdString(); }
    void write(const std::string& name, const std::string& text) const {
        std::filesystem::create_directories(at(name).parent_path());
        QVERIFY(!writeFileAtomically(at(name), text));
    }

private Q_SLOTS:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        write("a/post.loom", assetText("Post", 0.5));
        write("a/parts/cap.loom", assetText("Cap", 0.2));
        write("a/quay.loom", loomToText(startLoom()));
    }

    /// The asset's file changes, the node goes: taking that back gives the node again.
    void undoDoesNotMindWhatAssetFilesHold() {
        OpenLoom open;
        QVERIFY(!open.open(at("a/quay.loom")));
        const Loom before = open.loom();
        QVERIFY(!open.apply(setSetting(open.loom(), "post", "asset", "parts/cap.loom")));
        QTest::qSleep(20);
        write("a/parts/cap.loom", assetText("Knob", 0.7));
        QVERIFY(open.rereadAssets());
        QVERIFY(!open.rereadAssets());  // nothing has changed since
        QVERIFY(!open.apply(removeNodes(open.loom(), {"post"})));
        while (open.history().undoable()) QVERIFY(!open.undo());
        QCOMPARE(open.loom(), before);
        QCOMPARE(insideOf(*open.loom().node("post"), open.assets())->name, std::string("Post"));
        QVERIFY(!open.modified());
    }

    /// Undo all and redo all over random documents, files that change, saving elsewhere; what is saved and what is journalled is the document.
    void whatWasDoneCanBeUndone() {
        for (unsigned seed = 1; seed <= 12; ++seed) {
            std::mt19937 random(seed);
            OpenLoom open;
            open.keepJournal(at("w.journal"));
            QVERIFY(!open.open(at("a/quay.loom")));
            std::vector<Loom> states{open.loom()};
            for (int i = 0; i < 60; ++i) {
                if (random() % 15 == 0) {
                    QTest::qSleep(2);
                    write("a/post.loom", assetText("Post", double(random() % 100) / 50));
                    open.rereadAssets();
                }
                if (i == 30) {
                    const std::filesystem::path home = open.folder(), away = at("b/deep");
                    std::filesystem::create_directories(away);
                    const PathMove move(open.loom(), home, away);
                    QVERIFY(!open.save(away / "moved.loom", Json()));
                    for (Loom& state : states) state = move(state);
                    QCOMPARE(open.loom(), states.back());
                    QVERIFY(!open.modified());
                    if (const Node* post = open.loom().node("post"); post && post->settings.contains("asset"))
                        QVERIFY(insideOf(*post, open.assets()) || !std::filesystem::exists(open.folder() / post->settings.at("asset").get<std::string>()));
                }
                const std::size_t steps = open.history().index();
                const auto error = open.apply(someDeepEdit(open.loom(), random));
                QVERIFY2(!error, error ? error->text.c_str() : "");
                QCOMPARE(open.history().index(), steps + 1);
                states.push_back(open.loom());
            }
            for (std::size_t i = states.size() - 1; i-- > 0;) {
                QVERIFY2(!open.undo(), qPrintable(QString("seed %1, step %2").arg(seed).arg(i)));
                QCOMPARE(open.loom(), states[i]);
                // The file holds the document of step 30; only there nothing is unsaved.
                QCOMPARE(open.modified(), i != 30);
            }
            QVERIFY(!open.history().undoable());
            for (std::size_t i = 1; i < states.size(); ++i) {
                QVERIFY(!open.redo());
                QCOMPARE(open.loom(), states[i]);
            }
            // Journal and file give the same document.
            OpenLoom back;
            const auto content = readJournal(at("w.journal"));
            QVERIFY2(content && content->unfit == 0 && !content->torn, content ? (content->problem + content->rest).substr(0, 900).c_str() : "none");
            QVERIFY(!back.recover(*content, at("w.journal")));
            QCOMPARE(back.loom(), open.loom());
            QVERIFY(back.modified());
            QVERIFY(!open.save(at("b/deep/moved.loom"), Json()));
            QCOMPARE(withAssetsNoted(*readLoom(at("b/deep/moved.loom")), open.assets()), withAssetsNoted(open.loom(), open.assets()));
        }
    }

    void gesturesAreOneStepAlsoAfterACrash() {
        OpenLoom open;
        open.keepJournal(at("g.journal"));
        QVERIFY(!open.open(at("a/quay.loom")));
        const Loom before = open.loom();
        for (int i = 1; i <= 20; ++i) QVERIFY(!open.apply(setSetting(open.loom(), "body", "sides", 8 + i), 7));
        QVERIFY(!open.apply(setSkipped(open.loom(), {"slab"}, true)));
        QCOMPARE(open.history().count(), std::size_t(2));
        OpenLoom back;
        QVERIFY(!back.recover(*readJournal(at("g.journal")), at("g.journal")));
        QCOMPARE(back.loom(), open.loom());
        QCOMPARE(back.history().count(), std::size_t(2));
        QVERIFY(!back.undo());
        QVERIFY(!back.undo());
        QCOMPARE(back.loom(), before);
        // A gesture that comes back to where it began is no step.
        for (int i : {9, 12, 8}) QVERIFY(!open.apply(setSetting(open.loom(), "outline", "points", i == 8 ? Json() : Json(i)), 8));
        QCOMPARE(open.history().count(), std::size_t(2));
    }

    /// An edit that was made for something else ends the replay there; what follows is kept in a file.
    void editsThatDoNotFitStopTheReplay() {
        OpenLoom open;
        open.keepJournal(at("f.journal"));
        QVERIFY(!open.open(at("a/quay.loom")));
        QVERIFY(!open.apply(renameNode(open.loom(), "body", "Turned")));
        const Loom fitting = open.loom();
        QVERIFY(!open.apply(removeNodes(open.loom(), {"post"})));
        QVERIFY(!open.apply(removeNodes(open.loom(), {"slab"})));
        // The second edit is lost; the third would hit another node at the same place.
        std::vector<std::string> lines;
        std::istringstream text(*readFile(at("f.journal")));
        for (std::string line; std::getline(text, line);) lines.push_back(line);
        QCOMPARE(lines.size(), std::size_t(4));
        write("f.journal", lines[0] + "\n" + lines[1] + "\n" + lines[3] + "\n" + lines[3] + "\n");
        const auto content = readJournal(at("f.journal"));
        QVERIFY(content);
        QCOMPARE(content->edits.size(), std::size_t(1));
        QCOMPARE(content->unfit, std::size_t(2));
        QVERIFY(!content->problem.empty());
        OpenLoom back;
        const auto rest = back.recover(*content, at("f.journal"));
        QCOMPARE(back.loom(), fitting);
        QVERIFY(rest && readFile(*rest)->find(lines[3]) != std::string::npos);
        // Where it can't be written nothing is told to be there, and the journal is as it was, to be tried again.
        std::filesystem::remove(*rest);
        std::filesystem::create_directory(*rest);
        OpenLoom again;
        QVERIFY(!again.recover(*content, at("f.journal")));
        QCOMPARE(again.loom(), fitting);
        QCOMPARE(readJournal(at("f.journal"))->rest, content->rest);
    }

    void conflictsChangeNothingAndAreSaid() {
        OpenLoom open;
        QVERIFY(!open.open(at("a/quay.loom")));
        const Edit edit = renameNode(open.loom(), "body", "Turned");
        QVERIFY(!open.apply(edit));
        const Loom now = open.loom();
        const auto error = open.apply(edit);
        QVERIFY(error && error->code == "edit.conflict");
        QCOMPARE(open.loom(), now);
        QCOMPARE(open.history().count(), std::size_t(1));
    }

    /// Killed without warning at 200 moments: every finished edit is there, and nothing else has changed.
    void aKilledProgramLosesNoFinishedEdit() {
        for (unsigned round = 0; round < 200; ++round) {
            int told[2];
            QVERIFY(pipe(told) == 0);
            const auto journal = at("killed.journal");
            const auto quay = at("a/quay.loom");
            const pid_t child = fork();
            if (child == 0) {
                std::mt19937 random(round);
                OpenLoom open;
                int gesture = 0;
                open.keepJournal(journal);
                if (open.open(quay)) _exit(1);
                for (;;) {
                    change(open, random, gesture);
                    if (::write(told[1], "x", 1) != 1) _exit(1);
                }
            }
            close(told[1]);
            char mark;
            int finished = 0;
            // From the first edits on to some thousandths of a second later.
            if (::read(told[0], &mark, 1) == 1) ++finished;
            usleep((round * 7919) % 8000);
            kill(child, SIGKILL);
            int status = 0;
            waitpid(child, &status, 0);
            QVERIFY(WIFSIGNALED(status));
            while (::read(told[0], &mark, 1) == 1) ++finished;
            close(told[0]);
            OpenLoom back, expected;
            const auto content = readJournal(journal);
            QVERIFY(content && content->unfit == 0);
            QVERIFY(!back.recover(*content, journal));
            std::mt19937 random(round);
            int gesture = 0;
            QVERIFY(!expected.open(quay));
            for (int i = 0; i < finished; ++i) change(expected, random, gesture);
            if (!(back.loom() == expected.loom())) change(expected, random, gesture);  // written, and not yet told
            QVERIFY2(back.loom() == expected.loom(), qPrintable(QString("round %1, %2 edits").arg(round).arg(finished)));
        }
    }
};

QTEST_GUILESS_MAIN(TestOpened)
#include "test_opened.moc"
