// The weave and quick add, by mouse and keys in a real window.
#include "WindowTest.h"
#include "app/settings/SettingsPanel.h"
#include "app/weave/QuickAdd.h"
#include "app/widgets/Finder.h"
#include "app/widgets/NoticeStrip.h"
#include "formats/LoomFile.h"
#include "graph/Tidy.h"

#include <QtCore/QDir>
#include <QtCore/QFileInfo>
#include <QtGui/QClipboard>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QMenu>
#include <QtWidgets/QPlainTextEdit>
#include <QtWidgets/QPushButton>

using namespace seedloom;
using namespace seedloom::app;

class TestWeave : public WindowTest {
    Q_OBJECT

    QPoint centre(const std::string& node) { return weave()->cardRect(node).center().toPoint(); }
    QPoint free(int column, int row) { return weave()->cellRect({column, row}).center().toPoint(); }
    static Link linked(const std::string& from, const std::string& to) { return {from, "", to, "", Json::object()}; }
    bool hasLink(const std::string& from, const std::string& to) { return std::count(loom().links.begin(), loom().links.end(), linked(from, to)) == 1; }

private Q_SLOTS:
    void init() { openDemoWindow(); }
    void cleanup() { window_.reset(); }

    void severalCardsAreChosenByBandByKeysAndByShift() {
        const QRectF even = weave()->cardRect("even"), body = weave()->cardRect("body");
        drag(weave(), QPoint(int(even.left()) - 5, int(even.top()) - 8), QPoint(int(body.center().x()), int(body.bottom()) + 8));
        QCOMPARE(weave()->chosenAll(), (std::vector<std::string>{"even", "wobble", "body"}));
        click("wobble", Qt::ControlModifier);
        QCOMPARE(weave()->chosenAll(), (std::vector<std::string>{"even", "body"}));
        click("soften", Qt::ShiftModifier);
        QCOMPARE(weave()->chosenAll().size(), 3u);
        QCOMPARE(weave()->chosen(), std::string("soften"));
        click("even");
        QCOMPARE(weave()->chosenAll(), std::vector<std::string>{"even"});
        weave()->setFocus();
        QTest::keyClick(weave(), Qt::Key_Right, Qt::ShiftModifier);
        QCOMPARE(weave()->chosenAll(), (std::vector<std::string>{"even", "wobble"}));
        QTest::keyClick(weave(), Qt::Key_A, Qt::ControlModifier);
        QCOMPARE(weave()->chosenAll().size(), loom().nodes.size());
        QTest::keyClick(weave(), Qt::Key_Escape);
        QCOMPARE(weave()->chosenAll().size(), 1u);
    }

    void chosenCardsMoveTogether() {
        click("even");
        click("wobble", Qt::ControlModifier);
        const Cell even = loom().node("even")->cell, wobble = loom().node("wobble")->cell;
        drag(weave(), centre("wobble"), centre("wobble") + QPoint(0, int(weave()->cellRect({0, 1}).top() - weave()->cellRect({0, 0}).top()) * 2));
        QCOMPARE(loom().node("even")->cell, (Cell{even.column, even.row + 2}));
        QCOMPARE(loom().node("wobble")->cell, (Cell{wobble.column, wobble.row + 2}));
        undo();
        QCOMPARE(loom().node("even")->cell, even);
    }

    void cardsSlideToTheirPlaces() {
        const Cell before = loom().node("wall")->cell;
        // By an edit, not by keys: on a slow machine what keys do may take longer than cards slide.
        std::string id;
        const Edit edit = addNodeAfter(loom(), "smooth_curve", "even", &id);
        document().apply(edit);
        QVERIFY(weave()->moving());
        QCOMPARE(loom().node("wall")->cell.column, before.column + 1);
        QTRY_VERIFY(!weave()->moving());
        weave()->setMotion(false);
        undo();
        QVERIFY(!weave()->moving());
        QCOMPARE(loom().node("wall")->cell, before);
    }

    void aCardDroppedOnAThreadIsWovenIn() {
        const std::size_t links = loom().links.size();
        weave()->openQuickAddAt({1, 3});
        QTest::keyClicks(weave()->quickAdd()->field(), "flip");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        QVERIFY(loom().node("flip"));
        drag(weave(), centre("flip"), weave()->linkMiddle(linked("body", "rubbed")).toPoint());
        QVERIFY(hasLink("body", "flip") && hasLink("flip", "rubbed") && !hasLink("body", "rubbed"));
        QCOMPARE(loom().links.size(), links + 1);
        QCOMPARE(loom().node("flip")->cell.column, loom().node("body")->cell.column + 1);
    }

    void copiesGoThroughTheClipboardAsText() {
        click("even");
        click("wobble", Qt::ControlModifier);
        QTest::keyClick(weave(), Qt::Key_C, Qt::ControlModifier);
        const QString text = QGuiApplication::clipboard()->text();
        QVERIFY(text.contains("\"noise_displace\""));
        MainWindow second;
        second.show();
        QVERIFY(QTest::qWaitForWindowExposed(&second));
        second.weave()->paste();
        QCOMPARE(second.document().loom().nodes.size(), 3u);
        QCOMPARE(second.document().loom().links.size(), 1u);
        QCOMPARE(second.document().loom().node("wobble")->settings, loom().node("wobble")->settings);
        // Not everything on a clipboard is a loom.
        QGuiApplication::clipboard()->setText("twelve fathoms");
        second.weave()->paste();
        QCOMPARE(second.document().loom().nodes.size(), 3u);
    }

    void duplicatesKeepTheirFeedAndCutTakesOut() {
        const std::size_t count = loom().nodes.size();
        click("wobble");
        QTest::keyClick(weave(), Qt::Key_D, Qt::ControlModifier);
        QCOMPARE(loom().nodes.size(), count + 1);
        const std::string twin = weave()->chosen();
        QVERIFY(twin != "wobble" && hasLink("even", twin));
        waitFresh();
        QCOMPARE(window_->rebuilds().report(twin).state, NodeState::fresh);
        QTest::keyClick(weave(), Qt::Key_X, Qt::ControlModifier);
        QCOMPARE(loom().nodes.size(), count);
        QTest::keyClick(weave(), Qt::Key_V, Qt::ControlModifier);
        QCOMPARE(loom().nodes.size(), count + 1);
    }

    void deletingSeveralClosesTheStrand() {
        click("wobble");
        click("wall", Qt::ControlModifier);
        QTest::keyClick(weave(), Qt::Key_Delete);
        QVERIFY(!loom().node("wobble") && !loom().node("wall"));
        QVERIFY(reaches(loom(), "outline", "out"));
        std::vector<int> columns;
        for (const Node& n : loom().nodes) columns.push_back(n.cell.column);
        std::sort(columns.begin(), columns.end());
        for (std::size_t i = 0; i < columns.size(); ++i) QCOMPARE(columns[i], int(i));
    }

    /// What helps stands where the fault is seen: behind a click on the card's torn corner, and at the setting.
    void aTornCornerAndItsSettingOfferWhatHelps() {
        const auto spoil = [&] {
            document().apply(setSetting(loom(), "dents", "where", {{"attribute", "rubbd"}}));
            waitFresh();
            QVERIFY(window_->rebuilds().outcome("dents")->failed);
        };
        const auto mended = [&] {
            waitFresh();
            QVERIFY(!window_->rebuilds().outcome("dents")->failed);
            QCOMPARE(loom().node("dents")->settings.at("where"), (Json{{"attribute", "rubbed"}}));
        };
        run("whole_weave");
        spoil();
        bool offered = false;
        QTimer::singleShot(150, this, [&] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            offered = !menu->actions().isEmpty();
            QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(menu->actions().front()).center());
        });
        QTest::mouseClick(weave(), Qt::LeftButton, {}, (weave()->cardRect("dents").topRight() + QPointF(-4, 4)).toPoint());
        QTRY_VERIFY(offered);
        mended();
        spoil();
        weave()->choose("dents");
        auto* button = window_->settings()->row("where")->notice()->findChild<QPushButton*>();
        QVERIFY(button && button->isVisible());
        QTest::mouseClick(button, Qt::LeftButton);
        QTRY_COMPARE(loom().node("dents")->settings.at("where"), (Json{{"attribute", "rubbed"}}));
        mended();
    }

    /// Cut, a thread is two names; a click on either takes it, and cut once more it is a thread again.
    void aThreadIsCutIntoTwoNamedEnds() {
        const auto link = [&](const char* to) { return *std::find_if(loom().links.begin(), loom().links.end(), [&](const Link& l) { return l.to == to; }); };
        weave()->setMotion(false);
        document().apply(moveNode(loom(), "out", {10, 1}));
        run("whole_weave");
        const QPoint middle = weave()->linkMiddle(link("out")).toPoint();
        QTest::mouseClick(weave(), Qt::LeftButton, {}, middle);
        QVERIFY(weave()->threadChosen());
        QTest::keyClick(weave(), Qt::Key_T, Qt::ControlModifier | Qt::ShiftModifier);
        QVERIFY(link("out").cut);
        waitFresh();
        // Where it ran is nothing any more.
        QTest::mouseClick(weave(), Qt::LeftButton, {}, middle);
        QVERIFY(!weave()->threadChosen());
        for (const bool start : {true, false}) {
            weave()->choose(start ? "soften" : "out");
            const QRectF end = weave()->threadEnd(link("out"), start);
            QVERIFY(QRectF(weave()->rect()).contains(end.center()) && !end.intersects(weave()->cardRect(start ? "soften" : "out")));
            QTest::mouseClick(weave(), Qt::LeftButton, {}, end.center().toPoint());
            QVERIFY(weave()->threadChosen());
            weave()->choose("body");
        }
        weave()->choose("out");
        QTest::mouseClick(weave(), Qt::LeftButton, {}, weave()->threadEnd(link("out"), false).center().toPoint());
        run("cut_thread");
        QVERIFY(!link("out").cut);
        for (int i = 0; i < 3; ++i) undo();
        QVERIFY(!document().modified());
    }

    void tidyUntanglesAndIsOneStep() {
        document().apply(moveNode(loom(), "wobble", {0, 3}));
        document().apply(moveNode(loom(), "wall", {1, 2}));
        const TidyCost before = tidyCost(loom());
        run("tidy");
        const TidyCost after = tidyCost(loom());
        QCOMPARE(after.climbed, 0u);
        QVERIFY(before.climbed > 0);
        undo();
        QCOMPARE(loom().node("wall")->cell, (Cell{1, 2}));
    }

    void notesAreWrittenMovedWidenedAndRemoved() {
        click("even");
        QTest::keyClick(weave(), Qt::Key_M, Qt::ControlModifier);
        auto* field = weave()->findChild<QPlainTextEdit*>();
        QVERIFY(field && field->isVisible());
        QTest::keyClicks(field, "Keep the eye below the cap");
        QTest::keyClick(field, Qt::Key_Return, Qt::ControlModifier);
        const std::string id = loom().notes.back().id;
        QCOMPARE(loom().note(id)->text, std::string("Keep the eye below the cap"));
        const Note note = *loom().note(id);
        const QRectF strip = weave()->noteRect(note);
        const int down = int(weave()->cellRect({0, 1}).top() - weave()->cellRect({0, 0}).top());
        drag(weave(), strip.topLeft().toPoint() + QPoint(20, 6), strip.topLeft().toPoint() + QPoint(20, 6 + down));
        QCOMPARE(loom().note(id)->cell.row, note.cell.row + 1);
        const QRectF moved = weave()->noteRect(*loom().note(id));
        const int pitch = int(weave()->cellRect({1, 0}).left() - weave()->cellRect({0, 0}).left());
        drag(weave(), QPoint(int(moved.right()) - 4, int(moved.center().y())), QPoint(int(moved.right()) - 4 + pitch, int(moved.center().y())));
        QCOMPARE(loom().note(id)->columns, note.columns + 1);
        // The text is changed by a double click; a note without words goes.
        QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        QTest::mouseDClick(weave(), Qt::LeftButton, {}, weave()->noteRect(*loom().note(id)).topLeft().toPoint() + QPoint(20, 6));
        field = weave()->findChild<QPlainTextEdit*>();
        QVERIFY(field && field->isVisible());
        field->selectAll();
        QTest::keyClick(field, Qt::Key_Delete);
        QTest::keyClick(field, Qt::Key_Return, Qt::ControlModifier);
        QVERIFY(!loom().note(id));
    }

    void tintsAreKeptWithTheNode() {
        click("body");
        QTest::keyClick(weave(), Qt::Key_2, Qt::ControlModifier | Qt::ShiftModifier);
        run("tint_3");
        QCOMPARE(loom().node("body")->tint, 3);
        const auto read = loomFromText(loomToText(loom()));
        QCOMPARE(read->node("body")->tint, 3);
        run("tint_0");
        QCOMPARE(loom().node("body")->tint, 0);
    }

    void namesAreChangedOnTheCard() {
        const QRectF card = weave()->cardRect("wall");
        QTest::mouseDClick(weave(), Qt::LeftButton, {}, QPoint(int(card.left() + card.width() * 0.6), int(card.top()) + 10));
        auto* field = weave()->findChild<QLineEdit*>(QString(), Qt::FindDirectChildrenOnly);
        QVERIFY(field && field->isVisible());
        field->selectAll();
        QTest::keyClicks(field, "Iron wall");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(displayName(*loom().node("wall")), std::string("Iron wall"));
    }

    /// A field of a name keeps to its card, is wide enough, and goes with what it belongs to.
    void theFieldOfANameKeepsToItsCard() {
        click("wall");
        run("rename");
        QVERIFY(weave()->nameField());
        const auto beside = [&](const std::string& node) {
            const QRect field = weave()->nameField()->geometry(), card = weave()->cardRect(node).toRect();
            return field.intersects(card) && weave()->rect().contains(field);
        };
        QVERIFY(beside("wall"));
        const QPoint middle(weave()->width() / 2, weave()->height() - 20);
        QWheelEvent wheel(QPointF(middle), weave()->mapToGlobal(QPointF(middle)), {}, QPoint(0, 60), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(weave(), &wheel);
        QVERIFY(beside("wall"));
        drag(weave(), middle, middle + QPoint(40, -10), Qt::RightButton);
        QVERIFY(beside("wall"));
        weave()->nameField()->selectAll();
        QTest::keyClicks(weave()->nameField(), "A name that is rather long for a card");
        QVERIFY(weave()->nameField()->width() > QFontMetrics(weave()->nameField()->font()).horizontalAdvance(weave()->nameField()->text()));
        // Another card is chosen: the name is taken, and no field stands about.
        click("soften");
        QVERIFY(!weave()->nameField());
        QCOMPARE(QString::fromStdString(loom().node("wall")->label), QStringLiteral("A name that is rather long for a card"));
        run("rename");
        run("rename");
        QTest::qWait(1);
        QCOMPARE(weave()->findChildren<QLineEdit*>(QString(), Qt::FindDirectChildrenOnly).size(), 1);
        // Its node goes: nothing is renamed.
        document().apply(removeNodes(loom(), {"soften"}));
        QVERIFY(!weave()->nameField());
        click("body");
        run("rename");
        QTest::keyClicks(weave()->nameField(), "Not this");
        QTest::keyClick(weave()->nameField(), Qt::Key_Escape);
        QVERIFY(!weave()->nameField());
        QVERIFY(loom().node("body")->label != "Not this");
        QCOMPARE(QString::fromStdString(weave()->chosen()), QStringLiteral("body"));
    }

    /// What the demos call their nodes is read in full at 100 %.
    void namesOfTheDemosAreNotCut() {
        for (const QFileInfo& file : QDir(QStringLiteral(SEEDLOOM_SOURCE "/demo")).entryInfoList({QStringLiteral("*.loom")})) {
            const auto read = readLoom(file.filePath().toStdString());
            QVERIFY(read);
            for (const Node& n : read->nodes) {
                const QStringList lines = weave()->nameLines(n);
                QVERIFY2(lines.size() <= 2 && lines.join(QLatin1Char(' ')) == QString::fromStdString(displayName(n)), qPrintable(lines.join(QLatin1Char('|'))));
            }
        }
    }

    /// As large a part as can be read; where not all fits, the end with the last steps.
    void openingShowsTheWholeOrTheEnd() {
        const auto inSight = [&](const std::string& node) { return QRectF(weave()->rect()).contains(weave()->cardRect(node)); };
        QVERIFY(window_->openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/roof-shingle.loom")));
        for (const Node& n : loom().nodes) QVERIFY2(inSight(n.id), n.id.c_str());
        Loom wide;
        Node n;
        n.op = "transform";
        for (int i = 0; i < 40; ++i) {
            n.id = "step" + std::to_string(i), n.cell = {i, i == 20 ? 3 : 0};
            wide.nodes.push_back(n);
            if (i > 0) wide.links.push_back({"step" + std::to_string(i - 1), "", n.id, "", Json::object()});
        }
        wide.nodes.back().op = "output";
        wide.output = "step39";
        document().adopt(std::move(wide));
        QVERIFY(inSight("step39") && inSight("step37") && !inSight("step0"));
        // Working there leaves the view where it is.
        const QRectF before = weave()->cardRect("step38");
        document().apply(setSkipped(loom(), {"step38"}, true));
        QCOMPARE(weave()->cardRect("step38"), before);
    }

    void nodesAreFoundByName() {
        weave()->setFocus();
        QTest::keyClick(weave(), Qt::Key_F, Qt::ControlModifier);
        QVERIFY(weave()->finder()->isVisible());
        QTest::keyClicks(weave()->finder()->field(), "thick");
        QTest::keyClick(weave()->finder()->field(), Qt::Key_Return);
        QCOMPARE(loom().node(weave()->chosen())->op, std::string("thicken"));
        QVERIFY(!weave()->finder()->isVisible());
        weave()->openFind();
        QTest::keyClicks(weave()->finder()->field(), "no such thing");
        QTest::keyClick(weave()->finder()->field(), Qt::Key_Return);
        QVERIFY(weave()->finder()->isVisible());
        QTest::keyClick(weave()->finder()->field(), Qt::Key_Escape);
    }

    void arrowsWalkAlongStrandsAndLettersStartQuickAdd() {
        click("outline");
        for (const char* next : {"even", "wobble", "body"}) {
            QTest::keyClick(weave(), Qt::Key_Right);
            QCOMPARE(weave()->chosen(), std::string(next));
        }
        QTest::keyClick(weave(), Qt::Key_Left);
        QCOMPARE(weave()->chosen(), std::string("wobble"));
        QTest::keyClick(weave(), Qt::Key_B);
        QVERIFY(weave()->quickAdd()->isVisible());
        QCOMPARE(weave()->quickAdd()->field()->text(), QString("b"));
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Escape);
        QTest::keyClick(weave(), Qt::Key_K);
        QVERIFY(loom().node("wobble")->skipped);
    }

    void aPulledThreadOffersOnlyWhatFits() {
        drag(weave(), weave()->outputKnob("even").toPoint(), free(2, 3));
        QVERIFY(weave()->quickAdd()->isVisible());
        QStringList offered;
        for (int i = 0; i < weave()->quickAdd()->list()->count(); ++i) offered << weave()->quickAdd()->list()->item(i)->data(Qt::UserRole).toString();
        QVERIFY(offered.contains("revolve") && !offered.contains("thicken") && !offered.contains("box"));
        QTest::keyClicks(weave()->quickAdd()->field(), "revolve");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        QVERIFY(reaches(loom(), "even", weave()->chosen()));
        QCOMPARE(loom().node(weave()->chosen())->cell, (Cell{2, 3}));
    }

    void quickAddRanksByWordsThenFitThenHabit() {
        const auto first = [](const QString& typed, const QuickAddContext& context) { return operatorsFor(typed, context).front()->id; };
        QCOMPARE(first("smooth", {}), std::string("smooth_curve"));
        QCOMPARE(first("revlove", {}), std::string("revolve"));
        QCOMPARE(first("thickness", {}), std::string("thicken"));
        // Nothing typed: what takes this comes before what does not.
        const auto behindCurve = operatorsFor("", {.flow = Flow::curves}), behindFaces = operatorsFor("", {.flow = Flow::faces});
        const auto place = [](const auto& list, const char* id) {
            return std::find_if(list.begin(), list.end(), [&](const OperatorSpec* s) { return s->id == id; }) - list.begin();
        };
        QVERIFY(place(behindCurve, "resample") < place(behindCurve, "thicken"));
        QVERIFY(place(behindFaces, "thicken") < place(behindFaces, "resample"));
        QCOMPARE(first("", {.recent = {"flip"}}), std::string("flip"));
        // Habit does not beat the word that was typed.
        QCOMPARE(first("box", {.recent = {"flip", "merge"}}), std::string("box"));
        QVERIFY(operatorsFor("zzz", {}).empty());
    }

    void quickAddRemembersWhatWasUsed() {
        weave()->choose("body");
        weave()->openQuickAdd("flip");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        QVERIFY(QSettings().value("recentOperators").toStringList().startsWith("flip"));
    }

    void aLargeGraphHasAnOverview() {
        Loom large = loom();
        std::string last = "body";
        for (int i = 0; i < 300; ++i) {
            Node node;
            node.id = "n" + std::to_string(i);
            node.op = "transform";
            node.cell = {4 + i % 40, 3 + i / 40};
            large.nodes.push_back(node);
            large.links.push_back(linked(last, node.id));
            last = node.id;
        }
        document().adopt(large);
        waitFresh();
        const QRectF map = weave()->overviewRect();
        QVERIFY(!map.isEmpty() && weave()->rect().contains(map.toAlignedRect()));
        const QRectF before = weave()->cardRect("n299");
        QTest::mouseClick(weave(), Qt::LeftButton, {}, map.bottomRight().toPoint() - QPoint(12, 12));
        QVERIFY(weave()->cardRect("n299") != before);
        // It never lies over what is chosen, from wherever one comes.
        for (const char* from : {"n0", "n290"})
            for (int i = 2; i < 300; i += 33) {
                weave()->choose(from);
                weave()->choose("n" + std::to_string(i));
                const QRectF card = weave()->cardRect(weave()->chosen());
                QVERIFY2(weave()->rect().contains(card.toRect()) && !card.intersects(weave()->overviewRect()),
                         qPrintable(QString::fromStdString(weave()->chosen())));
            }
        // Small graphs need no map.
        Loom small = loom();
        small.nodes.resize(3);
        small.links.clear();
        small.output.clear();
        document().adopt(small);
        QTRY_VERIFY(weave()->overviewRect().isEmpty());
    }

    void theMenuAtThePointerActsOnWhatIsThere() {
        QTest::mouseClick(weave(), Qt::RightButton, {}, centre("wall"));
        auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
        QVERIFY(menu);
        QCOMPARE(weave()->chosen(), std::string("wall"));
        QStringList texts;
        for (QAction* one : menu->actions()) texts << one->text();
        QVERIFY(texts.filter("kip").size() == 1);
        menu->close();
        window_->activateWindow();
    }

    void rightDragPansAndTheWheelZooms() {
        const QPointF before = weave()->cardRect("outline").topLeft();
        drag(weave(), free(1, 3), free(1, 3) + QPoint(40, 15), Qt::RightButton);
        const QPointF by = weave()->cardRect("outline").topLeft() - before;
        QVERIFY(std::abs(by.x() - 40) < 8 && std::abs(by.y() - 15) < 5);
        const double wide = weave()->cardRect("outline").width();
        QWheelEvent wheel(QPointF(100, 100), weave()->mapToGlobal(QPointF(100, 100)), {}, QPoint(0, 120), Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                          false);
        QApplication::sendEvent(weave(), &wheel);
        QVERIFY(weave()->cardRect("outline").width() > wide);
    }

    void everyOutputHasAKnobOfItsOwn() {
        weave()->choose("body");
        weave()->openQuickAdd("split");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        QCOMPARE(weave()->chosen(), std::string("split"));
        document().apply(setSetting(loom(), "split", "where", {{"formula", "position.y < 0.3"}}));
        QVERIFY(weave()->outputKnob("split", 1).y() > weave()->outputKnob("split", 0).y() + 8);
        drag(weave(), weave()->outputKnob("split", 1).toPoint(), free(5, 3));
        QTest::keyClicks(weave()->quickAdd()->field(), "flip");
        QTest::keyClick(weave()->quickAdd()->field(), Qt::Key_Return);
        QVERIFY(std::count(loom().links.begin(), loom().links.end(), Link{"split", "rest", "flip", "", Json::object()}) == 1);
        waitFresh();
        const auto count = [&](const char* node) { return window_->rebuilds().outcome(node)->geometry.faceCount(); };
        QVERIFY(count("split") > 0 && count("flip") > 0);
        QCOMPARE(count("split") + count("flip"), count("body"));
        // Each of its threads starts at its own knob.
        QVERIFY(weave()->linkMiddle({"split", "rest", "flip", "", Json::object()}) != weave()->linkMiddle(linked("split", "flip")));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestWeave>(argc, argv); }
#include "test_weave.moc"
