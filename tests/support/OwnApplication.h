#pragma once
// An application as at its first start: settings, journals and pictures go to a folder of their own.
#include "app/look/Theme.h"
#include "app/shell/Startup.h"

#include <QtCore/QSettings>
#include <QtCore/QTemporaryDir>
#include <QtWidgets/QApplication>

namespace seedloom::app {

class OwnApplication {
public:
    OwnApplication(int& argc, char** argv) : display_(prepareDisplay(argc, argv) && keepApart(folder_.path())), application_(argc, argv) {
        nameApplication();
        installEnglish(application_);
        applyTheme(application_);
    }

private:
    static bool keepApart(const QString& folder) {
        QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, folder);
        for (const char* home : {"XDG_CACHE_HOME", "XDG_DATA_HOME"}) qputenv(home, folder.toUtf8());
        return true;
    }
    QTemporaryDir folder_;
    bool display_;
    QApplication application_;
};

}  // namespace seedloom::app
