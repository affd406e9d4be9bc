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
#include "app/widgets/Slider.h"
#include "app/widgets/TextArea.h"

#include <QtCore/QMimeData>
#include <QtGui/QClipboard>
#include <QtGui/QDrag>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
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
