#include "app/shell/LeftWork.h"

#include "app/session/Document.h"
#include "formats/Journal.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QFileInfo>

namespace seedloom::app {

std::vector<LeftWork> leftWork(const QString& folder) {
    std::vector<LeftWork> out;
    for (const auto& journal : leftJournals(folder.toStdString())) {
        const auto content = readJournal(journal);
        if (!content) continue;
        const QString name = QString::fromStdString(content->base.name);
        out.push_back({journal, name.isEmpty() ? QCoreApplication::translate("LeftWork", "Untitled") : name, int(content->edits.size()),
                       QFileInfo(QString::fromStdString(journal.string())).lastModified()});
    }
    return out;
}

}  // namespace seedloom::app
