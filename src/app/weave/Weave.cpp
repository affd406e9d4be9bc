// What the weave holds and where it is on screen.
#include "app/weave/Weave.h"

#include "app/look/Theme.h"
#include "app/weave/QuickAdd.h"
#include "app/weave/WeaveMetrics.h"
#include "app/widgets/Finder.h"
#include "graph/NodeSpec.h"

#include <QtCore/QSettings>
#include <QtGui/QPainterPath>
#include <QtGui/QPainterPathStroker>
#include <QtWidgets/QApplication>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QPlainTextEdit>

namespace seedloom::app {

Weave::Weave(Session& session, QWidget* parent)
    : QWidget(parent), document_(session.document()), rebuilds_(session.rebuilds()), pictures_(session.pictures()), selection_(session.selection()),
      quickAdd_(new QuickAdd(pictures_, this)), finder_(new Finder(this)), zoom_(textScale()),
      animate_(QSettings().value(QStringLiteral("motion"), true).toBool()) {
    setMinimumSize(240, 96);
    setMouseTracking(true);
    setAcceptDrops(true);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Weave"));
    setAccessibleDescription(tr("The nodes of the loom. Arrow keys walk along the strands, Enter opens settings, a letter or / adds a node."));
    connect(&document_, &Document::changed, this, &Weave::documentChanged);
    connect(&document_, &Document::replaced, this, [this] {
        endNaming(false);
        selection_.pin({});
        chosenNote_.clear();
        motion_ = {};
        motion_.retarget(loom(), false);
        choose(loom().output);
        showAll();
    });
    connect(&document_, &Document::placeChanged, this, &Weave::placeChanged);
    connect(&selection_, &Selection::chosenChanged, this, [this] {
        if (chosen() != named_) endNaming(true);
        bringIntoView(chosen());
        update();
    });
    // A field that never got the keyboard does not tell that it lost it.
    connect(qApp, &QApplication::focusChanged, this, [this](QWidget*, const QWidget* now) {
        if (now && now != this) leaveFields(now);
    });
    connect(&selection_, &Selection::pinnedChanged, this, qOverload<>(&QWidget::update));
    connect(&rebuilds_, &RebuildService::stateChanged, this, [this] {
        rebuilds_.running() ? pulse_.start(100) : pulse_.stop();
        update();
    });
    connect(&pictures_, &Pictures::ready, this, qOverload<>(&QWidget::update));
    connect(&pulse_, &QTimer::timeout, this, [this] {
        phase_ = std::fmod(phase_ + 0.2, 1.0);
        update();
    });
    motionTimer_.setInterval(16);
    connect(&motionTimer_, &QTimer::timeout, this, [this] {
        if (!motion_.moving()) motionTimer_.stop();
        update();
    });
    documentChanged();
}

/// Another graph is laid out afresh; another part of the same one leaves everything where it is.
void Weave::placeChanged() {
    if (document_.place().path == path_) return;
    endNaming(false);
    const std::vector<std::string> before = std::exchange(path_, document_.place().path);
    const bool pinned = !selection_.pinned().empty();
    selection_.forget();
    chosenNote_.clear();
    motion_ = {};
    motion_.retarget(loom(), false);
    documentChanged();
    // Out of a container it is chosen; inside, the step before the result.
    const bool out = before.size() > path_.size();
    std::string next = out && node(before[path_.size()]) ? before[path_.size()] : loom().output;
    for (const Link& link : loom().links)
        if (!out && link.to == loom().output) next = link.from;
    choose(next);
    fitted_ = true;
    showAll();
    if (pinned) Q_EMIT selection_.pinnedChanged();
}

void Weave::documentChanged() {
    indexed_ = document_.shownSnapshot();
    nodes_.clear();
    cells_.clear();
    for (const Node& n : indexed_->nodes) {
        nodes_.emplace(n.id, &n);
        cells_.emplace(n.cell, &n);
    }
    motion_.retarget(*indexed_, animate_);
    if (motion_.moving()) motionTimer_.start();
    std::vector<std::string> left = chosenAll();
    std::erase_if(left, [&](const std::string& id) { return !node(id); });
    selection_.choose(std::move(left));
    if (!chosenNote_.empty() && !loom().note(chosenNote_)) chosenNote_.clear();
    if (!pinned().empty() && !node(pinned())) selection_.pin({});
    if (!named_.empty() && !node(named_)) endNaming(false);
    chosenLink_.reset();
    hoveredLink_.reset();
    dropLink_.reset();
    dropCell_.reset();
    // Where not all is in sight, the view stays where it is while somebody works.
    if (fitted_ && fittingZoom() >= metrics::kLeastReadable * textScale()) showAll();
    bringIntoView(chosen());
    placeFields();
    update();
}

const Node* Weave::node(const std::string& id) const {
    const auto it = nodes_.find(id);
    return it == nodes_.end() ? nullptr : it->second;
}

void Weave::choose(const std::string& node) { chooseAll(node.empty() ? std::vector<std::string>() : std::vector<std::string>{node}); }

void Weave::chooseAll(std::vector<std::string> nodes) {
    chosenLink_.reset();
    chosenNote_.clear();
    selection_.choose(std::move(nodes));
    update();
}

void Weave::pin(const std::string& node) { selection_.pin(node); }

void Weave::setOrigins(const QString& attribute, std::vector<Origin> origins) {
    if (attribute == originOf_ && origins == origins_) return;
    originOf_ = attribute;
    origins_ = std::move(origins);
    update();
}

void Weave::setCompared(std::string left, std::string right) {
    comparedLeft_ = std::move(left);
    comparedRight_ = std::move(right);
    update();
}

void Weave::bringIntoView(const std::string& id) {
    const Node* n = node(id);
    const QRectF card = cardRect(id).adjusted(-14, -14, 14, 14);
    if (!n || card.width() > width() || card.height() > height()) return;
    pan_ += {std::max(0.0, -card.left()) - std::max(0.0, card.right() - width()), std::max(0.0, -card.top()) - std::max(0.0, card.bottom() - height())};
    // Nor under the small map: out of it by the shorter way that has room.
    const QRectF map = overviewRect(), there = cardRect(id).adjusted(-4, -4, 4, 4);
    if (!map.intersects(there)) return;
    const double up = there.bottom() - map.top(), left = there.right() - map.left();
    if (up <= left && there.top() - up >= 0) pan_.ry() -= up;
    else if (there.left() - left >= 0) pan_.rx() -= left;
}

void Weave::placeFields() {
    const QRect room = rect().adjusted(2, 2, -2, -2);
    const auto put = [&](QWidget* field, QRect at) {
        at.moveLeft(std::clamp(at.left(), room.left(), std::max(room.left(), room.right() - at.width())));
        field->setGeometry(at);
    };
    if (nameField_) {
        const QFontMetrics letters(nameField_->font());
        const int wide = std::clamp(letters.horizontalAdvance(nameField_->text()) + px(24), px(130), std::max(px(130), room.width()));
        const QRectF text = textOf(cardRect(named_));
        put(nameField_, {int(text.left()) - px(4), int(text.top()) - px(3), wide, px(24)});
    }
    const Note* note = noteField_ ? loom().note(noted_) : nullptr;
    if (note) {
        QRect at = noteRect(*note).toRect().adjusted(0, 0, 0, 4);
        at.setSize(at.size().expandedTo({px(150), px(52)}));
        put(noteField_, at);
    }
}

QRect Weave::usedCells() const {
    int left = 1 << 20, top = 1 << 20, right = 0, bottom = 0;
    for (const Node& n : loom().nodes) {
        left = std::min(left, n.cell.column), right = std::max(right, n.cell.column);
        top = std::min(top, n.cell.row), bottom = std::max(bottom, n.cell.row);
    }
    for (const Note& n : loom().notes) {
        left = std::min(left, n.cell.column), right = std::max(right, n.cell.column + n.columns - 1);
        top = std::min(top, n.cell.row), bottom = std::max(bottom, n.cell.row);
    }
    return left > right ? QRect(0, 0, 1, 1) : QRect(QPoint(left, top), QPoint(right, bottom));
}

/// The zoom at which all is in sight.
double Weave::fittingZoom() const {
    const QRect used = usedCells();
    const double wide = used.width() * metrics::kPitchX - (metrics::kPitchX - metrics::kCardWidth) + 28;
    const double high = used.height() * metrics::kPitchY - (metrics::kPitchY - metrics::kCardHeight) + 40;
    return std::min(width() / wide, height() / high);
}

void Weave::showAll() {
    if (loom().nodes.empty()) return;
    const QRect used = usedCells();
    const double fitting = fittingZoom();
    const bool fits = fitting >= metrics::kLeastReadable * textScale();
    zoom_ = fits ? std::min(fitting, textScale()) : metrics::kUsual * textScale();
    pan_ = {14 - used.left() * metrics::kPitchX * zoom_, 26 - used.top() * metrics::kPitchY * zoom_};
    if (const Node* last = node(loom().output); last && !fits) {
        const QRectF card = cellRect(last->cell);
        pan_.rx() += std::min(0.0, width() - 28 - card.right());
        pan_.ry() += std::min(0.0, height() / 2.0 - card.center().y());
    }
    fitted_ = true;
    placeFields();
    update();
}

void Weave::resizeEvent(QResizeEvent*) {
    if (fitted_) showAll();
    bringIntoView(chosen());
    placeFields();
}

void Weave::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    update();
}

void Weave::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    update();
}

QRectF Weave::rectAt(QPointF place) const {
    return {pan_.x() + place.x() * metrics::kPitchX * zoom_, pan_.y() + place.y() * metrics::kPitchY * zoom_, metrics::kCardWidth * zoom_,
            metrics::kCardHeight * zoom_};
}

QRectF Weave::cellRect(Cell cell) const { return rectAt(QPointF(cell.column, cell.row)); }

QRectF Weave::cardRect(const std::string& id) const {
    const Node* n = node(id);
    return n ? cellRect(n->cell) : QRectF();
}

QRectF Weave::noteRect(const Note& note) const {
    QRectF strip = cellRect(note.cell);
    strip.setWidth((note.columns * metrics::kPitchX - (metrics::kPitchX - metrics::kCardWidth)) * zoom_);
    return strip;
}

Cell Weave::cellAt(QPointF at) const {
    const double gapX = (metrics::kPitchX - metrics::kCardWidth) / 2, gapY = (metrics::kPitchY - metrics::kCardHeight) / 2;
    return {int(std::floor(((at.x() - pan_.x()) / zoom_ + gapX) / metrics::kPitchX)), int(std::floor(((at.y() - pan_.y()) / zoom_ + gapY) / metrics::kPitchY))};
}

std::string Weave::cardAt(QPointF at) const {
    const auto it = cells_.find(cellAt(at));
    return it != cells_.end() && cellRect(it->first).contains(at) ? it->second->id : std::string();
}

std::string Weave::noteAt(QPointF at) const {
    for (auto note = loom().notes.rbegin(); note != loom().notes.rend(); ++note)
        if (noteRect(*note).contains(at)) return note->id;
    return {};
}

QPointF Weave::knobOut(const QRectF& card, const Node& node, int port) const {
    const auto spec = document_.specOf(node);
    const int ports = spec ? std::max<int>(1, int(spec->outputs.size())) : 1;
    return {card.right(), card.top() + card.height() * (port + 1) / (ports + 1)};
}

QPointF Weave::outputKnob(const std::string& id, int port) const {
    const Node* n = node(id);
    return n ? knobOut(cardRect(id), *n, port) : QPointF();
}

Geometry Weave::flowing(const Link& link) const {
    const auto outcome = rebuilds_.outcome(link.from);
    return outcome ? outcome->output(outputOf(loom(), link)) : Geometry();
}

QPointF Weave::knobIn(const QRectF& card, const Node& node, int port) const {
    const auto spec = document_.specOf(node);
    const int ports = spec ? std::max<int>(1, int(spec->inputs.size())) : 1;
    return {card.left(), card.top() + card.height() * (port + 1) / (ports + 1)};
}

QPointF Weave::inputKnob(const std::string& id, int port) const {
    const Node* n = node(id);
    return n ? knobIn(cardRect(id), *n, port) : QPointF();
}

int Weave::portIndex(const Link& link) const {
    const Node* to = node(link.to);
    const auto spec = to ? document_.specOf(*to) : nullptr;
    if (spec && !link.in.empty())
        for (std::size_t i = 0; i < spec->inputs.size(); ++i)
            if (spec->inputs[i].id == link.in) return int(i);
    return 0;
}

std::pair<std::string, std::string> Weave::outputAt(QPointF at) const {
    // A knob reaches over its card's edge: the card under the pointer, or the one left of it.
    const Cell here = cellAt(at);
    for (int column : {here.column, here.column - 1}) {
        const auto it = cells_.find({column, here.row});
        if (it == cells_.end() || it->second->op == "output") continue;
        const Node& n = *it->second;
        const auto spec = document_.specOf(n);
        const int ports = spec ? int(spec->outputs.size()) : 1;
        for (int i = 0; i < ports; ++i)
            if (QLineF(knobOut(cellRect(n.cell), n, i), at).length() <= metrics::kKnobReach)
                return {n.id, i == 0 ? std::string() : spec->outputs[std::size_t(i)].id};
    }
    return {};
}

std::pair<std::string, std::string> Weave::inputAt(QPointF at) const {
    const Cell here = cellAt(at);
    for (int column : {here.column, here.column + 1}) {
        const auto it = cells_.find({column, here.row});
        const auto spec = it == cells_.end() ? nullptr : document_.specOf(*it->second);
        if (!spec || spec->inputs.empty()) continue;
        const Node& n = *it->second;
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

QPainterPath Weave::threadPath(const Link& link, bool shown) const {
    const Node *from = node(link.from), *to = node(link.to);
    if (!from || !to) return {};
    const QRectF start = shown ? shownRect(*from) : cellRect(from->cell), end = shown ? shownRect(*to) : cellRect(to->cell);
    return threadPath(knobOut(start, *from, int(outputOf(loom(), link))), knobIn(end, *to, portIndex(link)));
}

QPointF Weave::linkMiddle(const Link& link) const {
    if (link.cut) return threadEnd(link, true).center();
    return threadPath(link).pointAtPercent(0.5);
}

std::optional<Link> Weave::linkAt(QPointF at) const {
    QPainterPathStroker stroker;
    stroker.setWidth(12);
    for (const Link& link : loom().links) {
        if (link.cut) {
            if (threadEnd(link, true).contains(at) || threadEnd(link, false).contains(at)) return link;
            continue;
        }
        const QPainterPath path = threadPath(link);
        if (!path.controlPointRect().adjusted(-7, -7, 7, 7).contains(at)) continue;
        if (stroker.createStroke(path).contains(at)) return link;
    }
    return {};
}

bool Weave::fits(const std::string& from, const std::string& to) const {
    const Node* target = node(to);
    const auto spec = target ? document_.specOf(*target) : nullptr;
    return spec && !spec->inputs.empty() && from != to && !reaches(loom(), to, from);
}

QRectF Weave::overviewRect() const {
    const QRect used = usedCells();
    const QRectF all = cellRect({used.left(), used.top()}).united(cellRect({used.right(), used.bottom()}));
    if (loom().nodes.size() < 4 || QRectF(rect()).adjusted(-4, -4, 4, 4).contains(all)) return {};
    const double wide = used.width() * metrics::kPitchX, high = used.height() * metrics::kPitchY;
    const double scale = std::min({170.0 / wide, 84.0 / high, 0.25});
    const QSizeF size(std::max(wide * scale, 40.0) + 12, std::max(high * scale, 16.0) + 12);
    return {QPointF(width() - size.width() - 10, height() - size.height() - 10), size};
}

}  // namespace seedloom::app
