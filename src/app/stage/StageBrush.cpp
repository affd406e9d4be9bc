// Painting on the model.
#include "app/look/Theme.h"
#include "app/stage/Stage.h"
#include "geometry/Measures.h"

#include <QtGui/QMouseEvent>
#include <QtGui/QPainter>

namespace seedloom::app {

namespace {

constexpr int kRimSteps = 48;

}  // namespace

void Stage::setBrush(std::optional<Brush> brush) {
    if (brush == brush_) return;
    brush_ = std::move(brush);
    brushAt_.reset();
    if (!brush_ && painting_) {
        painting_ = false;
        Q_EMIT painted({}, {}, 2);
    }
    takeLook();
    overlay_->update();
}

std::optional<Stage::BrushPlace> Stage::brushPlace(QPointF at) const {
    if (brush_ && brush_->pen) return penPlace(at);
    if (!brush_) return {};
    if (brush_->grabs() && painting_ && brushFrom_) return placeFacing(brushFrom_->at, at);
    const BrushGround ground = painting_ ? ground_ : groundNow();
    if (!ground.mesh || !ground.geometry) return {};
    const auto found = pickAt(*ground.mesh, camera_, size(), at, false);
    if (!found || found->element != Element::face) return {};
    const Geometry& g = *ground.geometry;
    if (found->row >= g.faceCount()) return {};  // the picture of a moment ago
    Vec3 normal = normalized(areaVector(g.topology().face(found->row), g.positions()));
    if (dot(normal, camera_.ray(at, size())) > 0) normal = -normal;  // the side that is seen
    return BrushPlace{found->at, normal};
}

Stage::BrushGround Stage::groundNow() const {
    if (!subject_.outcome) return {};
    return {shown_.mesh, subject_.outcome->output(subject_.output)};
}

std::optional<Stage::BrushPlace> Stage::placeFacing(Vec3 through, QPointF at) const {
    const Vec3 start = camera_.rayStart(at, size()), ray = camera_.ray(at, size()), eye = camera_.toEye();
    const float along = dot(ray, eye);
    if (std::abs(along) < 1e-4f) return {};
    const float t = dot(through - start, eye) / along;
    if (t <= 0) return {};
    return BrushPlace{start + ray * t, -ray};
}

/// Where a pen is: on its plane, or on the surface that is drawn on, which is shown faintly.
std::optional<Stage::BrushPlace> Stage::penPlace(QPointF at) const {
    const Vec3 start = camera_.rayStart(at, size()), ray = camera_.ray(at, size());
    if (brush_->plane == Brush::kView) {
        const DrawScene* model = faint_.mesh ? faint_.mesh.get() : shown_.mesh.get();
        return model && !model->bounds.empty ? placeFacing(model->bounds.centre(), at) : std::nullopt;
    }
    if (brush_->plane == Brush::kSurface) {
        if (!faint_.mesh) return {};
        const auto found = pickAt(*faint_.mesh, camera_, size(), at, false);
        if (!found || found->element != Element::face) return {};
        return BrushPlace{found->at, -ray};
    }
    Vec3 normal{};
    normal[brush_->plane] = 1;
    if (std::abs(ray[brush_->plane]) < 1e-4f) return {};
    const float t = -start[brush_->plane] / ray[brush_->plane];
    if (t <= 0) return {};
    Vec3 place = start + ray * t;
    place[brush_->plane] = 0;
    return BrushPlace{place, normal};
}

/// True where the event belongs to the brush.
bool Stage::paints(QMouseEvent* event, int phase) {
    if (!brush_) return false;
    if (phase == 2) {
        if (!painting_) return false;
        painting_ = false;
        ground_ = {};
        Q_EMIT painted(brushAt_ ? brushAt_->at : Vec3{}, brushAt_ ? brushAt_->normal : Vec3{}, 2);
        return true;
    }
    if (phase == 0 && (event->button() != Qt::LeftButton || compassAt(event->position()) >= 0)) return false;
    if (phase == 1 && !painting_ && event->buttons() != Qt::NoButton) return false;
    brushAt_ = brushPlace(event->position());
    overlay_->update();
    if (phase == 0) {
        painting_ = brushAt_.has_value();  // beside the model the view turns as always
        brushFrom_ = brushAt_;
        ground_ = groundNow();
        if (painting_) Q_EMIT painted(brushAt_->at, brushAt_->normal, 0);
        return painting_;
    }
    if (painting_ && brushAt_) Q_EMIT painted(brushAt_->at, brushAt_->normal, 1);
    return painting_;
}

/// The rim of the brush lies on the surface; inside it, where the pressure begins to fall off.
void Stage::paintBrush(QPainter& painter) const {
    if (!brush_ || !brushAt_) return;
    if (brush_->pen) {
        if (brush_->plane == Brush::kView && painting_) paintStraightLine(painter);
        painter.setPen(QPen(colours().chosen, 1.5));
        painter.setBrush(colours().card);
        return painter.drawEllipse(seen().project(brushAt_->at, size()), 3.5, 3.5);
    }
    const Vec3 u = anyPerpendicular(brushAt_->normal), v = cross(brushAt_->normal, u);
    const auto ring = [&](double radius, const QPen& pen) {
        QPolygonF rim;
        for (int i = 0; i <= kRimSteps; ++i) {
            const auto turn = float(2 * kPi * i / kRimSteps);
            rim << seen().project(brushAt_->at + (u * std::cos(turn) + v * std::sin(turn)) * float(radius), size());
        }
        painter.setPen(pen);
        painter.setBrush(Qt::NoBrush);
        painter.drawPolyline(rim);
    };
    const std::string& mode = brush_->mode;
    const QColor ink = mode == "remove" || mode == "push" ? colours().link : mode == "smooth" || mode == "flatten" ? colours().fresh : colours().chosen;
    ring(brush_->radius, QPen(colours().card, 4));
    ring(brush_->radius, QPen(ink, 2));
    ring(brush_->radius * (1 - brush_->soft), QPen(ink, 1, Qt::DotLine));
}

/// From one side of the view to the other, in full where the hand went.
void Stage::paintStraightLine(QPainter& painter) const {
    if (!brushFrom_ || !brushAt_) return;
    const QPointF from = seen().project(brushFrom_->at, size()), to = seen().project(brushAt_->at, size());
    const double length = QLineF(from, to).length();
    if (length < 1) return;
    const QPointF beyond = (to - from) / length * (width() + height());
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(colours().chosen, 1, Qt::DashLine));
    painter.drawLine(from - beyond, to + beyond);
    painter.setPen(QPen(colours().card, 4));
    painter.drawLine(from, to);
    painter.setPen(QPen(colours().chosen, 2));
    painter.drawLine(from, to);
}

}  // namespace seedloom::app
