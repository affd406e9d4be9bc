// How the weave looks.
#include "app/shell/Theme.h"
#include "app/weave/Selvedge.h"
#include "app/weave/Weave.h"
#include "app/weave/WeaveMetrics.h"
#include "operators/Catalogue.h"

#include <QtGui/QPainter>
#include <QtGui/QPainterPath>

namespace seedloom::app {

namespace {

QString countText(std::size_t n) { return QLocale(QLocale::English).toString(qulonglong(n)).replace(QLatin1Char(','), QChar(0x2009)); }

/// 16 640 as 16.6k, where there is little room.
QString shortCount(std::size_t n) {
    if (n < 10000) return countText(n);
    const bool millions = n >= 999500;
    return QString::number(double(n) / (millions ? 1e6 : 1e3), 'g', 3) + QLatin1Char(millions ? 'M' : 'k');
}

/// The first error, else the first warning, of a node; nullptr where all is well.
const Notice* worstNotice(const NodeReport& report) {
    if (!report.outcome) return nullptr;
    for (NoticeLevel level : {NoticeLevel::error, NoticeLevel::warning})
        for (const Notice& n : report.outcome->notices)
            if (n.level == level) return &n;
    return nullptr;
}

QString timeText(double ms) {
    if (ms >= 1000) return QStringLiteral("%1 s").arg(ms / 1000, 0, 'f', 1);
    return QStringLiteral("%1 ms").arg(ms, 0, 'f', ms < 10 ? 1 : 0);
}

QFont scaled(QFont font, double zoom, int least) {
    font.setPixelSize(std::max(least, int(std::round(font.pixelSize() * zoom))));
    return font;
}

}  // namespace

QString Weave::factOf(const Node& node, bool brief) const {
    const NodeReport report = rebuilds_.report(node.id);
    if (node.skipped) return tr("skipped");
    if (waitsForInput(report)) return tr("not linked yet");
    if (const Notice* notice = worstNotice(report)) return QString::fromStdString(notice->text);
    if (report.state == NodeState::rebuilding) return tr("rebuilding …");
    const auto outcome = rebuilds_.outcome(node.id);
    if (!outcome) return tr("waiting");
    const Geometry& g = outcome->geometry;
    const auto number = [brief](std::size_t n) { return brief ? shortCount(n) : countText(n); };
    QString text = g.faceCount() > 0 ? tr("%1 faces").arg(number(g.faceCount())) : g.copyCount() > 0 ? tr("%1 copies").arg(number(g.copyCount()))
                                                                                                    : tr("%1 points").arg(number(g.pointCount()));
    if (!brief) text += QStringLiteral(" · ") + timeText(outcome->ms);
    return text;
}

QString Weave::linkTip(const Link& link) const {
    const auto outcome = rebuilds_.outcome(link.from);
    if (!outcome) return tr("Nothing has flowed here yet");
    const Geometry& g = outcome->geometry;
    QStringList names;
    for (Element element : kAllElements)
        for (const auto& [name, column] : g.table(element)) names << QString::fromStdString(name);
    return tr("%1 points, %2 faces, %3 curves\n%4\nDouble click to insert a node here")
        .arg(countText(g.pointCount()), countText(g.faceCount()), countText(g.curveCount()), names.join(QStringLiteral(", ")));
}

void Weave::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.fillRect(rect(), colours().paper);
    paintCells(painter);
    paintNotes(painter);
    paintLinks(painter);
    for (const Node& node : loom().nodes)
        if (cellRect(node.cell).intersects(rect())) paintCard(painter, node);
    for (const Node& node : loom().nodes)
        if (cellRect(node.cell).adjusted(-8, -8, 8, 8).intersects(rect())) paintKnobs(painter, node);
    paintDrag(painter);
    if (loom().nodes.size() < 2) paintEmpty(painter);
    if (hasFocus()) {
        painter.setPen(QPen(colours().link, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    }
}

/// Small corner marks say where cells are, without a grid of lines.
void Weave::paintCells(QPainter& painter) const {
    painter.setPen(QPen(colours().line, 1));
    const Cell first = cellAt({0, 0}), last = cellAt({double(width()), double(height())});
    if ((last.column - first.column) * (last.row - first.row) > 3000) return;
    for (int row = std::max(first.row, 0); row <= last.row; ++row)
        for (int column = std::max(first.column, 0); column <= last.column; ++column) {
            const QPointF at = cellRect({column, row}).topLeft() - QPointF(5, 5) * zoom_;
            painter.drawLine(at, at + QPointF(5, 0) * zoom_);
            painter.drawLine(at, at + QPointF(0, 5) * zoom_);
        }
}

void Weave::paintNotes(QPainter& painter) const {
    for (const Note& note : loom().notes) {
        QRectF strip = cellRect(note.cell);
        strip.setWidth((note.columns * metrics::kPitchX - 22) * zoom_);
        painter.setPen(Qt::NoPen);
        painter.setBrush(colours().note);
        painter.drawRect(strip);
        painter.setPen(colours().ink);
        painter.setFont(scaled(bodyFont(12), zoom_, 10));
        painter.drawText(strip.adjusted(10, 6, -10, -6), Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap, QString::fromStdString(note.text));
    }
}

void Weave::paintLinks(QPainter& painter) const {
    const Colours& c = colours();
    painter.setBrush(Qt::NoBrush);
    for (const Link& link : loom().links) {
        if (!loom().node(link.from) || !loom().node(link.to)) continue;
        const bool chosen = chosenLink_ && *chosenLink_ == link, hovered = hoveredLink_ && *hoveredLink_ == link;
        const auto outcome = rebuilds_.outcome(link.from);
        const QPainterPath path = threadPath(link);
        const double thick = std::max(1.4, 2 * zoom_);
        painter.setPen(QPen(chosen || hovered ? c.chosen : c.ink, chosen || hovered ? thick + 1 : thick));
        if (outcome && outcome->geometry.copyCount() > 0) {
            painter.setPen(QPen(c.ink, thick * 2.6));
            painter.drawPath(path);
            painter.setPen(QPen(c.paper, thick));
        }
        painter.drawPath(path);
    }
}

void Weave::paintFailure(QPainter& painter, const QRectF& card) const {
    // A torn corner: the paper shows through, with a ragged edge.
    const double s = 17 * zoom_;
    const QPointF corner = card.topRight() + QPointF(1.5, -1.5);
    const QPolygonF tear{corner, corner - QPointF(s, 0), corner + QPointF(-s * 0.72, s * 0.30), corner + QPointF(-s * 0.60, s * 0.22), corner + QPointF(-s * 0.42, s * 0.56),
                         corner + QPointF(-s * 0.26, s * 0.55), corner + QPointF(0, s)};
    painter.setPen(Qt::NoPen);
    painter.setBrush(colours().paper);
    painter.drawPolygon(tear);
    painter.setPen(QPen(colours().chosen, 1.5));
    painter.drawPolyline(tear.mid(1));
}

void Weave::paintCard(QPainter& painter, const Node& node) const {
    const Colours& c = colours();
    const QRectF card = cellRect(node.cell);
    const OperatorSpec* spec = findOperator(node.op);
    const NodeReport report = rebuilds_.report(node.id);
    const bool chosen = node.id == chosen_, failed = report.state == NodeState::failed && !waitsForInput(report);
    painter.save();
    if (node.skipped) painter.setOpacity(0.5);
    painter.setPen(QPen(chosen ? c.chosen : node.id == hovered_ ? c.faint : c.line, chosen ? 2 : 1));
    painter.setBrush(c.card);
    painter.drawRoundedRect(card, 4, 4);
    const double phase = report.state == NodeState::rebuilding ? phase_ : 0;
    paintSelvedge(painter, QRectF(card.left() + 3 * zoom_, card.top() + 4 * zoom_, 6 * zoom_, card.height() - 8 * zoom_), spec ? spec->family : Family::flow, c.ink, phase);
    const QRectF picture(card.left() + 12 * zoom_, card.top() + 8 * zoom_, 42 * zoom_, 42 * zoom_);
    painter.setPen(Qt::NoPen);
    painter.setBrush(c.field);
    painter.drawRoundedRect(picture, 2, 2);
    const QPixmap shown = pictures_.ofNode(node.id, report.key, rebuilds_.outcome(node.id));
    if (!shown.isNull()) painter.drawPixmap(picture.adjusted(1, 1, -1, -1), shown, QRectF(shown.rect()));
    const QRectF text(picture.right() + 7 * zoom_, card.top() + 8 * zoom_, card.right() - picture.right() - 9 * zoom_, card.height() - 16 * zoom_);
    painter.setFont(scaled(bodyFont(12, QFont::DemiBold), zoom_, 11));
    painter.setPen(c.ink);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignTop, painter.fontMetrics().elidedText(QString::fromStdString(displayName(node)), Qt::ElideRight, int(text.width())));
    painter.setFont(scaled(bodyFont(11), zoom_, 10));
    const bool noticed = !node.skipped && !waitsForInput(report) && worstNotice(report);
    painter.setPen(failed ? c.chosen : noticed ? c.warning : c.faint);
    QString fact = factOf(node, false);
    if (!noticed && painter.fontMetrics().horizontalAdvance(fact) > text.width()) fact = factOf(node, true);
    painter.drawText(text, Qt::AlignLeft | Qt::AlignBottom, painter.fontMetrics().elidedText(fact, Qt::ElideRight, int(text.width())));
    if (failed) paintFailure(painter, card);
    if (node.skipped) {
        // The thread runs over a card that is skipped.
        painter.setOpacity(1);
        painter.setPen(QPen(c.ink, std::max(1.4, 2 * zoom_)));
        painter.drawLine(QPointF(card.left(), card.center().y()), QPointF(card.right(), card.center().y()));
    }
    if (node.id == pinned_) {
        const QPointF at = card.topRight() + QPointF(-15, 10) * zoom_;
        painter.setPen(QPen(c.link, 1.5));
        painter.setBrush(c.card);
        QPainterPath knot(at - QPointF(7, 0) * zoom_);
        knot.quadTo(at - QPointF(0, 8) * zoom_, at + QPointF(7, 0) * zoom_);
        knot.quadTo(at + QPointF(0, 8) * zoom_, at - QPointF(7, 0) * zoom_);
        painter.drawPath(knot);
        painter.setBrush(c.link);
        painter.drawEllipse(at, 2 * zoom_, 2 * zoom_);
    }
    painter.restore();
}

void Weave::paintKnobs(QPainter& painter, const Node& node) const {
    const Colours& c = colours();
    const bool near = node.id == hovered_ || node.id == chosen_;
    const bool pulling = drag_ == Drag::thread && movedFar_ && fits(dragged_, node.id);
    painter.setPen(QPen(pulling ? c.chosen : c.ink, 1.4));
    painter.setBrush(c.card);
    const double r = std::max(2.6, 3.4 * zoom_);
    if (near && node.op != "output") painter.drawEllipse(outputKnob(node.id), r, r);
    const OperatorSpec* spec = findOperator(node.op);
    if (!spec) return;
    for (std::size_t i = 0; i < spec->inputs.size(); ++i)
        if (near || pulling) painter.drawEllipse(inputKnob(node.id, int(i)), r, r);
}

void Weave::paintDrag(QPainter& painter) const {
    const Colours& c = colours();
    if (!movedFar_) return;
    if (drag_ == Drag::thread) {
        painter.setPen(QPen(c.chosen, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawPath(threadPath(outputKnob(dragged_), last_));
    } else if (drag_ == Drag::card) {
        const Cell cell = cellAt(last_);
        painter.setPen(QPen(c.chosen, 1.5, Qt::DashLine));
        painter.setBrush(Qt::NoBrush);
        if (cell.column >= 0 && cell.row >= 0) painter.drawRoundedRect(cellRect(cell).adjusted(-3, -3, 3, 3), 5, 5);
    }
}

void Weave::paintEmpty(QPainter& painter) const {
    painter.setFont(bodyFont(13));
    painter.setPen(colours().faint);
    painter.drawText(rect().adjusted(0, 90, 0, 0), Qt::AlignHCenter | Qt::AlignTop, tr("Press / and say what you want to make, or double click a free cell."));
}

}  // namespace seedloom::app
