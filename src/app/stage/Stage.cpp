#include "app/stage/Stage.h"

#include "app/shell/Theme.h"
#include "app/stage/GlCanvas.h"

#include <QtGui/QMouseEvent>
#include <QtGui/QPainter>
#include <QtGui/QPainterPath>
#include <QtWidgets/QButtonGroup>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

namespace {

constexpr double kHandleReach = 11;  // pixels

QString metres(double v) { return QString::number(v, 'g', v >= 100 ? 4 : 3); }

}  // namespace

/// Lies over the canvas: paints the read-outs, and takes the mouse.
class Stage::Overlay : public QWidget {
public:
    explicit Overlay(Stage* stage) : QWidget(stage), stage_(stage) {
        setMouseTracking(true);
        setAttribute(Qt::WA_NoSystemBackground);
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.setRenderHint(QPainter::Antialiasing);
        stage_->paintOverlay(painter);
    }

private:
    Stage* stage_;
};

Stage::Stage(QWidget* parent) : QWidget(parent), problem_(openGlProblem()) {
    setMinimumSize(240, 160);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Stage"));
    pool_.setMaxThreadCount(1);
    if (problem_.isEmpty()) canvas_ = new GlCanvas(this);
    overlay_ = new Overlay(this);
    overlay_->setObjectName(QStringLiteral("stageOverlay"));
    overlay_->installEventFilter(this);
    makeTools();
    cameraChanged();
}

Stage::~Stage() {
    pool_.clear();
    pool_.waitForDone();
}

void Stage::makeTools() {
    tools_ = new QWidget(this);
    auto* row = new QHBoxLayout(tools_);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    const auto button = [&](const QString& text, const QString& tip) {
        auto* made = new QToolButton(tools_);
        made->setText(text);
        made->setToolTip(tip);
        made->setCheckable(true);
        made->setFont(bodyFont(11, QFont::Medium));
        made->setMinimumHeight(24);
        row->addWidget(made);
        return made;
    };
    clay_ = button(tr("Clay"), tr("Show the plain shape"));
    attributeMode_ = button(tr("Attribute"), tr("Colour by an attribute"));
    auto* group = new QButtonGroup(this);
    group->addButton(clay_);
    group->addButton(attributeMode_);
    clay_->setChecked(true);
    attribute_ = new QComboBox(tools_);
    attribute_->setToolTip(tr("The attribute that gives the colours"));
    attribute_->setAccessibleName(tr("Attribute"));
    attribute_->setMinimumWidth(96);
    row->addWidget(attribute_);
    row->addSpacing(6);
    wire_ = button(tr("Wire"), tr("Draw the edges of all faces"));
    attribute_->hide();
    connect(wire_, &QToolButton::toggled, this, [this](bool on) {
        if (canvas_) canvas_->setWire(on);
    });
    connect(attributeMode_, &QToolButton::toggled, this, [this](bool on) {
        attribute_->setVisible(on);
        look_.attribute = on ? attribute_->currentText().toStdString() : std::string();
        layOut();
        startMesh();
    });
    connect(attribute_, &QComboBox::currentTextChanged, this, [this](const QString& name) {
        if (!attributeMode_->isChecked()) return;
        look_.attribute = name.toStdString();
        startMesh();
    });
}

void Stage::setAttribute(const QString& name) {
    if (attribute_->findText(name) < 0) attribute_->addItem(name);
    attribute_->setCurrentText(name);
    attributeMode_->setChecked(true);
}

void Stage::setWire(bool on) { wire_->setChecked(on); }

void Stage::show(const QString& nodeName, std::shared_ptr<const NodeOutcome> outcome, bool pinned) {
    nodeName_ = nodeName;
    pinned_ = pinned;
    overlay_->update();
    if (outcome == outcome_) return;
    outcome_ = std::move(outcome);
    const QString chosen = attribute_->currentText();
    QStringList names;
    if (outcome_)
        for (const std::string& name : colourableAttributes(outcome_->geometry)) names << QString::fromStdString(name);
    if (!chosen.isEmpty() && !names.contains(chosen) && attributeMode_->isChecked()) names << chosen;
    const QSignalBlocker blocker(attribute_);
    attribute_->clear();
    attribute_->addItems(names);
    attribute_->setCurrentText(names.contains(chosen) ? chosen : names.value(0));
    startMesh();
}

void Stage::startMesh() {
    ++generation_;
    if (building_) {
        again_ = true;
        return;
    }
    if (!outcome_) return takeMesh(generation_, nullptr);
    building_ = true;
    pool_.start([this, generation = generation_, outcome = outcome_, look = look_] {
        auto mesh = stageMesh(outcome->geometry, look);
        QMetaObject::invokeMethod(this, [this, generation, mesh] { takeMesh(generation, mesh); }, Qt::QueuedConnection);
    });
}

void Stage::takeMesh(int, std::shared_ptr<const StageMesh> mesh) {
    building_ = false;
    mesh_ = std::move(mesh);
    if (canvas_) canvas_->setMesh(mesh_);
    if (frameNext_ && mesh_ && !mesh_->bounds.empty) {
        frameNext_ = false;
        frameAll();
    }
    overlay_->update();
    Q_EMIT meshShown();
    if (again_) {
        again_ = false;
        startMesh();
    }
}

void Stage::frameAll() {
    if (mesh_) camera_.frame(mesh_->bounds, size());
    cameraChanged();
}

void Stage::setCamera(const Camera& camera) {
    camera_ = camera;
    frameNext_ = false;
    cameraChanged();
    Q_EMIT directionSettled(camera_.yaw, camera_.pitch);
}

void Stage::cameraChanged() {
    if (canvas_) canvas_->setCamera(camera_);
    overlay_->update();
}

void Stage::setHandles(std::vector<Vec3> handles) {
    handles_ = std::move(handles);
    overlay_->update();
}

QPoint Stage::handlePixel(int i) const { return camera_.project(handles_[std::size_t(i)], size()).toPoint(); }

void Stage::layOut() {
    if (canvas_) canvas_->setGeometry(rect());
    overlay_->setGeometry(rect());
    overlay_->raise();
    tools_->adjustSize();
    tools_->move(12, 10);
    tools_->raise();
}

void Stage::resizeEvent(QResizeEvent*) { layOut(); }

int Stage::handleAt(QPointF at) const {
    int best = -1;
    double nearest = kHandleReach;
    for (int i = 0; i < int(handles_.size()); ++i) {
        const double d = QLineF(at, camera_.project(handles_[std::size_t(i)], size())).length();
        if (d < nearest) nearest = d, best = i;
    }
    return best;
}

/// Handles move in the upright or level plane through them that faces the eye most, so that they do not leave a flat drawing.
Vec3 Stage::draggedTo(QPointF at) const {
    const Vec3 from = handles_[std::size_t(draggedHandle_)], eye = camera_.toEye();
    int axis = 2;
    for (int c : {2, 0, 1})
        if (std::abs(eye[c]) > std::abs(eye[axis]) + 0.25f) axis = c;
    const Vec3 ray = camera_.ray(at, size());
    if (std::abs(ray[axis]) < 1e-4f) return from;
    const float t = (from[axis] - camera_.eye()[axis]) / ray[axis];
    if (t <= 0) return from;
    Vec3 to = camera_.eye() + ray * t;
    // Whole millimetres while seen from a usual distance; finer when zoomed in.
    const double unit = std::pow(10.0, std::floor(std::log10(std::max(camera_.metresPerPixel(size()), 1e-9))));
    for (int c = 0; c < 3; ++c) to[c] = c == axis ? from[c] : float(std::round(double(to[c]) / unit) * unit);
    return to;
}

bool Stage::eventFilter(QObject* watched, QEvent* event) {
    switch (event->type()) {
        case QEvent::MouseButtonPress: pressed(static_cast<QMouseEvent*>(event)); return true;
        case QEvent::MouseMove: moved(static_cast<QMouseEvent*>(event)); return true;
        case QEvent::MouseButtonRelease: released(static_cast<QMouseEvent*>(event)); return true;
        case QEvent::Wheel: {
            auto* wheel = static_cast<QWheelEvent*>(event);
            camera_.zoom(std::pow(0.999, wheel->angleDelta().y()), wheel->position(), size());
            cameraChanged();
            return true;
        }
        default: return QWidget::eventFilter(watched, event);
    }
}

void Stage::pressed(QMouseEvent* event) {
    setFocus();
    last_ = event->position();
    button_ = event->button();
    draggedHandle_ = button_ == Qt::LeftButton ? handleAt(last_) : -1;
    if (draggedHandle_ < 0) return;
    dragOffset_ = camera_.project(handles_[std::size_t(draggedHandle_)], size()) - last_;
    Q_EMIT handleMoved(draggedHandle_, handles_[std::size_t(draggedHandle_)], 0);
}

void Stage::moved(QMouseEvent* event) {
    const QPointF at = event->position(), by = at - last_;
    last_ = at;
    if (draggedHandle_ >= 0) {
        const Vec3 to = draggedTo(at + dragOffset_);
        if (!(to == handles_[std::size_t(draggedHandle_)])) Q_EMIT handleMoved(draggedHandle_, to, 1);
    } else if (button_ == Qt::LeftButton) {
        camera_.orbit(by.x(), by.y());
        cameraChanged();
    } else if (button_ == Qt::RightButton || button_ == Qt::MiddleButton) {
        camera_.pan(by.x(), by.y(), size());
        cameraChanged();
    } else if (const int over = handleAt(at); over != hoveredHandle_) {
        hoveredHandle_ = over;
        overlay_->setCursor(over >= 0 ? Qt::SizeAllCursor : Qt::ArrowCursor);
        overlay_->update();
    }
}

void Stage::released(QMouseEvent* event) {
    if (draggedHandle_ >= 0)
        Q_EMIT handleMoved(draggedHandle_, handles_[std::size_t(draggedHandle_)], 2);
    else if (button_ == Qt::LeftButton)
        Q_EMIT directionSettled(camera_.yaw, camera_.pitch);
    if (event->button() == button_) button_ = Qt::NoButton;
    draggedHandle_ = -1;
}

void Stage::paintOverlay(QPainter& painter) const {
    const Colours& c = colours();
    if (!canvas_) {
        painter.fillRect(rect(), c.field);
        painter.setPen(c.ink);
        painter.setFont(bodyFont(13, QFont::Medium));
        painter.drawText(rect().adjusted(40, 40, -40, -40), Qt::AlignCenter | Qt::TextWordWrap,
                         tr("The stage can't draw here: %1\nEverything else works: the weave shows pictures, Data shows numbers, and models can be exported.").arg(problem_));
    }
    paintHandles(painter);
    paintLegend(painter);
    paintReadout(painter);
    if (canvas_) paintCompass(painter);
}

void Stage::paintLegend(QPainter& painter) const {
    if (look_.attribute.empty() || !mesh_) return;
    const Colours& c = colours();
    const QRect bar(20, height() - 156, 12, 108);
    const QString name = QString::fromStdString(mesh_->attribute);
    painter.setFont(bodyFont(12, QFont::DemiBold));
    if (!mesh_->attributeProblem.empty()) {
        painter.setPen(c.warning);
        painter.drawText(QPoint(20, height() - 44), tr("%1: %2").arg(name, QString::fromStdString(mesh_->attributeProblem)));
        return;
    }
    QLinearGradient gradient(bar.bottomLeft(), bar.topLeft());
    for (int i = 0; i <= 8; ++i) {
        const Vec3 v = valueColour(float(i) / 8);
        gradient.setColorAt(i / 8.0, QColor::fromRgbF(v.x, v.y, v.z));
    }
    painter.setPen(QPen(c.ink, 1));
    painter.setBrush(gradient);
    painter.drawRoundedRect(bar, 2, 2);
    painter.setPen(c.ink);
    painter.drawText(bar.right() + 10, bar.center().y() + 1, name);
    painter.setFont(bodyFont(11));
    painter.setPen(c.faint);
    painter.drawText(bar.right() + 10, bar.center().y() + 16, tr("%1 · automatic range").arg(QString::fromUtf8(elementName(mesh_->attributeElement).data())));
    painter.setFont(numberFont(11));
    painter.setPen(c.ink);
    painter.drawText(bar.right() + 10, bar.top() + 9, QString::number(mesh_->high, 'g', 4));
    painter.drawText(bar.right() + 10, bar.bottom(), QString::number(mesh_->low, 'g', 4));
}

void Stage::paintReadout(QPainter& painter) const {
    const Colours& c = colours();
    painter.setFont(bodyFont(11));
    painter.setPen(c.faint);
    const QRect foot(16, height() - 26, width() - 32, 18);
    if (canvas_) painter.drawText(foot, Qt::AlignLeft | Qt::AlignVCenter, tr("grid %1 m").arg(metres(GlCanvas::gridStep(camera_))));
    if (!mesh_) {
        painter.setFont(bodyFont(13));
        painter.drawText(rect(), Qt::AlignCenter, tr("Nothing to show yet.\nPress / to add a node."));
        return;
    }
    QStringList parts;
    if (mesh_->faceCount > 0) parts << tr("%L1 faces").arg(mesh_->faceCount) << (mesh_->closed ? tr("closed") : tr("open"));
    else parts << tr("%L1 points").arg(mesh_->pointCount);
    const Vec3 size = mesh_->bounds.size();
    parts << tr("%1 × %2 × %3 m").arg(metres(double(size.x)), metres(double(size.y)), metres(double(size.z)));
    painter.setFont(numberFont(11));
    painter.setPen(c.ink);
    painter.drawText(foot, Qt::AlignRight | Qt::AlignVCenter, parts.join(QStringLiteral(" · ")));
    painter.setFont(bodyFont(12, QFont::DemiBold));
    painter.drawText(QRect(width() - 260, 64, 244, 18), Qt::AlignRight, pinned_ ? tr("pinned: %1").arg(nodeName_) : nodeName_);
}

void Stage::paintHandles(QPainter& painter) const {
    const Colours& c = colours();
    for (int i = 0; i < int(handles_.size()); ++i) {
        bool behind = false;
        const QPointF at = camera_.project(handles_[std::size_t(i)], size(), &behind);
        if (behind) continue;
        const bool active = i == hoveredHandle_ || i == draggedHandle_;
        painter.setPen(QPen(c.chosen, 2));
        painter.setBrush(active ? c.chosen : c.card);
        painter.drawEllipse(at, active ? 7 : 5.5, active ? 7 : 5.5);
        if (!active) continue;
        const Vec3 p = handles_[std::size_t(i)];
        const QString text = tr("%1   %2, %3, %4 m").arg(i + 1).arg(double(p.x), 0, 'g', 4).arg(double(p.y), 0, 'g', 4).arg(double(p.z), 0, 'g', 4);
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
    const QPointF centre(width() - 38, 36);
    painter.setPen(QPen(c.line, 1));
    painter.setBrush(QColor(c.card.red(), c.card.green(), c.card.blue(), 200));
    painter.drawEllipse(centre, 24, 24);
    painter.setFont(bodyFont(10, QFont::DemiBold));
    const Vec3 axes[] = {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}};
    for (int i = 0; i < 3; ++i) {
        const QPointF tip = centre + QPointF(double(dot(axes[i], camera_.right())), -double(dot(axes[i], camera_.up()))) * 13;
        const bool away = dot(axes[i], camera_.toEye()) < -0.05f;
        painter.setPen(QPen(away ? c.line : c.ink, 1.5));
        painter.drawLine(centre, tip);
        painter.setPen(away ? c.faint : c.ink);
        const QPointF label = centre + (tip - centre) * 1.42;
        painter.drawText(QRectF(label - QPointF(8, 8), QSizeF(16, 16)), Qt::AlignCenter, QString(QChar('X' + i)));
    }
}

}  // namespace seedloom::app
