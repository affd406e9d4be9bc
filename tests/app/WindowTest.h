#pragma once
// A real window with the demo, and ways to drive it by mouse and keys. What counts is the document and the geometry.
#include "app/shell/MainWindow.h"
#include "app/weave/Weave.h"
#include "geometry/Measures.h"
#include "support/OwnApplication.h"

#include <QtCore/QTemporaryDir>
#include <QtTest/QtTest>
#include <QtWidgets/QApplication>

/// Tests of what OpenGL draws fail where there is none, so that nobody takes a machine without it for one that passed; whoever works on such a machine says so.
#define NEED_OPENGL(has)                                                                           \
    if (!(has)) {                                                                                  \
        if (qEnvironmentVariableIsSet("SEEDLOOM_WITHOUT_OPENGL")) QSKIP("no OpenGL, as was said"); \
        QFAIL("There is no OpenGL here. Set SEEDLOOM_WITHOUT_OPENGL to leave these tests out.");   \
    }

namespace seedloom::app {

inline void drag(QWidget* widget, QPoint from, QPoint to, Qt::MouseButton button = Qt::LeftButton) {
    QTest::mousePress(widget, button, {}, from);
    for (int i = 1; i <= 8; ++i) {
        const QPoint at = from + (to - from) * i / 8;
        QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, button, {});
        QApplication::sendEvent(widget, &move);
    }
    QTest::mouseRelease(widget, button, {}, to);
}

class WindowTest : public QObject {
protected:
    std::unique_ptr<MainWindow> window_;
    QTemporaryDir folder_;

    Document& document() { return window_->document(); }
    const Loom& loom() { return document().loom(); }
    Weave* weave() { return window_->weave(); }
    void waitFresh() { QTRY_VERIFY_WITH_TIMEOUT(!window_->rebuilds().running(), 20000); }
    Geometry output() {
        waitFresh();
        const auto outcome = window_->rebuilds().outcome(loom().output);
        return outcome ? outcome->geometry : Geometry();
    }
    float height() { return boundsOf(output()).size().y; }
    void click(const std::string& node, Qt::KeyboardModifiers keys = {}) {
        QTest::mouseClick(weave(), Qt::LeftButton, keys, weave()->cardRect(node).center().toPoint());
    }
    void undo() {
        document().undo();
        waitFresh();
    }
    /// Runs a command as the menu does.
    void run(const char* id) {
        QAction* action = window_->action(QLatin1String(id));
        QVERIFY2(action, id);
        action->trigger();
    }
    void openDemoWindow() {
        window_ = std::make_unique<MainWindow>();
        window_->openDemo();
        showWindow();
    }
    void showWindow() {
        window_->show();
        QVERIFY(QTest::qWaitForWindowExposed(window_.get()));
        window_->activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(window_.get()));
        waitFresh();
    }
    bool exportAndWait(MainWindow& window, const QString& file) {
        QSignalSpy done(&window, &MainWindow::exported);
        if (!window.exportTo(file)) return false;
        return (done.count() > 0 || done.wait(20000)) && done.front().front().toBool();
    }
};

template <class Test> int runWindowTest(int argc, char** argv) {
    const OwnApplication application(argc, argv);
    Test test;
    return QTest::qExec(&test, argc, argv);
}

}  // namespace seedloom::app
