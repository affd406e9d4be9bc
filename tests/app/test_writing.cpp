// Frames of the model as files, in a real window: one that moves, a file for each, stopped on the way, and wrong wishes.
#include "WindowTest.h"
#include "app/shell/FramesDialog.h"
#include "formats/LoomFile.h"
#include "meshes/MeshFile.h"
#include "support/Looms.h"

#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QRadioButton>
#include <QtWidgets/QSpinBox>

using namespace seedloom;
using namespace seedloom::app;
using namespace seedloom::test;

namespace {

/// A box that falls from 2 m.
Loom fallingBox(const Json& settings) {
    Loom out;
    out.name = "Falling";
    out.nodes = {node("box", "box", {0, 0}, {{"size", {0.4, 0.4, 0.4}}}), node("up", "transform", {1, 0}, {{"move", {0, 2, 0}}}),
                 node("fall", "settle", {2, 0}, settings), node("out", "output", {3, 0})};
    out.links = {linked("box", "up"), linked("up", "fall"), linked("fall", "out")};
    out.output = "out";
    return out;
}

}  // namespace

class TestWriting : public WindowTest {
    Q_OBJECT

    FramesDialog* open() {
        FramesDialog* dialog = window_->showFrames();
        QTest::qWait(20);
        return dialog;
    }
    void openFalling(const Json& settings = Json::object()) {
        window_ = std::make_unique<MainWindow>();
        const std::string file = folder_.filePath("falling.loom").toStdString();
        QVERIFY(!writeLoom(fallingBox(settings), file));
        window_->openFile(QString::fromStdString(file));
        showWindow();
    }
    static void type(QLineEdit* field, const QString& text) {
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, text);
    }
    static void waitWritten(FramesDialog* dialog) { QTRY_VERIFY_WITH_TIMEOUT(!dialog->run().running(), 60000); }

private Q_SLOTS:
    void cleanup() { window_.reset(); }

    void oneFileThatMoves() {
        openFalling();
        run("write_frames");
        auto* dialog = window_->findChild<FramesDialog*>();
        QVERIFY(dialog && dialog->isVisible());
        QCOMPARE(dialog->first()->value(), 0);
        QCOMPARE(dialog->last()->value(), 120);  // what the Time drawer shows
        QVERIFY(dialog->file()->text().endsWith(QStringLiteral("falling.glb")));
        dialog->last()->setValue(12);
        const QString file = folder_.filePath("box.glb");
        type(dialog->file(), file);
        QVERIFY(dialog->message().contains(QStringLiteral("13 frames")));
        QTest::mouseClick(dialog->writeButton(), Qt::LeftButton);
        QVERIFY(dialog->run().running() && !dialog->writeButton()->isEnabled() && dialog->stopButton()->text().contains("Stop"));
        waitWritten(dialog);
        QVERIFY2(dialog->message().contains("box.glb"), qPrintable(dialog->message()));
        QVERIFY(dialog->writeButton()->isEnabled());
        QFile written(file);
        QVERIFY(written.open(QIODevice::ReadOnly));
        QVERIFY(written.readAll().contains("\"animations\""));
        const auto first = readMesh(file.toStdString());
        QVERIFY(first && std::abs(boundsOf(first->positions()).centre().y - 2) < 1e-4f);
        // The document is as it was.
        QVERIFY(document().undoText().isEmpty());
    }

    void aFileForEachFrame() {
        openFalling();
        FramesDialog* dialog = open();
        type(dialog->file(), folder_.filePath("each.glb"));
        QTest::mouseClick(dialog->each(), Qt::LeftButton, {}, {10, dialog->each()->height() / 2});
        QVERIFY(dialog->each()->isChecked());
        QVERIFY2(dialog->file()->text().endsWith(QStringLiteral("each.####.glb")), qPrintable(dialog->file()->text()));
        type(dialog->file(), folder_.filePath("each.##.obj"));
        dialog->first()->setValue(3), dialog->last()->setValue(5);
        QTest::keyClick(dialog, Qt::Key_Return);
        waitWritten(dialog);
        QCOMPARE(QDir(folder_.path()).entryList({"each.*.obj"}), (QStringList{"each.03.obj", "each.04.obj", "each.05.obj"}));
        QVERIFY2(dialog->message().startsWith("3 files"), qPrintable(dialog->message()));
        // Each lower than the one before, as the law of falling says.
        float last = 3;
        for (const char* name : {"each.03.obj", "each.04.obj", "each.05.obj"}) {
            const auto model = readMesh(folder_.filePath(name).toStdString());
            QVERIFY(model);
            const float height = boundsOf(model->positions()).centre().y;
            QVERIFY(height < last - 0.01f);
            last = height;
        }
        QVERIFY(std::abs(last - float(2 - 9.81 / 2 * 25 / 576)) < 2e-3f);
        // And back: the name is that of one file again.
        QTest::mouseClick(dialog->together(), Qt::LeftButton, {}, {10, dialog->together()->height() / 2});
        QVERIFY2(dialog->file()->text().endsWith(QStringLiteral("each.glb")), qPrintable(dialog->file()->text()));
    }

    void stoppedOnTheWay() {
        openFalling();
        FramesDialog* dialog = open();
        const QString file = folder_.filePath("stopped.glb");
        type(dialog->file(), file);
        dialog->last()->setValue(9000);
        QTest::mouseClick(dialog->writeButton(), Qt::LeftButton);
        QTRY_VERIFY(dialog->message().startsWith("Frame "));
        QTest::mouseClick(dialog->stopButton(), Qt::LeftButton);
        QVERIFY(!dialog->run().running() && dialog->message().startsWith("Stopped"));
        QTest::qWait(200);
        QVERIFY(!QFileInfo::exists(file));
        QVERIFY(dialog->writeButton()->isEnabled());
        // Closed while it writes: nothing is left behind.
        QTest::mouseClick(dialog->writeButton(), Qt::LeftButton);
        QPointer<FramesDialog> gone = dialog;
        dialog->close();
        QTRY_VERIFY(!gone);
        QVERIFY(!QFileInfo::exists(file));
    }

    void wrongWishesAreToldBeforeAnythingIsDone() {
        openFalling();
        FramesDialog* dialog = open();
        dialog->first()->setValue(50), dialog->last()->setValue(20);
        QVERIFY(!dialog->writeButton()->isEnabled() && dialog->message().contains("first one first"));
        dialog->last()->setValue(100000);
        QVERIFY(!dialog->writeButton()->isEnabled() && dialog->message().contains("10000"));
        dialog->first()->setValue(0), dialog->last()->setValue(10);
        QVERIFY(dialog->writeButton()->isEnabled());
        type(dialog->file(), QStringLiteral("/tmp/x.obj"));
        QVERIFY(!dialog->writeButton()->isEnabled() && dialog->message().contains(".glb"));
        dialog->each()->setChecked(true);
        type(dialog->file(), QStringLiteral("/tmp/x.obj"));
        QVERIFY(!dialog->writeButton()->isEnabled() && dialog->message().contains("####"));
        type(dialog->file(), QStringLiteral("/no/such/folder/x.#.obj"));
        QVERIFY(dialog->writeButton()->isEnabled());
        QTest::mouseClick(dialog->writeButton(), Qt::LeftButton);
        waitWritten(dialog);
        QVERIFY2(dialog->message().startsWith("Not written"), qPrintable(dialog->message()));
    }

    void whatKeepsItsFrameIsTold() {
        openFalling({{"at_frame", 3}});
        FramesDialog* dialog = open();
        dialog->last()->setValue(4);
        type(dialog->file(), folder_.filePath("still.glb"));
        QTest::mouseClick(dialog->writeButton(), Qt::LeftButton);
        waitWritten(dialog);
        QVERIFY2(dialog->message().contains("nothing moves"), qPrintable(dialog->message()));
        // And what fails: no output, no file.
        openFalling({{"density", 0}});
        dialog = open();
        type(dialog->file(), folder_.filePath("never.glb"));
        QTest::mouseClick(dialog->writeButton(), Qt::LeftButton);
        waitWritten(dialog);
        QVERIFY2(dialog->message().startsWith("Not written to the end. Frame 0"), qPrintable(dialog->message()));
        QVERIFY(!QFileInfo::exists(folder_.filePath("never.glb")));
    }
};

int main(int argc, char** argv) { return runWindowTest<TestWriting>(argc, argv); }
#include "test_writing.moc"
