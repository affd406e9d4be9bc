#pragma once
// The looms that were open lately, each with a picture of its model.
#include <QtCore/QStringList>
#include <QtGui/QPixmap>

namespace seedloom::app {

/// Newest first; files that are gone are left out.
QStringList recentFiles();
void rememberRecent(const QString& file);
void rememberPicture(const QString& file, const QPixmap& picture);
QPixmap recentPicture(const QString& file);

}  // namespace seedloom::app
