// Settings and controls, by mouse and keys in a real window.
#include "WindowTest.h"
#include "app/settings/ControlForm.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/PresetBar.h"
#include "app/settings/RangeBox.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/Stage.h"
#include "app/widgets/DragName.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/RampEditor.h"
#include "app/widgets/Slider.h"
#include "app/widgets/TextArea.h"
#include "geometry/Digest.h"

#include <QtCore/QMimeData>
#include <QtGui/QClipboard>
#include <QtGui/QDrag>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>
#include <QtWidgets/QPushButton>

using namespace seedloom;
using namespace seedloom::app;

class TestPanels : public WindowTest {
    Q_OBJECT

    Stage* stage() { return window_->stage(); }
    /// Carries a name to a place, as a drag does, without a pointer in between.
    static void carry(const char* mime, const QByteArray& bytes, QWidget* to, QPoint at) {
        if (auto* area = qobject_cast<QAbstractScrollArea*>(to)) to = area->viewport();
        QMimeData data;
        data.setData(QLatin1String(mime), bytes);
        QDragEnterEvent enter(at, Qt::LinkAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(to, &enter);
        QVERIFY(enter.isAccepted());
        QDropEvent drop(QPointF(at), Qt::LinkAction, &data, Qt::LeftButton, {});
        QApplication::sendEvent(to, &drop);
    }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    // Settings and controls

    /// A ramp over the frame has frames on its axis, and a line where one is.
    void aRampOverTheFrameIsDrawnByFrames() {
        document().apply(setSetting(loom(), "wobble", "amount", {{"ramp", {{"over", "along"}, {"knots", {{0, 0}, {0.5, 0.02}, {1, 0}}}}}}));
        click("wobble");
        window_->session().setLastFrame(80);
        SettingRow* amount = window_->settings()->row("amount");
        auto* ramp = amount->findChild<RampEditor*>();
        QVERIFY(ramp && !ramp->axis());
        QLineEdit* over = nullptr;
        for (auto* field : amount->findChildren<QLineEdit*>())
            if (field->accessibleName() == QLatin1String("Ramp over")) over = field;
        over->setFocus();
        over->selectAll();
        QTest::keyClicks(over, "frame");
        QTest::keyClick(over, Qt::Key_Return);
        const auto written = [&] { return loom().node("wobble")->settings["amount"]["ramp"]; };
        QCOMPARE(written()["range"], Json({0, 80}));
        amount = window_->settings()->row("amount");
        ramp = amount->findChild<RampEditor*>();
        QVERIFY(ramp->axis() && ramp->axis()->to == 80);
        // A knot stands at a whole frame, and is typed as one.
        drag(ramp->canvas(), ramp->knotPixel(1), ramp->knotPixel(1) + QPoint(37, 0));
        const double frame = written()["knots"][1][0].get<double>() * 80;
        QVERIFY(frame > 41 && std::abs(frame - std::round(frame)) < 1e-9);
        QTest::mouseClick(ramp->knotPosition(), Qt::LeftButton);
        QTest::keyClicks(ramp->knotPosition(), "60");
        QTest::keyClick(ramp->knotPosition(), Qt::Key_Return);
        QCOMPARE(written()["knots"][1][0].get<double>(), 0.75);
        waitFresh();
        const auto deepest = [&] { return digestOf(window_->rebuilds().outcome("wobble")->geometry); };
        const auto at0 = deepest();
        window_->session().selection().setFrame(60);
        waitFresh();
        QVERIFY(!(deepest() == at0));
        QTRY_COMPARE(ramp->axis()->here.value_or(-1), 60.0);
        window_->session().selection().setFrame(80);
        waitFresh();
        QVERIFY(deepest() == at0);
        // Ends between which no frame can be told from the next have no axis, and nobody waits for one to be drawn.
        for (const Json& ends : {Json{1e18, 1e18 + 1024}, Json{-1e308, 1e308}, Json{80, 0}}) {
            Json source = loom().node("wobble")->settings["amount"];
            source["ramp"]["range"] = ends;
            document().apply(setSetting(loom(), "wobble", "amount", source));
            waitFresh();
            QVERIFY(!window_->settings()->row("amount")->findChild<RampEditor*>()->axis());
        }
    }

    void sourcesAndRampsAreEdited() {
        click("wobble");
        SettingRow* amount = window_->settings()->row("amount");
        QVERIFY(amount);
        auto* ramp = amount->findChild<RampEditor*>();
        QVERIFY(ramp);
        QCOMPARE(ramp->ramp().knots().size(), 5u);
        const auto steps = document().history().count();
        drag(ramp->canvas(), ramp->knotPixel(2), ramp->knotPixel(2) + QPoint(20, 30));
        const Json knots = loom().node("wobble")->settings["amount"]["ramp"]["knots"];
        QVERIFY(knots[2][0].get<double>() > 0.45 && knots[2][1].get<double>() < 0.025);
        QCOMPARE(knots[2][2], Json("smooth"));
        QCOMPARE(document().history().count(), steps + 1);
        QTest::mouseDClick(ramp->canvas(), Qt::LeftButton, {}, QPoint(30, 60));
        QCOMPARE(loom().node("wobble")->settings["amount"]["ramp"]["knots"].size(), 6u);
        QTest::keyClick(ramp->canvas(), Qt::Key_Delete);
        QCOMPARE(loom().node("wobble")->settings["amount"]["ramp"]["knots"].size(), 5u);
        // The source menu turns a fixed value into noise about what was there.
        QTimer::singleShot(200, this, [] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            for (QAction* action : menu->actions())
                if (action->text() == "Noise") {
                    action->trigger();
                    break;
                }
            menu->close();
        });
        QTest::mouseClick(window_->settings()->row("size")->sourceButton(), Qt::LeftButton);
        QTRY_VERIFY(loom().node("wobble")->settings["size"].is_object());
        QCOMPARE(loom().node("wobble")->settings["size"]["noise"]["range"], Json({0.08, 0.24}));
        waitFresh();
        QVERIFY(!window_->rebuilds().anyFailed());
    }

    void severalNodesOfOneKindAreSetTogether() {
        click("wobble");
        QTest::keyClick(weave(), Qt::Key_D, Qt::ControlModifier);
        const std::string twin = weave()->chosen();
        weave()->chooseAll({"wobble", twin});
        auto* size = window_->settings()->row("size")->findChild<NumberField*>();
        QTest::mouseClick(size, Qt::LeftButton);
        size->selectAll();
        QTest::keyClicks(size, "25cm");
        QTest::keyClick(size, Qt::Key_Return);
        QCOMPARE(loom().node("wobble")->settings["size"], Json(0.25));
        QCOMPARE(loom().node(twin)->settings["size"], Json(0.25));
        document().apply(setSetting(loom(), twin, "seed", 99));
        QVERIFY(window_->settings()->row("seed")->findChild<DragName*>()->text().contains("mixed"));
        // Different kinds: the last one alone.
        weave()->chooseAll({"wobble", "wall"});
        QVERIFY(window_->settings()->row("thickness") && !window_->settings()->row("octaves"));
    }

    void longPanelsCanBeSearched() {
        click("wobble");
        QLineEdit* search = window_->settings()->searchField();
        QVERIFY(search);
        QTest::keyClicks(search, "rough");
        QVERIFY(window_->settings()->row("roughness")->isVisible());
        QVERIFY(!window_->settings()->row("octaves")->isVisible());
        search->clear();
        QVERIFY(window_->settings()->row("octaves")->isVisible());
        click("body");
        QVERIFY(!window_->settings()->searchField());
    }

    /// "Two numbers" begins with the range that the attribute has, not with 0 and 1.
    void twoNumbersBeginWithTheRangeThatThereIs() {
        QVERIFY(window_->openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/attribute-tour.loom")));
        waitFresh();
        click("paint");
        auto* range = window_->settings()->row("range")->findChild<RangeBox*>();
        QVERIFY(range);
        range->setFocus();
        range->setCurrentIndex(2);
        Q_EMIT range->activated(2);
        QTRY_VERIFY(loom().node("paint")->settings.contains("range"));
        const Json numbers = loom().node("paint")->settings["range"];
        const auto shade = *window_->rebuilds().outcome("named")->geometry.values<float>(Element::point, "shade");
        const auto [low, high] = std::minmax_element(shade.begin(), shade.end());
        QVERIFY2(std::abs(numbers[0].get<double>() - double(*low)) < 1e-3 && std::abs(numbers[1].get<double>() - double(*high)) < 1e-3, numbers.dump().c_str());
        QVERIFY(numbers[1].get<double>() < 0.999 || numbers[0].get<double>() > 0.001);
    }

    void aClickOnTheNameResets() {
        click("wobble");
        SettingRow* row = window_->settings()->row("octaves");
        QVERIFY(loom().node("wobble")->settings.contains("octaves"));
        QVERIFY(row->nameLabel()->font().weight() >= QFont::DemiBold);
        QTest::mouseClick(row->nameLabel(), Qt::LeftButton);
        QVERIFY(!loom().node("wobble")->settings.contains("octaves"));
        QVERIFY(row->nameLabel()->font().weight() < QFont::DemiBold);
        undo();
        QVERIFY(loom().node("wobble")->settings.contains("octaves"));
        QVERIFY(row->nameLabel()->toolTip().contains("default 1"));
    }

    void aSettingIsDraggedOntoTheControlsAndBack() {
        click("wobble");
        carry(kSettingMime, "wobble\nsize", window_->controls(), QPoint(40, 60));
        ControlForm* form = window_->controls()->form();
        QVERIFY(form);
        form->name()->selectAll();
        QTest::keyClicks(form->name(), "Bump size");
        QTest::keyClick(form->name(), Qt::Key_Return);
        const Control* made = loom().control("size");
        QVERIFY(made);
        QCOMPARE(made->label, std::string("Bump size"));
        QCOMPARE(loom().node("wobble")->settings["size"], (Json{{"control", "size"}}));
        // The control drives another setting, too.
        click("wall");
        carry(kControlMime, "wall", window_->settings()->row("thickness"), QPoint(5, 5));
        carry(kControlMime, "size", window_->settings()->row("thickness"), QPoint(5, 5));
        QCOMPARE(loom().node("wall")->settings["thickness"], (Json{{"control", "size"}}));
        // And dropped beside all settings it is given up: both keep its value.
        const Json value = loom().control("size")->fallback;
        carry(kControlMime, "size", window_->settings(), QPoint(10, 300));
        QVERIFY(!loom().control("size"));
        QCOMPARE(loom().node("wobble")->settings["size"], value);
        QCOMPARE(loom().node("wall")->settings["thickness"], value);
        // A ramp can't become a control; that is said.
        click("wobble");
        carry(kSettingMime, "wobble\namount", window_->controls(), QPoint(40, 60));
        QVERIFY(!window_->controls()->form());
        QVERIFY(window_->message().contains("fixed number"));
    }

    void aRealDragCarriesAName() {
        click("wobble");
        QWidget* name = window_->settings()->row("size")->nameLabel();
        const QPoint from = name->mapTo(window_.get(), QPoint(10, 8)), to = window_->controls()->mapTo(window_.get(), QPoint(60, 30));
        // The drag has an event loop of its own, so the hand goes on from a timer, once it has begun.
        QTimer hand;
        connect(&hand, &QTimer::timeout, this, [&] {
            if (!window_->findChild<QDrag*>()) return;
            hand.stop();
            QTest::mouseMove(window_->windowHandle(), to - QPoint(4, 4));
            QTest::mouseMove(window_->windowHandle(), to);
            QTest::mouseRelease(window_->windowHandle(), Qt::LeftButton, {}, to);
        });
        hand.start(60);
        QTest::mousePress(window_->windowHandle(), Qt::LeftButton, {}, from);
        QTest::mouseMove(window_->windowHandle(), from + QPoint(6, 6));
        QTest::mouseMove(window_->windowHandle(), from + QPoint(20, 20));
        QTRY_VERIFY(window_->controls()->form());
        QTest::keyClick(window_->controls()->form()->name(), Qt::Key_Escape);
        QTRY_VERIFY(!window_->controls()->form());
        QVERIFY(!loom().control("size"));
    }

    void controlsAreChangedAndPresetsKept() {
        window_->controls()->askForChange("height");
        ControlForm* form = window_->controls()->form();
        form->name()->selectAll();
        QTest::keyClicks(form->name(), "Total height");
        QTest::keyClick(form->name(), Qt::Key_Return);
        QCOMPARE(loom().control("height")->label, std::string("Total height"));
        document().apply(setControlValue(loom(), "height", 1.4));
        window_->controls()->presets()->askForName();
        auto* field = qobject_cast<QLineEdit*>(QApplication::focusWidget());
        QVERIFY(field);
        field->selectAll();
        QTest::keyClicks(field, "Tall one");
        QTest::keyClick(field, Qt::Key_Return);
        QVERIFY(loom().preset("Tall one"));
        QCOMPARE(loom().preset("Tall one")->values.at("height"), Json(1.4));
    }

    void aControlIsEditedWhole() {
        window_->controls()->askForChange("height");
        ControlForm* form = window_->controls()->form();
        QVERIFY(form->isVisible());
        // An id that can't be is said, and the form stays.
        form->id()->selectAll();
        QTest::keyClicks(form->id(), "2nd");
        QTest::keyClick(form->id(), Qt::Key_Return);
        QVERIFY(window_->controls()->form() && form->problem().contains("2nd"));
        QVERIFY(loom().control("height"));
        form->id()->selectAll();
        QTest::keyClicks(form->id(), "tall");
        // Where the slider ends can be less than what is allowed.
        const auto field = [&](const char* name) {
            for (QLineEdit* each : form->findChildren<QLineEdit*>())
                if (each->accessibleName() == QLatin1String(name)) return each;
            qFatal("no field %s", name);
        };
        field("Slider to")->selectAll();
        QTest::keyClicks(field("Slider to"), "1.5m");
        field("Step")->selectAll();
        QTest::keyClicks(field("Step"), "0.25");
        QTest::keyClick(field("Step"), Qt::Key_Return);
        QVERIFY(!window_->controls()->form());
        const Control* tall = loom().control("tall");
        QVERIFY(tall && !loom().control("height"));
        QCOMPARE(tall->high, std::optional(1.5));
        QCOMPARE(tall->max, std::optional(2.0));
        // All that it drives follows, and the slider makes steps.
        const float before = height();
        Slider* slider = window_->controls()->slider("tall");
        QTest::mouseClick(slider, Qt::LeftButton, {}, slider->pixelOf(1.31));
        const double value = loom().valueInUse("tall").get<double>();
        QVERIFY2(std::abs(value - 1.3) < 1e-6, std::to_string(value).c_str());  // 0.3 + 4 × 0.25
        QVERIFY(height() > before + 0.3f);
        undo();
        undo();
        QVERIFY(loom().control("height") && !loom().control("tall"));
    }

    void typesHaveFieldsOfTheirOwn() {
        window_->controls()->askForChange("height");
        ControlForm* form = window_->controls()->form();
        const auto shown = [&](const char* name) {
            for (QWidget* each : form->findChildren<QWidget*>())
                if (each->accessibleName() == QLatin1String(name)) return each->isVisible();
            return false;
        };
        QVERIFY(shown("Least value") && shown("Slider from") && !shown("Choices"));
        form->type()->setCurrentIndex(form->type()->findData(QStringLiteral("choice")));
        Q_EMIT form->type()->activated(form->type()->currentIndex());
        QVERIFY(!shown("Least value") && shown("Choices"));
        // A choice without words is refused in words.
        QTest::keyClick(form->name(), Qt::Key_Return);
        QVERIFY(form->problem().contains("words to choose from"));
        form->type()->setCurrentIndex(form->type()->findData(QStringLiteral("color")));
        Q_EMIT form->type()->activated(form->type()->currentIndex());
        QVERIFY(!shown("Least value") && !shown("Choices"));
        QCOMPARE(form->control().fallback, Json::array({0.9, 0.9, 0.9}));
        QTest::keyClick(form->name(), Qt::Key_Escape);
        QCOMPARE(loom().control("height")->type, std::string("number"));
    }

    void controlsAreOrderedByDragging() {
        const std::string first = loom().controls[0].id, second = loom().controls[1].id, last = loom().controls.back().id;
        ControlsPanel* panel = window_->controls();
        const auto below = [&](const std::string& id) { return QPoint(60, panel->line(id)->mapTo(panel, QPoint(0, panel->line(id)->height())).y() + 1); };
        carry(kControlMime, QByteArray::fromStdString(first), panel, below(second));
        QCOMPARE(loom().controls[0].id, second);
        QCOMPARE(loom().controls[1].id, first);
        carry(kControlMime, QByteArray::fromStdString(second), panel, below(last));
        QCOMPARE(loom().controls.back().id, second);
        QCOMPARE(loom().controls.back().section, loom().control(last)->section);
        undo();
        undo();
        QCOMPARE(loom().controls[0].id, first);
    }

    void conditionsHideAndHold() {
        Control wall = *loom().control("wall");
        wall.shownWhen = "ctl.height > 1.0";
        document().apply(changeControl(loom(), wall));
        Control tall = *loom().control("height");
        tall.allowedWhen = "ctl.height < 1.6";
        document().apply(changeControl(loom(), tall));
        ControlsPanel* panel = window_->controls();
        // Whoever makes the loom sees everything; whoever uses it does not.
        QVERIFY(panel->line("wall"));
        panel->setAsUsed(true);
        QVERIFY(!panel->line("wall") && panel->line("height"));
        Slider* slider = panel->slider("height");
        drag(slider, slider->pixelOf(0.9), slider->pixelOf(2.0));
        const double held = loom().valueInUse("height").get<double>();
        QVERIFY2(held < 1.6 && held > 1.58, std::to_string(held).c_str());
        QVERIFY(std::abs(slider->value() - held) < 1e-9);
        QVERIFY(panel->line("wall"));
        // Nothing can be dropped on it to make a control meanwhile.
        panel->setAsUsed(false);
        QVERIFY(panel->line("wall"));
    }

    void settingsOfANestAreShownAsItsControlsSay() {
        Loom inner = *newInnerGraph();
        Control lid, height;
        lid.id = "lid", lid.label = "Lid", lid.type = "boolean", lid.fallback = false;
        height.id = "lid_height", height.label = "Lid height", height.shownWhen = "ctl.lid == true";
        inner.controls = {lid, height};
        Loom with = loom();
        Node nest;
        nest.id = "nest", nest.op = "nest", nest.cell = {0, 3};
        nest.graph = InnerGraph(inner);
        with.nodes.push_back(nest);
        document().adopt(with);
        waitFresh();
        weave()->choose("nest");
        QVERIFY(window_->settings()->row("lid") && !window_->settings()->row("lid_height"));
        document().apply(setSetting(loom(), "nest", "lid", true, document().assets()));
        QVERIFY(window_->settings()->row("lid_height"));
        undo();
        QVERIFY(!window_->settings()->row("lid_height"));
    }

    void presetsAreComparedAndBlended() {
        PresetBar* bar = window_->controls()->presets();
        const auto text = [&] { return window_->controls()->name("height")->text(); };
        document().apply(applyPreset(loom(), *loom().preset("Tall")));
        QCOMPARE(QString::fromStdString(bar->compared()->name), QStringLiteral("Tall"));
        QVERIFY(!text().contains(QChar(0x2022)));
        document().apply(setControlValue(loom(), "height", 0.5));
        QVERIFY(text().contains(QChar(0x2022)) && bar->presets()->currentText() == QStringLiteral("Tall, changed"));
        QVERIFY(window_->controls()->name("height")->toolTip().contains("Tall has"));
        const double tall = loom().preset("Tall")->values.at("height").get<double>(), stout = loom().preset("Stout")->values.at("height").get<double>();
        bar->startBlend("Stout");
        QVERIFY(bar->blend()->isVisible());
        drag(bar->blend(), bar->blend()->pixelOf(0), bar->blend()->pixelOf(0.5));
        const double middle = loom().valueInUse("height").get<double>();
        QVERIFY2(std::abs(middle - (tall + stout) / 2) < 0.02, std::to_string(middle).c_str());
        QTest::keyClick(bar->blend(), Qt::Key_Right);
        QVERIFY(std::abs(loom().valueInUse("height").get<double>() - middle) > 1e-6);
        // A name that is taken is not given twice.
        QMenu* menu = bar->makeMenu();
        QStringList entries;
        for (QAction* action : menu->actions()) entries << action->text();
        delete menu;
        QVERIFY(entries.contains(QStringLiteral("Update Tall to these values")) && entries.contains(QStringLiteral("Rename Tall …")));
    }

    /// Qt 6.4 ended the program where nothing was pasted, and could where chosen text was dragged.
    void textAreasOutliveEmptyPastesAndDrags() {
        TextArea area;
        area.setPlainText(QStringLiteral("along * 0.5"));
        area.resize(300, 100);
        area.show();
        QVERIFY(QTest::qWaitForWindowExposed(&area));
        QGuiApplication::clipboard()->setMimeData(new QMimeData, QClipboard::Selection);
        QTest::mouseClick(area.viewport(), Qt::MiddleButton, {}, QPoint(30, 12));
        QGuiApplication::clipboard()->setMimeData(new QMimeData);
        area.paste();
        QCOMPARE(area.toPlainText(), QStringLiteral("along * 0.5"));
        QGuiApplication::clipboard()->setText(QStringLiteral("1 + "));
        area.moveCursor(QTextCursor::Start);
        area.paste();
        QCOMPARE(area.toPlainText(), QStringLiteral("1 + along * 0.5"));
        // A drag over chosen text chooses anew.
        area.selectAll();
        const int right = area.cursorRect().right();
        QVERIFY(right > 40);
        QTimer::singleShot(500, &area, [] { QDrag::cancel(); });
        drag(area.viewport(), QPoint(10, 12), QPoint(right - 20, 12));
        const QString chosen = area.textCursor().selectedText();
        QVERIFY2(!chosen.isEmpty() && chosen.size() < area.toPlainText().size(), qPrintable(chosen));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestPanels>(argc, argv); }
#include "test_panels.moc"
