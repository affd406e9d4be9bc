// Takes the pictures in docs/screenshots from the demo data. Run by scripts/screenshots under its own display.
#include "app/data/DataDrawer.h"
#include "app/shell/MainWindow.h"
#include "app/shell/Startup.h"
#include "app/shell/Theme.h"
#include "app/stage/Stage.h"
#include "app/weave/QuickAdd.h"
#include "app/weave/Weave.h"

#include <QtCore/QSettings>
#include <QtCore/QTemporaryDir>
#include <QtGui/QScreen>
#include <QtTest/QtTest>
#include <QtWidgets/QApplication>
#include <QtWidgets/QLineEdit>

using namespace seedloom::app;

namespace {

void settle(MainWindow& window) {
    QTest::qWait(150);
    for (int i = 0; i < 100 && window.rebuilds().running(); ++i) QTest::qWait(50);
    QTest::qWait(1200);
}

void take(MainWindow& window, const QString& folder, const QString& name) {
    settle(window);
    window.screen()->grabWindow(window.winId()).save(folder + QLatin1Char('/') + name + QStringLiteral(".png"));
}

}  // namespace

int main(int argc, char** argv) {
    if (!prepareDisplay(argc, argv)) return 1;
    QTemporaryDir settings;
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, settings.path());
    QApplication application(argc, argv);
    nameApplication();
    applyTheme(application);
    const QString folder = QCoreApplication::arguments().value(1, QStringLiteral("."));
    MainWindow window;
    const QStringList size = QCoreApplication::arguments().value(2, QStringLiteral("1280x800")).split(QLatin1Char('x'));
    window.resize(size[0].toInt(), size[1].toInt());
    window.openDemo();
    window.showFirstSteps(true);
    window.show();
    if (!QTest::qWaitForWindowExposed(&window)) return 1;
    take(window, folder, QStringLiteral("first-start"));
    window.showFirstSteps(false);
    window.stage()->setWire(true);
    window.weave()->choose("wobble");
    window.weave()->choose("soften");
    window.weave()->togglePin();
    window.weave()->choose("wobble");
    take(window, folder, QStringLiteral("build"));
    window.weave()->choose("body");
    window.weave()->openQuickAdd();
    QTest::qWait(200);
    QTest::keyClicks(window.weave()->quickAdd()->field(), QStringLiteral("smooth"));
    take(window, folder, QStringLiteral("quick-add"));
    QTest::keyClick(window.weave()->quickAdd()->field(), Qt::Key_Escape);
    window.weave()->choose("outline");
    window.stage()->setWire(false);
    take(window, folder, QStringLiteral("move-a-point"));
    if (QCoreApplication::arguments().contains(QStringLiteral("--states"))) {
        using namespace seedloom;
        window.document().apply(setSetting(window.document().loom(), "wall", "thickness", {{"attribute", "widht"}}));
        window.document().apply(setSetting(window.document().loom(), "even", "count", 2));
        window.document().apply(setSkipped(window.document().loom(), {"wobble"}, true));
        window.weave()->choose("wall");
        window.showDrawer(QStringLiteral("notices"));
        take(window, folder, QStringLiteral("states"));
        return 0;
    }
    window.weave()->choose("soften");
    window.weave()->togglePin();
    window.stage()->setAttribute(QStringLiteral("along"));
    window.showDrawer(QStringLiteral("data"));
    take(window, folder, QStringLiteral("data"));
    return 0;
}
