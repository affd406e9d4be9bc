// Commands, keys, and work that takes long; in a real window.
#include "WindowTest.h"
#include "app/data/DataDrawer.h"
#include "app/session/Log.h"
#include "app/session/RecentFiles.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/HelpBook.h"
#include "app/shell/HelpWindow.h"
#include "app/shell/Rail.h"
#include "app/shell/ReportDialog.h"
#include "app/shell/SettingsDialog.h"
#include "app/shell/TopLine.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/QuickAdd.h"
#include "app/widgets/Finder.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "files/FileIo.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "operators/Catalogue.h"

#include <QtCore/QMimeData>
#include <QtCore/QProcess>
#include <QtCore/QRegularExpression>
#include <QtCore/QTranslator>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QKeySequenceEdit>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QMenu>
#include <QtWidgets/QMenuBar>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTableWidget>
#include <QtWidgets/QTextBrowser>
#include <QtWidgets/QToolButton>

#include <sys/resource.h>
#include <csignal>
#include <cstdio>

using namespace seedloom;
using namespace seedloom::app;

class TestShell : public WindowTest {
    Q_OBJECT

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    // Commands

    void everyCommandIsFoundAndRun() {
        QTest::keyClick(window_.get(), Qt::Key_K, Qt::ControlModifier);
        Finder* search = window_->commandSearch();
        QVERIFY(search->isVisible());
        QTest::keyClicks(search->field(), "perspective");
        QTest::keyClick(search->field(), Qt::Key_Return);
        QVERIFY(window_->stage()->camera().flat);
        QVERIFY(!search->isVisible());
        // All that menus hold, and nothing under a name of its own twice.
        QStringList ids;
        std::function<void(QMenu*)> walk = [&](QMenu* menu) {
            for (QAction* one : menu->actions()) {
                if (one->isSeparator()) continue;
                if (one->menu()) {
                    walk(one->menu());
                    continue;
                }
                QVERIFY2(window_->allActions().contains(one), qPrintable(one->text()));
                ids << one->objectName();
            }
        };
        for (QAction* menu : window_->menuBar()->actions()) walk(menu->menu());
        ids.removeAll(QString());
        QCOMPARE(QSet<QString>(ids.begin(), ids.end()).size(), ids.size());
        QVERIFY(ids.size() > 50);
    }

    /// Only workplaces that are there are shown; the rail reads the table of them.
    void theRailShowsTheWorkplacesThatThereAre() {
        QStringList words;
        for (QToolButton* button : window_->findChild<Rail*>()->findChildren<QToolButton*>()) {
            words << button->text();
            QVERIFY(button->isEnabled());
        }
        QCOMPARE(words, (QStringList{"Build", "Vary", "Library", "Help", "Settings"}));
        window_->showWorkplace("nowhere");
        QVERIFY(weave()->isVisible());
    }

    /// What a report holds can be read before it is saved; the document is in it only where that is asked for.
    /// The guide is in the application: F1 leads to what the keyboard is at, and every word of it can be found.
    void helpLeadsToWhatOneIsAt() {
        const HelpBook& book = HelpBook::common();
        for (const OperatorSpec& spec : catalogue()) {
            const HelpPage* page = book.page(QStringLiteral("operator:") + QString::fromStdString(spec.id));
            QVERIFY2(page && page->title == QString::fromStdString(spec.label), spec.id.c_str());
            for (const SettingSpec& s : spec.settings) QVERIFY2(page->text.contains(QString::fromStdString(s.label)), s.id.c_str());
        }
        for (const HelpPage& page : book.pages()) QVERIFY2(!page.title.isEmpty() && page.text.size() > 80, qPrintable(page.id));
        // Every chapter that there is.
        const QStringList chapters = QDir(QStringLiteral(SEEDLOOM_SOURCE "/docs/guide")).entryList({QStringLiteral("*.md")});
        QVERIFY(chapters.size() > 10);
        for (const QString& chapter : chapters) QVERIFY2(!book.target(chapter).isEmpty(), qPrintable(chapter));
        // Links within the guide lead to pages that are there.
        static const QRegularExpression links(QStringLiteral("\\]\\(([^):]+\\.md)[^)]*\\)"));
        for (const HelpPage& page : book.pages())
            for (auto found = links.globalMatch(page.text); found.hasNext();) {
                const QString link = found.next().captured(1);
                QVERIFY2(!book.target(link).isEmpty(), qPrintable(page.id + QStringLiteral(" > ") + link));
            }
        QVERIFY(book.target(QStringLiteral("https://example.org/x.html")).isEmpty());
        weave()->choose("body");
        weave()->setFocus();
        run("help");
        HelpWindow* help = window_->help();
        QVERIFY(help && help->isVisible());
        QCOMPARE(help->shownPage(), QStringLiteral("operator:revolve"));
        QVERIFY(help->text()->toPlainText().contains(QStringLiteral("Sides")));
        // Found by words, titles first; a click on one leads there.
        QTest::keyClicks(help->search(), "repeat");
        QVERIFY(help->list()->count() > 1);
        QCOMPARE(help->list()->item(0)->text(), QStringLiteral("Repeat"));
        help->list()->setCurrentRow(0);
        QCOMPARE(help->shownPage(), QStringLiteral("operator:repeat"));
        help->search()->setText(QStringLiteral("zzqx"));
        QCOMPARE(help->list()->count(), 1);
        QCOMPARE(help->shownPage(), QStringLiteral("operator:repeat"));
        help->search()->clear();
        QCOMPARE(help->list()->count(), int(book.pages().size()));
        // At a setting: its page, where it is told of.
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        window_->settings()->focusFirst();
        run("help");
        QCOMPARE(help->shownPage(), QStringLiteral("operator:revolve"));
        QVERIFY(help->text()->textCursor().hasSelection());
        window_->stage()->setFocus();
        run("help");
        QCOMPARE(help->shownPage(), QStringLiteral("stage"));
        help->close();
        QTRY_VERIFY(!window_->help());
    }

    void aReportHoldsTheDocumentOnlyWhereAsked() {
        Log::common().open(folder_.path());
        Log::common().say("a line\nin two");
        run("report");
        auto* report = window_->findChild<ReportDialog*>();
        QVERIFY(report);
        QVERIFY(report->text().contains("Seed Loom 0.") && report->text().contains("Nodes:") && report->text().contains("a line in two"));
        QVERIFY(!report->text().contains("\"outline\""));
        report->withDocument()->setChecked(true);
        QVERIFY(report->text().contains("\"outline\""));
        QVERIFY(report->saveTo(folder_.filePath("report.txt")));
        QFile file(folder_.filePath("report.txt"));
        QVERIFY(file.open(QIODevice::ReadOnly));
        QCOMPARE(QString::fromUtf8(file.readAll()), report->text());
        QVERIFY(!report->saveTo("/nowhere/at/all.txt"));
        // Where a person's files lie is not told.
        const ReportDialog other(QStringLiteral("File: %1/quay.loom").arg(QDir::homePath()), {}, {}, nullptr);
        QVERIFY(other.text().contains("File: ~/quay.loom") && !other.text().contains(QDir::homePath() + "/"));
        report->close();
    }

    void theLogBeginsAnewWhenItIsLong() {
        Log log;
        log.say("before it is open");
        log.open(folder_.filePath("state"));
        // In several batches, however they come: the file is looked at before each is written.
        for (int batch = 0; batch < 7; ++batch) {
            for (int i = 0; i < 100; ++i) log.say(QString(1900, QLatin1Char('x')));
            QVERIFY(log.newest(1000).size() <= 1000);
        }
        QTRY_VERIFY(QFile::exists(log.file() + ".1"));
        QVERIFY(QFileInfo(log.file()).size() < 2 * Log::kLongest);
        QCOMPARE(Log().newest(), QString());  // nowhere to write, nothing to read
    }

    void defaultKeysDoNotClash() {
        for (QAction* one : window_->allActions())
            QVERIFY2(shortcuts::clashes(one, one->shortcut(), window_->allActions()).isEmpty(), qPrintable(one->text() + " " + one->shortcut().toString()));
    }

    void keysCanBeChangedAndAreKept() {
        run("settings");
        auto* dialog = window_->findChild<SettingsDialog*>();
        QVERIFY(dialog);
        int row = 0;
        while (window_->allActions()[row]->objectName() != "tidy") ++row;
        auto* edit = qobject_cast<QKeySequenceEdit*>(dialog->keyTable()->cellWidget(row, 1));
        edit->setKeySequence(QKeySequence("Ctrl+Alt+T"));
        Q_EMIT edit->editingFinished();
        QCOMPARE(window_->action("tidy")->shortcut(), QKeySequence("Ctrl+Alt+T"));
        // Keys that are taken stay with whom they belong to.
        edit->setKeySequence(QKeySequence("Ctrl+S"));
        Q_EMIT edit->editingFinished();
        QCOMPARE(window_->action("tidy")->shortcut(), QKeySequence("Ctrl+Alt+T"));
        QCOMPARE(edit->keySequence(), QKeySequence("Ctrl+Alt+T"));
        {
            MainWindow second;
            QCOMPARE(second.action("tidy")->shortcut(), QKeySequence("Ctrl+Alt+T"));
        }
        QTest::mouseClick(dialog->keyTable()->cellWidget(row, 2), Qt::LeftButton);
        QCOMPARE(window_->action("tidy")->shortcut(), QKeySequence("Ctrl+T"));
        QVERIFY(!QSettings().contains("shortcuts/tidy"));
        QTest::keyClicks(dialog->keySearch(), "Tidy");
        int shown = 0;
        for (int i = 0; i < dialog->keyTable()->rowCount(); ++i) shown += !dialog->keyTable()->isRowHidden(i);
        QCOMPARE(shown, 1);
        dialog->close();
        window_->activateWindow();
    }

    // Work that takes long

    /// A stack of refinements that takes seconds.
    void makeSlow() {
        for (int i = 0; i < 4; ++i) {
            std::string id;
            document().apply(addNodeAfter(loom(), "subdivide", "soften", &id));
            document().apply(setSetting(loom(), id, "levels", 3));
            document().apply(setSkipped(loom(), {id}, i > 1));
        }
    }

    void cancelAnswersAtOnceAndTheStateIsTold() {
        makeSlow();
        auto* top = window_->findChild<TopLine*>();
        QTRY_VERIFY_WITH_TIMEOUT(window_->rebuilds().running() && top->cancelButton()->isVisible(), 5000);
        QVERIFY(top->stateLabel()->text().contains("rebuilding"));
        QTest::mousePress(top->cancelButton(), Qt::LeftButton);
        QVERIFY(!window_->rebuilds().running());
        QVERIFY(top->stateLabel()->text().contains("stopped"));
        QVERIFY(!top->cancelButton()->isVisible());
        // What was there can still be looked at, and an edit starts again.
        QVERIFY(window_->rebuilds().outcome("wall"));
        document().startNew();
        waitFresh();
    }

    void slowStepsWaitWhileASliderMoves() {
        document().apply(setControlValue(loom(), "detail", 3));
        std::string id;
        document().apply(addNodeAfter(loom(), "subdivide", "soften", &id));
        document().apply(setSetting(loom(), id, "levels", 2));
        waitFresh();
        window_->rebuilds().setSlowMs(window_->rebuilds().outcome(id)->ms * 0.6);
        QTRY_VERIFY(!window_->rebuilds().running());
        Slider* slider = window_->controls()->slider("wall");
        const double wanted = 0.05;
        const auto stale = window_->rebuilds().outcome(id);
        // Watched rather than polled: on a busy machine the hand may have rested by the time anybody asks.
        bool quickOnesFollowed = false;
        QObject watching;
        connect(&window_->rebuilds(), &RebuildService::stateChanged, &watching, [&] {
            if (window_->rebuilds().incomplete())
                quickOnesFollowed |= window_->rebuilds().report(id).state == NodeState::waiting && window_->rebuilds().outcome(id) == stale &&
                                     window_->rebuilds().report("wall").outcome;
        });
        QTest::mousePress(slider, Qt::LeftButton, {}, slider->pixelOf(0.03));
        const auto moveTo = [&](double v) {
            const QPoint at = slider->pixelOf(v);
            QMouseEvent move(QEvent::MouseMove, at, slider->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(slider, &move);
        };
        // The hand goes on until a rebuild of the quick steps came through: on a busy machine the first moves may be overtaken, and
        // where it rested the slow step is remembered.
        for (int i = 0; i < 400 && !quickOnesFollowed; ++i) {
            moveTo(0.02 + 0.001 * (i * 7 % 29));
            QTest::qWait(25);
        }
        moveTo(wanted);
        // Quick steps have followed, the slow one has not been begun.
        QVERIFY(quickOnesFollowed);
        // The hand rests on the slider, still pressed.
        QTRY_VERIFY_WITH_TIMEOUT(!window_->rebuilds().running() && !window_->rebuilds().incomplete() && window_->rebuilds().outcome(id) != stale, 20000);
        QTest::mouseRelease(slider, Qt::LeftButton, {}, slider->pixelOf(wanted));
        waitFresh();
        QCOMPARE(window_->rebuilds().report(id).state, NodeState::fresh);
    }

    /// What has a coarse answer shows it, says so, and shows the whole when the hand rests; meanwhile nothing is exported.
    void coarseAnswersAreToldOnTheStage() {
        std::string id;
        document().apply(addNodeAfter(loom(), "shatter", "soften", &id));
        document().apply(setSetting(loom(), id, "pieces", 60));
        document().apply(setSetting(loom(), id, "roughness", 0.002));
        waitFresh();
        window_->weave()->choose(id);
        const auto pieces = [&] {
            const auto* piece = window_->rebuilds().outcome(id)->geometry.values<std::int32_t>(Element::face, "piece");
            return piece && !piece->empty() ? *std::max_element(piece->begin(), piece->end()) + 1 : 0;
        };
        const int whole = pieces();
        QVERIFY(whole >= 60);
        window_->rebuilds().setSlowMs(window_->rebuilds().outcome(id)->ms * 0.5);
        const QString remark = Stage::tr("coarse, not yet the whole");
        bool told = false, exported = false;
        int fewest = whole;
        QObject watching;
        connect(&window_->rebuilds(), &RebuildService::stateChanged, &watching, [&] {
            if (!window_->rebuilds().incomplete()) return;
            told |= window_->stage()->remarks().contains(remark);
            fewest = std::min(fewest, pieces());
            exported |= window_->exportTo(folder_.filePath("coarse.obj"));
        });
        const int gesture = document().newGesture();
        // The hand goes on, so that it does not rest before a busy machine has come so far.
        for (int i = 0; i < 400 && !told; ++i) {
            document().apply(setControlValue(loom(), "wall", 0.031 + 1e-5 * i), gesture);
            QTest::qWait(25);
        }
        QVERIFY(told);
        QVERIFY(fewest < 40 && !exported);
        // The rebuild of the whole is stopped: what is shown is coarse still, and says so.
        document().endGesture();
        window_->rebuilds().cancel();
        QVERIFY(window_->rebuilds().outcome(id)->coarse && window_->stage()->remarks().contains(remark));
        QVERIFY(!window_->exportTo(folder_.filePath("coarse.obj")));
        window_->session().rebuild();
        waitFresh();
        QVERIFY(!window_->rebuilds().incomplete());
        QTRY_VERIFY(!window_->stage()->remarks().contains(remark));
        QVERIFY(pieces() >= 60);
        QVERIFY(window_->exportTo(folder_.filePath("whole.obj")));
    }

    /// Moves come quicker than the model can be rebuilt: it follows all the same, and ends at the last of them.
    void theModelFollowsAHandThatDoesNotRest() {
        document().apply(setControlValue(loom(), "detail", 4));
        waitFresh();
        window_->rebuilds().setSlowMs(1e9);
        std::set<const NodeOutcome*> seen;
        std::vector<std::shared_ptr<const NodeOutcome>> kept;
        QSignalSpy finished(&window_->rebuilds(), &RebuildService::finished);
        const int gesture = document().newGesture();
        QElapsedTimer clock;
        clock.start();
        double wall = 0.02;
        // No value comes twice, so nothing is remembered.
        while (seen.size() < 4 && clock.elapsed() < 60000) {
            wall += 1e-5;
            document().apply(setControlValue(loom(), "wall", wall), gesture);
            QTest::qWait(2);
            if (seen.insert(window_->rebuilds().outcome("soften").get()).second) kept.push_back(window_->rebuilds().outcome("soften"));
        }
        QVERIFY2(seen.size() >= 4, qPrintable(QString::number(seen.size())));
        document().endGesture();
        waitFresh();
        QCOMPARE(window_->rebuilds().controls().at("wall").get<double>(), wall);
        QVERIFY(finished.count() >= 1);
        QVERIFY(!seen.count(window_->rebuilds().outcome("soften").get()));
        // A press of Cancel ends what runs and what waits.
        const int other = document().newGesture();
        for (int i = 0; i < 3; ++i) document().apply(setControlValue(loom(), "wall", wall += 1e-5), other);
        window_->rebuilds().cancel();
        QTest::qWait(50);
        QVERIFY(!window_->rebuilds().running() && window_->rebuilds().wasCancelled());
        document().endGesture();
        waitFresh();
        QCOMPARE(window_->rebuilds().controls().at("wall").get<double>(), wall);
    }

    void whatRemainsIsEstimatedFromTheTimeBefore() {
        document().apply(setControlValue(loom(), "detail", 4));
        waitFresh();
        const double before = window_->rebuilds().outcome("soften")->ms;
        document().apply(setControlValue(loom(), "wear", 0.41));
        QVERIFY(window_->rebuilds().running());
        const auto left = window_->rebuilds().remainingMs();
        QVERIFY(left && *left >= before * 0.9);
        waitFresh();
        QVERIFY(!window_->rebuilds().remainingMs());
    }

    /// Half an hour of work in fast motion: what is kept for undo, pictures and results does not grow without end.
    void manyEditsDoNotGrowTheProgram() {
        const auto resident = [] {
            QFile file("/proc/self/statm");
            if (!file.open(QIODevice::ReadOnly)) return 0ll;
            return file.readAll().split(' ').value(1).toLongLong() * 4096;
        };
        const auto work = [&](int edits) {
            for (int i = 0; i < edits; ++i) {
                document().apply(setControlValue(loom(), "height", 0.5 + (i % 50) * 0.01));
                if (i % 10 == 0) weave()->choose(i % 20 ? "wall" : "even");
                if (i % 25 == 0) waitFresh();
            }
            waitFresh();
        };
        work(300);
        const auto before = resident();
        work(900);
        QVERIFY2(resident() - before < 60'000'000, qPrintable(QString::number((resident() - before) / 1000000)));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestShell>(argc, argv); }
#include "test_shell.moc"
