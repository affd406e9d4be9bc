// What is painted over the model: read-outs, legend, names, handles, compass, numbers, divider.
#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/Stage.h"
#include "app/stage/StageMetrics.h"
#include "app/stage/StageTools.h"
#include "geometry/ElementTransfer.h"

#include <QtGui/QPainter>

namespace seedloom::app {

namespace {

/// A line over the model, on a ground of the stage's colour, so that it can be read before anything.
void paintLine(QPainter& painter, const QRect& room, int side, const QString& text) {
    if (text.isEmpty()) return;
    const QRectF box = QRectF(painter.boundingRect(room, side | Qt::AlignVCenter, text)).adjusted(-6, 0, 6, 0);
    QColor ground = colours().stageFoot;
    ground.setAlpha(190);
    painter.save();
    painter.setPen(Qt::NoPen);
    painter.setBrush(ground);
    painter.drawRoundedRect(box, 4, 4);
    painter.restore();
    painter.drawText(room, side | Qt::AlignVCenter, text);
}

QString metres(double v) { return shownNumber(v, 'g', v >= 100 ? 4 : 3); }

}  // namespace

void Stage::paintOverlay(QPainter& painter) const {
    const Colours& c = colours();
    if (!canvas_) {
        painter.fillRect(rect(), c.field);
        painter.setPen(c.ink);
        painter.setFont(bodyFont(13, QFont::Medium));
        painter.drawText(rect().adjusted(40, 40, -40, -40), Qt::AlignCenter | Qt::TextWordWrap,
                         tr("The stage can't draw here: %1\nEverything else works: the weave shows pictures, Data shows numbers, and models can be exported.")
                             .arg(problem_));
    }
    if (tools_->numbers()) paintNumbers(painter);
    if (tools_->height()) paintHeight(painter);
    paintHandles(painter);
    paintBrush(painter);
    if (comparing()) paintDivider(painter);
    paintReadout(painter);
    paintNames(painter);
    if (canvas_) paintCompass(painter);
    paintHovered(painter);
}

/// Where the height is drawn: beside all of the model, as high as the upright line through its middle is seen; nothing where that is too short to read.
std::optional<QLineF> Stage::heightLine() const {
    constexpr int kBeside = 22, kShortest = 24;
    if (!shown_.mesh || shown_.mesh->bounds.empty || comparing() || std::abs(seen().pitch) > 70) return {};
    const Bounds& bounds = shown_.mesh->bounds;
    const Vec3 middle = bounds.centre();
    bool behind = false, hidden = false;
    const QPointF foot = seen().project({middle.x, bounds.min.y, middle.z}, size(), &behind),
                  top = seen().project({middle.x, bounds.max.y, middle.z}, size(), &hidden);
    if (behind || hidden || foot.y() - top.y() < kShortest) return {};
    double right = std::max(foot.x(), top.x());
    for (Vec3 p : shown_.mesh->extremes) {
        const QPointF at = seen().project(p, size(), &behind);
        if (!behind) right = std::max(right, at.x());
    }
    return QLineF(right + kBeside, foot.y(), right + kBeside, top.y());
}

void Stage::paintHeight(QPainter& painter) const {
    const auto line = heightLine();
    if (!line) return;
    constexpr int kTick = 6;
    painter.setPen(QPen(colours().faint, 1));
    painter.drawLine(*line);
    for (const QPointF end : {line->p1(), line->p2()}) painter.drawLine(end - QPointF(kTick, 0), end + QPointF(kTick, 0));
    painter.setFont(numberFont(11));
    const QString text = tr("%1 m").arg(metres(double(shown_.mesh->bounds.size().y)));
    // Beside its middle, as far as that is in sight.
    const double middle = std::clamp((line->y1() + line->y2()) / 2, 80.0, std::max(80.0, height() - 60.0));
    painter.drawText(QRectF(line->x1() + kTick + 4, middle - 10, 120, 20), Qt::AlignLeft | Qt::AlignVCenter, text);
}

QStringList Stage::remarks() const {
    QStringList left;
    if (canvas_) left << tr("grid %1 m").arg(metres(gridStep(camera_)));
    if (camera_.flat) left << tr("no perspective");
    const std::size_t dots = canvas_ ? canvas_->shown().copiesAsDots : 0;
    if (canvas_ && canvas_->shown().reducing && dots == 0) left << tr("fewer faces while it moves");
    if (dots > 0)
        left << (canvas_->shown().reducing ? tr("%1 of %2 copies as dots while it moves") : tr("%1 of %2 copies as dots, so that the picture is quick"))
                    .arg(countText(dots), countText(shown_.mesh ? shown_.mesh->copyCount : 0));
    if (shown_.mesh && shown_.mesh->dotsCut) left << tr("not all points are drawn");
    if (look_.apart > 0 && shown_.mesh && shown_.mesh->comesApart) left << tr("pieces apart for looking only");
    if (subject_.outcome && subject_.outcome->coarse) left << tr("coarse, not yet the whole");
    if (look_.openEdges && shown_.mesh) left << tr("%n open edge(s)", nullptr, int(shown_.mesh->openEdgeCount));
    return left;
}

/// Neither points nor copies, or nothing that was rebuilt at all.
bool Stage::showsNothing() const { return !shown_.mesh || (shown_.mesh->pointCount == 0 && shown_.mesh->copyCount == 0); }

/// What there is of it, in numbers.
QStringList Stage::facts() const {
    const DrawScene& mesh = *shown_.mesh;
    QStringList parts;
    const QString copies = tr("%1 copies").arg(countText(mesh.copyCount)), faces = tr("%1 faces").arg(countText(mesh.drawnFaces));
    // Faces are counted with those of the copies, as on the cards.
    if (mesh.copyCount > 0 && mesh.faceCount > 0) parts << tr("%1 with %2").arg(faces, copies);
    else if (mesh.copyCount > 0) parts << (mesh.drawnFaces > 0 ? tr("%1 with %2").arg(copies, faces) : copies);
    else parts << (mesh.drawnFaces > 0 ? faces : tr("%1 points").arg(countText(mesh.pointCount)));
    if (mesh.drawnFaces > 0) parts << (mesh.allClosed ? tr("closed") : tr("open"));
    const Vec3 size = mesh.size;
    parts << tr("%1 × %2 × %3 m").arg(metres(double(size.x)), metres(double(size.y)), metres(double(size.z)));
    return parts;
}

/// Remarks at the left, as far as the facts at the right leave room for them.
void Stage::paintReadout(QPainter& painter) const {
    const Colours& c = colours();
    QRect foot(16, height() - 26, width() - 32, 18);
    if (showsNothing()) {
        painter.setFont(bodyFont(13));
        painter.setPen(c.faint);
        painter.drawText(rect().adjusted(16, 0, -16, 0), Qt::AlignCenter | Qt::TextWordWrap, invitation_);
    } else if (!plain_) {
        const QString text = facts().join(QStringLiteral(" · "));
        painter.setFont(numberFont(11));
        painter.setPen(c.ink);
        paintLine(painter, foot, Qt::AlignRight, text);
        constexpr int kApart = 24;
        foot.setRight(foot.right() - painter.fontMetrics().horizontalAdvance(text) - kApart);
    }
    painter.setFont(bodyFont(11));
    painter.setPen(c.faint);
    if (foot.width() > 0 && !plain_)
        paintLine(painter, foot, Qt::AlignLeft, painter.fontMetrics().elidedText(remarks().join(QStringLiteral(" · ")), Qt::ElideRight, foot.width()));
}

/// What is shown, above the read-outs; while comparing, a name at each side of the divider.
void Stage::paintNames(QPainter& painter) const {
    if (showsNothing() && !comparing()) return;
    const Colours& c = colours();
    painter.setFont(bodyFont(12, QFont::DemiBold));
    painter.setPen(c.ink);
    const bool against = look_.shading == Shading::difference && other_.outcome;
    const QString name = against ? tr("%1, since %2").arg(subject_.name, other_.name) : remark_.isEmpty() ? subject_.name : remark_.arg(subject_.name);
    const auto put = [&](const QRect& place, Qt::Alignment side, const QString& text) {
        paintLine(painter, place, side, painter.fontMetrics().elidedText(text, Qt::ElideRight, place.width()));
    };
    const int row = height() - (plain_ ? 26 : 46);
    if (!comparing()) {
        if (!plain_) put(QRect(16, row, width() - 32, 18), Qt::AlignRight, name);
        return;
    }
    const int at = dividerPixel().x();
    put(QRect(16, row, std::max(at - 26, 0), 18), Qt::AlignRight, other_.name);
    put(QRect(at + 10, row, std::max(width() - at - 26, 0), 18), Qt::AlignLeft, subject_.name);
}

void Stage::paintDivider(QPainter& painter) const {
    const Colours& c = colours();
    const QPointF grip = dividerPixel();
    painter.setPen(QPen(c.chosen, 2));
    painter.drawLine(QPointF(grip.x(), 0), QPointF(grip.x(), height()));
    painter.setBrush(c.card);
    painter.drawEllipse(grip, 10, 10);
    painter.drawLine(grip - QPointF(5, 0), grip + QPointF(5, 0));
    for (int way : {-1, 1})
        for (int up : {-1, 1}) painter.drawLine(grip + QPointF(5 * way, 0), grip + QPointF(2.5 * way, 2.5 * up));
}

/// Numbers of points where points are drawn or are all there is, else of faces; the nearest ones, not more than can be read.
void Stage::paintNumbers(QPainter& painter) const {
    if (!shown_.mesh) return;
    constexpr std::size_t kMost = 400, kMostLooked = 200000;
    const DrawScene& mesh = *shown_.mesh;
    const bool points = look_.points || mesh.faceCount == 0;
    const bool copies = points && mesh.pointCount == 0 && mesh.copyCount > 0;
    const auto copyPlaces = copies ? columnFor(mesh.geometry, "position", Element::copy) : std::nullopt;
    const std::vector<Vec3> places = copyPlaces && copyPlaces->as<Vec3>() ? *copyPlaces->as<Vec3>()
                                   : points                               ? mesh.geometry.positions()
                                                                          : faceCentres(mesh.geometry);
    const std::vector<Vec3> facing = points ? std::vector<Vec3>() : faceNormals(mesh.geometry);
    struct Number {
        float depth;
        QPointF at;
        std::size_t row;
    };
    std::vector<Number> shown;
    for (std::size_t i = 0; i < std::min(places.size(), kMostLooked); ++i) {
        if (!points && mesh.closed && dot(facing[i], seen().toEye()) <= 0) continue;
        bool behind = false;
        const QPointF at = seen().project(places[i], size(), &behind);
        if (!behind && rect().contains(at.toPoint())) shown.push_back({-dot(places[i], seen().toEye()), at, i});
    }
    const auto nearer = [](const Number& a, const Number& b) { return a.depth < b.depth; };
    if (shown.size() > kMost * 4) {
        std::nth_element(shown.begin(), shown.begin() + kMost * 4, shown.end(), nearer);
        shown.resize(kMost * 4);
    }
    std::sort(shown.begin(), shown.end(), nearer);
    painter.setFont(numberFont(10));
    painter.setPen(colours().ink);
    // A number that would lie on a nearer one is left out.
    std::vector<QRectF> taken;
    for (const Number& number : shown) {
        const QString text = QString::number(number.row);
        const QRectF box(number.at + QPointF(4, -14), QSizeF(painter.fontMetrics().horizontalAdvance(text), 12));
        if (taken.size() == kMost || std::any_of(taken.begin(), taken.end(), [&](const QRectF& other) { return other.intersects(box); })) continue;
        taken.push_back(box);
        painter.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, text);
    }
}

void Stage::paintHandles(QPainter& painter) const {
    const Colours& c = colours();
    const auto draw = [&](const std::vector<std::array<Vec3, 2>>& lines, const QPen& pen) {
        painter.setPen(pen);
        for (const auto& line : lines) {
            bool hidden = false, other = false;
            const QPointF a = seen().project(line[0], size(), &hidden), b = seen().project(line[1], size(), &other);
            if (!hidden && !other) painter.drawLine(a, b);
        }
    };
    draw(handles_.lines, QPen(c.chosen, 1, Qt::DashLine));
    draw(handles_.drawn, QPen(c.chosen, 2));
    for (int i = 0; i < int(handles_.at.size()); ++i) {
        bool behind = false;
        const QPointF at = seen().project(handles_.at[std::size_t(i)], size(), &behind);
        if (behind) continue;
        const bool active = i == hoveredHandle_ || i == draggedHandle_;
        painter.setPen(QPen(c.chosen, 2));
        painter.setBrush(active ? c.chosen : c.card);
        // Those that slide along a line are bars across it, free ones are round.
        if (std::size_t(i) < handles_.along.size() && handles_.along[std::size_t(i)]) {
            const QPointF on =
                seen().project(handles_.at[std::size_t(i)] + *handles_.along[std::size_t(i)] * float(seen().metresPerPixel(size()) * 20), size());
            painter.save();
            painter.translate(at);
            painter.rotate(QLineF(at, on).length() > 0.5 ? -QLineF(at, on).angle() : 0);
            painter.drawRoundedRect(QRectF(active ? -4 : -3, active ? -9 : -7.5, active ? 8 : 6, active ? 18 : 15), 2, 2);
            painter.restore();
        } else {
            painter.drawEllipse(at, active ? 7 : 5.5, active ? 7 : 5.5);
        }
        if (!active) continue;
        const Vec3 p = handles_.at[std::size_t(i)];
        const QString text = (decimalComma() ? tr("%1   %2; %3; %4 m") : tr("%1   %2, %3, %4 m"))
                                 .arg(std::size_t(i) < handles_.name.size() ? handles_.name[std::size_t(i)] : QString::number(i + 1))
                                 .arg(shownNumber(double(p.x), 'g', 4))
                                 .arg(shownNumber(double(p.y), 'g', 4))
                                 .arg(shownNumber(double(p.z), 'g', 4));
        painter.setFont(numberFont(11));
        QRectF box = painter.fontMetrics().boundingRect(text).adjusted(-7, -4, 7, 4);
        box.moveCenter(at + QPointF(0, -26));
        painter.setPen(c.line);
        painter.setBrush(c.card);
        painter.drawRoundedRect(box, 3, 3);
        painter.setPen(c.ink);
        painter.drawText(box, Qt::AlignCenter, text);
    }
}

void Stage::paintCompass(QPainter& painter) const {
    const Colours& c = colours();
    const QPointF centre = compassCentre();
    QColor ground = c.card;
    ground.setAlpha(200);
    painter.setPen(QPen(camera_.flat ? c.chosen : c.line, camera_.flat ? 1.5 : 1));
    painter.setBrush(ground);
    painter.drawEllipse(centre, kCompassRadius, kCompassRadius);
    painter.setFont(bodyFont(10, QFont::DemiBold));
    const Vec3 axes[] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    for (int i = 0; i < 3; ++i) {
        const QPointF tip = compassPixel(i * 2), back = compassPixel(i * 2 + 1);
        const bool away = dot(axes[i], camera_.toEye()) < -0.05f;
        painter.setPen(QPen(away ? c.line : c.ink, 1.5));
        painter.drawLine(centre, centre + (tip - centre) * 0.62);
        // The far ends are dots that can be clicked as well.
        painter.setPen(Qt::NoPen);
        painter.setBrush(away ? c.faint : c.line);
        painter.drawEllipse(back, 2.6, 2.6);
        painter.setPen(away ? c.faint : c.ink);
        painter.drawText(QRectF(tip - QPointF(8, 8), QSizeF(16, 16)), Qt::AlignCenter, QString(QChar('X' + i)));
    }
}

}  // namespace seedloom::app
