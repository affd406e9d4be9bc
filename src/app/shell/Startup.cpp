#include "app/shell/Startup.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QTranslator>
#include <QtGui/QSurfaceFormat>

#include <cstdio>
#include <cstring>

namespace seedloom::app {

namespace {

class EnglishNumbers : public QTranslator {
public:
    using QTranslator::QTranslator;
    bool isEmpty() const override { return false; }
    QString translate(const char*, const char* source, const char*, int n) const override {
        if (n < 0) return {};
        QString text = QString::fromUtf8(source);
        text.replace(QStringLiteral("(s)"), n == 1 ? QString() : QStringLiteral("s"));
        return text.replace(QStringLiteral("%n"), QString::number(n));
    }
};

}  // namespace

void installEnglish(QCoreApplication& application) { application.installTranslator(new EnglishNumbers(&application)); }

bool prepareDisplay(int argc, char** argv) {
    bool platformGiven = qEnvironmentVariableIsSet("QT_QPA_PLATFORM");
    for (int i = 1; i < argc; ++i) platformGiven |= std::strcmp(argv[i], "-platform") == 0;
    if (!platformGiven && !qEnvironmentVariableIsSet("DISPLAY") && !qEnvironmentVariableIsSet("WAYLAND_DISPLAY")) {
        std::fputs("seedloom: there is no display to open a window on. Start it from a desktop, or use seedloom-cli.\n", stderr);
        return false;
    }
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    format.setStencilBufferSize(8);
    QSurfaceFormat::setDefaultFormat(format);
    QCoreApplication::setAttribute(Qt::AA_ShareOpenGLContexts);
    return true;
}

void nameApplication() {
    QCoreApplication::setOrganizationName(QStringLiteral("Seed Loom"));
    QCoreApplication::setApplicationName(QStringLiteral("Seed Loom"));
}

}  // namespace seedloom::app
