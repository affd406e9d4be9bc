#include "app/stage/Stage.h"

#include "app/look/Theme.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/StageLegend.h"
#include "app/stage/StageTools.h"
#include "breaking/FaceKind.h"

#include <QtGui/QPainter>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

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

Stage::Stage(Selection& selection, QWidget* parent) : QWidget(parent), problem_(openGlProblem()), selection_(selection) {
    connect(&selection_, &Selection::marksChanged, this, &Stage::refreshMarks);
    setMinimumSize(240, 140);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Stage"));
    setAccessibleDescription(tr("The model in 3D. Drag orbits, right drag pans, the wheel zooms; a click chooses an element."));
    if (problem_.isEmpty()) canvas_ = new GlCanvas(this);
    overlay_ = new Overlay(this);
    overlay_->setObjectName(QStringLiteral("stageOverlay"));
    overlay_->installEventFilter(this);
    tools_ = new StageTools(this);
    legend_ = new StageLegend(this);
    connect(legend_, &StageLegend::chosen, this, [this](const ColourChoice& choice) {
        colours_[colourKey(look_)] = choice;
        takeLook();
    });
    kind_ = new QToolButton(this);
    kind_->setToolTip(tr("Mark all faces of this kind (Ctrl+Shift+A)"));
    kind_->hide();
    connect(kind_, &QToolButton::clicked, this, &Stage::kindWanted);
    connect(tools_, &StageTools::lookChanged, this, &Stage::takeLook);
    connect(tools_, &StageTools::optionsChanged, this, [this] {
        if (canvas_) canvas_->setOptions(tools_->options());
        overlay_->update();
    });
    connect(tools_, &StageTools::compareWanted, this, &Stage::compareWanted);
    settle_.setSingleShot(true);
    settle_.setInterval(180);
    connect(&settle_, &QTimer::timeout, this, &Stage::settled);
    hover_.setSingleShot(true);
    hover_.setInterval(60);
    connect(&hover_, &QTimer::timeout, this, &Stage::lookUnderPointer);
    cameraChanged();
}

Stage::~Stage() = default;

void Stage::setAttribute(const QString& name) { tools_->setAttribute(name); }

void Stage::setWire(bool on) { tools_->setWire(on); }

void Stage::show(const Subject& subject, const QString& remark) {
    if (remark == remark_ && subject == subject_) return;
    remark_ = remark;
    overlay_->update();
    const bool same = subject.outcome == subject_.outcome && subject.output == subject_.output;
    subject_ = subject;
    if (same) return;
    offerAttributes();
    startMesh(shown_, subject_);
}

void Stage::setPlain() {
    plain_ = true;
    tools_->hide();
}

void Stage::setInvitation(const QString& text) {
    if (text == invitation_) return;
    invitation_ = text;
    overlay_->update();
}

std::string Stage::colourKey(const SceneLook& look) const { return look.shading == Shading::difference ? std::string() : look.attribute; }

SceneLook Stage::lookNow() const {
    SceneLook look = tools_->look();
    if (brush_) look.apart = 0;  // a hand paints where the model is
    if (const auto it = colours_.find(colourKey(look)); it != colours_.end()) look.colours = it->second;
    return look;
}

void Stage::takeLook() {
    layOut();
    const SceneLook look = lookNow();
    if (look == look_) return;
    look_ = look;
    if (canvas_ && !comparing()) canvas_->setOther(nullptr);
    startMesh(shown_, subject_);
    startMesh(left_, other_);
}

void Stage::offerAttributes() {
    QStringList names, vectors;
    if (subject_.outcome) {
        const Geometry& shown = subject_.outcome->output(subject_.output);
        for (const std::string& name : colourableAttributes(shown)) names << QString::fromStdString(name);
        for (const std::string& name : vectorAttributes(shown)) vectors << QString::fromStdString(name);
        if (!vectors.contains(QStringLiteral("normal"))) vectors << QStringLiteral("normal");
    }
    tools_->offer(names, vectors);
    look_ = lookNow();
}

void Stage::compare(const Subject& left) {
    if (left == other_) return tools_->compareButton()->setChecked(comparing());
    const bool same = left.outcome == other_.outcome && left.output == other_.output;
    other_ = left;
    tools_->compareButton()->setChecked(comparing());
    overlay_->update();
    if (same) return;
    startMesh(left_, other_);
    if (look_.shading == Shading::difference) startMesh(shown_, subject_);
}

void Stage::setGhost(const Subject& ghost) {
    if (ghost.outcome == ghost_.outcome) return;
    ghost_ = ghost;
    startMesh(faint_, ghost_);
}

void Stage::startMesh(Side& side, const Subject& subject) {
    if (side.building) {
        side.again = true;
        return;
    }
    if (!subject.outcome) return takeMesh(side, nullptr);
    side.building = true;
    background_.start([this, &side, outcome = subject.outcome, output = subject.output, other = other_, look = look_]() -> Background::Then {
        const Geometry* before = other.outcome ? &other.outcome->output(other.output) : nullptr;
        return [this, &side, mesh = drawScene(outcome->output(output), look, before)] { takeMesh(side, mesh); };
    });
}

void Stage::takeMesh(Side& side, std::shared_ptr<const DrawScene> mesh) {
    side.building = false;
    side.mesh = std::move(mesh);
    const bool main = &side == &shown_, faint = &side == &faint_;
    if (canvas_ && faint) canvas_->setGhost(side.mesh);
    else if (canvas_) main ? canvas_->setMesh(side.mesh) : canvas_->setOther(comparing() ? side.mesh : nullptr);
    if (main) {
        legend_->show(side.mesh ? side.mesh->legend : Legend());
        tools_->offerApart(side.mesh && side.mesh->comesApart);
        hoverMoved(hoverAt_);  // what was read there was of the mesh before
        layOut();
        refreshMarks();
        if (frameNext_ && side.mesh && !side.mesh->bounds.empty) {
            camera_.lookAtSides(side.mesh->bounds.size());
            frameAll();
            if (lastFrame_ && !side.again) frameNext_ = lastFrame_ = false;
        }
    }
    overlay_->update();
    Q_EMIT meshShown();
    if (!side.again) return;
    side.again = false;
    startMesh(side, main ? subject_ : faint ? ghost_ : other_);
}

void Stage::refreshMarks() {
    MarkShapes shapes = shown_.mesh ? markShapes(shown_.mesh->geometry, marks()) : MarkShapes();
    markBounds_ = shapes.bounds;
    if (canvas_) canvas_->setMarks(std::move(shapes));
    offerKind();
    overlay_->update();
}

void Stage::offerKind() {
    const bool face = marks().element == Element::face && !marks().rows.empty() && shown_.mesh && marks().rows.back() < shown_.mesh->geometry.faceCount();
    const bool offers = face && shown_.mesh->hasKinds;
    if (offers) {
        const QString texts[] = {tr("All of the old skin"), tr("All inside faces"), tr("All crumbs"), tr("All rims")};
        kind_->setText(texts[std::size_t(faceKind(shown_.mesh->geometry, marks().rows.back()))]);
        kind_->adjustSize();
    }
    kind_->setVisible(offers);
    layOut();
}

void Stage::frameAll() {
    if (shown_.mesh) camera_.frame(shown_.mesh->extremes, size(), tools_->geometry().bottom());
    framed_ = true;
    settled();
}

void Stage::endFraming() {
    if (!frameNext_) return;
    lastFrame_ = true;
    if (shown_.building || !shown_.mesh || shown_.mesh->bounds.empty) return;
    camera_.lookAtSides(shown_.mesh->bounds.size());
    frameAll();
    frameNext_ = lastFrame_ = false;
}

void Stage::frameMarks() {
    if (markBounds_.empty) return frameAll();
    // A single point has no size: show what is around it.
    Bounds bounds = markBounds_;
    const float least = shown_.mesh ? float(shown_.mesh->bounds.diagonal() * 0.04) : 0.01f;
    bounds.add(bounds.centre() + Vec3{least, least, least});
    bounds.add(bounds.centre() - Vec3{least, least, least});
    std::array<Vec3, 8> corners;
    for (int i = 0; i < 8; ++i) corners[std::size_t(i)] = bounds.corner(i);
    camera_.frame(corners, size(), tools_->geometry().bottom());
    framed_ = false;
    settled();
}

void Stage::lookFrom(int side) {
    camera_.lookFrom(side);
    if (!flatBefore_) flatBefore_ = camera_.flat;
    camera_.flat = true;
    settled();
}

void Stage::setFlat(bool flat) {
    flatBefore_.reset();
    camera_.flat = flat;
    settled();
}

void Stage::setCamera(const StageCamera& camera) {
    camera_ = camera;
    flatBefore_ = camera.across() ? std::optional(false) : std::nullopt;
    frameNext_ = framed_ = false;
    settled();
}

void Stage::cameraChanged() {
    if (canvas_) canvas_->setCamera(camera_);
    overlay_->update();
}

void Stage::moving() {
    if (canvas_) canvas_->setMoving(true);
    settle_.start();
    cameraChanged();
}

void Stage::settled() {
    settle_.stop();
    if (canvas_) canvas_->setMoving(false);
    cameraChanged();
    Q_EMIT directionSettled(camera_.yaw, camera_.pitch);
}

const StageCamera& Stage::seen() const { return canvas_ && !canvas_->shown().image.isNull() ? canvas_->shown().camera : camera_; }

void Stage::setHandles(Handles handles) {
    handles_ = std::move(handles);
    overlay_->update();
}

QPoint Stage::handlePixel(int i) const { return camera_.project(handles_.at[std::size_t(i)], size()).toPoint(); }

QPoint Stage::dividerPixel() const { return {int(std::lround(divider_ * width())), height() / 2}; }

void Stage::layOut() {
    if (canvas_) canvas_->setGeometry(rect());
    overlay_->setGeometry(rect());
    overlay_->raise();
    tools_->move(12, 10);
    tools_->layOut(width() - 12 - 74);
    tools_->raise();
    legend_->move(12, height() - legend_->height() - 32);
    legend_->raise();
    kind_->move((width() - kind_->width()) / 2, height() - kind_->height() - 34);
    kind_->raise();
}

void Stage::resizeEvent(QResizeEvent*) {
    layOut();
    // What was framed stays framed while drawers open and close, until the hand goes elsewhere.
    if (framed_) frameAll();
}

}  // namespace seedloom::app
