#include "app/widgets/LinesField.h"

#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

LinesField::LinesField(QWidget* parent)
    : QWidget(parent), draw_(new QToolButton(this)), back_(new QToolButton(this)), clear_(new QToolButton(this)), count_(new QLabel(this)) {
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(0, 0, 0, 0);
    draw_->setText(tr("Draw"));
    draw_->setCheckable(true);
    draw_->setToolTip(tr("Drag on the stage to draw a line; Escape ends it"));
    back_->setText(tr("Take back"));
    back_->setToolTip(tr("Removes the last line"));
    clear_->setText(tr("Clear"));
    clear_->setToolTip(tr("Removes all lines"));
    count_->setProperty("role", "faint");
    for (QWidget* widget : {static_cast<QWidget*>(draw_), static_cast<QWidget*>(back_), static_cast<QWidget*>(clear_)}) row->addWidget(widget);
    row->addStretch();
    row->addWidget(count_);
    connect(draw_, &QToolButton::toggled, this, &LinesField::drawingChanged);
    connect(back_, &QToolButton::clicked, this, &LinesField::takeBackWanted);
    connect(clear_, &QToolButton::clicked, this, &LinesField::clearWanted);
    setCount(0);
}

void LinesField::setCount(std::size_t lines) {
    count_->setText(tr("%n line(s)", nullptr, int(lines)));
    back_->setEnabled(lines > 0);
    clear_->setEnabled(lines > 0);
}

bool LinesField::drawing() const { return draw_->isChecked(); }

void LinesField::setDrawing(bool on) { draw_->setChecked(on); }

}  // namespace seedloom::app
