#pragma once
#include <QtCore/QDir>
#include <QtCore/QFileInfo>

namespace seedloom::app {

/// A file's path as it is written in a document of that folder: from the folder on for what lies in it, or deeper; else whole. An empty folder: whole.
inline QString writtenPath(const QString& file, const QString& folder) {
    const QString whole = QFileInfo(file).absoluteFilePath();
    if (folder.isEmpty()) return whole;
    const QString beside = QDir(folder).relativeFilePath(whole);
    return beside.startsWith(QStringLiteral("..")) ? whole : beside;
}

}  // namespace seedloom::app
