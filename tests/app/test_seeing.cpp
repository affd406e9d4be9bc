// Attributes in the window: writing formulas, seeing what sources give, where values come from, painting.
#include "WindowTest.h"
#include "app/settings/SettingRow.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/SourcePreview.h"
#include "app/settings/StrokesField.h"
#include "app/stage/Stage.h"
#include "app/stage/StageLegend.h"
#include "app/stage/StageTools.h"
#include "app/widgets/FormulaEditor.h"
#include "app/widgets/NumberField.h"
#include "formats/LoomFile.h"

#include <numeric>

#include <QtCore/QTemporaryDir>
#include <QtWidgets/QAbstractItemView>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QCompleter>
#include <QtWidgets/QLabel>
#include <QtWidgets/QMenu>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;

class TestSeeing : public WindowTest {
    Q_OBJECT

    QTemporaryDir folder_;
    Stage* stage() { return window_->stage(); }
    QWidget* overlay() { return stage()->findChild<QWidget*>("stageOverlay"); }
    FormulaEditor* editor() {
        SettingRow* row = window_->settings()->row("text");
        return row ? row->formulaEditor() : nullptr;
    }
    /// A plate of 4 m with a node behind it.
    void openPlate(const char* op, const Json& settings = Json::object()) {
        Loom plate;
        plate.name = "Plate";
        Node grid{.id = "plate", .op = "grid"}, node{.id = "work", .op = op};
        grid.settings = {{"size", {4, 4}}, {"cells", {24, 24}}};
        node.cell = {1, 0};
        node.settings = settings;
        plate.nodes = {grid, node};
        plate.links = {{"plate", "", "work", "", Json::object()}};
        plate.output = "work";
        const QString file = folder_.filePath("plate.loom");
        QVERIFY(!writeLoom(plate, file.toStdString()));
        QVERIFY(window_->openFile(file));
        waitFresh();
        weave()->choose("work");
        waitFresh();
        QTRY_VERIFY_WITH_TIMEOUT(stage()->mesh() && stage()->mesh()->faceCount == 576, 10000);
    }
    const Json& settings() { return loom().node("work")->settings; }
    std::vector<float> mask() {
        const auto* values = output().values<float>(Element::point, "mask");
        return values ? *values : std::vector<float>();
    }
    void stroke(QPoint from, QPoint to) {
        QTest::mousePress(overlay(), Qt::LeftButton, {}, from);
        for (int i = 1; i <= 8; ++i) QTest::mouseMove(overlay(), from + (to - from) * i / 8);
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, to);
        waitFresh();
    }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    void typingAFormulaRebuildsTheModel() {
        openPlate("formula");
        QVERIFY(editor());
        editor()->setFocus();
        editor()->selectAll();
        QTest::keyClicks(editor(), "position.y = 0.5;");
        QTest::keyClick(editor(), Qt::Key_Return, Qt::ControlModifier);
        QCOMPARE(settings()["text"], Json("position.y = 0.5;"));
        QCOMPARE(boundsOf(output()).max.y, 0.5f);
        // A pause is enough, too; all typing in one stay is one step back.
        QTest::keyClick(editor(), Qt::Key_Return);
        QTest::keyClicks(editor(), "position.y += 1.0;");
        QTRY_COMPARE_WITH_TIMEOUT(boundsOf(output()).max.y, 1.5f, 5000);
        weave()->setFocus();
        undo();
        QVERIFY(!settings().contains("text"));
    }

    void whatIsWrongIsMarkedAtItsPlace() {
        openPlate("formula");
        editor()->setFocus();
        editor()->selectAll();
        QTest::keyClicks(editor(), "position.y = (1 + ;");
        // What can't be read is said at once, and the model stays as it was.
        QVERIFY(editor()->syntaxProblem().contains("column 19"));
        QCOMPARE(editor()->extraSelections().size(), 1);
        QVERIFY(!settings().contains("text"));
        editor()->selectAll();
        QTest::keyClicks(editor(), "let a = 1.0;");
        QTest::keyClick(editor(), Qt::Key_Return);
        QTest::keyClicks(editor(), "position.y = heigth;");
        QTest::keyClick(editor(), Qt::Key_Escape);
        QTest::keyClick(editor(), Qt::Key_Return, Qt::ControlModifier);
        QVERIFY(editor()->syntaxProblem().isEmpty());
        // Names that are not there are known after the rebuild: the second line, the word itself.
        waitFresh();
        QTRY_COMPARE(editor()->extraSelections().size(), 1);
        const QTextCursor marked = editor()->extraSelections().front().cursor;
        QCOMPARE(marked.selectedText(), QString("heigth"));
        QCOMPARE(marked.blockNumber(), 1);
        // Typing on takes the mark away.
        QTest::keyClick(editor(), Qt::Key_Backspace);
        QTRY_VERIFY(editor()->extraSelections().isEmpty() || editor()->extraSelections().front().cursor.selectedText() != "heigth");
    }

    void wordsAreOffered() {
        openPlate("formula", {{"text", "roughness_of_it = 1.0;"}});
        weave()->choose("work");
        editor()->setFocus();
        editor()->selectAll();
        QTest::keyClicks(editor(), "a = smoo");
        QTRY_VERIFY(editor()->completions()->popup()->isVisible());
        QCOMPARE(editor()->completions()->currentCompletion(), QString("smoothstep"));
        QTest::keyClick(editor()->completions()->popup(), Qt::Key_Return);
        QCOMPARE(editor()->toPlainText(), QString("a = smoothstep"));
        // One letter offers nothing by itself, but does when asked; a whole word offers nothing.
        QTest::keyClicks(editor(), "(u");
        QVERIFY(!editor()->completions()->popup()->isVisible());
        QTest::keyClick(editor(), Qt::Key_Space, Qt::ControlModifier);
        QVERIFY(editor()->completions()->popup()->isVisible());
        QCOMPARE(editor()->completions()->currentCompletion(), QString("uv"));
        QTest::keyClicks(editor(), "v");
        QVERIFY(!editor()->completions()->popup()->isVisible());
    }

    void dialsAppearWhileTypingAndKeepTheirValue() {
        openPlate("formula");
        editor()->setFocus();
        editor()->selectAll();
        QTest::keyClicks(editor(), "dial lift = 0.25 in 0..1; position.y = lift;");
        QTest::keyClick(editor(), Qt::Key_Escape);
        QTest::keyClick(editor(), Qt::Key_Return, Qt::ControlModifier);
        QTRY_VERIFY(window_->settings()->row("lift"));
        // The new row did not take the keyboard away.
        QVERIFY(editor()->hasFocus());
        QCOMPARE(editor()->textCursor().position(), int(editor()->toPlainText().size()));
        QCOMPARE(boundsOf(output()).max.y, 0.25f);
        document().apply(setSetting(loom(), "work", "lift", 0.75));
        QCOMPARE(boundsOf(output()).max.y, 0.75f);
        QTest::keyClicks(editor(), " position.x += 0.0;");
        QTest::keyClick(editor(), Qt::Key_Return, Qt::ControlModifier);
        waitFresh();
        QCOMPARE(settings()["lift"], Json(0.75));
        QCOMPARE(boundsOf(output()).max.y, 0.75f);
    }

    void attributesAreOneClickAway() {
        openPlate("formula");
        editor()->setFocus();
        editor()->selectAll();
        QTest::keyClicks(editor(), "a = ");
        QLabel* names = nullptr;
        for (QLabel* label : window_->settings()->row("text")->findChildren<QLabel*>())
            if (label->text().contains("uv")) names = label;
        QVERIFY(names);
        Q_EMIT names->linkActivated("uv");
        QCOMPARE(editor()->toPlainText(), QString("a = uv"));
    }

    void sourcesShowWhatTheyGive() {
        openPlate("noise_displace");
        document().apply(setSetting(loom(), "work", "amount", {{"formula", "position.x"}}));
        waitFresh();
        SourcePreview* preview = window_->settings()->row("amount")->preview();
        QVERIFY(preview);
        QTRY_COMPARE(preview->statistics().count, std::size_t(625));
        QCOMPARE(preview->statistics().least, -2.0);
        QCOMPARE(preview->statistics().most, 2.0);
        QVERIFY(std::abs(preview->statistics().mean) < 1e-5);
        document().apply(setSetting(loom(), "work", "amount", {{"attribute", "nowhere"}}));
        waitFresh();
        preview = window_->settings()->row("amount")->preview();
        QTRY_COMPARE(preview->statistics().count, std::size_t(0));
        QTRY_VERIFY(preview->toolTip().contains("no attribute 'nowhere'"));
        // A control holds one value for all: nothing to spread out.
        document().apply(setSetting(loom(), "work", "amount", Json()));
        QVERIFY(!window_->settings()->row("amount")->preview());
    }

    void theWeaveTellsWhereAnAttributeComesFrom() {
        openPlate("set_attribute");
        stage()->setAttribute("mask");
        QTRY_COMPARE(weave()->origins(), (std::vector<Origin>{{"work", OriginKind::made}}));
        stage()->setAttribute("uv");
        QTRY_COMPARE(weave()->origins(), (std::vector<Origin>{{"plate", OriginKind::made}}));
        stage()->tools()->setShading(Shading::clay);
        QTRY_VERIFY(weave()->origins().empty());
    }

    void theWeaveTellsWhereAnElementComesFrom() {
        openPlate("transform", {{"move", {0, 0.5, 0}}});
        run("from_above");
        stage()->frameAll();
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, QPoint(stage()->width() / 2 + 30, stage()->height() / 2 + 20));
        QCOMPARE(stage()->marks().rows.size(), std::size_t(1));
        QTRY_COMPARE(weave()->origins(), (std::vector<Origin>{{"plate", OriginKind::made}, {"work", OriginKind::changed}}));
        QTest::mouseClick(overlay(), Qt::LeftButton, {}, QPoint(20, stage()->height() / 2));
        QTRY_VERIFY(weave()->origins().empty());
    }

    void paintingOnTheStage() {
        openPlate("paint_mask");
        run("from_above");
        stage()->frameAll();
        QTRY_VERIFY(window_->settings()->strokes());
        StrokesField* brush = window_->settings()->strokes();
        QVERIFY(!stage()->brush());
        QTest::mouseClick(brush->paintButton(), Qt::LeftButton);
        QVERIFY(stage()->brush());
        brush->setRadius(0.4);
        QCOMPARE(stage()->brush()->radius, 0.4);
        // The stage shows what is painted.
        QCOMPARE(stage()->tools()->look().attribute, std::string("mask"));
        const QPoint middle(stage()->width() / 2, stage()->height() / 2);
        const StageCamera before = stage()->camera();
        stroke(middle - QPoint(60, 0), middle + QPoint(60, 0));
        QCOMPARE(stage()->camera().toEye(), before.toEye());
        QCOMPARE(settings()["strokes"].size(), std::size_t(1));
        QVERIFY(settings()["strokes"][0]["points"].size() >= 2);
        const auto once = mask();
        const double painted = std::accumulate(once.begin(), once.end(), 0.0);
        QVERIFY(painted > 5);
        stroke(middle + QPoint(0, 40), middle + QPoint(40, 80));
        QCOMPARE(settings()["strokes"].size(), std::size_t(2));
        // While the hand moves the model follows, and neither document nor journal grows; letting go makes it one edit, whatever was painted before.
        const Loom untouched = loom();
        const auto asked = window_->rebuilds().requests();
        QTest::mousePress(overlay(), Qt::LeftButton, {}, middle);
        for (int i = 1; i <= 30; ++i) {
            const QPoint at = middle + QPoint(i * 3, 0);
            QMouseEvent move(QEvent::MouseMove, at, overlay()->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(overlay(), &move);
            QVERIFY(loom() == untouched);
        }
        QTRY_VERIFY(window_->rebuilds().requests() > asked);
        const auto seen = mask();
        const double shown = std::accumulate(seen.begin(), seen.end(), 0.0);
        QVERIFY(shown > painted);
        QTest::mouseRelease(overlay(), Qt::LeftButton, {}, middle + QPoint(90, 0));
        QCOMPARE(settings()["strokes"].size(), std::size_t(3));
        waitFresh();
        const auto kept = mask();
        QVERIFY(std::abs(std::accumulate(kept.begin(), kept.end(), 0.0) - shown) < 1e-3 * shown);
        undo();
        QVERIFY(loom() == untouched);
        // Each stroke is one step back.
        undo();
        QCOMPARE(settings()["strokes"].size(), std::size_t(1));
        QCOMPARE(mask(), once);
        // Rebuilt at another resolution, the mask stays where it is.
        document().apply(setSetting(loom(), "plate", "cells", {48, 48}));
        const auto fine = mask();
        QVERIFY(std::abs(std::accumulate(fine.begin(), fine.end(), 0.0) / 4 - painted) < painted * 0.1);
        // Removing, and taking back by the button.
        QTest::mouseClick(brush->findChild<QToolButton*>("brush_mode_remove"), Qt::LeftButton);
        QTRY_VERIFY(stage()->mesh()->faceCount == 2304);
        stroke(middle - QPoint(60, 0), middle + QPoint(60, 0));
        const auto less = mask();
        QVERIFY(std::accumulate(less.begin(), less.end(), 0.0) < std::accumulate(fine.begin(), fine.end(), 0.0) / 2);
        QTest::mouseClick(brush->findChild<QToolButton*>("brush_mirror_x"), Qt::LeftButton);
        QCOMPARE(stage()->brush()->mirror, std::string("x"));
        // Escape ends painting; without the brush the view turns everywhere.
        QTest::keyClick(stage(), Qt::Key_Escape);
        QVERIFY(!stage()->brush());
        QVERIFY(!brush->painting());
        stroke(middle - QPoint(60, 0), middle + QPoint(60, 0));
        QCOMPARE(settings()["strokes"].size(), std::size_t(2));
        QVERIFY(!(stage()->camera().toEye() == before.toEye()));
    }

    void theLegendIsLockedByHand() {
        openPlate("formula", {{"text", "height = position.x;"}});
        stage()->setAttribute("height");
        StageLegend* legend = stage()->legend();
        QTRY_VERIFY(legend->isVisible() && legend->legend().high == 2);
        QTest::mouseClick(legend->high(), Qt::LeftButton);
        QTest::keyClicks(legend->high(), "1");
        QTest::keyClick(legend->high(), Qt::Key_Return);
        QTRY_COMPARE(legend->legend().high, 1.0);
        QCOMPARE(legend->legend().low, -2.0);
        QVERIFY(legend->lock()->isChecked());
        QCOMPARE(stage()->mesh()->vertices[0].colour, scaleColour(ColourScale::even, 0));
        // Locked, it stays when the values change.
        document().apply(setSetting(loom(), "work", "text", "height = position.x * 3.0;"));
        waitFresh();
        QTRY_COMPARE(stage()->mesh()->legend.high, 1.0);
        // Another attribute has a range of its own; this one's is kept.
        stage()->setAttribute("uv");
        QTRY_VERIFY(!legend->lock()->isChecked());
        stage()->setAttribute("height");
        QTRY_VERIFY(legend->lock()->isChecked());
        QTest::mouseClick(legend->lock(), Qt::LeftButton);
        QTRY_COMPARE(legend->legend().high, 6.0);
        // Two-sided, with 0 in the middle.
        legend->scale()->setFocus();
        QTest::keyClick(legend->scale(), Qt::Key_Down);
        QTRY_COMPARE(legend->legend().choice.scale, ColourScale::diverging);
        QCOMPARE(legend->legend().low, -6.0);
    }

    void aValueFarOutIsTakenInByOneClick() {
        openPlate("formula", {{"text", "height = index == 7 ? 500.0 : position.x;"}});
        stage()->setAttribute("height");
        StageLegend* legend = stage()->legend();
        QTRY_VERIFY(legend->isVisible() && legend->whole()->isVisible());
        QVERIFY(legend->legend().high <= 2);
        QVERIFY2(legend->whole()->text().contains(QStringLiteral("500")), qPrintable(legend->whole()->text()));
        QVERIFY(legend->rect().contains(legend->whole()->geometry()));
        QTest::mouseClick(legend->whole(), Qt::LeftButton);
        QTRY_COMPARE(legend->legend().high, 500.0);
        QVERIFY(legend->whole()->isVisible() && legend->whole()->isChecked());
        QTest::mouseClick(legend->whole(), Qt::LeftButton);
        QTRY_VERIFY(legend->legend().high <= 2);
        document().apply(setSetting(loom(), "work", "text", "height = position.x;"));
        QTRY_VERIFY(!legend->whole()->isVisible());
    }

    void textsHaveAKey() {
        openPlate("formula", {{"text", "part = position.x < 0.0 ? \"west\" : \"east\";"}});
        stage()->setAttribute("part");
        StageLegend* legend = stage()->legend();
        QTRY_COMPARE(legend->legend().key.size(), std::size_t(2));
        QCOMPARE(legend->legend().key[0].text, std::string("east"));
        QVERIFY(legend->isVisible() && !legend->scale()->isVisible() && !legend->high()->isVisible());
        stage()->tools()->setShading(Shading::clay);
        QTRY_VERIFY(!legend->isVisible());
    }

    void theValueUnderThePointerIsShown() {
        openPlate("formula", {{"text", "height = index * 1.0;"}});
        run("from_above");
        stage()->frameAll();
        stage()->setAttribute("height");
        QTRY_VERIFY(stage()->mesh()->values && stage()->mesh()->legend.high == 624);
        const Index point = 312;  // the middle
        const QPoint at = stage()->camera().project(stage()->mesh()->geometry.positions()[point] + Vec3{0.01f, 0, 0.01f}, stage()->size()).toPoint();
        QTest::mouseMove(overlay(), at);
        QTRY_COMPARE(stage()->hovered(), QString("height  312  ·  point 312"));
        QTest::mouseMove(overlay(), QPoint(stage()->width() - 6, stage()->height() / 2));
        QTRY_VERIFY(stage()->hovered().isEmpty());
        // It is read anew under a pointer that rests while the model changes, and goes with the shading.
        QTest::mouseMove(overlay(), at);
        QTRY_COMPARE(stage()->hovered(), QString("height  312  ·  point 312"));
        document().apply(setSetting(loom(), "work", "text", "height = index * 2.0;"));
        waitFresh();
        QTRY_COMPARE(stage()->hovered(), QString("height  624  ·  point 312"));
        stage()->tools()->setShading(Shading::clay);
        QTRY_VERIFY(!stage()->mesh()->values);
        QTRY_VERIFY(stage()->hovered().isEmpty());
        QTest::mouseMove(overlay(), at + QPoint(2, 0));
        QTest::qWait(200);
        QVERIFY(stage()->hovered().isEmpty());
    }

    void differencesToTheNodeBefore() {
        openPlate("transform", {{"move", {0, 0.25, 0}}});
        QToolButton* button = nullptr;
        for (QToolButton* each : stage()->tools()->findChildren<QToolButton*>())
            if (each->text() == "Difference") button = each;
        QVERIFY(button);
        QTest::mouseClick(button, Qt::LeftButton);
        QTRY_VERIFY(stage()->mesh()->shading == Shading::difference && stage()->mesh()->legend.problem.empty());
        QTRY_COMPARE(stage()->mesh()->legend.high, 0.25);
        QVERIFY(!stage()->comparing());
        // It follows the model.
        document().apply(setSetting(loom(), "work", "move", {0, 0.75, 0}));
        waitFresh();
        QTRY_COMPARE(stage()->mesh()->legend.high, 0.75);
        // The first node has nothing before it, and that is said.
        weave()->choose("plate");
        QTRY_VERIFY(!stage()->mesh()->legend.problem.empty());
        QVERIFY(stage()->legend()->isVisible());
    }

    void aFormulaForOneSettingIsWrittenInColours() {
        openPlate("noise_displace", {{"amount", {{"formula", "0.1"}}}});
        FormulaEditor* field = window_->settings()->row("amount")->formulaEditor();
        QVERIFY(field);
        const int oneLine = field->height();
        QVERIFY2(oneLine < 36, qPrintable(QString::number(oneLine)));
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "position.x * (2");
        QVERIFY(!field->syntaxProblem().isEmpty());
        QCOMPARE(field->extraSelections().size(), 1);
        QCOMPARE(settings()["amount"]["formula"], Json("0.1"));
        QTest::keyClicks(field, " - mi");
        QTRY_VERIFY(field->completions()->popup()->isVisible());
        QTest::keyClick(field->completions()->popup(), Qt::Key_Escape);
        QTest::keyClicks(field, "n(uv.y, 1.0))");
        // Return takes it, and makes no second line.
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(settings()["amount"]["formula"], Json("position.x * (2 - min(uv.y, 1.0))"));
        QCOMPARE(field->blockCount(), 1);
        weave()->setFocus();
        undo();
        QCOMPARE(settings()["amount"]["formula"], Json("0.1"));
    }

    void changingTheSourceKeepsTheValues() {
        openPlate("noise_displace", {{"amount", {{"ramp", {{"over", "position.x"}, {"range", "auto"}, {"knots", {{0, 0.1}, {1, 0.5}}}}}}}});
        QTimer::singleShot(200, this, [] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            for (QAction* action : menu->actions())
                if (action->text() == "Formula") action->trigger();
            menu->close();
        });
        const auto before = output().positions();
        QTest::mouseClick(window_->settings()->row("amount")->sourceButton(), Qt::LeftButton);
        QTRY_VERIFY(settings()["amount"].contains("formula"));
        waitFresh();
        for (std::size_t i = 0; i < before.size(); ++i) QVERIFY(distance(before[i], output().positions()[i]) < 1e-4f);
    }

    void noiseIsSetInFull() {
        openPlate("set_attribute", {{"value", {{"noise", {{"size", 0.5}, {"range", {0, 1}}}}}}});
        SettingRow* row = window_->settings()->row("value");
        QComboBox* kind = nullptr;
        for (QComboBox* box : row->findChildren<QComboBox*>())
            if (box->accessibleName() == "Kind of noise") kind = box;
        QVERIFY(kind);
        kind->setFocus();
        QTest::keyClick(kind, Qt::Key_End);
        QTRY_COMPARE(settings()["value"]["noise"]["kind"], Json("cell number"));
        for (QCheckBox* box : window_->settings()->row("value")->findChildren<QCheckBox*>())
            if (box->text() == "ridged") QTest::mouseClick(box, Qt::LeftButton, {}, QPoint(8, box->height() / 2));
        QTRY_COMPARE(settings()["value"]["noise"]["ridged"], Json(true));
        // One of three numbers is typed; the others are written with what they stood for.
        for (NumberField* field : window_->settings()->row("value")->findChildren<NumberField*>())
            if (field->accessibleName() == "y" && field->value() == 1) {
                QTest::mouseClick(field, Qt::LeftButton);
                QTest::keyClicks(field, "3");
                QTest::keyClick(field, Qt::Key_Return);
                break;
            }
        QTRY_COMPARE(settings()["value"]["noise"]["stretch"], Json({1.0, 3.0, 1.0}));
        waitFresh();
        QVERIFY(!window_->rebuilds().anyFailed());
    }
};

int main(int argc, char** argv) { return runWindowTest<TestSeeing>(argc, argv); }
#include "test_seeing.moc"
