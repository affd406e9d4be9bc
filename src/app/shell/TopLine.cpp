#include "app/shell/TopLine.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"

#include <QtGui/QAction>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QToolButton>

#include <cmath>

namespace seedloom::app {

TopLine::TopLine(Document& document, RebuildService& rebuilds, QAction* undo, QAction* redo, QAction* search, QAction* exportModel, QWidget* parent)
    : QWidget(parent), document_(document), rebuilds_(rebuilds), name_(new QLabel(this)), edited_(new QLabel(this)), dot_(new QLabel(this)),
      state_(new QLabel(this)), time_(new QLabel(this)), cancel_(new QPushButton(tr("Cancel"), this)), search_(new QPushButton(this)) {
    setFixedHeight(px(36));
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
        button->setStyleSheet(
            QStringLiteral("QToolButton { border: none; background: transparent; } QToolButton:hover { background: %1; }").arg(colours().field.name()));
        row->addWidget(button);
    }
    row->addSpacing(10);
    state_->setFont(bodyFont(12, QFont::DemiBold));
    time_->setFont(numberFont(11));
    time_->setStyleSheet(QStringLiteral("color: %1;").arg(colours().faint.name()));
    row->addWidget(dot_);
    row->addWidget(state_);
    row->addWidget(time_);
    cancel_->setFixedHeight(px(24));
    cancel_->setAccessibleName(tr("Cancel the rebuild"));
    cancel_->hide();
    row->addWidget(cancel_);
    row->addStretch();
    search_->setObjectName(QStringLiteral("searchCommands"));
    search_->setAccessibleName(tr("Search every command"));
    search_->setToolTip(tr("Find anything that can be done, by name (%1)").arg(search->shortcut().toString(QKeySequence::NativeText)));
    search_->setFixedHeight(px(26));
    search_->setIcon(icon(QStringLiteral("search"), colours().faint));
    search_->setStyleSheet(QStringLiteral("QPushButton { color: %1; border-radius: 12px; padding: 2px 14px; text-align: left; }").arg(colours().faint.name()));
    connect(search_, &QPushButton::clicked, search, &QAction::trigger);
    row->addWidget(search_);
    auto* exporting = new QPushButton(exportModel->text().remove(QLatin1Char('&')), this);
    exporting->setFixedHeight(px(26));
    exporting->setToolTip(exportModel->toolTip());
    connect(exporting, &QPushButton::clicked, exportModel, &QAction::trigger);
    row->addWidget(exporting);
    // On the press, not the release: buttons repaint the window before they tell of a click, and under load that takes its time.
    connect(cancel_, &QPushButton::pressed, &rebuilds_, &RebuildService::cancel);
    connect(&document_, &Document::changed, this, &TopLine::refresh);
    connect(&document_, &Document::changed, this, &TopLine::refresh);
    connect(&rebuilds_, &RebuildService::stateChanged, this, &TopLine::refresh);
    // A long name or state must not keep the window from being made narrow.
    for (QLabel* label : {name_, edited_, state_, time_}) label->setMinimumWidth(1);
    fitSearch();
    tick_.setInterval(100);
    connect(&tick_, &QTimer::timeout, this, &TopLine::refresh);
    refresh();
}

/// Where there is little room, the magnifying glass has to do.
void TopLine::fitSearch() {
    int others = px(90);
    for (const QWidget* widget : {static_cast<QWidget*>(name_), static_cast<QWidget*>(edited_), static_cast<QWidget*>(state_), static_cast<QWidget*>(time_)})
        others += widget->sizeHint().width();
    const QString whole = tr("Search every command");
    const int room = width() - others - px(180);
    search_->setText(room < search_->fontMetrics().horizontalAdvance(whole) + px(54) ? QString() : whole);
}

void TopLine::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    fitSearch();
}

void TopLine::refresh() {
    const Colours& c = colours();
    name_->setText(document_.title());
    edited_->setText(document_.modified() ? tr("edited") : QString());
    const bool running = rebuilds_.running();
    QColor colour = c.fresh;
    if (running) {
        colour = c.link;
        QString text = tr("rebuilding %1 of %2").arg(std::min(rebuilds_.doneCount() + 1, rebuilds_.totalCount())).arg(rebuilds_.totalCount());
        const auto working = rebuilds_.workingOn();
        const Node* node = working.empty() ? nullptr : document_.loom().node(working.front());
        const auto part = node ? rebuilds_.progressOf(node->id) : std::nullopt;
        // Only what lasts is told in detail: a quick rebuild does not flicker.
        if (part && runningSince_.elapsed() > 400) text += tr(" · %1 %2 %").arg(QString::fromStdString(displayName(*node))).arg(int(*part * 100));
        state_->setText(text);
        const auto left = rebuilds_.remainingMs();
        time_->setText(left && *left > 3000 ? tr("about %1 s left").arg(int(std::ceil(*left / 1000))) : QString());
    } else if (rebuilds_.incomplete()) {
        colour = c.warning;
        state_->setText(tr("slow steps wait for the hand to rest"));
        time_->clear();
    } else if (rebuilds_.wasCancelled()) {
        colour = c.warning;
        state_->setText(tr("stopped, not up to date"));
        time_->clear();
    } else {
        const bool failed = rebuilds_.anyFailed();
        if (failed) colour = c.chosen;
        state_->setText(failed ? tr("a node failed") : tr("fresh"));
        time_->setText(rebuilds_.lastMs() > 0 ? tr("%1 ms").arg(shownNumber(rebuilds_.lastMs(), 'f', rebuilds_.lastMs() < 10 ? 1 : 0)) : QString());
    }
    if (running && !tick_.isActive()) {
        tick_.start();
        runningSince_.start();
    }
    if (!running) tick_.stop();
    // A quick rebuild does not flash a button.
    cancel_->setVisible(running && runningSince_.elapsed() > 150);
    if (colour != shownColour_) {
        // A style sheet costs milliseconds: only where something changes.
        shownColour_ = colour;
        state_->setStyleSheet(QStringLiteral("color: %1;").arg(colour.name()));
        dot_->setText(QStringLiteral("●"));
        dot_->setStyleSheet(QStringLiteral("color: %1; font-size: 10px;").arg(colour.name()));
    }
    fitSearch();
}

}  // namespace seedloom::app
