// Variations in a real window: choosing what varies, looking, starring, comparing, using, keeping, exporting; leaving and coming back.
#include "WindowTest.h"
#include "app/settings/ControlsPanel.h"
#include "app/vary/FactList.h"
#include "app/vary/VaryPanel.h"
#include "app/vary/VaryView.h"
#include "files/FileIo.h"
#include "formats/LoomFile.h"

#include <QtWidgets/QComboBox>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;

namespace {

/// A beam, quickly built; where it is too wide for its length, it can't be.
constexpr const char* kBeam = R"({"seedloom": 1, "name": "Beam",
"controls": [
 {"id": "long", "label": "Long", "type": "number", "default": 1, "min": 0.5, "max": 2, "unit": "m"},
 {"id": "wide", "label": "Wide", "type": "number", "default": 0.2, "min": 0.1, "max": 0.6, "unit": "m", "allowed_when": "ctl.wide < ctl.long * 0.6"},
 {"id": "cells", "label": "Cells", "type": "integer", "default": 1, "min": 1, "max": 40},
 {"id": "kind", "label": "Kind", "type": "choice", "default": "oak", "choices": ["oak", "pine", "ash"]}],
"presets": [{"name": "Short", "values": {"long": 0.7}}],
"nodes": [
 {"id": "box", "op": "box", "cell": [0, 0], "settings": {"size": {"formula": "vec3(ctl.long, 0.1, ctl.wide) "},
  "cells": {"formula": "vec3(ctl.cells, 1, 1) "}}},
 {"id": "out", "op": "output", "cell": [1, 0]}],
"links": [["box", "out"]], "output": "out"})";

}  // namespace

class TestVarying : public WindowTest {
    Q_OBJECT

    VaryWorkplace& vary() { return window_->vary(); }
    VarySheet& sheet() { return vary().sheet(); }
    VaryView* view() { return vary().view(); }
    QString file(const QString& name) const { return folder_.filePath(name); }
    void waitMade() { QTRY_VERIFY_WITH_TIMEOUT(!sheet().running(), 30000); }
    void openBeam(QString name = {}) {
        if (name.isEmpty()) name = QLatin1String(QTest::currentTestFunction()) + QStringLiteral(".loom");
        if (!QFileInfo::exists(file(name))) QVERIFY(!writeFileAtomically(file(name).toStdString(), kBeam));
        window_ = std::make_unique<MainWindow>();
        window_->resize(1280, 800);
        QVERIFY(window_->openFile(file(name)));
        showWindow();
        window_->showWorkplace(QStringLiteral("vary"));
    }
    /// How a control varies, chosen with keys as a hand would.
    void setHow(const char* control, const QString& how) {
        QComboBox* box = vary().panel()->how(control);
        QVERIFY2(box, control);
        const int index = box->findText(how);
        QVERIFY2(index >= 0, qPrintable(how));
        while (vary().panel()->how(control)->currentIndex() < index) {
            const int before = vary().panel()->how(control)->currentIndex();
            QTest::keyClick(vary().panel()->how(control), Qt::Key_Down);
            QVERIFY(vary().panel()->how(control)->currentIndex() > before);
        }
    }
    QRect cell(std::size_t item) { return view()->visualRect(vary().table().indexOf(item)); }
    void clickCell(std::size_t item) { QTest::mouseClick(view()->viewport(), Qt::LeftButton, {}, cell(item).center() - QPoint(0, 20)); }
    void clickStar(std::size_t item) { QTest::mouseClick(view()->viewport(), Qt::LeftButton, {}, view()->starOf(vary().table().indexOf(item)).center()); }
    /// Nine in a table: three lengths, three widths.
    void varyNine() {
        setHow("long", QStringLiteral("steps"));
        setHow("wide", QStringLiteral("steps"));
        VaryPlan plan = sheet().plan();
        plan.controls = {{"long", VariedControl::How::steps, {}, 1, 2, 3}, {"wide", VariedControl::How::steps, {}, 0.1, 0.5, 3}};
        sheet().setPlan(plan);
        waitMade();
        QCOMPARE(sheet().count(), std::size_t(9));
    }
    static QComboBox* choose(QComboBox* box, const QString& text) {
        box->setCurrentIndex(box->findText(text));
        Q_EMIT box->activated(box->currentIndex());
        return box;
    }

private Q_SLOTS:
    void init() { QDir(VarySheet::cacheFolder()).removeRecursively(); }
    void cleanup() { window_.reset(); }

    void theBollardByChance() {
        openDemoWindow();
        run("workplace_vary");
        QVERIFY(!view()->isVisible());
        auto buttons = window_->findChildren<QPushButton*>();
        const auto invited = std::find_if(buttons.begin(), buttons.end(),
                                          [](QPushButton* b) { return b->isVisible() && b->text() == QLatin1String("Vary everything by chance"); });
        QVERIFY(invited != buttons.end());
        QTest::mouseClick(*invited, Qt::LeftButton);
        QCOMPARE(sheet().count(), std::size_t(24));
        QVERIFY(view()->isVisible() && sheet().running());
        waitMade();
        std::set<std::string> models;
        for (std::size_t i = 0; i < 24; ++i) {
            QVERIFY2(sheet().row(i) && sheet().row(i)->ok, qPrintable(QString::number(i)));
            models.insert(sheet().row(i)->digest);
            QVERIFY(QFileInfo::exists(sheet().pictureFile(i)));
        }
        QCOMPARE(models.size(), std::size_t(24));
        QCOMPARE(vary().progressText(), QStringLiteral("24 variations"));
        QVERIFY(vary().panel()->how("height")->currentText() == QLatin1String("by chance"));
        // What is in view has its picture on the screen.
        QTRY_VERIFY(!vary().table().picture(0, QSize(90, 60)).isNull());
        // Another number: the first ones stay as they are, and are not made again.
        const std::string third = sheet().row(3)->digest;
        vary().panel()->count()->setValue(30);
        QCOMPARE(sheet().count(), std::size_t(30));
        QVERIFY(sheet().row(3) && sheet().row(3)->digest == third && !sheet().row(29));
        waitMade();
        QVERIFY(sheet().row(29));
        vary().panel()->seed()->setValue(8);
        QVERIFY(!sheet().row(3));
        waitMade();
    }

    void whatVariesIsChosenByRow() {
        openBeam();
        setHow("kind", QStringLiteral("values"));
        QCOMPARE(sheet().count(), std::size_t(3));
        QCOMPARE(vary().panel()->sum(), QStringLiteral("3 kind"));
        setHow("long", QStringLiteral("steps"));
        QCOMPARE(sheet().count(), std::size_t(12));
        QCOMPARE(vary().panel()->sum(), QStringLiteral("4 long × 3 kind = 12"));
        QTest::keyClick(vary().panel()->presets(), Qt::Key_Down);
        QCOMPARE(vary().panel()->sum(), QStringLiteral("1 preset × 4 long × 3 kind = 12"));
        QTest::keyClick(vary().panel()->presets(), Qt::Key_Up);
        QTest::mouseClick(vary().panel()->numberButton(), Qt::LeftButton);
        QCOMPARE(sheet().count(), std::size_t(24));
        vary().panel()->count()->setValue(7);
        QCOMPARE(sheet().count(), std::size_t(7));
        QTest::mouseClick(vary().panel()->allButton(), Qt::LeftButton);
        QCOMPARE(sheet().count(), std::size_t(12));
        QTest::mouseClick(vary().panel()->nothing(), Qt::LeftButton);
        QCOMPARE(sheet().count(), std::size_t(0));
        // A list that can't be read stays, and says why; nothing is made of it.
        setHow("long", QStringLiteral("values"));
        QCOMPARE(sheet().count(), std::size_t(3));
        auto* field = [&]() -> QLineEdit* {
            for (auto* one : vary().panel()->findChildren<QLineEdit*>())
                if (one->isVisible() && one->accessibleName() == QLatin1String("Values of Long")) return one;
            return nullptr;
        }();
        QVERIFY(field);
        field->setText(QStringLiteral("0.6; 9"));
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY2(vary().panel()->problem().contains(QLatin1String("Long")), qPrintable(vary().panel()->problem()));
        QCOMPARE(sheet().count(), std::size_t(3));
        field->setText(QStringLiteral("0.6; 0.9"));
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(sheet().count(), std::size_t(2));
        QVERIFY(vary().panel()->problem().isEmpty());
        // Too many are not begun.
        VaryPlan plan = sheet().plan();
        plan.controls = {{"long", VariedControl::How::steps, {}, 1, 2, 9000}, {"wide", VariedControl::How::steps, {}, 0.1, 0.5, 3}};
        sheet().setPlan(plan);
        QVERIFY(sheet().count() == 0 && vary().panel()->problem().contains(QLatin1String("27000")));
        QVERIFY(vary().panel()->sum().endsWith(QStringLiteral("= 27") + QChar(0x2009) + QStringLiteral("000")));
    }

    void oneIsChosenStarredAndUsed() {
        openBeam();
        varyNine();
        clickCell(4);
        QCOMPARE(vary().shown(), std::optional(sheet().variation(4)));
        QTRY_COMPARE(boundsOf(vary().stage()->subject().outcome->geometry).size().x, 1.5f);
        QTRY_COMPARE(vary().facts()->value(QStringLiteral("Width")), QStringLiteral("1.5 m"));
        QTRY_COMPARE(vary().facts()->difference(QStringLiteral("Width")), QStringLiteral("+0.5"));
        QCOMPARE(vary().facts()->difference(QStringLiteral("Faces")), QStringLiteral("same"));
        // Its star, by mouse and by key.
        clickStar(2);
        QVERIFY(sheet().starred(sheet().variation(2)));
        QCOMPARE(vary().shown(), std::optional(sheet().variation(4)));
        view()->setFocus();
        QTest::keyClick(view(), Qt::Key_Space);
        QVERIFY(sheet().starred(sheet().variation(4)));
        QCOMPARE(vary().stars()->count(), 2);
        QTest::keyClick(view(), Qt::Key_Right);
        QCOMPARE(vary().shown(), std::optional(sheet().variation(5)));
        QTest::keyClick(view(), Qt::Key_Left);
        // A row's end goes on in the next row.
        const int across = vary().table().columnCount();
        view()->choose(std::size_t(across - 1));
        QTest::keyClick(view(), Qt::Key_Right);
        QCOMPARE(vary().shown(), std::optional(sheet().variation(std::size_t(across))));
        view()->choose(4);
        // Enter uses its values, as one step.
        QTest::keyClick(view(), Qt::Key_Return);
        QCOMPARE(loom().values.at("long"), Json(1.5));
        QCOMPARE(loom().values.at("wide"), Json(0.3));
        waitMade();
        undo();
        QVERIFY(loom().values.empty());
        // The strip of starred ones shows one again, and takes stars away.
        vary().stars()->setCurrentRow(0);
        QCOMPARE(vary().shown(), std::optional(sheet().variation(2)));
        vary().stars()->setFocus();
        QTest::keyClick(vary().stars(), Qt::Key_Delete);
        QCOMPARE(vary().stars()->count(), 1);
        QVERIFY(!sheet().starred(sheet().variation(2)));
        QTest::mouseClick(vary().useButton(), Qt::LeftButton);
        QCOMPARE(loom().values.at("wide"), Json(0.5));
        // One that the sheet does not hold any more is still shown, as large as others.
        VaryPlan fewer = sheet().plan();
        fewer.controls = {{"cells", VariedControl::How::values, {1, 2}, 0, 1, 1}};
        const VaryPlan nine = sheet().plan();
        sheet().setPlan(fewer);
        view()->choose(1);
        vary().stars()->setCurrentRow(0);
        QVERIFY(!view()->chosen());
        QTRY_COMPARE(boundsOf(vary().stage()->subject().outcome->geometry).size().x, 1.5f);
        QTRY_COMPARE(vary().facts()->value(QStringLiteral("Width")), QStringLiteral("1.5 m"));
        sheet().setPlan(nine);
        // Open in Build goes there with the values.
        view()->choose(8);
        run("vary_open");
        QCOMPARE(loom().values.at("long"), Json(2.0));
        QVERIFY(window_->stage()->isVisible() && !view()->isVisible());
        QCOMPARE(boundsOf(output()).size().x, 2.0f);
        // Each workplace offers what works on what is seen there.
        QVERIFY(!window_->action(QStringLiteral("vary_open"))->isEnabled() && window_->action(QStringLiteral("delete"))->isEnabled());
        run("workplace_vary");
        QVERIFY(window_->action(QStringLiteral("vary_open"))->isEnabled() && !window_->action(QStringLiteral("delete"))->isEnabled());
        const auto nodes = loom().nodes.size();
        QTest::keyClick(view(), Qt::Key_Delete);
        QTest::keyClick(view(), Qt::Key_Slash);
        QVERIFY(loom().nodes.size() == nodes && !QApplication::activePopupWidget());
    }

    void oneIsKeptAsAPreset() {
        openBeam();
        varyNine();
        clickCell(7);
        QTest::mouseClick(vary().keepButton(), Qt::LeftButton);
        QVERIFY(vary().presetName()->hasFocus());
        QTest::keyClick(vary().presetName(), Qt::Key_Escape);
        QVERIFY(!vary().presetName()->isVisible());
        QTest::mouseClick(vary().keepButton(), Qt::LeftButton);
        QTest::keyClicks(vary().presetName(), QStringLiteral("Long beam"));
        QTest::keyClick(vary().presetName(), Qt::Key_Return);
        QVERIFY(loom().preset("Long beam"));
        QCOMPARE(loom().preset("Long beam")->values, (std::map<std::string, Json>{{"long", 2.0}, {"wide", 0.3}}));
        QVERIFY(loom().values.empty());
        undo();
        QVERIFY(!loom().preset("Long beam"));
    }

    void twoAreCompared() {
        openBeam();
        varyNine();
        clickCell(8);
        run("vary_compare");
        QTRY_VERIFY(vary().stage()->comparing());
        QCOMPARE(boundsOf(vary().stage()->subject().outcome->geometry).size().x, 2.0f);
        sheet().setStarred(sheet().variation(0), true);
        vary().compareWith(sheet().variation(0));
        QTRY_COMPARE(vary().facts()->difference(QStringLiteral("Depth")), QStringLiteral("+0.4"));
        clickCell(3);
        QTRY_COMPARE(vary().facts()->difference(QStringLiteral("Depth")), QStringLiteral("same"));
        QTRY_COMPARE(vary().facts()->difference(QStringLiteral("Width")), QStringLiteral("+0.5"));
        QTRY_VERIFY(vary().stage()->comparing());
        vary().compareWith({});
        QVERIFY(!vary().stage()->comparing());
    }

    void starredOnesAreExported() {
        openBeam();
        varyNine();
        QVERIFY(vary().exportButton()->isEnabled());
        for (const std::size_t item : {1, 5, 8}) clickStar(item);
        QCOMPARE(vary().exportButton()->text(), QStringLiteral("Export 3 …"));
        vary().pattern()->setText(QStringLiteral("{name}"));
        vary().exportTo(file(QStringLiteral("out")));
        QVERIFY2(vary().exportText().contains(QLatin1String("{n}")), qPrintable(vary().exportText()));
        vary().pattern()->setText(QStringLiteral("{name}-{n}-{long}"));
        QSignalSpy ended(&vary().exporting(), &VaryExport::ended);
        vary().exportTo(file(QStringLiteral("out")));
        QVERIFY(ended.wait(20000));
        QVERIFY(ended.front()[0].toString().isEmpty());
        for (const char* name :
             {"out/Beam-0001-1.0.glb", "out/Beam-0002-1.5.glb", "out/Beam-0003-2.0.glb", "out/index.csv", "out/contact.png", "out/contact.html"})
            QVERIFY2(QFileInfo::exists(file(QLatin1String(name))), name);
        QCOMPARE(vary().exportText(), QStringLiteral("3 written."));
        // The same folder again would mix them.
        vary().exportTo(file(QStringLiteral("out")));
        QVERIFY(ended.wait(20000));
        QVERIFY2(vary().exportText().contains(QLatin1String("another")), qPrintable(vary().exportText()));
    }

    void oneControlOverTheColumnsAnotherOverTheRows() {
        openBeam();
        varyNine();
        choose(vary().columns(), QStringLiteral("Wide"));
        choose(vary().rows(), QStringLiteral("Long"));
        VaryTable& table = vary().table();
        QCOMPARE(table.columnCount(), 3);
        QCOMPARE(table.rowCount(), 3);
        QCOMPARE(table.headerData(0, Qt::Horizontal, Qt::DisplayRole).toString(), QStringLiteral("0.1 m"));
        QCOMPARE(table.headerData(2, Qt::Vertical, Qt::DisplayRole).toString(), QStringLiteral("2 m"));
        QVERIFY(view()->horizontalHeader()->isVisible() && view()->verticalHeader()->isVisible());
        QCOMPARE(*table.item(table.index(1, 2)), std::size_t(5));
        QVERIFY(view()->horizontalScrollBar()->maximum() == 0);
        // Three kinds of each: the same place three times over, one below the other.
        VaryPlan plan = sheet().plan();
        plan.controls.push_back({"kind", VariedControl::How::values, {"oak", "pine", "ash"}, 0, 1, 1});
        sheet().setPlan(plan);
        QCOMPARE(table.rowCount(), 9);
        QCOMPARE(table.columnCount(), 3);
        QCOMPARE(table.headerData(3, Qt::Vertical, Qt::DisplayRole).toString(), QStringLiteral("1.5 m"));
        QCOMPARE(table.headerData(4, Qt::Vertical, Qt::DisplayRole).toString(), QString());
        QCOMPARE(table.caption(*table.item(table.index(4, 1))), QStringLiteral("Kind pine"));
        std::set<std::size_t> seen;
        for (int r = 0; r < 9; ++r)
            for (int c = 0; c < 3; ++c) seen.insert(table.item(table.index(r, c)).value_or(999));
        QCOMPARE(seen.size(), std::size_t(27));
        waitMade();
        // An order of their own leaves the grid.
        choose(vary().order(), QStringLiteral("by volume"));
        QVERIFY(!view()->horizontalHeader()->isVisible());
        double before = 0;
        for (int at = 0; at < 27; ++at) {
            const auto item = table.item(table.index(at / table.columnCount(), at % table.columnCount()));
            QVERIFY(sheet().row(*item)->volume >= before - 1e-9);
            before = sheet().row(*item)->volume;
        }
    }

    void theyAreFiltered() {
        openBeam();
        setHow("cells", QStringLiteral("steps"));
        QCOMPARE(sheet().count(), std::size_t(4));
        waitMade();
        view()->choose(3);
        vary().condition()->setText(QStringLiteral("faces < 100 && cells > 1"));
        QTest::keyClick(vary().condition(), Qt::Key_Return);
        QCOMPARE(vary().table().shownCount(), std::size_t(1));
        QVERIFY(vary().table().indexOf(1).isValid() && !vary().table().indexOf(3).isValid());
        QVERIFY(vary().progressText().contains(QLatin1String("1 shown")));
        vary().condition()->setText(QStringLiteral("faces <"));
        QTest::keyClick(vary().condition(), Qt::Key_Return);
        QVERIFY(!vary().table().problem().isEmpty());
        QCOMPARE(vary().table().shownCount(), std::size_t(4));
        vary().condition()->clear();
        QVERIFY(vary().table().problem().isEmpty());
        sheet().setStarred(sheet().variation(2), true);
        choose(vary().kind(), QStringLiteral("starred"));
        QCOMPARE(vary().table().shownCount(), std::size_t(1));
        choose(vary().kind(), QStringLiteral("warned"));
        QCOMPARE(vary().table().shownCount(), std::size_t(0));
        choose(vary().kind(), QStringLiteral("all"));
        QCOMPARE(vary().table().shownCount(), std::size_t(4));
    }

    void whatFailsSaysWhyInItsPlace() {
        openBeam();
        VaryPlan plan;
        plan.controls = {{"long", VariedControl::How::steps, {}, 0.5, 2, 2}, {"wide", VariedControl::How::steps, {}, 0.1, 0.6, 2}};
        sheet().setPlan(plan);
        waitMade();
        QVERIFY(sheet().row(0)->ok && !sheet().row(1)->ok);
        QCOMPARE(sheet().failedCount(), std::size_t(1));
        QVERIFY2(vary().progressText().contains(QLatin1String("1 failed")), qPrintable(vary().progressText()));
        QVERIFY(vary().table().data(vary().table().indexOf(1), Qt::ToolTipRole).toString().contains(QLatin1String("must hold")));
        const QImage before = view()->viewport()->grab(cell(1)).toImage();
        clickCell(1);
        QCOMPARE(vary().facts()->value(QStringLiteral("Faces")), QStringLiteral("–"));
        QVERIFY(before != view()->viewport()->grab(cell(1)).toImage());
    }

    void itGoesOnInBuildAndFollowsWhatIsDoneThere() {
        openBeam();
        VaryPlan plan = everythingByChance(loom());
        plan.count = 60;
        sheet().setPlan(plan);
        window_->showWorkplace(QStringLiteral("build"));
        QVERIFY(sheet().running());
        waitMade();
        QCOMPARE(sheet().doneCount(), std::size_t(60));
        const std::string digest = sheet().row(7)->digest;
        // A change in Build is made here when somebody looks, and an undo finds what was there.
        document().apply(setSetting(loom(), "box", "anchor", "bottom"));
        waitFresh();
        QCOMPARE(sheet().row(7)->digest, digest);
        window_->showWorkplace(QStringLiteral("vary"));
        QVERIFY(!sheet().row(7) && sheet().running());
        waitMade();
        QVERIFY(sheet().row(7)->digest != digest);
        undo();
        waitMade();
        QCOMPARE(sheet().row(7)->digest, digest);
        // What is not varied stays as it is in use, and is what others are beside.
        plan.controls = {{"long", VariedControl::How::values, {1.0, 2.0}, 0, 1, 1}};
        plan.all = true;
        sheet().setPlan(plan);
        document().apply(setControlValue(loom(), "wide", 0.4));
        waitMade();
        QVERIFY(std::abs(sheet().row(0)->size[2] - 0.4) < 1e-6);
        QVERIFY(std::abs(sheet().row(sheet().inUse())->size[2] - 0.4) < 1e-6);
    }

    void stoppedAndGoneOn() {
        openDemoWindow();
        window_->showWorkplace(QStringLiteral("vary"));
        VaryPlan plan = everythingByChance(loom());
        plan.count = 400;
        sheet().setPlan(plan);
        QTRY_VERIFY(sheet().doneCount() > 3);
        QTest::mouseClick(vary().stopButton(), Qt::LeftButton);
        QVERIFY(!sheet().running() && sheet().stopped());
        QCOMPARE(vary().stopButton()->text(), QStringLiteral("Go on"));
        const std::size_t done = sheet().doneCount();
        QVERIFY(done < 400);
        QTest::qWait(400);
        QVERIFY(sheet().doneCount() <= done + 2);
        // What is in view comes next.
        view()->scrollToBottom();
        QTest::mouseClick(vary().stopButton(), Qt::LeftButton);
        QTRY_VERIFY_WITH_TIMEOUT(sheet().row(399) && sheet().row(398) && sheet().row(397), 20000);
        QVERIFY(!sheet().row(200));
        QTest::mouseClick(vary().stopButton(), Qt::LeftButton);
    }

    void itIsFoundAsItWasLeft() {
        openBeam(QStringLiteral("left.loom"));
        varyNine();
        choose(vary().columns(), QStringLiteral("Wide"));
        clickStar(5);
        clickCell(3);
        const std::string digest = sheet().row(5)->digest;
        window_.reset();
        openBeam(QStringLiteral("left.loom"));
        QCOMPARE(sheet().count(), std::size_t(9));
        QCOMPARE(vary().table().arrangement().columns, std::string("wide"));
        QCOMPARE(vary().shown(), std::optional(sheet().variation(3)));
        QVERIFY(sheet().starred(sheet().variation(5)));
        QVERIFY(!document().modified());
        waitMade();
        QCOMPARE(sheet().row(5)->digest, digest);
        // Saved, it goes with the file to whoever has not varied it yet.
        QVERIFY(window_->saveTo(file(QStringLiteral("given.loom"))));
        QFile::copy(file(QStringLiteral("given.loom")), file(QStringLiteral("taken.loom")));
        window_.reset();
        openBeam(QStringLiteral("taken.loom"));
        QCOMPARE(sheet().count(), std::size_t(9));
        QCOMPARE(vary().stars()->count(), 1);
        // Another document knows nothing of it.
        QVERIFY(window_->openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/whelk.loom")));
        QVERIFY(sheet().plan().empty() && sheet().stars().empty());
    }

    void filesVaryWhatIsPluggedIn() {
        QVERIFY(!writeFileAtomically(file(QStringLiteral("near.obj")).toStdString(), "v 0 0 0\nv 1 0 0\nl 1 2\n"));
        QVERIFY(!writeFileAtomically(file(QStringLiteral("far.obj")).toStdString(), "v 0 0 0\nv 6 0 0\nl 1 2\n"));
        const QString loom = file(QStringLiteral("asked.loom"));
        QVERIFY(!writeFileAtomically(loom.toStdString(), R"({"seedloom": 1, "name": "Rail", "controls": [
            {"id": "thick", "label": "Thick", "type": "number", "default": 0.1, "min": 0.05, "max": 0.5, "unit": "m"}],
            "nodes": [{"id": "i", "op": "input_geometry", "cell": [0, 0], "label": "Line", "settings": {"name": "line", "kind": "curve"}},
                      {"id": "s", "op": "sweep", "cell": [1, 0], "settings": {"form": "tube", "width": {"control": "thick"}}},
                      {"id": "o", "op": "output", "cell": [2, 0]}],
            "links": [["i", "s"], ["s", "o"]], "output": "o"})"));
        openBeam(QStringLiteral("asked.loom"));
        QVERIFY(vary().panel()->how("line"));
        setHow("line", QStringLiteral("values"));
        auto fields = vary().panel()->findChildren<QLineEdit*>();
        const auto field =
            std::find_if(fields.begin(), fields.end(), [](QLineEdit* one) { return one->accessibleName().contains(QLatin1String("Line (input)")); });
        QVERIFY(field != fields.end());
        (*field)->setFocus();
        (*field)->selectAll();
        QTest::keyClicks(*field, QStringLiteral("near.obj; far.obj; gone.obj"));
        QTest::keyClick(*field, Qt::Key_Return);
        QTRY_COMPARE(sheet().count(), std::size_t(3));
        waitMade();
        QVERIFY(sheet().row(0)->ok && sheet().row(1)->ok && !sheet().row(2)->ok);
        QVERIFY(sheet().row(1)->size[0] > 5.9);
        QVERIFY2(QString::fromStdString(sheet().row(2)->problem).contains(QLatin1String("gone.obj")), sheet().row(2)->problem.c_str());
        // Used, it is the sample of the input; taken back, what was there is there again.
        clickCell(1);
        QTest::keyClick(view(), Qt::Key_Return);
        QCOMPARE(Json(window_->document().loom().nodes[0].settings["sample"]), Json("far.obj"));
        QVERIFY(window_->document().loom().controls.size() == 1 && window_->document().loom().values.empty());
        run("undo");
        QVERIFY(!window_->document().loom().nodes[0].settings.contains("sample"));
        // A preset says what it can't hold.
        QString said;
        connect(&vary(), &Workplace::messageWanted, this, [&](const QString& text) { said = text; });
        vary().keepAsPreset(QStringLiteral("Far"));
        QVERIFY(said.contains(QLatin1String("no part of a preset")));
        QVERIFY(window_->document().loom().preset("Far") && window_->document().loom().preset("Far")->values.empty());
    }

    void thousandsArePlannedBehindTheWindow() {
        openBeam();
        varyNine();
        const Variation chosen = sheet().variation(4);
        clickCell(4);
        VaryPlan plan = sheet().plan();
        plan.controls[0].steps = 40, plan.controls[1].steps = 100;
        sheet().setPlan(plan);
        // What stood there stands until the others are known.
        QCOMPARE(sheet().count(), std::size_t(9));
        QVERIFY(sheet().running() && sheet().row(4));
        QTRY_COMPARE(sheet().count(), std::size_t(4000));
        QVERIFY(sheet().variation(3999).given.at("long") == Json(2.0) && sheet().variation(3999).given.at("wide") == Json(0.5));
        QCOMPARE(*sheet().find(sheet().variation(3999)), std::size_t(3999));
        // The plan that comes last is the one that stays.
        plan.controls[0].steps = 20;
        sheet().setPlan(plan);
        plan.controls[0].steps = plan.controls[1].steps = 3;
        sheet().setPlan(plan);
        QCOMPARE(sheet().count(), std::size_t(9));
        QCOMPARE(sheet().variation(4), chosen);
        QTest::qWait(300);
        QCOMPARE(sheet().count(), std::size_t(9));
        waitMade();
        QVERIFY(sheet().row(4)->ok);
    }

    void themeAndSizeLeaveItAsItIs() {
        openBeam();
        varyNine();
        clickCell(6);
        setAppearance(ThemeName::night, 1.5);
        window_->rebuildInterface();
        QTRY_VERIFY(view()->isVisible());
        QCOMPARE(vary().shown(), std::optional(sheet().variation(6)));
        QCOMPARE(view()->chosen(), std::optional<std::size_t>(6));
        QVERIFY(vary().panel()->how("long")->currentText() == QLatin1String("steps"));
        clickStar(0);
        QCOMPARE(vary().stars()->count(), 1);
        setAppearance(ThemeName::linen, 1);
    }

    void turningTurnsAllPictures() {
        openBeam();
        varyNine();
        const QString before = sheet().pictureFile(0);
        StageCamera camera = vary().stage()->camera();
        camera.yaw = 75, camera.pitch = 40;
        vary().stage()->setCamera(camera);
        Q_EMIT vary().stage()->directionSettled(75, 40);
        QTRY_VERIFY(sheet().running() || sheet().pictureFile(0) != before);
        waitMade();
        QVERIFY(sheet().pictureFile(0) != before && sheet().pictureFile(0).contains(QLatin1String("75_40")));
        QVERIFY(QImage(before) != QImage(sheet().pictureFile(0)));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestVarying>(argc, argv); }
#include "test_varying.moc"
