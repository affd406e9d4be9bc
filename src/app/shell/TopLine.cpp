#include "app/shell/TopLine.h"

#include "app/shell/Theme.h"

#include <QtGui/QAction>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

TopLine::TopLine(Document& document, RebuildService& rebuilds, QAction* undo, QAction* redo, QAction* exportModel, QWidget* parent)
    : QWidget(parent), document_(document), rebuilds_(rebuilds), name_(new QLabel(this)), edited_(new QLabel(this)), dot_(new QLabel(this)), state_(new QLabel(this)),
      time_(new QLabel(this)), cancel_(new QPushButton(tr("Cancel"), this)) {
    setFixedHeight(36);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(16, 0, 12, 0);
    row->setSpacing(8);
    name_->setFont(bodyFont(13, QFont::Bold));
    edited_->setStyleSheet(QStringLiteral("color: %1;").arg(colours().faint.name()));
    row->addWidget(name_);
    row->addWidget(edited_);
    row->addSpacing(10);
    for (QAction* action : {undo, redo}) {
        auto* button = new QToolButton(this);
        button->setDefaultAction(action);
        button->setIconSize({20, 20});
        button->setAutoRaise(true);
        button->setStyleSheet(QStringLiteral("QToolButton { border: none; background: transparent; } QToolButton:hover { background: %1; }").arg(colours().field.name()));
        row->addWidget(button);
    }
    row->addSpacing(10);
    state_->setFont(bodyFont(12, QFont::DemiBold));
    time_->setFont(numberFont(11));
    time_->setStyleSheet(QStringLiteral("color: %1;").arg(colours().faint.name()));
    row->addWidget(dot_);
    row->addWidget(state_);
    row->addWidget(time_);
    cancel_->setFixedHeight(24);
    cancel_->setAccessibleName(tr("Cancel the rebuild"));
    cancel_->hide();
    row->addWidget(cancel_);
    row->addStretch();
    auto* exporting = new QPushButton(exportModel->text().remove(QLatin1Char('&')), this);
    exporting->setFixedHeight(26);
    exporting->setToolTip(exportModel->toolTip());
    connect(exporting, &QPushButton::clicked, exportModel, &QAction::trigger);
    row->addWidget(exporting);
    connect(cancel_, &QPushButton::clicked, &rebuilds_, &RebuildService::cancel);
    connect(&document_, &Document::changed, this, &TopLine::refresh);
    connect(&document_.history(), &QUndoStack::cleanChanged, this, &TopLine::refresh);
    connect(&rebuilds_, &RebuildService::stateChanged, this, &TopLine::refresh);
    refresh();
}

void TopLine::refresh() {
    const Colours& c = colours();
    name_->setText(document_.title());
    edited_->setText(document_.modified() ? tr("edited") : QString());
    const bool running = rebuilds_.running();
    QColor colour = c.fresh;
    if (running) {
        colour = c.link;
        state_->setText(tr("rebuilding %1 of %2").arg(std::min(rebuilds_.doneCount() + 1, rebuilds_.totalCount())).arg(rebuilds_.totalCount()));
        time_->clear();
    } else if (rebuilds_.wasCancelled()) {
        colour = c.warning;
        state_->setText(tr("stopped, not up to date"));
        time_->clear();
    } else {
        const bool failed = rebuilds_.anyFailed();
        if (failed) colour = c.chosen;
        state_->setText(failed ? tr("a node failed") : tr("fresh"));
        time_->setText(rebuilds_.lastMs() > 0 ? tr("%1 ms").arg(rebuilds_.lastMs(), 0, 'f', rebuilds_.lastMs() < 10 ? 1 : 0) : QString());
    }
    // A quick rebuild does not flash a button.
    cancel_->setVisible(running && rebuilds_.doneCount() < rebuilds_.totalCount());
    state_->setStyleSheet(QStringLiteral("color: %1;").arg(colour.name()));
    dot_->setText(QStringLiteral("●"));
    dot_->setStyleSheet(QStringLiteral("color: %1; font-size: 10px;").arg(colour.name()));
}

}  // namespace seedloom::app
