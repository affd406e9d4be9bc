// What the mouse does in the weave.
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/weave/Weave.h"
#include "app/weave/WeaveMetrics.h"
#include "graph/NodeSpec.h"

#include <QtGui/QMouseEvent>
#include <QtGui/QPainterPath>
#include <QtWidgets/QMenu>
#include <QtWidgets/QToolTip>

namespace seedloom::app {

void Weave::mousePressEvent(QMouseEvent* event) {
    setFocus();
    // Who only moves the view does not end what is written.
    if (event->button() == Qt::LeftButton) leaveFields(this);
    pressed_ = last_ = event->position();
    movedFar_ = false;
    drag_ = Drag::none;
    dragged_.clear();
    if (event->button() != Qt::LeftButton) {
        drag_ = Drag::pan;
        return;
    }
    const bool extend = event->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier);
    if (overviewRect().contains(pressed_)) {
        drag_ = Drag::overview;
        moveByOverview(pressed_);
    } else if (std::tie(dragged_, draggedOutput_) = outputAt(pressed_); !dragged_.empty()) {
        drag_ = Drag::thread;
    } else if (dragged_ = cardAt(pressed_); !dragged_.empty()) {
        drag_ = Drag::cards;
        if (extend) {
            auto nodes = chosenAll();
            if (std::erase(nodes, dragged_) == 0) nodes.push_back(dragged_);
            chooseAll(std::move(nodes));
        } else if (!isChosen(dragged_)) {
            choose(dragged_);
        }
    } else if (const auto link = linkAt(pressed_)) {
        chosenLink_ = link;
    } else if (dragged_ = noteAt(pressed_); !dragged_.empty()) {
        chosenLink_.reset();
        chosenNote_ = dragged_;
        drag_ = pressed_.x() > noteRect(*loom().note(dragged_)).right() - 10 ? Drag::noteWidth : Drag::note;
    } else {
        chosenLink_.reset();
        chosenNote_.clear();
        drag_ = Drag::band;
    }
    update();
}

void Weave::mouseMoveEvent(QMouseEvent* event) {
    const QPointF at = event->position(), by = at - last_;
    last_ = at;
    movedFar_ |= QLineF(at, pressed_).length() > 5;
    if (event->buttons() == Qt::NoButton) return hover(at, event->globalPosition().toPoint());
    if (drag_ == Drag::pan && movedFar_) {
        pan_ += by, fitted_ = false;
        placeFields();
        setCursor(Qt::ClosedHandCursor);
    }
    if (drag_ == Drag::overview) moveByOverview(at);
    if (drag_ == Drag::cards && movedFar_ && chosenAll().size() == 1) {
        dropLink_ = cardAt(at).empty() ? linkAt(at) : std::nullopt;
        if (dropLink_ && weaveIn(loom(), dragged_, *dropLink_, document_.assets()).empty()) dropLink_.reset();
    }
    update();
}

void Weave::hover(QPointF at, QPoint global) {
    const bool overMap = overviewRect().contains(at);
    hovered_ = overMap ? std::string() : cardAt(at);
    const bool knob = !overMap && !outputAt(at).first.empty();
    hoveredLink_ = hovered_.empty() && !knob && !overMap ? linkAt(at) : std::nullopt;
    const std::string note = overMap ? std::string() : noteAt(at);
    const bool widens = !note.empty() && at.x() > noteRect(*loom().note(note)).right() - 10;
    setCursor(knob ? Qt::CrossCursor : widens ? Qt::SizeHorCursor : Qt::ArrowCursor);
    if (knob) {
        const auto [id, out] = outputAt(at);
        const auto spec = document_.specOf(*node(id));
        if (spec && spec->outputs.size() > 1) QToolTip::showText(global, catalogueText(spec->outputs[spec->outputIndex(out).value_or(0)].label), this);
    }
    if (hoveredLink_) QToolTip::showText(global, linkTip(*hoveredLink_), this);
    if (!hovered_.empty() && !knob) QToolTip::showText(global, cardTip(*node(hovered_)), this, cardRect(hovered_).toAlignedRect());
    update();
}

void Weave::leaveEvent(QEvent*) {
    hovered_.clear();
    hoveredLink_.reset();
    update();
}

void Weave::mouseReleaseEvent(QMouseEvent* event) {
    const Drag drag = std::exchange(drag_, Drag::none);
    const QPointF at = event->position();
    setCursor(Qt::ArrowCursor);
    update();
    if (drag == Drag::pan && !movedFar_ && event->button() == Qt::RightButton) return openMenu(at);
    const bool extend = event->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier);
    if (!movedFar_) {
        // A click on one of several chosen cards means that one; a click on nothing gives up the choice of several.
        if (drag == Drag::cards && !extend && chosenAll().size() > 1) choose(dragged_);
        if (drag == Drag::cards && !extend && tornCorner(cardRect(dragged_)).contains(at) && rebuilds_.report(dragged_).state == NodeState::failed)
            return openMenu(at);
        if (drag == Drag::band && !extend && chosenAll().size() > 1) choose(chosen());
        return;
    }
    switch (drag) {
        case Drag::cards: return dropCards(at);
        case Drag::thread: return dropThread(at);
        case Drag::band: return takeBand(at, extend);
        case Drag::note:
        case Drag::noteWidth: {
            const Note* note = loom().note(dragged_);
            if (!note) return;
            Note changed = *note;
            const Cell from = cellAt(pressed_), to = cellAt(at);
            if (drag == Drag::note) changed.cell = {note->cell.column + to.column - from.column, note->cell.row + to.row - from.row};
            else changed.columns = std::max(1, to.column - note->cell.column + 1);
            document_.applyShown(changeNote(loom(), changed));
            return;
        }
        default: return;
    }
}

void Weave::dropCards(QPointF at) {
    const auto link = std::exchange(dropLink_, std::nullopt);
    if (link) return document_.applyShown(weaveIn(loom(), dragged_, *link, document_.assets()));
    const Node* grip = node(dragged_);
    if (!grip) return;
    const Cell to = cellAt(at);
    document_.applyShown(
        moveNodes(loom(), isChosen(dragged_) ? chosenAll() : std::vector<std::string>{dragged_}, to.column - grip->cell.column, to.row - grip->cell.row));
}

void Weave::takeBand(QPointF at, bool add) {
    const QRectF band = QRectF(pressed_, at).normalized();
    std::vector<std::string> nodes = add ? chosenAll() : std::vector<std::string>();
    for (const Node& n : loom().nodes)
        if (band.intersects(cellRect(n.cell)) && std::find(nodes.begin(), nodes.end(), n.id) == nodes.end()) nodes.push_back(n.id);
    if (!nodes.empty()) chooseAll(std::move(nodes));
}

void Weave::dropThread(QPointF at) {
    const std::string from = dragged_, out = draggedOutput_;
    if (const auto [to, port] = inputAt(at); !to.empty()) {
        if (fits(from, to)) document_.applyShown(addLink(loom(), {from, out, to, port, Json::object()}, document_.assets()));
        return;
    }
    const Cell cell = cellAt(at);
    openQuickAdd(QRectF(at, QSizeF(1, 1)), from,
                 [this, from, out, cell](const std::string& op) {
                     std::string id;
                     Edit edit = addNode(loom(), op, cell, &id);
                     const auto placed = applied(loom(), edit);
                     if (!placed) return;
                     const Edit link = addLink(*placed, {from, out, id, "", Json::object()}, document_.assets());
                     edit.changes.insert(edit.changes.end(), link.changes.begin(), link.changes.end());
                     choosePlaced(edit, id);
                 },
                 true, {});
}

void Weave::mouseDoubleClickEvent(QMouseEvent* event) {
    const QPointF at = event->position();
    if (event->button() != Qt::LeftButton || overviewRect().contains(at)) return;
    const std::string card = cardAt(at);
    if (!card.empty()) {
        // On the name it renames; elsewhere it leads to the settings.
        const QRectF box = cardRect(card);
        const bool name = at.x() > box.left() + 56 * zoom_ && at.y() < box.top() + box.height() / 2;
        choose(card);
        if (!name && insideOf(*node(card), document_.assets())) return openWanted();
        return name ? renameChosen() : settingsWanted();
    }
    if (const auto link = linkAt(at)) {
        openQuickAdd(QRectF(at, QSizeF(1, 1)), link->from,
                     [this, link = *link](const std::string& op) {
                         std::string id;
                         choosePlaced(insertOnLink(loom(), op, link, &id), id);
                     },
                     true, {});
    } else if (const std::string note = noteAt(at); !note.empty()) {
        editNote(note);
    } else {
        openQuickAddAt(cellAt(at));
    }
}

void Weave::openMenu(QPointF at) {
    const std::string card = cardAt(at);
    chosenNote_ = card.empty() ? noteAt(at) : std::string();
    if (!card.empty() && !isChosen(card)) choose(card);
    chosenLink_ = card.empty() && chosenNote_.empty() ? linkAt(at) : std::nullopt;
    pressed_ = at;
    update();
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    Q_EMIT menuWanted(menu);
    menu->popup(mapToGlobal(at.toPoint()));
}

void Weave::moveByOverview(QPointF at) {
    const QRectF map = overviewRect().adjusted(6, 6, -6, -6);
    if (map.isEmpty()) return;
    const QRect used = usedCells();
    const double column = used.left() + (at.x() - map.left()) / map.width() * used.width(),
                 row = used.top() + (at.y() - map.top()) / map.height() * used.height();
    fitted_ = false;
    pan_ = {width() / 2.0 - column * metrics::kPitchX * zoom_, height() / 2.0 - row * metrics::kPitchY * zoom_};
    placeFields();
    update();
}

void Weave::wheelEvent(QWheelEvent* event) {
    fitted_ = false;
    const QPoint turn = event->angleDelta();
    if (event->modifiers() & Qt::ShiftModifier) {
        pan_.rx() += turn.y() != 0 ? turn.y() : turn.x();
    } else {
        const double before = zoom_;
        zoom_ = std::clamp(zoom_ * std::pow(1.0015, turn.y()), 0.15 * textScale(), 2.0 * textScale());
        const QPointF at = event->position();
        pan_ = at - (at - pan_) * (zoom_ / before);
    }
    placeFields();
    update();
}

}  // namespace seedloom::app
