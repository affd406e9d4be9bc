#include "app/vary/VaryCell.h"

#include "app/look/Theme.h"
#include "app/vary/VaryTable.h"

#include <QtGui/QPainter>
#include <QtGui/QPainterPath>

namespace seedloom::app {

namespace {

constexpr int kGap = 4, kWords = 42, kStar = 22;

QPainterPath starPath(const QRectF& in) {
    QPainterPath out;
    const QPointF c = in.center();
    const double r = in.width() / 2;
    constexpr int kPoints = 5;
    for (int i = 0; i < 2 * kPoints; ++i) {
        const double angle = -M_PI / 2 + i * M_PI / kPoints, radius = i % 2 == 0 ? r : r * 0.45;
        const QPointF at = c + QPointF(std::cos(angle), std::sin(angle)) * radius;
        if (i == 0) out.moveTo(at);
        else out.lineTo(at);
    }
    out.closeSubpath();
    return out;
}

}  // namespace

int VaryCell::highFor(int wide) { return (wide - 2 * px(kGap)) * 3 / 4 + px(kWords) + 2 * px(kGap); }

QRect VaryCell::starIn(const QRect& cell) {
    const QRect card = cell.adjusted(px(kGap), px(kGap), -px(kGap), -px(kGap));
    return {card.right() - px(kStar) - px(4), card.bottom() - px(kWords) / 2 - px(kStar) / 2, px(kStar), px(kStar)};
}

void VaryCell::paintWaiting(QPainter& painter, const QRectF& picture, std::size_t item) const {
    const Colours& c = colours();
    const VaryRow* row = table_.sheet().row(item);
    const QRectF text = picture.adjusted(px(8), px(8), -px(8), -px(8));
    if (row && !row->problem.empty()) {
        painter.setFont(bodyFont(11));
        painter.setPen(c.chosen);
        painter.drawText(text, Qt::TextWordWrap | Qt::AlignLeft | Qt::AlignTop, QString::fromStdString(row->problem));
        return;
    }
    painter.setFont(bodyFont(11));
    painter.setPen(c.faint);
    painter.drawText(text, Qt::AlignCenter, row ? VaryTable::tr("nothing to see") : table_.facts(item));
    if (!table_.sheet().working(item)) return;
    // Threads across, as on a card of the weave that is being rebuilt.
    painter.setPen(QPen(c.ink, 1.5, Qt::DashLine));
    const double y = text.center().y() - px(16);
    painter.drawLine(QPointF(text.left() + px(16), y), QPointF(text.right() - px(16), y));
}

void VaryCell::paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const {
    const auto item = table_.item(index);
    if (!item) return;
    const Colours& c = colours();
    const VaryRow* row = table_.sheet().row(*item);
    const bool chosen = option.state & QStyle::State_Selected, under = option.state & QStyle::State_MouseOver;
    painter->save();
    painter->setRenderHint(QPainter::Antialiasing);
    painter->setRenderHint(QPainter::SmoothPixmapTransform);
    const QRectF card = QRectF(option.rect).adjusted(px(kGap), px(kGap), -px(kGap), -px(kGap));
    const bool failed = row && !row->ok;
    QPainterPath outline;
    if (!failed) {
        outline.addRoundedRect(card, 5, 5);
    } else {  // a torn corner, as on cards of the weave
        const double t = px(12);
        outline.moveTo(card.topLeft());
        outline.lineTo(card.right() - t, card.top());
        outline.lineTo(card.right() - t * 0.75, card.top() + t * 0.55);
        outline.lineTo(card.right() - t * 0.35, card.top() + t * 0.45);
        outline.lineTo(card.right(), card.top() + t);
        outline.lineTo(card.bottomRight());
        outline.lineTo(card.bottomLeft());
        outline.closeSubpath();
    }
    painter->fillPath(outline, c.card);
    const QRectF picture(card.left(), card.top(), card.width(), card.height() - px(kWords));
    painter->save();
    painter->setClipPath(outline);
    const qreal ratio = painter->device()->devicePixelRatio();
    QPixmap seen = failed ? QPixmap() : table_.picture(*item, (picture.size() * ratio).toSize());
    if (!seen.isNull()) {
        QLinearGradient paper(picture.topLeft(), picture.bottomLeft());
        paper.setColorAt(0, c.stageTop);
        paper.setColorAt(1, c.stageFoot);
        painter->fillRect(picture, paper);
        if (!row) painter->setOpacity(0.4);  // of an earlier state
        seen.setDevicePixelRatio(ratio);
        painter->drawPixmap(picture.topLeft(), seen);
        painter->setOpacity(1);
    } else {
        painter->fillRect(picture, c.field);
        paintWaiting(*painter, picture, *item);
    }
    painter->restore();
    painter->setPen(QPen(chosen ? c.chosen : under ? c.faint : c.line, chosen ? 2 : 1));
    painter->setBrush(Qt::NoBrush);
    painter->drawPath(outline);
    const QRectF words(card.left() + px(8), picture.bottom() + px(5), card.width() - px(8 + kStar + 8), px(kWords) - px(8));
    painter->setFont(numberFont(11));
    painter->setPen(c.ink);
    painter->drawText(words, Qt::AlignLeft | Qt::AlignTop, painter->fontMetrics().elidedText(table_.caption(*item), Qt::ElideRight, int(words.width())));
    painter->setFont(bodyFont(11));
    const bool told = row && !row->problem.empty();
    painter->setPen(told ? c.chosen : c.faint);
    painter->drawText(words, Qt::AlignLeft | Qt::AlignBottom,
                      painter->fontMetrics().elidedText(row || !seen.isNull() ? table_.facts(*item) : QString(), Qt::ElideRight, int(words.width())));
    const bool starred = table_.sheet().starred(table_.sheet().variation(*item));
    const QRectF star = QRectF(starIn(option.rect)).adjusted(px(3), px(3), -px(3), -px(3));
    painter->setPen(QPen(starred ? c.chosen : c.faint, 1.2));
    painter->setBrush(starred ? QBrush(c.chosen) : QBrush(Qt::NoBrush));
    painter->drawPath(starPath(star));
    painter->restore();
}

}  // namespace seedloom::app
