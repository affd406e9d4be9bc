// Threads that are cut into two named ends: a line of text below each of their cards says where they go on.
#include "app/look/Theme.h"
#include "app/weave/Weave.h"
#include "app/weave/WeaveFonts.h"
#include "app/weave/WeaveMetrics.h"

#include <QtGui/QPainter>

namespace seedloom::app {

namespace {

constexpr double kTagHeight = 14;

}  // namespace

QString Weave::endText(const Link& link, bool start) const {
    const Node* other = node(start ? link.to : link.from);
    const QString name = other ? QString::fromStdString(displayName(*other)) : QString();
    return start ? tr("to %1").arg(name) : tr("from %1").arg(name);
}

/// Below the half of the card that its knobs are on; several of one card stand below each other.
QRectF Weave::threadEnd(const Link& link, bool start) const {
    const Node* card = node(start ? link.from : link.to);
    if (!card) return {};
    int before = 0;
    for (const Link& other : loom().links) {
        if (other == link) break;
        before += other.cut && (start ? other.from == link.from : other.to == link.to);
    }
    const QRectF box = shownRect(*card);
    return {start ? box.center().x() : box.left(), box.bottom() + (2 + before * kTagHeight) * zoom_, box.width() / 2, kTagHeight * zoom_};
}

void Weave::paintEnds(QPainter& painter, const Link& link, const QPen& pen) const {
    painter.setPen(pen);
    painter.setFont(scaled(bodyFont(10), zoom_, 8));
    for (const bool start : {true, false}) {
        const QRectF tag = threadEnd(link, start);
        const Node& card = *node(start ? link.from : link.to);
        const QPointF knob = start ? knobOut(shownRect(card), card, int(outputOf(loom(), link))) : knobIn(shownRect(card), card, portIndex(link));
        // A short piece of the thread, bent to its name.
        const double side = (start ? 5 : -5) * zoom_;
        painter.drawPolyline(
            QPolygonF{knob, knob + QPointF(side, 0), QPointF(knob.x() + side, tag.center().y()), QPointF(start ? tag.right() : tag.left(), tag.center().y())});
        painter.drawText(tag.adjusted(4 * zoom_, 0, -4 * zoom_, 0), (start ? Qt::AlignRight : Qt::AlignLeft) | Qt::AlignVCenter,
                         painter.fontMetrics().elidedText(endText(link, start), Qt::ElideRight, int(tag.width() - 8 * zoom_)));
    }
}

void Weave::cutOrJoinThread() {
    if (!chosenLink_) return;
    Link changed = *chosenLink_;
    changed.cut = !changed.cut;
    document_.applyShown(setCut(loom(), *chosenLink_, changed.cut));
    chosenLink_ = std::move(changed);  // it stays chosen, so that the same keys take it back
    update();
}

}  // namespace seedloom::app
