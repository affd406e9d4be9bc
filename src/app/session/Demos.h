#pragma once
// The demo looms that are shipped, as a gallery and as files that can be opened.
#include <QtCore/QString>
#include <QtGui/QPixmap>

#include <vector>

namespace seedloom::app {

struct Demo {
    QString id;  ///< its file's name without ending
    QString name, sentence, teaches;
    QPixmap picture;
};

/// In the order in which they are best looked at; the first is for first steps.
std::vector<Demo> demos();
QPixmap demoPicture(const QString& id);
/// The folder of the user's in which all demos are, written anew where they are not as shipped. Empty where that could not be written. Thread-safe.
QString demoFolder();
/// A file of it, with all that the demos name beside it, there. Empty where that could not be written.
QString demoFile(const QString& id);
/// Whether a file lies there: saving it is for another place, so that the demo stays as it was.
bool isDemoFile(const QString& file);

}  // namespace seedloom::app
