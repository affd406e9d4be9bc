#pragma once
// A window of the looms that were open lately.
#include <QtWidgets/QDialog>

class QListWidget;

namespace seedloom::app {

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
