#include "app/session/Log.h"

#include <QtCore/QDateTime>
#include <QtCore/QDir>
#include <QtCore/QFile>

namespace seedloom::app {

namespace {

constexpr int kMostWaiting = 1000;

QString nameIn(const QString& folder) { return folder + QStringLiteral("/seedloom.log"); }

}  // namespace

Log& Log::common() {
    static Log* const log = new Log;  // never ends: what comes last in the program may still say something
    return *log;
}

QString Log::stateFolder() {
    const QString state = qEnvironmentVariable("XDG_STATE_HOME");
    return (state.isEmpty() ? QDir::homePath() + QStringLiteral("/.local/state") : state) + QStringLiteral("/seedloom");
}

void Log::open(const QString& folder) {
    {
        const std::lock_guard lock(mutex_);
        folder_ = folder;
    }
    if (!folder.isEmpty()) write();
}

QString Log::file() const {
    const std::lock_guard lock(mutex_);
    return folder_.isEmpty() ? QString() : nameIn(folder_);
}

void Log::say(const QString& line) {
    QString clean = line.left(2000);
    clean.replace(QLatin1Char('\n'), QLatin1Char(' '));
    bool open = false;
    {
        const std::lock_guard lock(mutex_);
        waiting_ << QDateTime::currentDateTimeUtc().toString(Qt::ISODateWithMs) + QLatin1Char(' ') + clean;
        if (waiting_.size() > kMostWaiting) waiting_.removeFirst();
        open = !folder_.isEmpty();
    }
    if (open) write();
}

void Log::write() {
    background_.start([this]() -> Background::Then {
        QStringList lines;
        QString folder;
        {
            const std::lock_guard lock(mutex_);
            lines.swap(waiting_);
            folder = folder_;
        }
        if (lines.isEmpty() || folder.isEmpty() || !QDir().mkpath(folder)) return {};
        QFile file(nameIn(folder));
        if (file.size() > kLongest) {
            QFile::remove(file.fileName() + QStringLiteral(".1"));
            QFile::rename(file.fileName(), file.fileName() + QStringLiteral(".1"));
        }
        if (file.open(QIODevice::WriteOnly | QIODevice::Append | QIODevice::Text)) file.write((lines.join(QLatin1Char('\n')) + QLatin1Char('\n')).toUtf8());
        return {};
    });
}

QString Log::newest(qsizetype most) {
    background_.wait();
    if (file().isEmpty()) return {};
    QString text;
    for (const QString& name : {file() + QStringLiteral(".1"), file()}) {
        QFile file(name);
        if (file.open(QIODevice::ReadOnly | QIODevice::Text)) text += QString::fromUtf8(file.readAll());
    }
    if (text.size() <= most) return text;
    const qsizetype from = text.indexOf(QLatin1Char('\n'), text.size() - most) + 1;
    return text.mid(from);
}

}  // namespace seedloom::app
