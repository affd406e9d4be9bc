#include "app/shell/MainWindow.h"
#include "app/shell/Startup.h"
#include "app/shell/Theme.h"

#include <QtCore/QSettings>
#include <QtWidgets/QApplication>

int main(int argc, char** argv) {
    if (!seedloom::app::prepareDisplay(argc, argv)) return 1;
    QApplication application(argc, argv);
    seedloom::app::nameApplication();
    seedloom::app::applyTheme(application);
    seedloom::app::MainWindow window;
    const QStringList files = QCoreApplication::arguments().mid(1);
    if (files.isEmpty() || !window.openFile(files.first())) {
        window.openDemo();
        window.showFirstSteps(!QSettings().value(QStringLiteral("firstStepsSeen"), false).toBool());
    }
    window.show();
    return QApplication::exec();
}
