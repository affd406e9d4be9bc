#include "app/session/RecentFiles.h"

#include <QtCore/QCryptographicHash>
#include <QtCore/QDir>
#include <QtCore/QFileInfo>
#include <QtCore/QSettings>
#include <QtCore/QStandardPaths>

namespace seedloom::app {

namespace {

constexpr const char* kRecent = "recentFiles";
constexpr int kMost = 12;

QString pictureFile(const QString& file) {
    const QByteArray name = QCryptographicHash::hash(file.toUtf8(), QCryptographicHash::Sha1).toHex();
    return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/recent/") + QLatin1String(name) + QStringLiteral(".png");
}

}  // namespace

QStringList recentFiles() {
    QStringList files = QSettings().value(QLatin1String(kRecent)).toStringList();
    files.erase(std::remove_if(files.begin(), files.end(), [](const QString& file) { return !QFileInfo::exists(file); }), files.end());
    return files;
}

void rememberRecent(const QString& file) {
    const QString whole = QFileInfo(file).absoluteFilePath();
    QStringList files = QSettings().value(QLatin1String(kRecent)).toStringList();
    files.removeAll(whole);
    files.prepend(whole);
    while (files.size() > kMost) QFile::remove(pictureFile(files.takeLast()));
    QSettings().setValue(QLatin1String(kRecent), files);
}

void rememberPicture(const QString& file, const QPixmap& picture) {
    if (picture.isNull()) return;
    const QString to = pictureFile(QFileInfo(file).absoluteFilePath());
    QDir().mkpath(QFileInfo(to).path());
    picture.save(to);
}

QPixmap recentPicture(const QString& file) { return QPixmap(pictureFile(QFileInfo(file).absoluteFilePath())); }

}  // namespace seedloom::app
