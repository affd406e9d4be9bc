#pragma once
#include "app/session/Document.h"
#include "app/session/RebuildService.h"

#include <QtCore/QElapsedTimer>
#include <QtCore/QTimer>
#include <QtGui/QColor>
#include <QtWidgets/QWidget>

class QLabel;
class QToolButton;
class QPushButton;

namespace seedloom::app {

/// File name, undo and redo, and the state of the rebuild with Cancel.
class TopLine : public QWidget {
    Q_OBJECT

public:
    TopLine(Document& document, RebuildService& rebuilds, QAction* undo, QAction* redo, QAction* search, QAction* exportModel, QWidget* parent = nullptr);
    QLabel* stateLabel() const { return state_; }
    QPushButton* cancelButton() const { return cancel_; }

protected:
    void resizeEvent(QResizeEvent* event) override;

private:
    void refresh();
    void fitSearch();

    Document& document_;
    RebuildService& rebuilds_;
    QLabel *name_, *edited_, *dot_, *state_, *time_;
    QPushButton *cancel_, *search_;
    QColor shownColour_;
    QTimer tick_;
    QElapsedTimer runningSince_;
};

}  // namespace seedloom::app
