// The value under the pointer, while the stage shows one. Looked for behind the interface, once the pointer rests.
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/stage/Stage.h"

#include <QtGui/QPainter>

namespace seedloom::app {

void Stage::hoverMoved(QPointF at) {
    ++hoverWish_;
    hoverAt_ = at;
    if (!hovered_.isEmpty()) {
        hovered_.clear();
        overlay_->update();
    }
    const bool shows = shown_.mesh && shown_.mesh->values && shown_.mesh->legend.problem.empty();
    if (shows && rect().contains(at.toPoint()) && button_ == Qt::NoButton && !painting_) hover_.start();
    else hover_.stop();
}

void Stage::lookUnderPointer() {
    looking_.clear();
    looking_.start(
        [this, wish = hoverWish_, mesh = shown_.mesh, camera = camera_, area = QSizeF(size()), at = hoverAt_, points = look_.points]() -> Background::Then {
            const auto found = mesh ? pickAt(*mesh, camera, area, at, points) : std::nullopt;
            const QString text = found ? shownNumbers(QString::fromStdString(valueAt(*mesh, found->element, found->row, found->at))) : QString();
            return [this, wish, text] {
                if (wish != hoverWish_) return;
                hovered_ = text;
                overlay_->update();
            };
        });
}

void Stage::paintHovered(QPainter& painter) const {
    if (hovered_.isEmpty()) return;
    const Colours& c = colours();
    painter.setFont(numberFont(11));
    QRectF box = painter.fontMetrics().boundingRect(hovered_).adjusted(-8, -5, 8, 5);
    box.moveBottomLeft(hoverAt_ + QPointF(14, -10));
    if (box.right() > width() - 8) box.moveRight(width() - 8);
    if (box.top() < 8) box.moveTop(hoverAt_.y() + 18);
    painter.setPen(c.line);
    painter.setBrush(c.card);
    painter.drawRoundedRect(box, 3, 3);
    painter.setPen(c.ink);
    painter.drawText(box, Qt::AlignCenter, hovered_);
}

}  // namespace seedloom::app
