#include "app/look/Theme.h"
#include "app/session/Log.h"
#include "app/session/Preferences.h"
#include "app/shell/MainWindow.h"
#include "app/shell/Startup.h"

#include <QtCore/QSettings>
#include <QtCore/QStandardPaths>
#include <QtWidgets/QApplication>

int main(int argc, char** argv) {
    if (!seedloom::app::prepareDisplay(argc, argv)) return 1;
    QApplication application(argc, argv);
    seedloom::app::nameApplication();
    seedloom::app::Log::common().say(
        QStringLiteral("start: Seed Loom " SEEDLOOM_VERSION ", Qt %1, %2").arg(QString::fromLatin1(qVersion()), QGuiApplication::platformName()));
    seedloom::app::Log::common().open(seedloom::app::Log::stateFolder());
    seedloom::app::installEnglish(application);
    seedloom::app::preferences::restore();
    seedloom::app::applyTheme(application);
    auto& window = *seedloom::app::MainWindow::openNew();
    const QStringList files = QCoreApplication::arguments().mid(1);
    // Where a named file can't be opened, its message stays in sight over an empty loom.
    if (!files.isEmpty()) {
        window.openFiles(files);
    } else if (QSettings().value(QStringLiteral("firstStepsSeen"), false).toBool()) {
        window.showStart(true);
    } else {
        window.openDemo();
        window.showFirstSteps(true);
    }
    window.keepJournalIn(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/journals"));
    window.show();
    return QApplication::exec();
}
