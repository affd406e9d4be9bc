#include "app/session/Demos.h"

#include "formats/LoomFile.h"

#include <QtCore/QDir>
#include <QtCore/QFile>
#include <QtCore/QFileInfo>
#include <QtCore/QSaveFile>
#include <QtCore/QStandardPaths>

#include <mutex>

namespace seedloom::app {

namespace {

constexpr const char* kInOrder[] = {"mooring-bollard", "fish-crate",      "cracked-sea-wall", "tumbled-breakwater", "dune-boardwalk",
                                    "crusted-rock",    "shingled-turret", "basket-of-floats", "broken-urchin",      "harbour-sign",
                                    "radar-dome",      "whelk",           "carved-seal",      "seal-in-strokes",    "chipped-quay-steps",
                                    "knotted-fender",  "net-floats",      "roof-shingle",     "attribute-tour"};

QByteArray contentOf(const QString& file) {
    QFile in(file);
    return in.open(QIODevice::ReadOnly) ? in.readAll() : QByteArray();
}

QString folder() { return QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation) + QStringLiteral("/demos"); }

/// "One two. Three." gives "One two."
QString firstSentence(const QString& text) {
    const auto end = text.indexOf(QStringLiteral(". "));
    return end < 0 ? text : text.left(end + 1);
}

}  // namespace

std::vector<Demo> demos() {
    std::vector<Demo> out;
    for (const char* id : kInOrder) {
        const QString name = QLatin1String(id);
        const auto loom = loomFromText(contentOf(QStringLiteral(":/demo/%1.loom").arg(name)).toStdString());
        if (!loom) continue;
        const auto said = [&](const char* key) { return QString::fromStdString(loom->extra.value(key, std::string())); };
        out.push_back({name, QString::fromStdString(loom->name), firstSentence(said("help")), said("teaches"), demoPicture(name)});
    }
    return out;
}

QPixmap demoPicture(const QString& id) { return QPixmap(QStringLiteral(":/demos/%1.png").arg(id)); }

QString demoFolder() {
    static std::mutex mutex;
    const std::lock_guard lock(mutex);
    if (!QDir().mkpath(folder())) return {};
    for (const QFileInfo& shipped : QDir(QStringLiteral(":/demo")).entryInfoList(QDir::Files)) {
        const QByteArray content = contentOf(shipped.filePath());
        const QString to = folder() + QLatin1Char('/') + shipped.fileName();
        if (contentOf(to) == content) continue;
        QSaveFile file(to);
        if (!file.open(QIODevice::WriteOnly) || file.write(content) != content.size() || !file.commit()) return {};
    }
    return folder();
}

QString demoFile(const QString& id) {
    const QString written = demoFolder();
    const QString file = written + QLatin1Char('/') + id + QStringLiteral(".loom");
    return !written.isEmpty() && QFileInfo::exists(file) ? file : QString();
}

bool isDemoFile(const QString& file) { return !file.isEmpty() && QFileInfo(file).absolutePath() == QFileInfo(folder()).absoluteFilePath(); }

}  // namespace seedloom::app
