// Publishing in a real window: the check, what is not fit, the pack, and using it in another graph.
#include "WindowTest.h"
#include "app/shell/EffectsPage.h"
#include "app/shell/PublishWindow.h"
#include "formats/Pack.h"
#include "graph/Controls.h"

#include <QtWidgets/QCheckBox>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QTabWidget>
#include <QtWidgets/QTableWidget>

using namespace seedloom;
using namespace seedloom::app;

class TestPublishing : public WindowTest {
    Q_OBJECT

    PublishWindow* open() {
        PublishWindow* publish = window_->showPublish();
        QTest::qWait(20);
        publish->random()->setValue(4);
        return publish;
    }
    static void waitChecked(PublishWindow* publish) { QTRY_VERIFY_WITH_TIMEOUT(!publish->run().running(), 120000); }
    /// A bollard whose wall gets thicker than it can be where it is tall.
    void spoil() {
        document().apply(setSetting(loom(), "wall", "thickness", Json{{"formula", "ctl.height > 1.5 ? 0.5 : ctl.wall"}}));
        waitFresh();
    }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    void whatIsToldOfTheLoomIsEdited() {
        PublishWindow* publish = open();
        QCOMPARE(publish->version()->text(), QStringLiteral("1.0.0"));
        publish->version()->setFocus();
        publish->version()->selectAll();
        QTest::keyClicks(publish->version(), "one");
        QTest::keyClick(publish->version(), Qt::Key_Return);
        QCOMPARE(loom().extra["version"], Json("one"));
        QVERIFY(!publish->publishButton()->isEnabled());
        QVERIFY(!publish->publishTo(folder_.filePath("never.loompack")) && publish->message().contains("1.0.0"));
        publish->summary()->setFocus();
        undo();
        QCOMPARE(loom().extra["version"], Json("1.0.0"));
        QCOMPARE(publish->version()->text(), QStringLiteral("1.0.0"));
        QVERIFY(publish->publishButton()->isEnabled());
    }

    void whatIsNotFitIsShownAndOpened() {
        spoil();
        PublishWindow* publish = open();
        QTest::mouseClick(publish->checkButton(), Qt::LeftButton);
        QVERIFY(publish->run().running());
        waitChecked(publish);
        QVERIFY2(publish->verdict().contains("not fit"), qPrintable(publish->verdict()));
        const int all = publish->table()->rowCount();
        QCOMPARE(std::size_t(all), publish->run().trials().size());
        publish->onlyUnfit()->setChecked(true);
        QVERIFY(publish->table()->rowCount() > 0 && publish->table()->rowCount() < all);
        int row = -1;
        for (int r = 0; r < publish->table()->rowCount(); ++r)
            if (publish->table()->item(r, 1)->text() == QStringLiteral("Height 2 m")) row = r;
        QVERIFY(row >= 0);
        publish->table()->selectRow(row);
        QTest::mouseClick(publish->openButton(), Qt::LeftButton);
        QCOMPARE(loom().valueInUse("height"), Json(2.0));
        QCOMPARE(QString::fromStdString(weave()->chosen()), QStringLiteral("wall"));
        QVERIFY(publish->verdict().contains("not fit"));
        // The values can be taken back in one step.
        undo();
        QVERIFY(loom().valueInUse("height").is_null());
    }

    void theSmallestChangeIsFound() {
        spoil();
        PublishWindow* publish = open();
        publish->check();
        waitChecked(publish);
        int row = -1;
        for (int r = 0; r < publish->table()->rowCount(); ++r)
            if (publish->table()->item(r, 1)->text() == QStringLiteral("Height 2 m")) row = r;
        publish->table()->selectRow(row);
        QVERIFY(publish->shrinkButton()->isEnabled());
        QTest::mouseClick(publish->shrinkButton(), Qt::LeftButton);
        waitChecked(publish);
        const double height = loom().valueInUse("height").get<double>();
        QVERIFY2(height > 1.5 && height < 1.56, std::to_string(height).c_str());
        QVERIFY(publish->message().contains("Height"));
    }

    void whatControlsDoIsShownAndLimited() {
        spoil();
        Control idle;
        idle.id = "idle", idle.label = "Idle", idle.fallback = 1.0, idle.min = 0, idle.max = 2;
        Loom with = loom();
        with.controls.push_back(idle);
        document().adopt(with);
        waitFresh();
        PublishWindow* publish = open();
        publish->pages()->setCurrentWidget(publish->effects());
        EffectsPage* page = publish->effects();
        QVERIFY(page->verdict().startsWith("Not looked at"));
        QTest::mouseClick(page->lookButton(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(!page->run().running(), 120000);
        QCOMPARE(page->table()->rowCount(), int(loom().controls.size()));
        QVERIFY2(page->verdict().contains("1 control without effect") && page->verdict().contains("not fit everywhere"), qPrintable(page->verdict()));
        QCOMPARE(page->table()->item(page->table()->rowCount() - 1, 1)->text(), QStringLiteral("nothing"));
        int row = -1;
        for (int r = 0; r < page->table()->rowCount(); ++r)
            if (page->table()->item(r, 0)->text() == QStringLiteral("Height")) row = r;
        page->table()->selectRow(row);
        QVERIFY(page->limitButton()->isEnabled());
        QTest::mouseClick(page->limitButton(), Qt::LeftButton);
        const Control* height = loom().control("height");
        QVERIFY2(*height->max <= 1.5 && *height->max > 1.45, std::to_string(*height->max).c_str());
        QCOMPARE(height->min, std::optional(0.3));
        QVERIFY(page->verdict().contains("has changed"));
        undo();
        QCOMPARE(loom().control("height")->max, std::optional(2.0));
    }

    void aChangeMakesTheVerdictOld() {
        PublishWindow* publish = open();
        publish->check();
        waitChecked(publish);
        const QString before = publish->verdict();
        QVERIFY2(before.contains("fit"), qPrintable(before));
        // Values in use and what is told of the loom are no matter.
        document().apply(setControlValue(loom(), "wall", 0.02));
        document().apply(renameLoom(loom(), "Quay post"));
        QCOMPARE(publish->verdict(), before);
        document().apply(setSetting(loom(), "wall", "thickness", 0.03));
        QVERIFY(publish->verdict().contains("Check it again"));
        undo();
        QCOMPARE(publish->verdict(), before);
    }

    void aCheckIsStopped() {
        PublishWindow* publish = open();
        publish->random()->setValue(2000);
        publish->check();
        QTest::qWait(200);
        QTest::mouseClick(publish->checkButton(), Qt::LeftButton);
        QVERIFY(!publish->run().running());
        QVERIFY2(publish->verdict().startsWith("Stopped"), qPrintable(publish->verdict()));
        // Closed in the middle, nothing is left running.
        publish->check();
        publish->close();
        QTest::qWait(50);
    }

    void aSheetIsWritten() {
        PublishWindow* publish = open();
        QSignalSpy ended(&publish->sheetRun(), &SheetRun::ended), told(&publish->sheetRun(), &SheetRun::progressed);
        const QString page = folder_.filePath("bollard.html"), picture = folder_.filePath("bollard.png");
        publish->sheetTo(page);
        QVERIFY(publish->sheetRun().running());
        QCOMPARE(publish->sheetButton()->text(), QStringLiteral("Stop the sheet"));
        QTRY_COMPARE_WITH_TIMEOUT(ended.size(), 1, 120000);
        QVERIFY2(publish->message().contains("is written as"), qPrintable(publish->message()));
        QVERIFY(!told.isEmpty());
        QFile html(page);
        QVERIFY(html.open(QIODevice::ReadOnly) && html.readAll().contains("<h1>Mooring bollard</h1>"));
        publish->sheetTo(picture);
        // Stopped, nothing is written; then written all the same.
        QTest::mouseClick(publish->sheetButton(), Qt::LeftButton);
        QVERIFY(publish->message().contains("stopped") && !publish->sheetRun().running());
        QTest::qWait(100);
        QVERIFY(!QFileInfo::exists(picture));
        publish->sheetTo(picture);
        QTRY_COMPARE_WITH_TIMEOUT(ended.size(), 2, 120000);
        QCOMPARE(QImage(picture).width(), 1280);
        publish->sheetTo(folder_.filePath("gone/bollard.png"));
        QTRY_COMPARE_WITH_TIMEOUT(ended.size(), 3, 120000);
        QVERIFY2(publish->message().startsWith("The sheet was not written"), qPrintable(publish->message()));
        // Closed in the middle, nothing is left running.
        publish->sheetTo(picture);
        publish->close();
        QTest::qWait(50);
    }

    void aPackIsPublishedAndUsed() {
        const QString file = folder_.filePath("bollard.loompack");
        PublishWindow* publish = open();
        QSignalSpy written(publish, &PublishWindow::written);
        QVERIFY(publish->publishTo(file));
        QTRY_COMPARE_WITH_TIMEOUT(written.size(), 1, 60000);
        QVERIFY2(written[0][0].toBool(), qPrintable(publish->message()));
        QVERIFY2(publish->message().contains("not known to be fit"), qPrintable(publish->message()));
        const Geometry alone = output();
        publish->close();
        // Opened, it offers to be used in another loom: it gives the same there, with its controls as settings.
        QVERIFY(!window_->openFile(file));
        QVERIFY2(window_->message().contains("used as one node"), qPrintable(window_->message()));
        QVERIFY(window_->answerMessage(QStringLiteral("Use it in a new loom")));
        waitFresh();
        std::string id;
        for (const Node& node : loom().nodes)
            if (node.op == "asset") id = node.id;
        QVERIFY(!id.empty());
        const auto outcome = window_->rebuilds().outcome(id);
        QVERIFY(outcome);
        QCOMPARE(outcome->geometry.faceCount(), alone.faceCount());
        QCOMPARE(boundsOf(outcome->geometry).size(), boundsOf(alone).size());
        QVERIFY(document().specOf(*loom().node(id))->setting("height"));
        document().apply(setSetting(loom(), id, "height", 1.6, document().assets()));
        waitFresh();
        QVERIFY(std::abs(boundsOf(window_->rebuilds().outcome(id)->geometry).size().y - 1.6f) < 0.002f);
        // A full disk, or a folder that is gone: said, and the old pack stays.
        window_->openDemo();
        publish = open();
        QSignalSpy failed(publish, &PublishWindow::written);
        QVERIFY(publish->publishTo(folder_.filePath("gone/bollard.loompack")));
        QTRY_COMPARE_WITH_TIMEOUT(failed.size(), 1, 60000);
        QVERIFY(!failed[0][0].toBool() && publish->message().startsWith("Not published"));
        QVERIFY(readPack(file.toStdString()));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestPublishing>(argc, argv); }
#include "test_publishing.moc"
