// Documents, recovery, commands, looks, and work that takes long; in real windows.
#include "WindowTest.h"
#include "app/data/DataDrawer.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/NumberField.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/Slider.h"
#include "app/shell/Finder.h"
#include "app/shell/RecentFiles.h"
#include "app/shell/SettingsDialog.h"
#include "app/shell/TopLine.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/QuickAdd.h"
#include "formats/FileIo.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"

#include <QtCore/QMimeData>
#include <QtCore/QProcess>
#include <QtCore/QTranslator>
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
#include <QtWidgets/QToolButton>

#include <csignal>
#include <cstdio>
#include <sys/resource.h>

using namespace seedloom;
using namespace seedloom::app;

namespace {

/// Every text a third longer, with accents: what a long language would do to the window.
class LongLanguage : public QTranslator {
public:
    bool isEmpty() const override { return false; }
    QString translate(const char*, const char* source, const char*, int n) const override {
        QString text = QString::fromUtf8(source);
        if (n >= 0) text.replace(QStringLiteral("%n"), QString::number(n));
        QString out;
        for (QChar c : text) out += c == QLatin1Char('a') ? QChar(0xE4) : c == QLatin1Char('e') ? QChar(0xE9) : c == QLatin1Char('o') ? QChar(0xF6) : c;
        return out + QString(int(text.size()) / 3, QLatin1Char('~'));
    }
};

/// While it lives, no file of this process grows beyond a few bytes; writing further fails, it does not end the program.
class FullDisk {
public:
    FullDisk() {
        getrlimit(RLIMIT_FSIZE, &before_);
        handler_ = std::signal(SIGXFSZ, SIG_IGN);
        rlimit none = before_;
        none.rlim_cur = 16;
        setrlimit(RLIMIT_FSIZE, &none);
    }
    ~FullDisk() {
        setrlimit(RLIMIT_FSIZE, &before_);
        std::signal(SIGXFSZ, handler_);
    }

private:
    rlimit before_{};
    void (*handler_)(int) = nullptr;
};

/// Opens the demo in a window and edits it without end, until this process is killed; says each edit that is done.
int editUntilKilled(const QString& journals) {
    MainWindow window;
    window.openDemo();
    window.keepJournalIn(journals);
    window.show();
    for (int i = 1;; ++i) {
        Document& document = window.document();
        document.apply(setControlValue(document.loom(), "height", 0.5 + 0.001 * i));
        if (i % 7 == 0) document.history().undo();
        QCoreApplication::processEvents();
        std::printf("%d\n", i);
        std::fflush(stdout);
    }
}

/// Widgets whose text does not fit into them.
QStringList cutTexts(const QWidget& window) {
    QStringList out;
    for (auto* widget : window.findChildren<QWidget*>()) {
        if (!widget->isVisible()) continue;
        QString text;
        const auto* tool = qobject_cast<QToolButton*>(widget);
        if (tool && tool->toolButtonStyle() == Qt::ToolButtonIconOnly && !tool->icon().isNull()) continue;
        if (auto* button = qobject_cast<QAbstractButton*>(widget)) text = button->text();
        else if (auto* label = qobject_cast<QLabel*>(widget); label && !label->wordWrap()) text = label->text();
        if (text.isEmpty() || text.startsWith(QLatin1Char('<'))) continue;
        if (widget->width() < widget->minimumSizeHint().width() || widget->fontMetrics().horizontalAdvance(text.remove('&')) > widget->width() + 1) out << text;
    }
    return out;
}

/// Widgets that stick out of the one they are in.
QStringList outside(const QWidget& window) {
    QStringList out;
    for (auto* widget : window.findChildren<QWidget*>()) {
        const QWidget* parent = widget->parentWidget();
        if (!widget->isVisible() || widget->isWindow() || !parent || parent->inherits("QScrollArea") || parent->inherits("QAbstractScrollArea") || parent->objectName() == "qt_scrollarea_viewport" || parent->inherits("QHeaderView")) continue;
        if (widget->width() > 0 && (widget->geometry().right() > parent->width() + 1 || widget->geometry().bottom() > parent->height() + 1) && !widget->inherits("QScrollBar"))
            out << QString::fromLatin1(widget->metaObject()->className()) + ' ' + widget->objectName() + widget->accessibleName();
    }
    return out;
}

}  // namespace

class TestShell : public WindowTest {
    Q_OBJECT

    std::unique_ptr<MainWindow> another(const QString& journals) {
        auto window = std::make_unique<MainWindow>();
        window->keepJournalIn(journals);
        window->show();
        return window;
    }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() {
        window_.reset();
        setAppearance(ThemeName::linen, 1);
    }

    // Documents

    void anEndWithoutWarningLosesNoFinishedEdit() {
        // The program itself, with made-up edits typed into it by a script, is killed by force.
        const QString journals = folder_.filePath("journals");
        QVERIFY(QDir().mkpath(journals));
        const Loom base = loom();
        auto writer = JournalWriter::start((journals + "/left.journal").toStdString(), "", base);
        QVERIFY(writer);
        const Edit first = setControlValue(base, "height", 1.3);
        QVERIFY(!writer->append(first));
        const Loom second = *applied(base, first);
        QVERIFY(!writer->append(renameNode(second, "wall", "Iron wall")));
        auto window = another(journals);
        QVERIFY(window->message().contains("Mooring bollard") && window->message().contains("2 edits can"));
        QVERIFY(window->answerMessage("Bring it back"));
        const Document& back = window->document();
        QCOMPARE(back.loom().values["height"], Json(1.3));
        QCOMPARE(displayName(*back.loom().node("wall")), std::string("Iron wall"));
        QVERIFY(back.modified());
        // The edits can still be taken back, and the next start has nothing to offer.
        window->document().history().undo();
        QCOMPARE(displayName(*back.loom().node("wall")), std::string("Wall"));
        QVERIFY(!QFileInfo::exists(journals + "/left.journal"));
        QVERIFY(window->saveTo(folder_.filePath("back.loom")));
        QVERIFY(!back.modified());
    }

    /// A process with a real window, killed by force while it is being worked in.
    void aKilledWindowComesBackToItsLastFinishedEdit() {
        const QString journals = folder_.filePath("killed");
        QProcess process;
        process.start(QCoreApplication::applicationFilePath(), {QStringLiteral("--edit-until-killed"), journals});
        QVERIFY(process.waitForStarted());
        int done = 0;
        const auto read = [&] {
            while (process.canReadLine()) done = process.readLine().trimmed().toInt();
            return done;
        };
        while (read() < 40) QVERIFY(process.waitForReadyRead(20000));
        // While it runs, its journal is nobody else's.
        QVERIFY(leftJournals(journals.toStdString()).empty());
        kill(pid_t(process.processId()), SIGKILL);
        QVERIFY(process.waitForFinished());
        QCOMPARE(process.exitStatus(), QProcess::CrashExit);
        read();
        auto window = another(journals);
        QVERIFY(window->message().contains("can be brought back"));
        QVERIFY(window->answerMessage("Bring it back"));
        const double height = window->document().loom().values["height"].get<double>();
        const auto after = [](int edits) { return 0.5 + 0.001 * (edits % 7 == 0 ? edits - 1 : edits); };
        // The last edit that was said to be done is there; the one that ran when the end came may be.
        QVERIFY2(height >= after(done) - 1e-9 && height <= 0.5 + 0.001 * (done + 1) + 1e-9, qPrintable(QStringLiteral("%1 after %2 edits").arg(height).arg(done)));
        QTRY_VERIFY(!window->rebuilds().running());
        QVERIFY(!window->rebuilds().anyFailed());
    }

    void aJournalIsGoneWithTheDocumentItBelongsTo() {
        const QString journals = folder_.filePath("own");
        {
            auto window = another(journals);
            window->document().apply(renameLoom(window->document().loom(), "Quay post"));
            QCOMPARE(QDir(journals).entryList({"*.journal"}).size(), 1);
            QVERIFY(leftJournals(journals.toStdString()).empty());
            const auto kept = readJournal(window->document().journalFile());
            QVERIFY(kept && kept->edits.size() == 1);
        }
        QCOMPARE(QDir(journals).entryList({"*.journal"}).size(), 0);
    }

    void aBrokenFileOffersItsLastGoodCopy() {
        const QString file = folder_.filePath("post.loom");
        QVERIFY(window_->saveTo(file));
        document().apply(setControlValue(loom(), "height", 1.5));
        QVERIFY(window_->saveTo(file));
        QFile broken(file);
        QVERIFY(broken.open(QIODevice::WriteOnly));
        broken.write("{\"seedloom\": 1,\n\"nodes\": [{");
        broken.close();
        QVERIFY(!window_->openFile(file));
        QVERIFY(window_->answerMessage("Open the last good copy"));
        QCOMPARE(loom().name, std::string("Mooring bollard"));
        QVERIFY(!loom().values.contains("height"));
        QVERIFY(window_->answerMessage("Save over the broken file"));
        QVERIFY(readLoom(file.toStdString()));
    }

    void savingThatFailsKeepsTheWorkAndSaysWhatToDo() {
        document().apply(setControlValue(loom(), "height", 1.5));
        QVERIFY(!window_->saveTo(folder_.filePath("nowhere/x.loom")));
        QVERIFY(window_->message().contains("Your work is still here"));
        QVERIFY(document().modified());
        // The folder goes away between two saves.
        const QString folder = folder_.filePath("gone");
        QVERIFY(QDir().mkpath(folder));
        QVERIFY(window_->saveTo(folder + "/x.loom"));
        QVERIFY(QDir(folder).removeRecursively());
        document().apply(setControlValue(loom(), "height", 1.6));
        QVERIFY(!window_->saveTo(folder + "/x.loom"));
        QVERIFY(QDir().mkpath(folder));
        QVERIFY(window_->answerMessage("Try again"));
        QVERIFY(!document().modified());
    }

    void aDiskThatIsFullLosesNothing() {
        const QString file = folder_.filePath("full.loom"), journals = folder_.filePath("full-journals");
        QVERIFY(window_->saveTo(file));
        const std::string before = *readFile(file.toStdString());
        window_->keepJournalIn(journals);
        document().apply(setControlValue(loom(), "height", 1.5));
        {
            // The system refuses every byte beyond a limit, as a full disk does.
            const FullDisk full;
            QVERIFY(!window_->saveTo(file));
            QVERIFY(window_->message().contains("Your work is still here"));
            document().apply(setControlValue(loom(), "height", 1.6));
            QVERIFY(window_->message().contains("not journalled any more"));
        }
        QCOMPARE(*readFile(file.toStdString()), before);
        QCOMPARE(loom().values["height"], Json(1.6));
        QVERIFY(document().modified());
        // With room again, saving works, and the journal goes on.
        QVERIFY(window_->saveTo(file));
        document().apply(setControlValue(loom(), "height", 1.7));
        QCOMPARE(readJournal(document().journalFile())->edits.size(), 1u);
    }

    void aFileThatChangesOnDiskIsNoticed() {
        const QString file = folder_.filePath("shared.loom");
        QVERIFY(window_->saveTo(file));
        Loom theirs = *readLoom(file.toStdString());
        theirs.name = "Post of the others";
        QTest::qWait(30);
        QVERIFY(!writeLoom(theirs, file.toStdString()));
        QTRY_VERIFY_WITH_TIMEOUT(window_->message().contains("changed by another program"), 5000);
        QVERIFY(window_->answerMessage("Keep mine"));
        QCOMPARE(loom().name, std::string("Mooring bollard"));
        theirs.name = "Post of others still";
        QTest::qWait(30);
        QVERIFY(!writeLoom(theirs, file.toStdString()));
        QTRY_VERIFY_WITH_TIMEOUT(window_->message().contains("changed by another program"), 5000);
        QVERIFY(window_->answerMessage("Load it, and lose what is here"));
        QCOMPARE(loom().name, std::string("Post of others still"));
        // An own save is no news.
        document().apply(renameLoom(loom(), "Mine again"));
        QVERIFY(window_->saveTo(file));
        QTest::qWait(700);
        QVERIFY(window_->message().isEmpty());
    }

    void recentFilesHavePictures() {
        QTRY_VERIFY(!window_->rebuilds().running());
        QTest::qWait(400);  // until the picture of the output is drawn
        const QString file = folder_.filePath("recent.loom");
        QVERIFY(window_->saveTo(file));
        QCOMPARE(recentFiles().front(), file);
        QVERIFY(!recentPicture(file).isNull());
        RecentDialog dialog(window_.get());
        QSignalSpy chosen(&dialog, &RecentDialog::chosen);
        dialog.show();
        QVERIFY(QTest::qWaitForWindowExposed(&dialog));
        QVERIFY(!dialog.list()->item(0)->icon().isNull());
        QTest::keyClick(dialog.list(), Qt::Key_Return);
        QCOMPARE(chosen.count(), 1);
        QCOMPARE(chosen[0][0].toString(), file);
        QVERIFY(QFile::remove(file));
        QVERIFY(!recentFiles().contains(file));
    }

    void aFileDroppedOnTheWindowIsOpened() {
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/net-floats.loom"))});
        QDragEnterEvent enter(QPoint(200, 200), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(200, 200), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &drop);
        QTRY_COMPARE(document().file().filename().string(), std::string("net-floats.loom"));
        QMimeData text;
        text.setText("no file");
        QDragEnterEvent refused(QPoint(200, 200), Qt::CopyAction, &text, Qt::LeftButton, {});
        refused.ignore();
        QApplication::sendEvent(window_.get(), &refused);
        QVERIFY(!refused.isAccepted());
    }

    void severalWindowsHaveDocumentsOfTheirOwn() {
        run("new_window");
        MainWindow* second = nullptr;
        for (QWidget* widget : QApplication::topLevelWidgets())
            if (auto* one = qobject_cast<MainWindow*>(widget); one && one != window_.get()) second = one;
        QVERIFY(second);
        second->document().apply(renameLoom(second->document().loom(), "Float"));
        QCOMPARE(loom().name, std::string("Mooring bollard"));
        second->document().history().undo();
        second->close();
        QTRY_VERIFY([&] {
            for (QWidget* widget : QApplication::topLevelWidgets())
                if (widget == second) return false;
            return true;
        }());
        window_->activateWindow();
    }

    void statisticsTellWhatTheDocumentHolds() {
        const QString text = window_->statistics();
        QVERIFY(text.contains(QStringLiteral("Nodes: %1 (0 skipped)").arg(loom().nodes.size())));
        QVERIFY(text.contains(QStringLiteral("Controls: %1").arg(loom().controls.size())));
    }

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

    // Looks

    void themesAreReadable() {
        const auto light = [](const QColor& c) {
            const auto part = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
            return 0.2126 * part(c.redF()) + 0.7152 * part(c.greenF()) + 0.0722 * part(c.blueF());
        };
        const auto contrast = [&](const QColor& a, const QColor& b) {
            const double x = light(a), y = light(b);
            return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
        };
        for (ThemeName theme : {ThemeName::linen, ThemeName::night}) {
            const Colours& c = coloursOf(theme);
            for (const QColor& ground : {c.paper, c.card})
                for (const QColor& text : {c.ink, c.faint, c.chosen, c.link, c.fresh, c.warning})
                    QVERIFY2(contrast(text, ground) >= 4.5, qPrintable(text.name() + " on " + ground.name()));
            for (const QColor& ground : {c.field, c.note, c.stageTop, c.stageFoot}) QVERIFY2(contrast(c.ink, ground) >= 4.5, qPrintable(ground.name()));
            for (const QColor& tint : c.tints) QVERIFY2(contrast(c.ink, tint) >= 4.5 && contrast(c.faint, tint) >= 4.0, qPrintable(tint.name()));
            QVERIFY(contrast(c.card, c.chosen) >= 4.5);
        }
    }

    void themeAndSizeChangeEverythingAndKeepTheWork() {
        document().apply(setControlValue(loom(), "height", 1.2));
        weave()->choose("wall");
        window_->showDrawer("data");
        run("sides");
        run("wire");
        const int before = window_->controls()->field("height")->height();
        setAppearance(ThemeName::night, 1.3);
        window_->rebuildInterface();
        waitFresh();
        QCOMPARE(weave()->chosen(), std::string("wall"));
        QCOMPARE(window_->shownDrawer(), QString("data"));
        QVERIFY(document().modified() && loom().values["height"] == Json(1.2));
        QVERIFY(window_->controls()->field("height")->height() > before);
        QCOMPARE(weave()->grab().toImage().pixelColor(3, weave()->height() - 3), coloursOf(ThemeName::night).paper);
        // So does the way in which it is looked at.
        QCOMPARE(window_->stage()->tools()->look().shading, Shading::sides);
        QVERIFY(window_->stage()->tools()->overlay("wire") && window_->action("wire")->isChecked());
        // It still works.
        click("body");
        QVERIFY(window_->settings()->row("sides"));
        document().history().undo();
        setAppearance(ThemeName::linen, 1);
        window_->rebuildInterface();
        QCOMPARE(weave()->chosen(), std::string("body"));
        QVERIFY(QSettings().value("theme").toString() == "linen");
    }

    void theLayoutIsRememberedForTheSizeOfScreen() {
        window_->showDrawer("checkup");
        window_->close();
        MainWindow second;
        QCOMPARE(second.shownDrawer(), QString("checkup"));
        QVERIFY(!QSettings().allKeys().filter(QStringLiteral("layout-1280x800")).isEmpty());
        QSettings().remove("layout-1280x800");
    }

    void everythingFitsIntoSmallAndLargeWindows() {
        window_->showDrawer("data");
        for (const QSize& size : {QSize(1024, 700), QSize(1280, 800), QSize(2560, 1440)}) {
            window_->resize(size);
            QTest::qWait(150);
            QCOMPARE(window_->size(), size);
            QVERIFY2(outside(*window_).isEmpty(), qPrintable(outside(*window_).join(" | ")));
            QTRY_VERIFY2(cutTexts(*window_).isEmpty(), qPrintable(cutTexts(*window_).join(" | ")));
            QVERIFY(window_->stage()->height() >= 140 && weave()->height() >= 90);
        }
    }

    void aLongLanguageIsNotCut() {
        LongLanguage language;
        QVERIFY(QCoreApplication::installTranslator(&language));
        {
            MainWindow window;
            window.openDemo();
            window.resize(1280, 800);
            window.show();
            QVERIFY(QTest::qWaitForWindowExposed(&window));
            QTRY_VERIFY(!window.rebuilds().running());
            for (const char* drawer : {"data", "checkup", "notices", "time"}) {
                window.showDrawer(drawer);
                QTest::qWait(250);
                QTRY_VERIFY2(cutTexts(window).isEmpty(), qPrintable(cutTexts(window).join(" | ")));
            }
            // Every text went through the translation.
            for (auto* button : window.findChildren<QToolButton*>())
                if (button->isVisible() && button->text().size() > 3) QVERIFY2(button->text().contains('~') || button->parentWidget()->parentWidget()->inherits("seedloom::app::SettingRow") || button->parentWidget()->inherits("seedloom::app::SettingRow"), qPrintable(button->text()));
        }
        QCoreApplication::removeTranslator(&language);
    }

    void everyControlHasANameForScreenReaders() {
        for (const char* drawer : {"data", "checkup", "notices", "time"}) {
            window_->showDrawer(drawer);
            for (const char* node : {"outline", "wobble", "soften"}) {
                weave()->choose(node);
                QTest::qWait(50);
                for (auto* widget : window_->findChildren<QWidget*>()) {
                    if (!widget->isVisible() || !(widget->focusPolicy() & Qt::TabFocus) || widget->inherits("QScrollBar") || widget->inherits("QTableCornerButton") || widget->inherits("QMenuBar") || widget->inherits("QHeaderView")) continue;
                    QString name = widget->accessibleName();
                    if (auto* button = qobject_cast<QAbstractButton*>(widget); button && name.isEmpty()) name = button->text().isEmpty() ? button->toolTip() : button->text();
                    QVERIFY2(!name.isEmpty(), qPrintable(QString::fromLatin1(widget->metaObject()->className()) + " in " + QString::fromLatin1(widget->parentWidget()->metaObject()->className())));
                }
            }
        }
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
        document().apply(setControlValue(loom(), "detail", 4));
        std::string id;
        document().apply(addNodeAfter(loom(), "subdivide", "soften", &id));
        document().apply(setSetting(loom(), id, "levels", 2));
        waitFresh();
        window_->rebuilds().setSlowMs(window_->rebuilds().outcome(id)->ms * 0.6);
        QTRY_VERIFY(!window_->rebuilds().running());
        Slider* slider = window_->controls()->slider("wall");
        const double wanted = 0.05;
        QTest::mousePress(slider, Qt::LeftButton, {}, slider->pixelOf(0.03));
        for (double v : {0.032, 0.036, 0.04, 0.045, wanted}) {
            const QPoint at = slider->pixelOf(v);
            QMouseEvent move(QEvent::MouseMove, at, slider->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(slider, &move);
        }
        // Quick steps have followed, the slow one has not been begun.
        QTRY_VERIFY_WITH_TIMEOUT(window_->rebuilds().incomplete(), 5000);
        QCOMPARE(window_->rebuilds().report(id).state, NodeState::waiting);
        QVERIFY(window_->rebuilds().report("wall").outcome);
        const auto stale = window_->rebuilds().outcome(id);
        // The hand rests on the slider, still pressed.
        QTRY_VERIFY_WITH_TIMEOUT(!window_->rebuilds().running() && !window_->rebuilds().incomplete() && window_->rebuilds().outcome(id) != stale, 20000);
        QTest::mouseRelease(slider, Qt::LeftButton, {}, slider->pixelOf(wanted));
        waitFresh();
        QCOMPARE(window_->rebuilds().report(id).state, NodeState::fresh);
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

int main(int argc, char** argv) {
    if (argc == 3 && qstrcmp(argv[1], "--edit-until-killed") == 0) {
        const OwnApplication application(argc, argv);
        return editUntilKilled(QString::fromLocal8Bit(argv[2]));
    }
    return runWindowTest<TestShell>(argc, argv);
}
#include "test_shell.moc"
