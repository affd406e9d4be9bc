// The real window, driven by mouse and keys; what counts is the document and the geometry, not that a widget exists.
#include "WindowTest.h"
#include "app/data/DataDrawer.h"
#include "app/look/Theme.h"
#include "app/settings/ControlForm.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/MainWindow.h"
#include "app/shell/Startup.h"
#include "app/shell/TopLine.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/weave/QuickAdd.h"
#include "app/weave/Weave.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "formats/LoomFile.h"
#include "geometry/Checkup.h"
#include "geometry/Digest.h"
#include "geometry/Measures.h"
#include "meshes/MeshFile.h"

#include <QtCore/QSettings>
#include <QtCore/QTemporaryDir>
#include <QtTest/QAbstractItemModelTester>
#include <QtTest/QtTest>
#include <QtWidgets/QApplication>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QMenu>
#include <QtWidgets/QMessageBox>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;

class TestApp : public WindowTest {
    Q_OBJECT

private Q_SLOTS:
    void init() { openDemoWindow(); }
    /// With unsaved changes, too: the end of the window must not depend on them.
    void cleanup() { window_.reset(); }

    void theDemoIsShown() {
        QCOMPARE(loom().name, std::string("Mooring bollard"));
        QVERIFY(checkupOf(output()).sound());
        QTRY_VERIFY_WITH_TIMEOUT(window_->stage()->mesh() && window_->stage()->mesh()->faceCount == output().faceCount(), 10000);
        QVERIFY(window_->stage()->mesh()->closed);
        QVERIFY(window_->windowTitle().contains("Mooring bollard"));
        QVERIFY(!document().modified());
    }

    /// From nothing to a model: a new document, three nodes by quick add, and no alarm on the way.
    void aNewDocumentGrowsByQuickAdd() {
        document().startNew();
        waitFresh();
        QVERIFY(!window_->rebuilds().anyFailed());
        QVERIFY(waitsForInput(window_->rebuilds().report("output")));
        weave()->openQuickAddAt({0, 0});
        QTest::keyClicks(weave()->quickAdd()->field(), "box");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        QCOMPARE(weave()->chosen(), std::string("box"));
        weave()->openQuickAdd();
        QTest::keyClicks(weave()->quickAdd()->field(), "subdivide");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        QVERIFY(reaches(loom(), "box", "subdivide"));
        drag(weave(), weave()->outputKnob("subdivide").toPoint(), weave()->cardRect("output").center().toPoint());
        QVERIFY(reaches(loom(), "box", "output"));
        QCOMPARE(output().faceCount(), 24u);
        for (int i = 0; i < 3; ++i) undo();
        QCOMPARE(loom().nodes.size(), 1u);
    }

    void firstStepsActOnTheDemoOnly() {
        window_->showFirstSteps(true);
        const auto press = [&](const char* start) {
            for (auto* button : window_->findChildren<QPushButton*>())
                if (button->isVisible() && button->text().startsWith(QLatin1String(start))) return QTest::mouseClick(button, Qt::LeftButton);
            QFAIL("the button is not there");
        };
        press("2");
        QCOMPARE(weave()->chosen(), std::string("outline"));
        QCOMPARE(weave()->pinned(), std::string("soften"));
        QCOMPARE(window_->stage()->handles().size(), 6u);
        press("1");
        QVERIFY(window_->controls()->slider("height")->hasFocus());
        // The strip belongs to the demo: it goes with it, and asked for elsewhere it says so.
        document().startNew();
        for (auto* button : window_->findChildren<QPushButton*>()) QVERIFY(!button->isVisible() || !button->text().startsWith(QLatin1String("1  ")));
        window_->showFirstSteps(true);
        press("3");
        QVERIFY(!weave()->quickAdd()->isVisible());
        QVERIFY(window_->message().contains(QStringLiteral("demo")));
        window_->showFirstSteps(false);
    }

    void draggingASliderChangesTheModelAsOneStep() {
        Slider* slider = window_->controls()->slider("height");
        QVERIFY(slider);
        const auto steps = document().history().count();
        drag(slider, slider->pixelOf(0.9), slider->pixelOf(1.6));
        const double value = loom().values.at("height").get<double>();
        QVERIFY(std::abs(value - 1.6) < 0.03);
        QVERIFY(std::abs(double(height()) - value) < value * 0.001);
        QCOMPARE(document().history().count(), steps + 1);
        QCOMPARE(document().undoText(), QStringLiteral("Change Height"));
        undo();
        QVERIFY(!loom().values.contains("height"));
        QVERIFY(std::abs(height() - 0.9f) < 1e-4f);
        document().redo();
        QVERIFY(std::abs(double(height()) - value) < value * 0.001);
    }

    void typingAndDraggingNumbers() {
        NumberField* field = window_->controls()->field("height");
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClicks(field, "120cm");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(loom().values.at("height").get<double>(), 1.2);
        // Beyond the range the value is held, nonsense is kept back and said.
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClicks(field, "9");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(loom().values.at("height").get<double>(), 2.0);
        QTest::mouseClick(field, Qt::LeftButton);
        QTest::keyClicks(field, "tall");
        QTest::keyClick(field, Qt::Key_Return);
        QTest::keyClick(field, Qt::Key_Escape);
        QCOMPARE(loom().values.at("height").get<double>(), 2.0);
        drag(field, QPoint(60, 12), QPoint(30, 12));
        QVERIFY(loom().values.at("height").get<double>() < 2.0);
    }

    void numbersAreReadWithUnits_data() {
        QTest::addColumn<QString>("text");
        QTest::addColumn<QString>("unit");
        QTest::addColumn<double>("expected");
        QTest::newRow("cm") << "12cm"
                            << "m" << 0.12;
        QTest::newRow("mm") << "5 mm"
                            << "m" << 0.005;
        QTest::newRow("third") << "1/3"
                               << "" << 1.0 / 3;
        QTest::newRow("comma") << "0,5"
                               << "m" << 0.5;
        QTest::newRow("degrees") << "45deg"
                                 << "°" << 45.0;
        QTest::newRow("sum") << "1m + 20cm"
                             << "m" << 1.2;
        QTest::newRow("minus") << QString(QChar(0x2212)) + "3"
                               << "" << -3.0;
        QTest::newRow("wrong unit") << "12cm"
                                    << "°" << std::nan("");
        QTest::newRow("words") << "twelve"
                               << "m" << std::nan("");
        QTest::newRow("infinite") << "1/0"
                                  << "m" << std::nan("");
    }
    void numbersAreReadWithUnits() {
        QFETCH(QString, text);
        QFETCH(QString, unit);
        QFETCH(double, expected);
        const auto value = numberFromText(text, unit);
        QCOMPARE(value.has_value(), !std::isnan(expected));
        if (value) QVERIFY(std::abs(*value - expected) < 1e-12);
    }

    void draggingAPointOnTheStage() {
        NEED_OPENGL(window_->stage()->findChild<GlCanvas*>());
        click("soften");
        weave()->togglePin();
        click("outline");
        QTRY_COMPARE(window_->stage()->handles().size(), 6u);
        QTRY_VERIFY(window_->stage()->mesh());  // framed by now
        auto* overlay = window_->stage()->findChild<QWidget*>("stageOverlay");
        const Digest before = digestOf(output());
        const QPoint from = window_->stage()->handlePixel(3);
        drag(overlay, from, from + QPoint(25, -10));
        const Json points = loom().node("outline")->settings["points"];
        QVERIFY(points[3][0].get<double>() > 0.18);
        QVERIFY(points[3][1].get<double>() > 0.5);
        QCOMPARE(points[3][2].get<double>(), 0.0);  // a flat drawing stays flat
        QCOMPARE(points[0], Json({0.36, 0.0, 0.0}));
        QVERIFY(digestOf(output()) != before);
        QVERIFY(checkupOf(output()).closed);
        QVERIFY((window_->stage()->handlePixel(3) - (from + QPoint(25, -10))).manhattanLength() < 6);
        undo();
        QCOMPARE(digestOf(output()), before);
    }

    /// Pieces of a new document are framed as they come in, until the hand is on the stage.
    void theHandEndsFraming() {
        Stage* stage = window_->stage();
        QTRY_VERIFY(stage->mesh());
        auto* overlay = stage->findChild<QWidget*>("stageOverlay");
        const auto largerModel = [&](double height) {
            document().apply(setControlValue(loom(), "height", height));
            waitFresh();
            QTRY_VERIFY(stage->mesh() && std::abs(double(stage->mesh()->bounds.size().y) - height) < 0.01);
        };
        click("soften");
        stage->frameNext();
        const double before = stage->camera().distance;
        largerModel(2);
        QVERIFY(stage->camera().distance > before * 1.3);
        stage->frameNext();
        drag(overlay, QPoint(60, 300), QPoint(90, 300));
        const StageCamera mine = stage->camera();
        largerModel(1);
        QVERIFY(stage->camera() == mine);
    }

    void quickAddInsertsBehindTheChosenNode() {
        click("even");
        weave()->setFocus();
        QTest::keyClick(window_.get(), Qt::Key_Slash);
        QuickAdd* add = weave()->quickAdd();
        QTRY_VERIFY(add->isVisible());
        QTest::keyClicks(add->field(), "even out kinks");
        QTest::keyClick(add->field(), Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(add->field(), "smooth curve");
        QCOMPARE(add->list()->currentItem()->data(Qt::UserRole).toString(), QStringLiteral("smooth_curve"));
        QTest::keyClick(add->field(), Qt::Key_Return);
        QVERIFY(!add->isVisible());
        QCOMPARE(weave()->chosen(), std::string("smooth_curve"));
        QVERIFY(reaches(loom(), "even", "smooth_curve") && reaches(loom(), "smooth_curve", "wobble"));
        QCOMPARE(loom().node("wobble")->cell.column, 3);
        QCOMPARE(document().undoText(), QStringLiteral("Add Smooth curve"));
        QVERIFY(checkupOf(output()).closed);
        undo();
        QCOMPARE(loom().node("wobble")->cell.column, 2);
    }

    void quickAddFindsByWhatPeopleWant_data() {
        QTest::addColumn<QString>("typed");
        QTest::addColumn<QString>("op");
        const std::pair<const char*, const char*> rows[] = {
            {"even spacing", "resample"}, {"wall", "thicken"},   {"bumps", "noise_displace"}, {"circle", "polygon"}, {"cube", "box"},
            {"mask", "set_attribute"},    {"soften", "smooth"},  {"more faces", "subdivide"}, {"chamfer", "bevel"},  {"cut away", "boolean"},
            {"inside out", "flip"},       {"move", "transform"}, {"close gaps", "weld"},      {"vase", "revolve"}};
        for (const auto& [typed, op] : rows) QTest::newRow(typed) << typed << op;
    }
    void quickAddFindsByWhatPeopleWant() {
        QFETCH(QString, typed);
        QFETCH(QString, op);
        const auto found = operatorsFor(typed, {});
        const auto first = found.begin(), last = found.begin() + std::min<std::ptrdiff_t>(3, std::ptrdiff_t(found.size()));
        QVERIFY2(std::any_of(first, last, [&](const OperatorSpec* s) { return QString::fromStdString(s->id) == op; }), qPrintable(op));
        QVERIFY(operatorsFor("zzz", {}).empty());
        for (const OperatorSpec* s : operatorsFor("", {.onlyFitting = true})) QVERIFY(!s->inputs.empty());
    }

    void pullingAThreadIntoTheOpenAndOntoACard() {
        weave()->showAll();
        const QPointF knob = weave()->outputKnob("body");
        drag(weave(), knob.toPoint(), (knob + QPointF(40, 150)).toPoint());
        QuickAdd* add = weave()->quickAdd();
        QTRY_VERIFY(add->isVisible());
        for (int i = 0; i < add->list()->count(); ++i) QVERIFY(add->list()->item(i)->data(Qt::UserRole).toString() != "box");
        QTest::keyClicks(add->field(), "flip");
        QTest::keyClick(add->field(), Qt::Key_Return);
        QVERIFY(reaches(loom(), "body", "flip"));
        const std::size_t links = loom().links.size();
        // Onto a card: replaces what was plugged in there.
        drag(weave(), weave()->outputKnob("even").toPoint(), weave()->cardRect("body").center().toPoint());
        QCOMPARE(loom().links.size(), links);
        QVERIFY(std::any_of(loom().links.begin(), loom().links.end(), [](const Link& l) { return l.from == "even" && l.to == "body"; }));
        // A ring is refused.
        const Loom before = loom();
        drag(weave(), weave()->outputKnob("soften").toPoint(), weave()->cardRect("even").center().toPoint());
        QVERIFY(loom() == before);
    }

    void insertingOnALinkAndDeletingClosesTheStrand() {
        const Link link = loom().links[3];
        QCOMPARE(link.to, std::string("rubbed"));
        QTest::mouseDClick(weave(), Qt::LeftButton, {}, weave()->linkMiddle(link).toPoint());
        QuickAdd* add = weave()->quickAdd();
        QTRY_VERIFY(add->isVisible());
        QTest::keyClicks(add->field(), "transform");
        QTest::keyClick(add->field(), Qt::Key_Return);
        QCOMPARE(weave()->chosen(), std::string("transform"));
        QCOMPARE(loom().node("rubbed")->cell.column, 5);
        weave()->setFocus();
        QTest::keyClick(weave(), Qt::Key_Delete);
        QVERIFY(!loom().node("transform"));
        QCOMPARE(loom().node("rubbed")->cell.column, 4);
        QVERIFY(std::any_of(loom().links.begin(), loom().links.end(), [](const Link& l) { return l.from == "body" && l.to == "rubbed"; }));
        QCOMPARE(document().undoText(), QStringLiteral("Delete Transform"));
    }

    void movingSkippingRenamingWalking() {
        drag(weave(), weave()->cardRect("out").center().toPoint(),
             (weave()->cardRect("out").center() + QPointF(0, weave()->cardRect("out").height() * 3.1)).toPoint());
        QCOMPARE(loom().node("out")->cell.row, 2);
        click("wall");
        weave()->setFocus();
        QTest::keyClick(weave(), Qt::Key_K);
        QVERIFY(loom().node("wall")->skipped);
        QVERIFY(output().faceCount() < 15000);
        QTest::keyClick(weave(), Qt::Key_K);
        QVERIFY(!loom().node("wall")->skipped);
        QTest::keyClick(weave(), Qt::Key_Left);
        QCOMPARE(weave()->chosen(), std::string("dents"));
        QTest::keyClick(weave(), Qt::Key_Left);
        QTest::keyClick(weave(), Qt::Key_Left);
        QCOMPARE(weave()->chosen(), std::string("body"));
        QTest::keyClick(weave(), Qt::Key_F2);
        auto* field = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QVERIFY(field);
        QTest::keyClicks(field, "Turned body");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(loom().node("body")->label, std::string("Turned body"));
    }

    void aSettingBecomesAControl() {
        document().apply(setSetting(loom(), "soften", "crease_angle", 40));
        click("soften");
        QTimer::singleShot(200, this, [] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            for (QAction* action : menu->actions())
                if (action->text() == "Make a control of it") action->trigger();
            menu->close();
        });
        QTest::mouseClick(window_->settings()->row("crease_angle")->sourceButton(), Qt::LeftButton);
        // Name, section and range are asked in the column itself.
        QTRY_VERIFY(window_->controls()->form());
        QTest::keyClicks(window_->controls()->form()->name(), "Edge angle");
        QTest::keyClick(window_->controls()->form()->name(), Qt::Key_Return);
        QTRY_VERIFY(loom().control("crease_angle"));
        QCOMPARE(loom().control("crease_angle")->label, std::string("Edge angle"));
        QCOMPARE(loom().node("soften")->settings["crease_angle"], (Json{{"control", "crease_angle"}}));
        QVERIFY(window_->controls()->slider("crease_angle"));
        undo();
        QVERIFY(!loom().control("crease_angle"));
        QCOMPARE(loom().node("soften")->settings["crease_angle"], Json(40));
    }

    void failuresAreShownWhereTheyAre() {
        document().apply(setSetting(loom(), "wall", "thickness", {{"attribute", "widht"}}));
        waitFresh();
        QVERIFY(window_->rebuilds().anyFailed());
        window_->showDrawer("notices");
        bool found = false;
        for (auto* notices : window_->findChildren<QListWidget*>())
            for (int i = 0; i < notices->count(); ++i)
                found |= notices->item(i)->text().contains("widht") || notices->item(i)->data(Qt::AccessibleTextRole).toString().contains("widht");
        QVERIFY(found);
        undo();
        QVERIFY(!window_->rebuilds().anyFailed());
    }

    void dataShowsTheNumbers() {
        click("outline");
        window_->showDrawer("data");
        QTRY_COMPARE(window_->data()->model()->rowCount(), 6);
        GeometryModel* model = window_->data()->model();
        const QAbstractItemModelTester tester(model, QAbstractItemModelTester::FailureReportingMode::QtTest);
        QCOMPARE(model->headerData(1, Qt::Horizontal, Qt::DisplayRole).toString(), QStringLiteral("position.y"));
        QCOMPARE(model->data(model->index(1, 1), Qt::DisplayRole).toString(), QStringLiteral("0.06"));
        click("soften");
        QTRY_COMPARE(model->rowCount(), int(output().pointCount()));
        window_->data()->setElement(Element::face);
        QCOMPARE(model->rowCount(), int(output().faceCount()));
    }

    void aMillionRowsDoNotDelay() {
        auto outcome = std::make_shared<NodeOutcome>();
        outcome->geometry = Geometry(std::vector<Vec3>(1200000));
        QTableView* table = window_->data()->table();
        window_->showDrawer("data");
        QElapsedTimer timer;
        timer.start();
        window_->data()->show("Large", "soften", outcome);
        table->scrollToBottom();
        QApplication::processEvents();
        QCOMPARE(window_->data()->model()->rowCount(), 1200000);
        QVERIFY2(timer.elapsed() < 3000, "showing a large table must not depend on its rows");
    }

    void saveReopenExportCompare() {
        document().apply(setControlValue(loom(), "height", 1.25));
        const Digest before = digestOf(output());
        const QString file = folder_.filePath("post.loom");
        QVERIFY(window_->saveTo(file));
        QVERIFY(!document().modified());
        MainWindow second;
        QVERIFY(second.openFile(file));
        QTRY_VERIFY_WITH_TIMEOUT(!second.rebuilds().running(), 20000);
        QCOMPARE(digestOf(second.rebuilds().outcome("out")->geometry), before);
        // The way it is looked at is kept with it, but is no part of the recipe.
        Loom read = second.document().loom();
        QVERIFY(read.extra.contains("view"));
        read.extra.erase("view");
        QVERIFY(read == loom());
        const QString model = folder_.filePath("post.glb");
        QVERIFY(exportAndWait(second, model));
        const auto back = readMesh(model.toStdString());
        QVERIFY(bool(back));
        QVERIFY(checkupOf(*back).sound());
        QVERIFY(std::abs(boundsOf(*back).size().y - 1.25f) < 1e-4f);
        QVERIFY(std::abs(signedVolume(*back) - signedVolume(output())) < 1e-5);
    }

    void badFilesAreSaidAndNothingIsLost() {
        const Loom before = loom();
        QFile bad(folder_.filePath("bad.loom"));
        QVERIFY(bad.open(QIODevice::WriteOnly));
        bad.write("{ \"seedloom\": 1, \n nodes }");
        bad.close();
        QVERIFY(!window_->openFile(bad.fileName()));
        QVERIFY(loom() == before);
        bool said = false;
        for (auto* label : window_->findChildren<QLabel*>()) said |= label->isVisible() && label->text().contains("Line 2");
        QVERIFY(said);
        QVERIFY(!window_->saveTo(folder_.filePath("nowhere/x.loom")));
        QVERIFY(!exportAndWait(*window_, folder_.filePath("x.dwg")));
        QVERIFY(window_->openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/net-floats.loom")));
        waitFresh();
        QVERIFY(!window_->rebuilds().anyFailed());
    }

    void unknownOperatorsSurviveASave() {
        const QString file = folder_.filePath("tomorrow.loom");
        QFile out(file);
        QVERIFY(out.open(QIODevice::WriteOnly));
        out.write(
            R"({"seedloom":1,"name":"T","mood":"calm","nodes":[{"id":"a","op":"box"},{"id":"b","op":"polish","cell":[1,0],"settings":{"gloss":3}},
{"id":"o","op":"output","cell":[2,0]}],"links":[["a","b"],["b","o"]],"output":"o"})");
        out.close();
        QVERIFY(window_->openFile(file));
        waitFresh();
        QCOMPARE(window_->rebuilds().report("b").state, NodeState::failed);
        click("b");
        document().apply(renameLoom(loom(), "Kept"));
        QVERIFY(window_->saveTo(file));
        const auto back = readLoom(file.toStdString());
        QCOMPARE(back->node("b")->settings["gloss"], Json(3));
        QCOMPARE(back->extra["mood"], Json("calm"));
    }

    void closingAsksAboutChanges() {
        document().apply(setControlValue(loom(), "height", 1.1));
        bool asked = false;
        QTimer::singleShot(300, this, [&] {
            auto* box = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
            asked = box != nullptr;
            if (box) box->button(QMessageBox::Cancel)->click();
        });
        QVERIFY(!window_->close());
        QVERIFY(asked);
        QVERIFY(window_->isVisible());
        window_->activateWindow();
    }

    void cancelStopsALongRebuild() {
        document().apply(setSetting(loom(), "even", "count", 60000));
        std::string id;
        document().apply(addNodeAfter(loom(), "smooth_curve", "even", &id));
        document().apply(setSetting(loom(), id, "iterations", 10000));
        document().apply(setSkipped(loom(), {"wobble", "body", "wall", "soften"}, true));
        QTRY_VERIFY(window_->rebuilds().running());
        auto* cancel = window_->findChild<TopLine*>()->cancelButton();
        QTRY_VERIFY(cancel->isVisible());
        QTest::mouseClick(cancel, Qt::LeftButton);
        QVERIFY(!window_->rebuilds().running());
        QVERIFY(window_->rebuilds().wasCancelled());
        // The interface answers at once, and the next edit starts over.
        document().apply(setSetting(loom(), id, "iterations", 1));
        waitFresh();
        QVERIFY(!window_->rebuilds().wasCancelled());
    }

    void colouringByAttributeAndWire() {
        click("soften");
        window_->stage()->setAttribute("along");
        QTRY_VERIFY_WITH_TIMEOUT(window_->stage()->mesh() && window_->stage()->mesh()->legend.title == "along", 10000);
        QCOMPARE(window_->stage()->mesh()->legend.low, 0.0);
        QCOMPARE(window_->stage()->mesh()->legend.high, 1.0);
        const Vec3 low = scaleColour(ColourScale::even, 0), high = scaleColour(ColourScale::even, 1);
        QVERIFY(low.z > low.x && high.x > high.z);
        QVERIFY(!window_->stage()->mesh()->wire.empty());
    }

    void orbitPanZoomAndFrame() {
        // The first mesh frames the view: after that the camera is the hand's.
        QTRY_VERIFY_WITH_TIMEOUT(window_->stage()->mesh(), 10000);
        auto* overlay = window_->stage()->findChild<QWidget*>("stageOverlay");
        const StageCamera before = window_->stage()->camera();
        drag(overlay, QPoint(100, 300), QPoint(200, 330));
        QVERIFY(window_->stage()->camera().yaw != before.yaw);
        drag(overlay, QPoint(100, 300), QPoint(150, 300), Qt::RightButton);
        QVERIFY(!(window_->stage()->camera().target == before.target));
        // Zooming keeps what is under the pointer there.
        const QSizeF size = window_->stage()->size();
        const QPointF at(300, 200);
        const StageCamera now = window_->stage()->camera();
        const Vec3 under = now.eye() + now.ray(at, size) * float(now.distance / double(dot(now.ray(at, size), -now.toEye())));
        QWheelEvent wheel(at, overlay->mapToGlobal(at), {}, QPoint(0, 240), Qt::NoButton, {}, Qt::NoScrollPhase, false);
        QApplication::sendEvent(overlay, &wheel);
        QVERIFY(window_->stage()->camera().distance < now.distance);
        QVERIFY(QLineF(window_->stage()->camera().project(under, size), at).length() < 1.5);
        weave()->setFocus();
        QTest::keyClick(weave(), Qt::Key_Home);
        // All of it is in sight, below the buttons, and fills the room that there is.
        const Bounds bounds = window_->stage()->mesh()->bounds;
        double high = 1e9, low = 0;
        for (int corner = 0; corner < 8; ++corner) {
            const Vec3 p{corner & 1 ? bounds.min.x : bounds.max.x, corner & 2 ? bounds.min.y : bounds.max.y, corner & 4 ? bounds.min.z : bounds.max.z};
            const QPointF seen = window_->stage()->camera().project(p, size);
            high = std::min(high, seen.y());
            low = std::max(low, seen.y());
        }
        QVERIFY(high > 34 && low < size.height() && low - high > size.height() * 0.6);
    }
};

int main(int argc, char** argv) { return runWindowTest<TestApp>(argc, argv); }
#include "test_app.moc"
