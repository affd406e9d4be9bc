// A first hour: a channel buoy made out of nothing, with keys and mouse only. Whatever goes wrong on the way has to offer its own cure.
#include "WindowTest.h"
#include "app/settings/ControlForm.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/stage/Stage.h"
#include "app/weave/QuickAdd.h"
#include "app/widgets/NoticeStrip.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "geometry/Checkup.h"
#include "geometry/Digest.h"
#include "geometry/FaceGroups.h"
#include "meshes/MeshFile.h"

#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QToolButton>

#include <set>

using namespace seedloom;
using namespace seedloom::app;

namespace {

/// Parts that hang together by edges.
std::size_t pieces(const Geometry& geometry) {
    Groups groups(geometry.faceCount());
    joinAcrossEdges(geometry.topology(), groups, [](Index, Index) { return true; });
    std::set<Index> firsts;
    for (Index f = 0; f < geometry.faceCount(); ++f) firsts.insert(groups.find(f));
    return firsts.size();
}

}  // namespace

class TestBuoy : public WindowTest {
    Q_OBJECT

private:
    Stage* stage() { return window_->stage(); }
    QWidget* overlay() { return stage()->findChild<QWidget*>("stageOverlay"); }
    SettingRow* row(const char* setting) { return window_->settings()->row(setting); }
    QStringList withoutCure_;

    /// At every end of a rebuild.
    void lookAtNotices() {
        for (const Notice& notice : window_->rebuilds().notices())
            if (notice.level == NoticeLevel::error && notice.fixes.empty()) withoutCure_ << QString::fromStdString(notice.node + ": " + notice.text);
    }
    void key(QWidget* to, Qt::Key which, Qt::KeyboardModifiers modifiers = {}) { QTest::keyClick(to, which, modifiers); }
    /// The whole weave, with the wheel where it does not fit at a size that is easily read.
    void seeAll() {
        key(weave(), Qt::Key_Home, Qt::ShiftModifier);
        const auto hidden = [this] {
            return std::any_of(loom().nodes.begin(), loom().nodes.end(),
                               [this](const Node& node) { return !QRectF(weave()->rect()).contains(weave()->cardRect(node.id)); });
        };
        for (int turn = 0; turn < 12 && hidden(); ++turn) {
            const QPoint at = weave()->rect().center();
            QWheelEvent wheel(at, weave()->mapToGlobal(at), {}, {0, -120}, Qt::NoButton, {}, Qt::NoScrollPhase, false);
            QApplication::sendEvent(weave(), &wheel);
            QRectF all;
            for (const Node& node : loom().nodes) all |= weave()->cardRect(node.id);
            drag(weave(), at, at + (QPointF(20, 12) - all.topLeft()).toPoint(), Qt::RightButton);
        }
        QVERIFY(!hidden());
    }
    /// Slash, a few letters, Enter.
    void add(const char* words) {
        weave()->setFocus();
        key(weave(), Qt::Key_Slash);
        QTRY_VERIFY(weave()->quickAdd()->isVisible());
        QTest::keyClicks(weave()->quickAdd()->field(), words);
        key(weave()->quickAdd()->field(), Qt::Key_Return);
        waitFresh();
        seeAll();
    }
    /// The same at an empty place of the weave, as a strand of its own.
    void addBeside(const char* words) {
        const QPointF low = weave()->cardRect("revolve").center();
        double bottom = 0;
        for (const Node& node : loom().nodes) bottom = std::max(bottom, weave()->cardRect(node.id).bottom());
        QTest::mouseDClick(weave(), Qt::LeftButton, {}, QPointF(low.x(), bottom + 30).toPoint());
        QTRY_VERIFY(weave()->quickAdd()->isVisible());
        QTest::keyClicks(weave()->quickAdd()->field(), words);
        key(weave()->quickAdd()->field(), Qt::Key_Return);
        waitFresh();
        seeAll();
    }
    void type(const char* setting, const std::vector<const char*>& numbers) {
        QVERIFY2(row(setting), setting);
        std::size_t filled = 0;
        for (NumberField* field : row(setting)->findChildren<NumberField*>()) {
            if (filled == numbers.size()) break;
            QTest::mouseClick(field, Qt::LeftButton);
            QTest::keyClicks(field, numbers[filled++]);
            key(field, Qt::Key_Return);
        }
        QCOMPARE(filled, numbers.size());
        waitFresh();
    }
    void pick(const char* setting, const char* word) {
        QVERIFY2(row(setting), setting);
        auto* choice = row(setting)->findChild<QComboBox*>();
        QVERIFY2(choice, setting);
        choice->setFocus();
        QTest::keyClicks(choice, word);
        QCOMPARE(choice->currentText(), QString::fromLatin1(word));
        waitFresh();
    }
    void pull(const std::string& from, const std::string& to, int port) {
        seeAll();
        drag(weave(), weave()->outputKnob(from).toPoint(), weave()->inputKnob(to, port).toPoint());
        QVERIFY2(reaches(loom(), from, to), (from + " does not feed " + to).c_str());
        waitFresh();
    }
    void dragHandle(int i, QPoint by) {
        QTRY_VERIFY(i < int(stage()->handles().size()));
        const QPoint from = stage()->handlePixel(i);
        QVERIFY(overlay()->rect().contains(from));
        drag(overlay(), from, from + by);
        waitFresh();
    }
    void pointBeside(int i, QPoint by) {
        QTest::mouseDClick(overlay(), Qt::LeftButton, {}, stage()->handlePixel(i) + by);
        waitFresh();
    }
    void makeControl(const std::string& node, const char* setting, const char* name) {
        click(node);
        QVERIFY2(row(setting), setting);
        QTimer::singleShot(150, this, [] {
            auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
            if (!menu) return;
            for (QAction* action : menu->actions())
                if (action->text() == QStringLiteral("Make a control of it"))
                    return QTest::mouseClick(menu, Qt::LeftButton, {}, menu->actionGeometry(action).center());
            menu->close();
        });
        QTest::mouseClick(row(setting)->sourceButton(), Qt::LeftButton);
        QTRY_VERIFY(window_->controls()->form());
        QLineEdit* field = window_->controls()->form()->name();
        key(field, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(field, name);
        key(field, Qt::Key_Return);
        waitFresh();
    }
    std::string controlNamed(const char* name) {
        for (const Control& control : loom().controls)
            if (control.label == name) return control.id;
        return {};
    }

private Q_SLOTS:
    void aChannelBuoyIsMade() {
        window_ = std::make_unique<MainWindow>();
        window_->resize(1280, 800);
        showWindow();
        connect(&window_->rebuilds(), &RebuildService::finished, this, &TestBuoy::lookAtNotices);
        key(window_.get(), Qt::Key_N, Qt::ControlModifier);
        weave()->setMotion(false);
        QCOMPARE(loom().nodes.size(), std::size_t(1));

        // The body: a Revolve asks for its profile, and one click makes it, seen from the front.
        add("revolve");
        QVERIFY(window_->rebuilds().outcome("revolve")->failed);
        QPushButton* cure = nullptr;
        for (NoticeStrip* strip : window_->settings()->notices())
            for (auto* button : strip->findChildren<QPushButton*>())
                if (button->isVisible()) cure = button;
        QVERIFY(cure);
        QTest::mouseClick(cure, Qt::LeftButton);
        QTRY_COMPARE(weave()->chosen(), std::string("point_list"));
        waitFresh();
        QVERIFY(!window_->rebuilds().anyFailed());
        const double metre = 1 / stage()->camera().metresPerPixel(stage()->size());
        dragHandle(0, QPointF(0.15 * metre, 0).toPoint());
        dragHandle(1, QPointF(0.15 * metre, 0.25 * metre).toPoint());
        pointBeside(1, QPointF(-0.2 * metre, -0.2 * metre).toPoint());
        pointBeside(2, QPointF(-0.1 * metre, -0.15 * metre).toPoint());
        QCOMPARE(loom().node("point_list")->settings.at("points").size(), std::size_t(4));
        click("revolve");
        pick("close_to_axis", "both");
        QVERIFY(checkupOf(output()).sound());
        // A dented wall.
        add("remesh");
        type("edge_length", {"5cm"});
        add("noise displace");
        type("amount", {"3cm"});
        type("size", {"40cm"});
        QVERIFY(checkupOf(output()).sound());
        const std::string wall = weave()->chosen();

        // A cage of rods on top.
        addBeside("cylinder");
        type("radius_bottom", {"18cm"});
        type("radius_top", {"10cm"});
        type("height", {"45cm"});
        type("sides", {"6"});
        add("transform");
        type("move", {"0", "65cm", "0"});
        add("edge rods");
        type("radius", {"15mm"});
        auto* welded = row("welded")->findChild<QCheckBox*>();
        QVERIFY(welded);
        QTest::mouseClick(welded, Qt::LeftButton, {}, QPoint(8, welded->height() / 2));
        waitFresh();
        const std::string cage = weave()->chosen();

        // Its number in raised letters.
        addBeside("text outline");
        auto* words = row("text")->findChild<QLineEdit*>();
        QVERIFY(words);
        QTest::mouseClick(words, Qt::LeftButton);
        key(words, Qt::Key_A, Qt::ControlModifier);
        QTest::keyClicks(words, "14");
        key(words, Qt::Key_Return);
        type("size", {"25cm"});
        const std::string number = weave()->chosen();
        add("fill curve");
        add("extrude");
        type("distance", {"25cm"});
        QTest::mouseClick(row("keep_back")->findChild<QCheckBox*>(), Qt::LeftButton, {}, QPoint(8, 8));
        add("transform");
        type("move", {"0", "5cm", "25cm"});
        const std::string letters = weave()->chosen();

        // All in one solid.
        click(wall);
        add("boolean");
        pull(cage, "boolean", 1);
        pull(letters, "boolean", 1);
        click("boolean");
        waitFresh();
        QVERIFY(!window_->rebuilds().anyFailed());
        const Checkup checkup = checkupOf(output());
        QVERIFY2(checkup.sound(), "the buoy is not sound");
        QCOMPARE(pieces(output()), std::size_t(1));

        // Three controls, which change the model.
        makeControl(wall, "amount", "Dents");
        makeControl("cylinder", "height", "Cage height");
        makeControl(number, "text", "Number");
        QCOMPARE(loom().controls.size(), std::size_t(3));
        for (const Control& control : loom().controls) QVERIFY(window_->controls()->rect().contains(window_->controls()->namePixel(control.id)));
        const std::string dents = controlNamed("Dents");
        QVERIFY(!dents.empty() && !controlNamed("Cage height").empty() && !controlNamed("Number").empty());
        const Digest before = digestOf(output());
        Slider* slider = window_->controls()->slider(dents);
        QVERIFY(slider);
        drag(slider, slider->pixelOf(0.03), slider->pixelOf(0.01));
        waitFresh();
        QVERIFY(digestOf(output()) != before);
        QVERIFY(checkupOf(output()).sound());

        // Out it goes.
        const QString file = folder_.filePath("channel-buoy.glb");
        QTimer asked;
        connect(&asked, &QTimer::timeout, this, [&file] {
            auto* dialog = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
            if (!dialog) return;
            auto* name = dialog->findChild<QLineEdit*>("fileNameEdit");
            name->setFocus();
            QTest::keyClick(name, Qt::Key_A, Qt::ControlModifier);
            QTest::keyClicks(name, file);
            QTest::keyClick(name, Qt::Key_Return);
        });
        asked.start(150);
        QSignalSpy exported(window_.get(), &MainWindow::exported);
        QTest::keyClick(window_.get(), Qt::Key_E, Qt::ControlModifier);
        asked.stop();
        QTRY_COMPARE_WITH_TIMEOUT(exported.count(), 1, 20000);
        const auto read = readMesh(file.toStdString());
        QVERIFY(bool(read));
        QCOMPARE(boundsOf(read->positions()).size(), boundsOf(output().positions()).size());

        QVERIFY2(withoutCure_.isEmpty(), qPrintable(withoutCure_.join('\n')));
        if (qEnvironmentVariableIsSet("SEEDLOOM_KEEP_PICTURE")) window_->grab().save(qEnvironmentVariable("SEEDLOOM_KEEP_PICTURE"));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestBuoy>(argc, argv); }
#include "test_buoy.moc"
