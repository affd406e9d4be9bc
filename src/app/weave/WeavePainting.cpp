// How the weave looks.
#include "app/look/TextLines.h"
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/weave/Selvedge.h"
#include "app/weave/Weave.h"
#include "app/weave/WeaveFonts.h"
#include "app/weave/WeaveMetrics.h"
#include "graph/NodeSpec.h"

#include <QtGui/QPainter>
#include <QtGui/QPainterPath>

namespace seedloom::app {

namespace {

/// 16 640 as 16.6k, where there is little room.
QString shortCount(std::size_t n) {
    if (n < 10000) return countText(n);
    const bool millions = n >= 999500;
    return shownNumber(double(n) / (millions ? 1e6 : 1e3), 'g', 3) + QLatin1Char(millions ? 'M' : 'k');
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
    if (ms >= 1000) return QStringLiteral("%1 s").arg(shownNumber(ms / 1000, 'f', 1));
    return QStringLiteral("%1 ms").arg(shownNumber(ms, 'f', ms < 10 ? 1 : 0));
}

QFont nameFont(double zoom) { return scaled(bodyFont(12, QFont::DemiBold), zoom, 9); }

}  // namespace

QRectF Weave::tornCorner(const QRectF& card) const {
    const double side = 17 * zoom_;
    return {card.right() - side, card.top(), side, side};
}

QRectF Weave::pictureOf(const QRectF& card) const { return {card.left() + 12 * zoom_, card.top() + 10 * zoom_, 42 * zoom_, 42 * zoom_}; }

QRectF Weave::textOf(const QRectF& card) const {
    const double left = pictureOf(card).right() + 6 * zoom_;
    return {left, card.top() + 7 * zoom_, card.right() - left - 3 * zoom_, card.height() - 14 * zoom_};
}

QStringList Weave::nameLines(const Node& node) const {
    return inTwoLines(QString::fromStdString(displayName(node)), QFontMetrics(nameFont(zoom_)), int(textOf(shownRect(node)).width()));
}

QString Weave::factOf(const Node& node, bool brief) const {
    const NodeReport report = rebuilds_.report(node.id);
    if (node.skipped) return tr("skipped");
    if (waitsForInput(report)) return tr("not linked yet");
    if (const Notice* notice = worstNotice(report)) return QString::fromStdString(notice->text);
    if (report.state == NodeState::rebuilding) {
        const auto part = rebuilds_.progressOf(node.id);
        return part ? tr("rebuilding, about %1 %").arg(int(*part * 100)) : tr("rebuilding …");
    }
    if (report.state == NodeState::waiting && rebuilds_.incomplete()) return tr("waits for the hand to rest");
    const auto outcome = rebuilds_.outcome(node.id);
    if (!outcome) return tr("waiting");
    if (brief && outcome->coarse) return tr("coarse");
    const Geometry& g = outcome->geometry;
    const auto number = [brief](std::size_t n) { return brief ? shortCount(n) : countText(n); };
    // The count decides between "face" and "faces"; it is written by `number`.
    const auto faces = std::size_t(outcome->faces);
    QString text = g.faceCount() > 0 ? tr("%1 face(s)", nullptr, faces == 1 ? 1 : 2).arg(number(faces))
                 : g.copyCount() > 0 ? tr("%1 copies").arg(number(g.copyCount()))
                                     : tr("%1 point(s)", nullptr, g.pointCount() == 1 ? 1 : 2).arg(number(g.pointCount()));
    // A card has room for one of them; faces are counted with those of the copies, as on the stage.
    if (!brief && g.faceCount() > 0 && g.copyCount() > 0) text += QStringLiteral(" ") + tr("with %1 copies").arg(number(g.copyCount()));
    else if (!brief && g.copyCount() > 0 && faces > 0) text += QStringLiteral(" ") + tr("with %1 faces").arg(number(faces));
    if (!brief) text += QStringLiteral(" · ") + timeText(outcome->ms);
    if (outcome->coarse) text += QStringLiteral(" · ") + tr("coarse, not yet the whole");
    return text;
}

/// The whole of what a card may have to cut: its name, and every notice.
QString Weave::cardTip(const Node& node) const {
    const auto spec = document_.specOf(node);
    QStringList lines{QString::fromStdString(displayName(node)) +
                      (spec && !node.label.empty() ? QStringLiteral(" (") + catalogueText(spec->label) + QLatin1Char(')') : QString())};
    const NodeReport report = rebuilds_.report(node.id);
    if (!node.skipped && report.outcome && !waitsForInput(report))
        for (const Notice& notice : report.outcome->notices) lines << QString::fromStdString(notice.text);
    lines << factOf(node, false);
    lines.removeDuplicates();
    return lines.join(QLatin1Char('\n'));
}

QString Weave::linkTip(const Link& link) const {
    if (!rebuilds_.outcome(link.from)) return tr("Nothing has flowed here yet");
    const Geometry g = flowing(link);
    QStringList names;
    for (Element element : kAllElements)
        for (const auto& [name, column] : g.table(element)) names << QString::fromStdString(name);
    QStringList counts{tr("%1 points").arg(countText(g.pointCount()))};
    if (g.faceCount() > 0) counts << tr("%1 faces").arg(countText(g.faceCount()));
    if (g.curveCount() > 0) counts << tr("%1 curves").arg(countText(g.curveCount()));
    if (g.copyCount() > 0) counts << tr("%1 copies").arg(countText(g.copyCount()));
    names.removeDuplicates();
    return tr("%1\n%2\nDouble click to insert a node here").arg(counts.join(QStringLiteral(", ")), names.join(QStringLiteral(", ")));
}

void Weave::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    painter.fillRect(rect(), colours().paper);
    paintCells(painter);
    paintNotes(painter);
    paintLinks(painter);
    const QRectF sight = QRectF(rect()).adjusted(-20, -20, 20, 20);
    for (const Node& n : loom().nodes)
        if (shownRect(n).intersects(sight)) paintCard(painter, n);
    for (const Node& n : loom().nodes)
        if (shownRect(n).intersects(sight)) paintKnobs(painter, n);
    paintDrag(painter);
    paintOverview(painter);
    if (loom().nodes.size() <= 1 && loom().notes.empty()) paintEmpty(painter);
    if (hasFocus()) {
        painter.setPen(QPen(colours().link, 1));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(rect().adjusted(0, 0, -1, -1));
    }
}

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
    const Colours& c = colours();
    for (const Note& note : loom().notes) {
        const QRectF strip = noteRect(note);
        painter.setPen(note.id == chosenNote_ ? QPen(c.chosen, 1.5) : QPen(Qt::NoPen));
        painter.setBrush(c.note);
        painter.drawRect(strip);
        painter.setPen(c.ink);
        painter.setFont(scaled(bodyFont(12), zoom_, 10));
        painter.save();
        painter.setClipRect(strip);
        painter.drawText(strip.adjusted(10 * zoom_, 4, -10 * zoom_, -4), Qt::AlignLeft | Qt::AlignVCenter | Qt::TextWordWrap,
                         QString::fromStdString(note.text));
        painter.restore();
    }
}

void Weave::paintLinks(QPainter& painter) const {
    const Colours& c = colours();
    painter.setBrush(Qt::NoBrush);
    const QRectF sight = rect();
    for (const Link& link : loom().links) {
        // Most threads of a large graph are out of sight: that is seen from their ends, before a path is laid.
        const Node *from = node(link.from), *to = node(link.to);
        if (!from || !to || !shownRect(*from).united(shownRect(*to)).adjusted(-20, -20, 20, 40).intersects(sight)) continue;
        const bool chosen = chosenLink_ && *chosenLink_ == link, hovered = (hoveredLink_ && *hoveredLink_ == link) || (dropLink_ && *dropLink_ == link);
        const double thick = std::max(1.4, 2 * zoom_);
        if (link.cut) {
            paintEnds(painter, link, QPen(chosen || hovered ? c.chosen : c.ink, chosen || hovered ? thick : thick / 2));
            continue;
        }
        const QPainterPath path = threadPath(link, true);
        if (path.isEmpty() || !path.controlPointRect().adjusted(-4, -4, 4, 4).intersects(sight)) continue;
        const bool copies = flowing(link).copyCount() > 0;
        painter.setPen(QPen(chosen || hovered ? c.chosen : c.ink, chosen || hovered ? thick + 1 : thick));
        if (copies) {
            // Copies: a double line.
            painter.setPen(QPen(chosen || hovered ? c.chosen : c.ink, thick * 2.6));
            painter.drawPath(path);
            painter.setPen(QPen(c.paper, thick));
        }
        painter.drawPath(path);
    }
}

void Weave::paintFailure(QPainter& painter, const QRectF& card) const {
    // A torn corner: the paper shows through, with a ragged edge.
    const double s = tornCorner(card).width();
    const QPointF corner = card.topRight() + QPointF(1.5, -1.5);
    const QPolygonF tear{corner,
                         corner - QPointF(s, 0),
                         corner + QPointF(-s * 0.72, s * 0.30),
                         corner + QPointF(-s * 0.60, s * 0.22),
                         corner + QPointF(-s * 0.42, s * 0.56),
                         corner + QPointF(-s * 0.26, s * 0.55),
                         corner + QPointF(0, s)};
    painter.setPen(Qt::NoPen);
    painter.setBrush(colours().paper);
    painter.drawPolygon(tear);
    painter.setPen(QPen(colours().chosen, 1.5));
    painter.drawPolyline(tear.mid(1));
}

void Weave::paintCard(QPainter& painter, const Node& node) const {
    const Colours& c = colours();
    const QRectF card = shownRect(node);
    const auto spec = document_.specOf(node);
    const NodeReport report = rebuilds_.report(node.id);
    const bool failed = report.state == NodeState::failed && !waitsForInput(report), waiting = report.state == NodeState::waiting && !node.skipped;
    painter.save();
    if (node.skipped) painter.setOpacity(0.5);
    QPen frame(isChosen(node.id) ? c.chosen : node.id == hovered_ ? c.faint : c.line, node.id == chosen() ? 2 : isChosen(node.id) ? 1.5 : 1);
    if (waiting) frame.setStyle(Qt::DashLine);
    painter.setPen(frame);
    painter.setBrush(node.tint > 0 ? c.tints[std::size_t(std::min(node.tint, kTints) - 1)] : c.card);
    // A container has more cards beneath it.
    if (insideOf(node, document_.assets()))
        for (double by : {6.0, 3.0}) painter.drawRoundedRect(card.translated(by * zoom_, by * zoom_), 4, 4);
    painter.drawRoundedRect(card, 4, 4);
    if (zoom_ < 0.4 * textScale()) {
        // From far away a card is its selvedge and its picture.
        const QPixmap shown = pictures_.ofNode(rebuilds_.fullId(node.id), report.key.digest, rebuilds_.outcome(node.id));
        const double side = card.height() - 6;
        if (!shown.isNull()) painter.drawPixmap(QRectF(card.center() - QPointF(side / 2, side / 2), QSizeF(side, side)), shown, QRectF(shown.rect()));
    } else {
        const double phase = report.state == NodeState::rebuilding ? phase_ : 0;
        paintSelvedge(painter, QRectF(card.left() + 3 * zoom_, card.top() + 4 * zoom_, 6 * zoom_, card.height() - 8 * zoom_),
                      spec ? spec->family : Family::flow, c.ink, phase);
        const QRectF picture = pictureOf(card);
        painter.setPen(Qt::NoPen);
        painter.setBrush(c.field);
        painter.drawRoundedRect(picture, 2, 2);
        const QPixmap shown = pictures_.ofNode(rebuilds_.fullId(node.id), report.key.digest, rebuilds_.outcome(node.id));
        if (!shown.isNull()) painter.drawPixmap(picture.adjusted(1, 1, -1, -1), shown, QRectF(shown.rect()));
        const QRectF text = textOf(card);
        painter.setFont(nameFont(zoom_));
        painter.setPen(c.ink);
        painter.drawText(text, Qt::AlignLeft | Qt::AlignTop, nameLines(node).join(QLatin1Char('\n')));
        painter.setFont(scaled(bodyFont(11), zoom_, 9));
        const bool noticed = !node.skipped && !waitsForInput(report) && worstNotice(report);
        painter.setPen(failed ? c.chosen : noticed ? c.warning : c.faint);
        QString fact = factOf(node, false);
        if (!noticed && painter.fontMetrics().horizontalAdvance(fact) > text.width()) fact = factOf(node, true);
        painter.drawText(text, Qt::AlignLeft | Qt::AlignBottom, painter.fontMetrics().elidedText(fact, Qt::ElideRight, int(text.width())));
    }
    painter.setOpacity(1);
    paintState(painter, node, report, card);
    if (failed) paintFailure(painter, card);
    painter.restore();
}

/// Progress along the lower edge, the thread over a skipped card, the knot of the pinned one, the marks of the compared ones.
void Weave::paintState(QPainter& painter, const Node& node, const NodeReport& report, const QRectF& card) const {
    const Colours& c = colours();
    if (const auto part = report.state == NodeState::rebuilding ? rebuilds_.progressOf(node.id) : std::nullopt) {
        painter.setPen(QPen(c.link, std::max(2.0, 3 * zoom_)));
        painter.drawLine(card.bottomLeft() + QPointF(4, -1.5), card.bottomLeft() + QPointF(4 + (card.width() - 8) * *part, -1.5));
    }
    if (node.skipped) {
        painter.setPen(QPen(c.ink, std::max(1.4, 2 * zoom_)));
        painter.drawLine(QPointF(card.left(), card.center().y()), QPointF(card.right(), card.center().y()));
    }
    if (node.id == comparedLeft_ || node.id == comparedRight_) {
        painter.setFont(scaled(bodyFont(10, QFont::Bold), zoom_, 9));
        const QRectF mark(card.right() - 40 * zoom_, card.top() - 9 * zoom_, 36 * zoom_, 15 * zoom_);
        painter.setPen(Qt::NoPen);
        painter.setBrush(c.chosen);
        painter.drawRoundedRect(mark, 3, 3);
        painter.setPen(c.card);
        painter.drawText(mark, Qt::AlignCenter, node.id == comparedLeft_ ? tr("left") : tr("right"));
    }
    paintOrigin(painter, node, card);
    if (node.id != pinned()) return;
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

QColor Weave::originColour(const std::string& node) const {
    const auto it = std::find_if(origins_.begin(), origins_.end(), [&](const Origin& o) { return o.node == node; });
    if (it == origins_.end()) return {};
    return it->kind == OriginKind::made ? colours().fresh : it->kind == OriginKind::changed ? colours().warning : colours().faint;
}

/// Below the card, what the node did to the attribute that the stage shows.
void Weave::paintOrigin(QPainter& painter, const Node& node, const QRectF& card) const {
    const auto it = std::find_if(origins_.begin(), origins_.end(), [&](const Origin& o) { return o.node == node.id; });
    if (it == origins_.end()) return;
    const Colours& c = colours();
    const QColor ink = originColour(node.id);
    const QString verb = it->kind == OriginKind::made ? tr("makes %1") : it->kind == OriginKind::changed ? tr("changes %1") : tr("passes on %1");
    painter.setFont(scaled(bodyFont(10, QFont::DemiBold), zoom_, 9));
    const QString text = painter.fontMetrics().elidedText(verb.arg(originOf_), Qt::ElideRight, int(card.width() - 14 * zoom_));
    const QRectF tag(card.left() + 8 * zoom_, card.bottom() - 3 * zoom_, painter.fontMetrics().horizontalAdvance(text) + 12 * zoom_, 15 * zoom_);
    painter.setPen(QPen(ink, 1.2));
    painter.setBrush(c.card);
    painter.drawRoundedRect(tag, 3, 3);
    painter.setPen(ink);
    painter.drawText(tag, Qt::AlignCenter, text);
}

void Weave::paintKnobs(QPainter& painter, const Node& node) const {
    const Colours& c = colours();
    const bool near = node.id == hovered_ || node.id == chosen();
    const bool pulling = drag_ == Drag::thread && movedFar_ && fits(dragged_, node.id);
    if (!near && !pulling) return;
    const QRectF card = shownRect(node);
    painter.setPen(QPen(pulling ? c.chosen : c.ink, 1.4));
    painter.setBrush(c.card);
    const double r = std::max(2.6, 3.4 * zoom_);
    const auto spec = document_.specOf(node);
    for (int i = 0; near && node.op != "output" && i < (spec ? int(spec->outputs.size()) : 1); ++i) painter.drawEllipse(knobOut(card, node, i), r, r);
    for (std::size_t i = 0; spec && i < spec->inputs.size(); ++i) painter.drawEllipse(knobIn(card, node, int(i)), r, r);
}

void Weave::paintDrag(QPainter& painter) const {
    const Colours& c = colours();
    painter.setBrush(Qt::NoBrush);
    if (dropCell_) {
        painter.setPen(QPen(c.chosen, 1.5, Qt::DashLine));
        return painter.drawRoundedRect(cellRect(*dropCell_).adjusted(-3, -3, 3, 3), 5, 5);
    }
    if (!movedFar_) return;
    switch (drag_) {
        case Drag::thread:
            painter.setPen(QPen(c.chosen, 2));
            painter.drawPath(threadPath(pressed_, last_));
            return;
        case Drag::cards: {
            const Node* grip = node(dragged_);
            if (!grip || dropLink_) return;
            const Cell to = cellAt(last_);
            painter.setPen(QPen(c.chosen, 1.5, Qt::DashLine));
            for (const std::string& id : isChosen(dragged_) ? chosenAll() : std::vector<std::string>{dragged_}) {
                const Node* n = node(id);
                const Cell cell{n->cell.column + to.column - grip->cell.column, n->cell.row + to.row - grip->cell.row};
                if (cell.column >= 0 && cell.row >= 0) painter.drawRoundedRect(cellRect(cell).adjusted(-3, -3, 3, 3), 5, 5);
            }
            return;
        }
        case Drag::band: {
            QColor wash = c.link;
            wash.setAlpha(26);
            painter.setPen(QPen(c.link, 1, Qt::DashLine));
            painter.setBrush(wash);
            painter.drawRect(QRectF(pressed_, last_).normalized());
            return;
        }
        case Drag::note:
        case Drag::noteWidth: {
            const Note* note = loom().note(dragged_);
            if (!note) return;
            const Cell from = cellAt(pressed_), to = cellAt(last_);
            Note moved = *note;
            if (drag_ == Drag::note) moved.cell = {note->cell.column + to.column - from.column, note->cell.row + to.row - from.row};
            else moved.columns = std::max(1, to.column - note->cell.column + 1);
            painter.setPen(QPen(c.chosen, 1.5, Qt::DashLine));
            painter.drawRect(noteRect(moved));
            return;
        }
        default: return;
    }
}

void Weave::paintOverview(QPainter& painter) const {
    const QRectF frame = overviewRect();
    if (frame.isEmpty()) return;
    const Colours& c = colours();
    QColor ground = c.card;
    ground.setAlpha(236);
    painter.setPen(QPen(c.line, 1));
    painter.setBrush(ground);
    painter.drawRoundedRect(frame, 4, 4);
    const QRectF map = frame.adjusted(6, 6, -6, -6);
    const QRect used = usedCells();
    const double wide = map.width() / used.width(), high = map.height() / used.height();
    const auto place = [&](double column, double row) { return QPointF(map.left() + (column - used.left()) * wide, map.top() + (row - used.top()) * high); };
    painter.setPen(Qt::NoPen);
    for (const Node& n : loom().nodes) {
        const NodeReport report = rebuilds_.report(n.id);
        painter.setBrush(isChosen(n.id) || (report.state == NodeState::failed && !waitsForInput(report)) ? c.chosen
                         : n.tint > 0 ? c.tints[std::size_t(std::min(n.tint, kTints) - 1)].darker(130)
                                      : c.faint);
        const QRectF small(place(n.cell.column, n.cell.row), QSizeF(std::max(wide * 0.8, 1.5), std::max(high * 0.6, 1.5)));
        painter.drawRect(small);
        // Where an attribute comes from may be far out of sight.
        if (const QColor origin = originColour(n.id); origin.isValid()) painter.fillRect(QRectF(small.left(), small.bottom() + 1, small.width(), 2.5), origin);
    }
    const QPointF first = place(-pan_.x() / (metrics::kPitchX * zoom_), -pan_.y() / (metrics::kPitchY * zoom_));
    const QPointF last = place((width() - pan_.x()) / (metrics::kPitchX * zoom_), (height() - pan_.y()) / (metrics::kPitchY * zoom_));
    painter.setPen(QPen(c.link, 1.5));
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(first, last).intersected(frame.adjusted(2, 2, -2, -2)));
}

void Weave::paintEmpty(QPainter& painter) const {
    painter.setFont(bodyFont(13));
    painter.setPen(colours().faint);
    painter.drawText(rect().adjusted(0, 90, 0, 0), Qt::AlignHCenter | Qt::AlignTop, tr("Press / and say what you want to make, or double click a free cell."));
}

}  // namespace seedloom::app
