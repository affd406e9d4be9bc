// What the hand does on the stage.
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/stage/StageMetrics.h"

#include <QtGui/QMouseEvent>

namespace seedloom::app {

/// Of handles that lie over each other on screen, the one in front. One that only slides towards the eye could not be dragged, and lets others be taken.
int Stage::handleAt(QPointF at) const {
    constexpr double kSamePlace = 1;
    int best = -1;
    double nearest = kHandleReach;
    float height = 0;
    for (int i = 0; i < int(handles_.at.size()); ++i) {
        const Vec3 place = handles_.at[std::size_t(i)];
        const auto along = std::size_t(i) < handles_.along.size() ? handles_.along[std::size_t(i)] : std::nullopt;
        if (along && std::abs(dot(*along, camera_.toEye())) > 0.999f) continue;
        const double d = QLineF(at, camera_.project(place, size())).length();
        const float towardsEye = dot(place, camera_.toEye());
        const bool inFront = best >= 0 && std::abs(d - nearest) < kSamePlace && towardsEye > height;
        if (d >= kHandleReach || (d >= nearest && !inFront) || (best >= 0 && std::abs(d - nearest) < kSamePlace && towardsEye < height)) continue;
        nearest = d, height = towardsEye, best = i;
    }
    return best;
}

/// Handles move in the upright or level plane through them that faces the eye most, so that they do not leave a flat drawing.
/// Sliding ones keep to their line. Snapping puts them onto the grid that is shown.
Vec3 Stage::draggedTo(QPointF at, bool snap) const {
    const Vec3 from = handles_.at[std::size_t(draggedHandle_)];
    const auto i = std::size_t(draggedHandle_);
    if (i < handles_.along.size() && handles_.along[i]) {
        // The place on the line that is nearest to the ray.
        const Vec3 along = *handles_.along[i], ray = camera_.ray(at, size()), between = from - camera_.rayStart(at, size());
        const float b = dot(along, ray), d = dot(along, between), e = dot(ray, between), det = 1 - b * b;
        if (det < 1e-4f) return from;
        const Vec3 to = from + along * ((b * e - d) / det);
        if (!snap) return to;
        const double metres = double(dot(to, along)), grid = gridStep(camera_);
        return to + along * float(std::round(metres / grid) * grid - metres);
    }
    return movedInPlane(from, at, snap);
}

Vec3 Stage::movedInPlane(Vec3 from, QPointF at, bool snap) const {
    const Vec3 eye = camera_.toEye();
    int axis = 2;
    for (int c : {2, 0, 1})
        if (std::abs(eye[c]) > std::abs(eye[axis]) + 0.25f) axis = c;
    const Vec3 start = camera_.rayStart(at, size()), ray = camera_.ray(at, size());
    if (std::abs(ray[axis]) < 1e-4f) return from;
    const float t = (from[axis] - start[axis]) / ray[axis];
    if (t <= 0) return from;
    Vec3 to = start + ray * t;
    // Whole millimetres while seen from a usual distance; finer when zoomed in.
    const double unit = snap ? gridStep(camera_) : std::pow(10.0, std::floor(std::log10(std::max(camera_.metresPerPixel(size()), 1e-9))));
    for (int c = 0; c < 3; ++c) to[c] = c == axis ? from[c] : float(std::round(double(to[c]) / unit) * unit);
    return to;
}

bool Stage::eventFilter(QObject* watched, QEvent* event) {
    switch (event->type()) {
        case QEvent::MouseButtonPress: pressed(static_cast<QMouseEvent*>(event)); return true;
        case QEvent::MouseButtonDblClick:
            if (doubleClicked(static_cast<QMouseEvent*>(event)->position())) return true;
            pressed(static_cast<QMouseEvent*>(event));
            return true;
        case QEvent::MouseMove: moved(static_cast<QMouseEvent*>(event)); return true;
        case QEvent::MouseButtonRelease: released(static_cast<QMouseEvent*>(event)); return true;
        case QEvent::Wheel: {
            auto* wheel = static_cast<QWheelEvent*>(event);
            if (brush_ && wheel->modifiers() & Qt::ShiftModifier) {
                // With Shift held, some systems turn the wheel sideways.
                const int by = wheel->angleDelta().y() != 0 ? wheel->angleDelta().y() : wheel->angleDelta().x();
                Q_EMIT brushResized(brush_->radius * std::pow(1.001, by));
                return true;
            }
            takeOver();
            camera_.zoom(std::pow(0.999, wheel->angleDelta().y()), wheel->position(), size());
            framed_ = false;
            moving();
            return true;
        }
        case QEvent::Leave: hoverMoved({-1, -1}); return QWidget::eventFilter(watched, event);
        default: return QWidget::eventFilter(watched, event);
    }
}

/// From here on the view is the hand's: what still comes in of a new document does not move it.
void Stage::takeOver() {
    if (shown_.mesh && !shown_.mesh->bounds.empty) frameNext_ = lastFrame_ = false;
}

void Stage::pressed(QMouseEvent* event) {
    setFocus();
    takeOver();
    last_ = pressedAt_ = event->position();
    button_ = event->button();
    movedFar_ = false;
    if (paints(event, 0)) return;
    const bool left = button_ == Qt::LeftButton;
    dividerDragged_ = left && comparing() && std::abs(last_.x() - dividerPixel().x()) <= kHandleReach;
    draggedHandle_ = left && !dividerDragged_ ? handleAt(last_) : -1;
    if (draggedHandle_ < 0) return;
    dragOffset_ = camera_.project(handles_.at[std::size_t(draggedHandle_)], size()) - last_;
    Q_EMIT handleMoved(draggedHandle_, handles_.at[std::size_t(draggedHandle_)], 0);
}

void Stage::moved(QMouseEvent* event) {
    const QPointF at = event->position(), by = at - last_;
    last_ = at;
    movedFar_ |= QLineF(at, pressedAt_).length() > 4;
    hoverMoved(at);
    if (paints(event, 1)) return;
    if (draggedHandle_ >= 0) {
        const Vec3 to = draggedTo(at + dragOffset_, event->modifiers() & Qt::ControlModifier);
        if (!(to == handles_.at[std::size_t(draggedHandle_)])) Q_EMIT handleMoved(draggedHandle_, to, 1);
    } else if (dividerDragged_) {
        divider_ = std::clamp(at.x() / std::max(width(), 1), 0.02, 0.98);
        if (canvas_) canvas_->setDivider(divider_);
        overlay_->update();
    } else if (button_ == Qt::LeftButton) {
        if (compassAt(pressedAt_) >= 0) return;
        turnByHand(by);
    } else if (button_ == Qt::RightButton || button_ == Qt::MiddleButton) {
        camera_.pan(by.x(), by.y(), size());
        framed_ = false;
        moving();
    } else {
        const int over = handleAt(at);
        const bool onDivider = comparing() && std::abs(at.x() - dividerPixel().x()) <= kHandleReach;
        overlay_->setCursor(onDivider ? Qt::SplitHCursor : over >= 0 ? Qt::SizeAllCursor : compassAt(at) >= 0 ? Qt::PointingHandCursor : Qt::ArrowCursor);
        if (over == hoveredHandle_) return;
        hoveredHandle_ = over;
        overlay_->update();
    }
}

void Stage::released(QMouseEvent* event) {
    if (paints(event, 2)) {
        button_ = Qt::NoButton;
        return;
    }
    if (draggedHandle_ >= 0) Q_EMIT handleMoved(draggedHandle_, handles_.at[std::size_t(draggedHandle_)], 2);
    else if (button_ == Qt::LeftButton && !movedFar_ && !dividerDragged_)
        clicked(event->position(), event->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
    else if (button_ != Qt::NoButton) settled();
    if (event->button() == button_) button_ = Qt::NoButton;
    draggedHandle_ = -1;
    dividerDragged_ = false;
}

/// An axis view is left: perspective comes back where it was.
void Stage::turnByHand(QPointF by) {
    if (!by.isNull() && flatBefore_) camera_.flat = *std::exchange(flatBefore_, std::nullopt);
    camera_.orbit(by.x(), by.y());
    moving();
}

/// The end of an open chain that is nearest on screen.
std::optional<int> Stage::nearerEnd(QPointF at) const {
    std::optional<int> best;
    double nearest = 0;
    for (const HandleChain& chain : handles_.chains) {
        if (chain.closed || chain.count == 0) continue;
        for (const std::size_t end : {chain.first + chain.count - 1, chain.first}) {
            bool behind = false;
            const double d = QLineF(at, camera_.project(handles_.at[end], size(), &behind)).length();
            if (!behind && (!best || d < nearest)) nearest = d, best = int(end);
        }
    }
    return best;
}

/// On a point of a chain takes it out, on its line puts one in, beside all of them adds to the nearer end.
bool Stage::doubleClicked(QPointF at) {
    if (handles_.chains.empty() || brush_) return false;
    if (const int hit = handleAt(at); hit >= 0) {
        Q_EMIT handleRemoveWanted(hit);
        return true;
    }
    for (const HandleChain& chain : handles_.chains)
        for (std::size_t i = 0; i < chain.sides(); ++i) {
            const Vec3 from = handles_.at[chain.first + i], to = handles_.at[chain.first + (i + 1) % chain.count];
            const QPointF a = camera_.project(from, size()), b = camera_.project(to, size()), ab = b - a;
            const double length = QPointF::dotProduct(ab, ab), t = length > 0 ? QPointF::dotProduct(at - a, ab) / length : -1;
            if (t <= 0 || t >= 1 || QLineF(at, a + ab * t).length() > kHandleReach) continue;
            Q_EMIT handleInsertWanted(int(chain.first + i), mix(from, to, float(t)));
            return true;
        }
    const auto end = compassAt(at) < 0 ? nearerEnd(at) : std::nullopt;
    if (!end) return false;
    const auto ghost = handles_.onGhost && faint_.mesh ? pickAt(*faint_.mesh, camera_, size(), at, false) : std::nullopt;
    Q_EMIT handleAppendWanted(*end, ghost ? ghost->at : movedInPlane(handles_.at[std::size_t(*end)], at, false));
    return true;
}

void Stage::clicked(QPointF at, bool extend) {
    if (const int side = compassAt(at); side >= 0) return lookFrom(side);
    if (QLineF(at, compassCentre()).length() < kCompassRadius) return setFlat(!camera_.flat);
    if (!shown_.mesh) return;
    const auto found = pickAt(*shown_.mesh, camera_, size(), at, look_.points);
    Q_EMIT picked(found.has_value(), found ? found->element : Element::face, found ? found->row : 0, extend);
}

QPointF Stage::compassCentre() const { return {width() - 40.0, 40.0}; }

QPointF Stage::compassPixel(int side) const {
    const Vec3 axes[] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
    return compassCentre() + QPointF(double(dot(axes[side], camera_.right())), -double(dot(axes[side], camera_.up()))) * (kCompassRadius - 9);
}

int Stage::compassAt(QPointF at) const {
    const Vec3 axes[] = {{1, 0, 0}, {-1, 0, 0}, {0, 1, 0}, {0, -1, 0}, {0, 0, 1}, {0, 0, -1}};
    int best = -1;
    float front = -2;
    // Where two lie over each other, the one that is nearer to the eye.
    for (int i = 0; i < 6; ++i) {
        if (QLineF(at, compassPixel(i)).length() > 7 || std::abs(dot(axes[i], camera_.toEye())) > 0.97f) continue;
        if (const float near = dot(axes[i], camera_.toEye()); near > front) front = near, best = i;
    }
    return best;
}

}  // namespace seedloom::app
