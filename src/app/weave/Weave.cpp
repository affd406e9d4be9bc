// What is done in the weave; WeavePainting.cpp says how it looks.
#include "app/weave/Weave.h"

#include "app/shell/Theme.h"
#include "app/weave/QuickAdd.h"
#include "app/weave/WeaveMetrics.h"
#include "operators/Catalogue.h"

#include <QtGui/QMouseEvent>
#include <QtGui/QPainterPath>
#include <QtGui/QPainterPathStroker>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QToolTip>

namespace seedloom::app {

Weave::Weave(Document& document, RebuildService& rebuilds, Pictures& pictures, QWidget* parent)
    : QWidget(parent), document_(document), rebuilds_(rebuilds), pictures_(pictures), quickAdd_(new QuickAdd(pictures, this)) {
    setMinimumSize(240, 120);
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Weave"));
    connect(&document_, &Document::changed, this, [this] {
        if (!chosen_.empty() && !loom().node(chosen_)) choose({});
        if (!pinned_.empty() && !loom().node(pinned_)) {
            pinned_.clear();
            Q_EMIT pinnedChanged();
        }
        chosenLink_.reset();
        hoveredLink_.reset();
        if (fitted_) showAll();
        bringIntoView(chosen_);
        update();
    });
    connect(&document_, &Document::replaced, this, [this] {
        pinned_.clear();
        choose(loom().output);
        showAll();
    });
    connect(&rebuilds_, &RebuildService::stateChanged, this, [this] {
        rebuilds_.running() ? pulse_.start(60) : pulse_.stop();
        update();
    });
    connect(&pictures_, &Pictures::ready, this, qOverload<>(&QWidget::update));
    connect(&pulse_, &QTimer::timeout, this, [this] {
        phase_ = std::fmod(phase_ + 0.12, 1.0);
        update();
    });
}

void Weave::choose(const std::string& node) {
    chosenLink_.reset();
    if (chosen_ == node) return;
    chosen_ = node;
    bringIntoView(node);
    update();
    Q_EMIT chosenChanged();
}

void Weave::bringIntoView(const std::string& node) {
    const QRectF card = cardRect(node).adjusted(-14, -14, 14, 14);
    if (!loom().node(node) || card.width() > width() || card.height() > height()) return;
    pan_ += {std::max(0.0, -card.left()) - std::max(0.0, card.right() - width()), std::max(0.0, -card.top()) - std::max(0.0, card.bottom() - height())};
}

void Weave::showAll() {
    if (loom().nodes.empty()) return;
    int columns = 1, rows = 1, first = 1 << 20, top = 1 << 20;
    for (const Node& n : loom().nodes) {
        columns = std::max(columns, n.cell.column + 1), rows = std::max(rows, n.cell.row + 1);
        first = std::min(first, n.cell.column), top = std::min(top, n.cell.row);
    }
    const double wide = (columns - first) * metrics::kPitchX - (metrics::kPitchX - metrics::kCardWidth) + 28;
    zoom_ = std::clamp(width() / wide, metrics::kLeastReadable, 1.0);
    pan_ = {14 - first * metrics::kPitchX * zoom_, 26 - top * metrics::kPitchY * zoom_};
    fitted_ = true;
    update();
}

void Weave::resizeEvent(QResizeEvent*) {
    if (fitted_) showAll();
    bringIntoView(chosen_);
}

QRectF Weave::cellRect(Cell cell) const {
    return {pan_.x() + cell.column * metrics::kPitchX * zoom_, pan_.y() + cell.row * metrics::kPitchY * zoom_, metrics::kCardWidth * zoom_,
            metrics::kCardHeight * zoom_};
}

QRectF Weave::cardRect(const std::string& node) const {
    const Node* n = loom().node(node);
    return n ? cellRect(n->cell) : QRectF();
}

Cell Weave::cellAt(QPointF at) const {
    const double gapX = (metrics::kPitchX - metrics::kCardWidth) / 2, gapY = (metrics::kPitchY - metrics::kCardHeight) / 2;
    return {int(std::floor(((at.x() - pan_.x()) / zoom_ + gapX) / metrics::kPitchX)), int(std::floor(((at.y() - pan_.y()) / zoom_ + gapY) / metrics::kPitchY))};
}

std::string Weave::cardAt(QPointF at) const {
    for (const Node& n : loom().nodes)
        if (cellRect(n.cell).contains(at)) return n.id;
    return {};
}

QPointF Weave::outputKnob(const std::string& node) const {
    const QRectF card = cardRect(node);
    return {card.right(), card.center().y()};
}

QPointF Weave::inputKnob(const std::string& node, int port) const {
    const QRectF card = cardRect(node);
    const Node* n = loom().node(node);
    const OperatorSpec* spec = n ? findOperator(n->op) : nullptr;
    const int ports = spec ? std::max<int>(1, int(spec->inputs.size())) : 1;
    return {card.left(), card.top() + card.height() * (port + 1) / (ports + 1)};
}

int Weave::portIndex(const Link& link) const {
    const Node* to = loom().node(link.to);
    const OperatorSpec* spec = to ? findOperator(to->op) : nullptr;
    if (spec && !link.in.empty())
        for (std::size_t i = 0; i < spec->inputs.size(); ++i)
            if (spec->inputs[i].id == link.in) return int(i);
    return 0;
}

std::string Weave::outputKnobAt(QPointF at) const {
    for (const Node& n : loom().nodes)
        if (n.op != "output" && QLineF(outputKnob(n.id), at).length() <= metrics::kKnobReach) return n.id;
    return {};
}

std::pair<std::string, std::string> Weave::inputAt(QPointF at) const {
    for (const Node& n : loom().nodes) {
        const OperatorSpec* spec = findOperator(n.op);
        if (!spec || spec->inputs.empty()) continue;
        for (std::size_t i = 0; i < spec->inputs.size(); ++i)
            if (QLineF(inputKnob(n.id, int(i)), at).length() <= metrics::kKnobReach) return {n.id, i == 0 ? "" : spec->inputs[i].id};
        if (cellRect(n.cell).contains(at)) return {n.id, ""};
    }
    return {};
}

/// Right angles with rounded corners, in the gap before the card that the thread runs to.
QPainterPath Weave::threadPath(QPointF from, QPointF to) const {
    QPainterPath path(from);
    const double gap = (metrics::kPitchX - metrics::kCardWidth) * zoom_ / 2;
    if (std::abs(from.y() - to.y()) < 0.5 && to.x() > from.x()) {
        path.lineTo(to);
        return path;
    }
    const auto corner = [&](QPointF at, QPointF next) {
        const QPointF back = path.currentPosition() - at, on = next - at;
        const double a = std::hypot(back.x(), back.y()), b = std::hypot(on.x(), on.y()), r = std::min({7 * zoom_, a / 2, b / 2});
        if (r < 0.5) return path.lineTo(at);
        path.lineTo(at + back / a * r);
        path.quadTo(at, at + on / b * r);
    };
    if (to.x() - gap >= from.x()) {
        const double x = to.x() - gap;
        corner({x, from.y()}, {x, to.y()});
        corner({x, to.y()}, to);
    } else {
        // Backwards: round below the cards.
        const double y = std::max(from.y(), to.y()) + (metrics::kCardHeight / 2 + 9) * zoom_;
        const QPointF turns[] = {{from.x() + gap, from.y()}, {from.x() + gap, y}, {to.x() - gap, y}, {to.x() - gap, to.y()}, to};
        for (int i = 0; i < 4; ++i) corner(turns[i], turns[i + 1]);
    }
    path.lineTo(to);
    return path;
}

QPainterPath Weave::threadPath(const Link& link) const { return threadPath(outputKnob(link.from), inputKnob(link.to, portIndex(link))); }

QPointF Weave::linkMiddle(const Link& link) const { return threadPath(link).pointAtPercent(0.5); }

std::optional<Link> Weave::linkAt(QPointF at) const {
    QPainterPathStroker stroker;
    stroker.setWidth(12);
    for (const Link& link : loom().links)
        if (loom().node(link.from) && loom().node(link.to) && stroker.createStroke(threadPath(link)).contains(at)) return link;
    return {};
}

bool Weave::fits(const std::string& from, const std::string& to) const {
    const Node* target = loom().node(to);
    const OperatorSpec* spec = target ? findOperator(target->op) : nullptr;
    return spec && !spec->inputs.empty() && from != to && !reaches(loom(), to, from);
}

void Weave::mousePressEvent(QMouseEvent* event) {
    setFocus();
    pressed_ = last_ = event->position();
    movedFar_ = false;
    dragged_ = outputKnobAt(pressed_);
    if (event->button() != Qt::LeftButton) {
        drag_ = Drag::pan;
    } else if (!dragged_.empty()) {
        drag_ = Drag::thread;
    } else if (dragged_ = cardAt(pressed_); !dragged_.empty()) {
        drag_ = Drag::card;
        choose(dragged_);
    } else if (const auto link = linkAt(pressed_)) {
        chosenLink_ = link;
        drag_ = Drag::none;
    } else {
        chosenLink_.reset();
        drag_ = Drag::pan;
    }
    update();
}

void Weave::mouseMoveEvent(QMouseEvent* event) {
    const QPointF at = event->position(), by = at - last_;
    last_ = at;
    movedFar_ |= QLineF(at, pressed_).length() > 5;
    if (event->buttons() != Qt::NoButton) {
        if (drag_ == Drag::pan) pan_ += by, fitted_ = false;
        if (drag_ == Drag::pan && movedFar_) setCursor(Qt::ClosedHandCursor);
        update();
        return;
    }
    hovered_ = cardAt(at);
    const bool knob = !outputKnobAt(at).empty();
    hoveredLink_ = hovered_.empty() && !knob ? linkAt(at) : std::nullopt;
    setCursor(knob ? Qt::CrossCursor : Qt::ArrowCursor);
    if (hoveredLink_) QToolTip::showText(event->globalPosition().toPoint(), linkTip(*hoveredLink_), this);
    update();
}

void Weave::leaveEvent(QEvent*) {
    hovered_.clear();
    hoveredLink_.reset();
    update();
}

void Weave::mouseReleaseEvent(QMouseEvent* event) {
    const Drag drag = drag_;
    drag_ = Drag::none;
    setCursor(Qt::ArrowCursor);
    update();
    if (!movedFar_) return;
    if (drag == Drag::card) document_.apply(moveNode(loom(), dragged_, cellAt(event->position())));
    if (drag == Drag::thread) dropThread(event->position());
}

void Weave::dropThread(QPointF at) {
    const std::string from = dragged_;
    if (const auto [node, port] = inputAt(at); !node.empty()) {
        if (fits(from, node)) document_.apply(addLink(loom(), {from, "", node, port, Json::object()}));
        return;
    }
    const Cell cell = cellAt(at);
    openQuickAdd(QRectF(at, QSizeF(1, 1)), [this, from, cell](const std::string& op) {
        std::string id;
        Edit edit = addNode(loom(), op, cell, &id);
        const auto placed = applied(loom(), edit);
        if (!placed) return;
        const Edit link = addLink(*placed, {from, "", id, "", Json::object()});
        edit.changes.insert(edit.changes.end(), link.changes.begin(), link.changes.end());
        choosePlaced(edit, id);
    }, true);
}

void Weave::mouseDoubleClickEvent(QMouseEvent* event) {
    const QPointF at = event->position();
    if (!cardAt(at).empty()) {
        Q_EMIT settingsWanted();
    } else if (const auto link = linkAt(at)) {
        openQuickAdd(QRectF(at, QSizeF(1, 1)), [this, link = *link](const std::string& op) {
            std::string id;
            choosePlaced(insertOnLink(loom(), op, link, &id), id);
        }, true);
    } else {
        openQuickAddAt(cellAt(at));
    }
}

void Weave::openQuickAdd(QRectF beside, std::function<void(const std::string&)> use, bool onlyWithInput) {
    quickAdd_->open(beside.toAlignedRect(), onlyWithInput, std::move(use));
}

void Weave::openQuickAddAt(Cell cell) {
    cell = {std::max(cell.column, 0), std::max(cell.row, 0)};
    openQuickAdd(cellRect(cell), [this, cell](const std::string& op) {
        std::string id;
        choosePlaced(addNode(loom(), op, cell, &id), id);
    }, false);
}

void Weave::openQuickAdd() {
    const std::string after = chosen_;
    if (after.empty()) return openQuickAddAt({0, 0});
    openQuickAdd(cardRect(after), [this, after](const std::string& op) {
        std::string id;
        const Node* node = loom().node(after);
        // Nothing comes behind an output: the new node goes before it.
        if (node && node->op == "output")
            for (const Link& link : loom().links)
                if (link.to == after) return choosePlaced(insertOnLink(loom(), op, link, &id), id);
        choosePlaced(addNodeAfter(loom(), op, after, &id), id);
    }, false);
}

void Weave::choosePlaced(const Edit& edit, const std::string& id) {
    document_.apply(edit);
    choose(id);
}

void Weave::deleteChosen() {
    if (chosenLink_) {
        document_.apply(removeLink(loom(), *chosenLink_));
        return;
    }
    if (chosen_.empty()) return;
    std::string next;
    for (const Link& link : loom().links)
        if (link.to == chosen_ && next.empty()) next = link.from;
    document_.apply(removeNodes(loom(), {chosen_}));
    choose(next);
}

void Weave::toggleSkip() {
    if (const Node* node = loom().node(chosen_)) document_.apply(setSkipped(loom(), {chosen_}, !node->skipped));
}

void Weave::togglePin() {
    pinned_ = pinned_ == chosen_ ? std::string() : chosen_;
    update();
    Q_EMIT pinnedChanged();
}

void Weave::renameChosen() {
    const Node* node = loom().node(chosen_);
    if (!node) return;
    auto* field = new QLineEdit(QString::fromStdString(displayName(*node)), this);
    field->setGeometry(cardRect(chosen_).adjusted(54 * zoom_, 8 * zoom_, -4, -28 * zoom_).toRect());
    field->setAccessibleName(tr("Name"));
    field->selectAll();
    field->show();
    field->setFocus();
    connect(field, &QLineEdit::editingFinished, this, [this, field, id = chosen_] {
        if (!field->isVisible()) return;
        field->hide();
        field->deleteLater();
        document_.apply(renameNode(loom(), id, field->text().trimmed().toStdString()));
        setFocus();
    });
}

/// Chooses the nearest card in a direction.
void Weave::walk(int columns, int rows) {
    const Node* from = loom().node(chosen_);
    if (!from) return choose(loom().nodes.empty() ? std::string() : loom().nodes.front().id);
    const Node* best = nullptr;
    int nearest = 1 << 28;
    for (const Node& n : loom().nodes) {
        const int dx = n.cell.column - from->cell.column, dy = n.cell.row - from->cell.row;
        const int ahead = dx * columns + dy * rows, aside = std::abs(dx * rows) + std::abs(dy * columns);
        if (ahead <= 0) continue;
        if (const int far = ahead + aside * 4; far < nearest) nearest = far, best = &n;
    }
    if (best) choose(best->id);
}

void Weave::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
        case Qt::Key_Left: return walk(-1, 0);
        case Qt::Key_Right: return walk(1, 0);
        case Qt::Key_Up: return walk(0, -1);
        case Qt::Key_Down: return walk(0, 1);
        case Qt::Key_Return:
        case Qt::Key_Enter: Q_EMIT settingsWanted(); return;
        default: QWidget::keyPressEvent(event);
    }
}

void Weave::wheelEvent(QWheelEvent* event) {
    const double before = zoom_;
    fitted_ = false;
    zoom_ = std::clamp(zoom_ * std::pow(1.0015, event->angleDelta().y()), 0.25, 2.0);
    const QPointF at = event->position();
    pan_ = at - (at - pan_) * (zoom_ / before);
    update();
}

}  // namespace seedloom::app
