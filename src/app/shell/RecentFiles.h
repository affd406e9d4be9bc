#pragma once
// The looms that were open lately, each with a picture of its model.
#include <QtGui/QPixmap>
#include <QtWidgets/QDialog>

class QListWidget;

namespace seedloom::app {

/// Newest first; files that are gone are left out.
QStringList recentFiles();
void rememberRecent(const QString& file);
void rememberPicture(const QString& file, const QPixmap& picture);
QPixmap recentPicture(const QString& file);

class RecentDialog : public QDialog {
    Q_OBJECT

public:
    explicit RecentDialog(QWidget* parent);
    QListWidget* list() const { return list_; }

Q_SIGNALS:
    void chosen(const QString& file);

private:
    QListWidget* list_;
};

}  // namespace seedloom::app
