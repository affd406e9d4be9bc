#pragma once
// Documents with edits that were never saved, because the program ended before.
#include <QtCore/QDateTime>
#include <QtCore/QString>

#include <filesystem>
#include <vector>

namespace seedloom::app {

struct LeftWork {
    std::filesystem::path journal;
    QString name;
    int edits = 0;
    QDateTime last;  ///< when the last edit was made
};

/// What journals in `folder` keep, the newest first; those that can't be read at all are left out.
std::vector<LeftWork> leftWork(const QString& folder);

}  // namespace seedloom::app
