// Working inside of containers: the way in and out, the part that is looked at, edits there, folding and unfolding.
#include "WindowTest.h"
#include "app/settings/SettingRow.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/Stage.h"
#include "app/weave/Trail.h"
#include "geometry/Digest.h"
#include "graph/InnerEdits.h"

#include <QtWidgets/QCheckBox>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;

class TestInside : public WindowTest {
    Q_OBJECT

private:
    const Loom& shown() { return document().shown(); }
    QPoint middle(const std::string& node) { return weave()->cardRect(node).center().toPoint(); }
    void openContainer(const std::string& node) {
        click(node);
        QTest::mouseDClick(weave(), Qt::LeftButton, {}, middle(node));
        waitFresh();
    }
    std::shared_ptr<const NodeOutcome> part(const std::string& node) { return window_->rebuilds().outcome(node); }

private Q_SLOTS:
    void init() {
        window_ = std::make_unique<MainWindow>();
        QVERIFY(window_->openFile(QStringLiteral(SEEDLOOM_SOURCE "/demo/radar-dome.loom")));
        showWindow();
        weave()->setMotion(false);
        run("whole_weave");
    }
    void cleanup() {
        document().startNew();
        window_.reset();
    }

    void aDoubleClickLeadsInAndTheTrailOut() {
        Trail* trail = window_->trail();
        QVERIFY(!trail->isVisible());
        openContainer("panels");
        QCOMPARE(document().place().path, std::vector<std::string>{"panels"});
        QVERIFY(trail->isVisible());
        QCOMPARE(trail->steps().last(), QStringLiteral("Each panel"));
        QVERIFY(shown().node("raise") && !loom().node("raise"));
        QVERIFY(weave()->cardRect("raise").isValid());
        // The stage has the part, and around it the finished whole.
        QTRY_VERIFY(window_->stage()->mesh() && window_->stage()->ghostMesh());
        QTRY_VERIFY(window_->stage()->ghostMesh()->bounds.diagonal() > window_->stage()->mesh()->bounds.diagonal() * 2);
        trail->surroundingsBox()->click();
        QTRY_VERIFY(!window_->stage()->ghostMesh());
        trail->surroundingsBox()->click();
        // Out by the first step of the way.
        auto* first = trail->findChildren<QToolButton*>().last();
        for (QToolButton* button : trail->findChildren<QToolButton*>())
            if (button->isVisible() && button->text() == trail->steps().first()) first = button;
        QTest::mouseClick(first, Qt::LeftButton);
        QVERIFY(!document().inside() && !trail->isVisible());
        QVERIFY(weave()->cardRect("panels").isValid());
    }

    void keysLeadInAndOut() {
        click("panels");
        QTest::keyClick(weave(), Qt::Key_Return, Qt::ControlModifier);
        QVERIFY(document().inside());
        QTest::keyClick(weave(), Qt::Key_Backspace, Qt::ControlModifier);
        QVERIFY(!document().inside());
        // A node without a graph can't be opened, and that is said.
        click("ball");
        run("open_container");
        QVERIFY(!document().inside());
    }

    void anotherPartIsLookedAt() {
        openContainer("panels");
        click("raise");
        QTRY_VERIFY(part("part"));
        const Vec3 first = boundsOf(part("part")->geometry.positions()).centre();
        QSpinBox* field = window_->trail()->partField();
        QVERIFY(field->maximum() > 20);
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "17");
        QTest::keyClick(field, Qt::Key_Return);
        waitFresh();
        QCOMPARE(document().place().parts.back(), 17);
        const Vec3 other = boundsOf(part("part")->geometry.positions()).centre();
        QVERIFY(distance(first, other) > 0.1f);
        // Looking changes nothing of the document.
        QVERIFY(!document().modified());
    }

    void editsInsideAreEditsOfTheDocument() {
        const float before = boundsOf(output().positions()).size().x;
        const std::size_t facesBefore = output().faceCount();
        openContainer("panels");
        click("round");
        window_->settings()->focusFirst();
        QVERIFY(window_->settings()->row("segments"));
        document().applyShown(setSetting(shown(), "round", "segments", 2));
        const auto facesOf = [&] {
            waitFresh();
            return window_->rebuilds().outcomeOf(loom().output)->geometry.faceCount();
        };
        const std::size_t fewer = facesOf();
        QVERIFY(fewer < facesBefore);
        QCOMPARE(loomAt(loom(), {"panels"})->node("round")->settings.at("segments").get<int>(), 2);
        QTest::keyClick(weave(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(facesOf(), facesBefore);
        // Deleting a node inside joins its neighbours there, and undo from outside leads back as well.
        click("round");
        QTest::keyClick(weave(), Qt::Key_Delete);
        QVERIFY(!shown().node("round"));
        QVERIFY(facesOf() < fewer);
        QTest::keyClick(weave(), Qt::Key_Backspace, Qt::ControlModifier);
        undo();
        QVERIFY(loomAt(loom(), {"panels"})->node("round"));
        QVERIFY(std::abs(boundsOf(output().positions()).size().x - before) < 1e-6f);
    }

    void nodesFoldIntoANestAndOutAgain() {
        const Digest digest = digestOf(output());
        click("ball");
        click("open", Qt::ControlModifier);
        const std::size_t chosen = weave()->chosenAll().size();
        QCOMPARE(chosen, std::size_t(2));
        const std::size_t count = loom().nodes.size();
        QTest::keyClick(weave(), Qt::Key_J, Qt::ControlModifier);
        QCOMPARE(loom().nodes.size(), count - 1);
        const std::string nest = weave()->chosen();
        QCOMPARE(loom().node(nest)->op, std::string("nest"));
        QCOMPARE(digestOf(output()), digest);
        QTest::keyClick(weave(), Qt::Key_J, Qt::ControlModifier | Qt::ShiftModifier);
        QCOMPARE(loom().nodes.size(), count);
        QCOMPARE(digestOf(output()), digest);
        undo();
        undo();
        QVERIFY(loom().node("ball") && loom().node("open"));
        QVERIFY(!document().modified());
        // What can't be folded stays as it is, and the window says why.
        click(loom().output);
        run("fold");
        QCOMPARE(loom().nodes.size(), count);
        QVERIFY(!document().modified());
    }
};

int main(int argc, char** argv) { return runWindowTest<TestInside>(argc, argv); }
#include "test_inside.moc"
