// Saving, recovery, recent files, several windows; in real windows.
#include "WindowTest.h"
#include "app/data/DataDrawer.h"
#include "app/session/Demos.h"
#include "app/session/Preferences.h"
#include "app/session/RecentFiles.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/RecentDialog.h"
#include "app/shell/SettingsDialog.h"
#include "app/shell/StartPage.h"
#include "app/shell/TopLine.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/QuickAdd.h"
#include "app/widgets/Finder.h"
#include "app/widgets/Gallery.h"
#include "app/widgets/NoticeStrip.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "files/FileIo.h"
#include "formats/LoomFile.h"
#include "geometry/Digest.h"
#include "meshes/MeshFile.h"
#include "support/Looms.h"
#include "support/Run.h"

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

#include <sys/resource.h>
#include <csignal>
#include <cstdio>

using namespace seedloom;
using namespace seedloom::app;

namespace {

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
        if (i % 7 == 0) document.undo();
        QCoreApplication::processEvents();
        std::printf("%d\n", i);
        std::fflush(stdout);
    }
}

}  // namespace

class TestDocuments : public WindowTest {
    Q_OBJECT

    std::unique_ptr<MainWindow> another(const QString& journals) {
        auto window = std::make_unique<MainWindow>();
        window->keepJournalIn(journals);
        window->show();
        return window;
    }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    /// Windows that are opened later keep a journal as well, as long as journals are wanted.
    void everyWindowKeepsAJournal() {
        const QString journals = folder_.filePath("of-all");
        const auto kept = [&] { return QDir(journals).entryList({"*.journal"}, QDir::Files).size(); };
        window_->keepJournalIn(journals);
        QCOMPARE(kept(), 1);
        MainWindow* second = MainWindow::openNew();
        QCOMPARE(kept(), 2);
        QCOMPARE(MainWindow::windows().size(), 2);
        preferences::setKeepsJournal(false);
        for (MainWindow* window : MainWindow::windows()) window->followPreferences();
        QCOMPARE(kept(), 0);
        preferences::setKeepsJournal(true);
        delete second;
    }

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
        QCOMPARE(back.loom().values.at("height"), Json(1.3));
        QCOMPARE(displayName(*back.loom().node("wall")), std::string("Iron wall"));
        QVERIFY(back.modified());
        // The edits can still be taken back, and the next start has nothing to offer.
        window->document().undo();
        QCOMPARE(displayName(*back.loom().node("wall")), std::string("Wall"));
        QVERIFY(!QFileInfo::exists(journals + "/left.journal"));
        QVERIFY(window->saveTo(folder_.filePath("back.loom")));
        QVERIFY(!back.modified());
    }

    /// A journal of which not even the first edit fits is all that is left of its edits: it is offered, not thrown away.
    void journalsThatDoNotFitAreKept() {
        const std::filesystem::path folder = folder_.filePath("unfit").toStdString();
        std::filesystem::create_directories(folder);
        Loom base;
        base.name = "Quay";
        Loom other = base;
        other.name = "Pier";
        {
            auto writer = JournalWriter::start(folder / "a.journal", "", base);
            QVERIFY(writer && !writer->append(renameLoom(other, "Mole")));
        }
        QVERIFY(readJournal(folder / "a.journal")->edits.empty());
        QCOMPARE(leftJournals(folder).size(), std::size_t(1));
        QVERIFY(std::filesystem::exists(folder / "a.journal"));
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
        const double height = window->document().loom().values.at("height").get<double>();
        const auto after = [](int edits) { return 0.5 + 0.001 * (edits % 7 == 0 ? edits - 1 : edits); };
        // The last edit that was said to be done is there; the one that ran when the end came may be.
        QVERIFY2(height >= after(done) - 1e-9 && height <= 0.5 + 0.001 * (done + 1) + 1e-9,
                 qPrintable(QStringLiteral("%1 after %2 edits").arg(height).arg(done)));
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
        QCOMPARE(loom().values.at("height"), Json(1.6));
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

    /// Saved as into another folder, the loom shows the same: the files that it uses are named from there.
    void savingElsewhereKeepsItsFilesFound() {
        QVERIFY(QDir(folder_.path()).mkpath("one/meshes") && QDir(folder_.path()).mkpath("two"));
        QVERIFY(!writeMesh(seedloom::test::made("box", {{"size", {3, 1, 2}}}), folder_.filePath("one/meshes/slab.obj").toStdString()));
        Loom loom;
        loom.name = "Quay";
        loom.nodes = {seedloom::test::node("in", "import_mesh", {0, 0}, {{"file", "meshes/slab.obj"}}), seedloom::test::node("out", "output", {1, 0})};
        loom.links = {seedloom::test::linked("in", "out")};
        loom.output = "out";
        const QString first = folder_.filePath("one/quay.loom"), second = folder_.filePath("two/quay.loom");
        QVERIFY(!writeLoom(loom, first.toStdString()));
        QVERIFY(window_->openFile(first));
        QCOMPARE(boundsOf(output()).size().x, 3.0f);
        QVERIFY(window_->saveTo(second));
        QCOMPARE(boundsOf(output()).size().x, 3.0f);
        QCOMPARE(readLoom(second.toStdString())->node("in")->settings.at("file"), Json("../one/meshes/slab.obj"));
        QCOMPARE(readLoom(first.toStdString())->node("in")->settings.at("file"), Json("meshes/slab.obj"));
        QVERIFY(!document().modified());
        QVERIFY(window_->openFile(second));
        QCOMPARE(boundsOf(output()).size().x, 3.0f);
    }

    void recentFilesHavePictures() {
        // Saved while the picture of the newest change can't be there yet: it follows.
        const QString file = folder_.filePath("recent.loom");
        document().apply(setControlValue(loom(), "height", 1.7));
        QVERIFY(window_->saveTo(file));
        QCOMPARE(recentFiles().front(), file);
        QVERIFY(recentPicture(file).isNull());
        QTRY_VERIFY_WITH_TIMEOUT(!recentPicture(file).isNull(), 20000);
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

    /// A mesh makes a new loom that imports it; several become several nodes.
    void meshesBecomeALoomThatImportsThem() {
        const std::string first = folder_.filePath(QStringLiteral("old-stone.obj")).toStdString(),
                          second = folder_.filePath(QStringLiteral("b.stl")).toStdString();
        QVERIFY(!writeMesh(output(), first));
        QVERIFY(!writeMesh(output(), second));
        QVERIFY(window_->openFile(QString::fromStdString(first)));
        waitFresh();
        QCOMPARE(loom().name, std::string("Old stone"));
        QVERIFY(document().file().empty());
        QVERIFY(output().faceCount() > 0);
        QCOMPARE(loom().node("import_mesh")->label, std::string("Old stone"));
        window_->openFiles({QString::fromStdString(first), QString::fromStdString(second)});
        waitFresh();
        QCOMPARE(std::count_if(loom().nodes.begin(), loom().nodes.end(), [](const Node& n) { return n.op == "import_mesh"; }), std::ptrdiff_t(2));
        const auto whole = output().faceCount();
        QVERIFY(whole > 0);
        for (const Notice& notice : window_->rebuilds().notices()) QVERIFY2(notice.level != NoticeLevel::error, notice.text.c_str());
        QVERIFY2(window_->message().contains(QStringLiteral("2 files")), qPrintable(window_->message()));
        // One that is not there is told of, and nothing else happens.
        QVERIFY(!window_->openFile(folder_.filePath(QStringLiteral("gone.obj"))));
        QCOMPARE(output().faceCount(), whole);
        // What is neither is named as such.
        QFile notes(folder_.filePath(QStringLiteral("quay.txt")));
        QVERIFY(notes.open(QIODevice::WriteOnly) && notes.write("no json") > 0);
        notes.close();
        QVERIFY(!window_->openFile(notes.fileName()));
        QVERIFY2(window_->message().contains(QStringLiteral(".obj")) && window_->message().contains(QStringLiteral("neither")), qPrintable(window_->message()));
        QCOMPARE(output().faceCount(), whole);
        // Dropped, like a loom.
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(QString::fromStdString(second))});
        QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &enter);
        QVERIFY(enter.isAccepted());
        data.setUrls({QUrl::fromLocalFile(folder_.filePath(QStringLiteral("words.txt")))});
        QDragEnterEvent words(QPoint(300, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &words);
        QVERIFY(!words.isAccepted());
    }

    /// A drawing or a picture asks what it shall become; nothing changes before that is said.
    void drawingsAndPicturesAskWhatTheyShallBecome() {
        const QString drawing = folder_.filePath(QStringLiteral("mark.svg")), picture = folder_.filePath(QStringLiteral("dunes.png"));
        QVERIFY(QFile::copy(QStringLiteral(SEEDLOOM_SOURCE "/demo/fish.svg"), drawing) &&
                QFile::copy(QStringLiteral(SEEDLOOM_SOURCE "/demo/salt-runs.png"), picture));
        const std::string before = loom().name;
        QMimeData data;
        data.setUrls({QUrl::fromLocalFile(drawing)});
        QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(300, 300), Qt::CopyAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(window_.get(), &drop);
        QTRY_VERIFY2(window_->message().contains(QStringLiteral("mark.svg")), qPrintable(window_->message()));
        QCOMPARE(loom().name, before);
        QVERIFY(window_->answerMessage(QStringLiteral("A solid")));
        waitFresh();
        QCOMPARE(loom().name, std::string("Mark"));
        QVERIFY(checkupOf(output()).sound());
        QVERIFY(window_->openFile(drawing) && window_->answerMessage(QStringLiteral("Curves")));
        waitFresh();
        QVERIFY(output().curveCount() == 3 && output().faceCount() == 0);
        QVERIFY(window_->openFile(picture) && window_->answerMessage(QStringLiteral("A relief")));
        waitFresh();
        const Bounds relief = boundsOf(output().positions());
        QVERIFY(std::abs(relief.size().x - 1) < 1e-4f && std::abs(relief.size().z - 0.5f) < 1e-4f && relief.size().y > 0.05f);
        QVERIFY(window_->openFile(picture) && window_->answerMessage(QStringLiteral("A coloured sheet")));
        waitFresh();
        QVERIFY(output().column(Element::point, "color"));
        // What can't be read says so at once; several at once become one loom.
        QFile bad(folder_.filePath(QStringLiteral("bad.png")));
        QVERIFY(bad.open(QIODevice::WriteOnly) && bad.write("no picture") > 0);
        bad.close();
        QVERIFY(!window_->openFile(bad.fileName()));
        QVERIFY2(window_->message().contains(QStringLiteral("neither PNG nor JPEG")), qPrintable(window_->message()));
        window_->openFiles({drawing, picture});
        waitFresh();
        QVERIFY(loom().node("merge") && output().faceCount() > 1000);
    }

    /// What a program that died left behind stands on the start page, each to be brought back or thrown away.
    void whatWasLeftStandsOnTheStartPage() {
        const QString journals = folder_.filePath(QStringLiteral("left")), kept = folder_.filePath(QStringLiteral("kept"));
        QVERIFY(QDir().mkpath(journals) && QDir().mkpath(kept));
        for (const char* name : {"Quay post", "Old wall"}) {
            auto window = another(journals);
            window->document().startNew();
            window->document().apply(renameLoom(window->document().loom(), name));
            // As after a crash: the journal stays when its window goes.
            const QString journal = QString::fromStdString(window->document().journalFile().string());
            QVERIFY(QFile::copy(journal, kept + QLatin1Char('/') + QString::fromLatin1(name) + QStringLiteral(".journal")));
        }
        MainWindow window;
        window.showStart(true);
        window.keepJournalIn(kept);
        window.resize(1280, 800);
        window.show();
        QVERIFY(QTest::qWaitForWindowExposed(&window));
        const auto rows = [&] {
            QStringList out;
            for (const QWidget* row : window.startPage()->leftWork()->findChildren<QWidget*>(QStringLiteral("leftRow")))
                if (row->isVisible()) out << row->findChild<QLabel*>()->text();
            return out;
        };
        const auto press = [&](const QString& name, const QString& button) {
            for (QWidget* row : window.startPage()->leftWork()->findChildren<QWidget*>(QStringLiteral("leftRow")))
                if (row->isVisible() && row->findChild<QLabel*>()->text() == name)
                    for (QPushButton* each : row->findChildren<QPushButton*>())
                        if (each->text() == button) QTest::mouseClick(each, Qt::LeftButton);
        };
        QCOMPARE(rows().size(), 2);
        QVERIFY(window.message().isEmpty());
        const QString first = rows().front();
        press(first, QStringLiteral("Throw it away"));
        QTRY_COMPARE(rows().size(), 1);
        press(rows().front(), QStringLiteral("Bring it back"));
        QVERIFY(!window.startPage()->isVisible());
        QVERIFY(window.document().modified() && (window.document().loom().name == "Quay post" || window.document().loom().name == "Old wall"));
        QVERIFY2(window.message().contains(QStringLiteral("Brought back")), qPrintable(window.message()));
        window.showStart(true);
        QVERIFY(rows().isEmpty() && !window.startPage()->leftWork()->isVisible());
    }

    /// An empty loom, what was open lately, and the demos, each opened by a click.
    void theStartPageLeadsSomewhere() {
        const QString file = folder_.filePath(QStringLiteral("post.loom"));
        QVERIFY(window_->saveTo(file));
        StartPage* page = window_->startPage();
        QVERIFY(!page->isVisible());
        run("start");
        QVERIFY(page->isVisible() && !weave()->isVisible());
        // All that are shipped, each with its picture.
        QCOMPARE(page->demos()->cards().size(), std::size_t(QDir(QStringLiteral(SEEDLOOM_SOURCE "/demo")).entryList({QStringLiteral("*.loom")}).size()));
        for (const GalleryCard* card : page->demos()->cards()) {
            QVERIFY2(!card->content().picture.isNull() && card->content().words.size() > 20 && card->content().remark.size() > 20,
                     qPrintable(card->content().name));
            QVERIFY(card->width() > 100 && card->geometry().right() <= page->demos()->width());
        }
        QVERIFY(!page->recent()->cards().empty() && page->recent()->cards().size() <= 5);
        QTest::keyClick(page, Qt::Key_Escape);
        QVERIFY(!page->isVisible() && weave()->isVisible());
        run("start");
        QTest::mouseClick(page->recent()->cards()[0], Qt::LeftButton);
        QVERIFY(!page->isVisible());
        QCOMPARE(QString::fromStdString(document().file().string()), file);
        // A demo that names files beside it opens with them, and is not what saving writes to.
        run("start");
        const auto& cards = page->demos()->cards();
        const auto seal = std::find_if(cards.begin(), cards.end(), [](const GalleryCard* c) { return c->content().name == QStringLiteral("Carved seal"); });
        QVERIFY(seal != cards.end());
        (*seal)->setFocus();
        QTest::keyClick(*seal, Qt::Key_Return);
        waitFresh();
        QCOMPARE(loom().name, std::string("Carved seal"));
        QVERIFY(output().faceCount() > 0);
        for (const Notice& notice : window_->rebuilds().notices()) QVERIFY2(notice.level != NoticeLevel::error, notice.text.c_str());
        QVERIFY(isDemoFile(QString::fromStdString(document().file().string())));
        QCOMPARE(recentFiles().front(), file);
        const QString demo = QString::fromStdString(document().file().string());
        document().apply(renameLoom(loom(), "Mine"));
        QVERIFY(!window_->saveTo(demo));
        QVERIFY(window_->message().contains(QStringLiteral("another folder")));
        QCOMPARE(readLoom(demo.toStdString())->name, std::string("Carved seal"));
        document().undo();
        run("start");
        QTest::mouseClick(page->emptyButton(), Qt::LeftButton);
        QVERIFY(!page->isVisible());
        QCOMPARE(loom().nodes.size(), std::size_t(1));
        waitFresh();
        QCOMPARE(window_->rebuilds().notices().size(), std::size_t(1));
        QCOMPARE(QString::fromStdString(window_->rebuilds().notices()[0].code), QStringLiteral("input.missing"));
        for (const NoticeStrip* strip : window_->settings()->notices()) QCOMPARE(strip->buttons().size(), std::size_t(1));
    }

    void severalWindowsHaveDocumentsOfTheirOwn() {
        run("new_window");
        MainWindow* second = nullptr;
        for (QWidget* widget : QApplication::topLevelWidgets())
            if (auto* one = qobject_cast<MainWindow*>(widget); one && one != window_.get()) second = one;
        QVERIFY(second);
        second->document().apply(renameLoom(second->document().loom(), "Float"));
        QCOMPARE(loom().name, std::string("Mooring bollard"));
        second->document().undo();
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
};

int main(int argc, char** argv) {
    if (argc == 3 && qstrcmp(argv[1], "--edit-until-killed") == 0) {
        const OwnApplication application(argc, argv);
        return editUntilKilled(QString::fromLocal8Bit(argv[2]));
    }
    return runWindowTest<TestDocuments>(argc, argv);
}
#include "test_documents.moc"
