// Working inside of containers: the way in and out, the part that is looked at, edits there, folding and unfolding.
#include "WindowTest.h"
#include "app/settings/SettingRow.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/Stage.h"
#include "app/weave/Trail.h"
#include "geometry/Digest.h"
#include "graph/InnerEdits.h"
#include "support/Looms.h"

#include <QtWidgets/QCheckBox>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QToolButton>

using namespace seedloom;
using namespace seedloom::app;
using seedloom::test::linked;
using seedloom::test::node;

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

    /// A time step is looked into frame by frame.
    void aFrameIsLookedInto() {
        std::string step;
        document().apply(addNodeAfter(loom(), "time_step", "ball", &step));
        document().enter(step);
        std::string rise;
        document().applyShown(addNodeAfter(shown(), "transform", "part", &rise));
        document().applyShown(setSetting(shown(), rise, "move", {0, 1, 0}));
        window_->session().selection().setFrame(4);
        waitFresh();
        const auto top = [&](const char* node) { return boundsOf(part(node)->geometry.positions()).max.y; };
        QTRY_VERIFY(part("part") && std::abs(top(rise.c_str()) - top("part") - 1) < 1e-3f);
        const float before = top("part");
        QSpinBox* field = window_->trail()->partField();
        QVERIFY(field->isEnabled());
        QCOMPARE(field->value(), 4);
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "9");
        QTest::keyClick(field, Qt::Key_Return);
        waitFresh();
        QCOMPARE(window_->session().selection().frame(), 9.0);
        QTRY_VERIFY(std::abs(top("part") - before - 5) < 1e-3f);
        // A frame that is kept is the one that is looked into.
        document().apply(setSetting(loom(), step, "at_frame", 2));
        waitFresh();
        QVERIFY(!field->isEnabled());
        QCOMPARE(field->value(), 2);
        QTRY_VERIFY(std::abs(top("part") - before + 2) < 1e-3f);
        // Also where a control says which.
        Control moment;
        moment.id = "moment", moment.label = "Moment", moment.type = "integer", moment.fallback = 3, moment.min = 0, moment.max = 50;
        document().apply(makeControl(loom(), {}, step, "at_frame", moment));
        document().apply(setControlValue(loom(), "moment", 7));
        waitFresh();
        QTRY_COMPARE(field->value(), 7);
        QVERIFY(!field->isEnabled());
        QTRY_VERIFY(std::abs(top("part") - before - 3) < 1e-3f);
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

    /// An asset is another document: it is opened in a window of its own, and what is saved there arrives here.
    void anAssetIsChosenSetAndEditedInItsOwnWindow() {
        const QString shingle = folder_.filePath("shingle.loom"), roof = folder_.filePath("roof.loom");
        QFile::remove(shingle);
        QVERIFY(QFile::copy(QStringLiteral(SEEDLOOM_SOURCE "/demo/roof-shingle.loom"), shingle));
        QFile::setPermissions(shingle, QFile::ReadOwner | QFile::WriteOwner);
        Loom empty;
        empty.name = "Roof";
        empty.nodes = {node("it", "asset", {0, 0}), node("out", "output", {1, 0})};
        empty.links = {linked("it", "out")};
        empty.output = "out";
        document().adopt(empty);
        QVERIFY(window_->saveTo(roof));
        waitFresh();
        run("whole_weave");
        click("it");
        QCOMPARE(window_->rebuilds().report("it").state, NodeState::failed);
        // The file is typed; the asset's controls appear as settings.
        QVERIFY(!window_->settings()->row("width"));
        auto* field = window_->settings()->row("asset")->findChild<QLineEdit*>();
        field->setFocus();
        QTest::keyClicks(field, "shingle.loom");
        QTest::keyClick(field, Qt::Key_Return);
        waitFresh();
        QTRY_VERIFY(window_->settings()->row("width"));
        QVERIFY(std::abs(boundsOf(output()).size().x - 0.3f) < 1e-5f);
        document().apply(setSetting(loom(), "it", "width", 0.6));
        QVERIFY(std::abs(boundsOf(output()).size().x - 0.6f) < 1e-5f);
        // In its own window it is a document; changing the default there and saving changes the height here, and nothing is to be undone.
        const std::size_t windows = std::size_t(QApplication::topLevelWidgets().size());
        QTest::mouseDClick(weave(), Qt::LeftButton, {}, weave()->cardRect("it").center().toPoint());
        MainWindow* other = nullptr;
        for (QWidget* widget : QApplication::topLevelWidgets())
            if (auto* candidate = qobject_cast<MainWindow*>(widget); candidate && candidate != window_.get()) other = candidate;
        QVERIFY(other && std::size_t(QApplication::topLevelWidgets().size()) > windows);
        QCOMPARE(QString::fromStdString(other->document().file().string()), shingle);
        QVERIFY(!document().inside());
        Loom taller = other->document().loom();
        for (Control& control : taller.controls)
            if (control.id == "height") control.fallback = 0.9;
        const auto steps = document().history().count();
        other->document().adopt(taller);
        QVERIFY(other->saveTo(shingle));
        other->close();
        QTRY_VERIFY_WITH_TIMEOUT(std::abs(boundsOf(output()).size().y - 0.9f) < 1e-5f, 20000);
        QCOMPARE(document().history().count(), steps);
        // Coming back to the window asks for nothing where no file has changed.
        waitFresh();
        const int asked = window_->rebuilds().requests();
        for (int i = 0; i < 3; ++i) document().rereadAssets();
        QCOMPARE(window_->rebuilds().requests(), asked);
        // Without its file the node says so, and keeps what was set.
        QFile::remove(shingle);
        document().rereadAssets();
        waitFresh();
        QCOMPARE(window_->rebuilds().report("it").state, NodeState::failed);
        QCOMPARE(loom().node("it")->settings.at("width"), Json(0.6));
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
