#include "app/stage/GlCanvas.h"

#include "app/look/Theme.h"
#include "app/stage/GlPainter.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QEvent>
#include <QtGui/QGuiApplication>
#include <QtGui/QOpenGLContext>
#include <QtGui/QPainter>

namespace seedloom::app {

QString openGlProblem() {
    const QString platform = QGuiApplication::platformName();
    for (const char* without : {"offscreen", "minimal", "vnc", "linuxfb"})
        if (platform == QLatin1String(without)) return QCoreApplication::translate("Stage", "The display '%1' has no OpenGL.").arg(platform);
    QOffscreenSurface surface;
    surface.create();
    QOpenGLContext context;
    if (!context.create() || !context.makeCurrent(&surface)) return QCoreApplication::translate("Stage", "No OpenGL context could be made.");
    const auto version = context.format().version();
    context.doneCurrent();
    if (version < qMakePair(3, 3))
        return QCoreApplication::translate("Stage", "OpenGL 3.3 is needed, and only %1.%2 is here.").arg(version.first).arg(version.second);
    return {};
}

namespace {

constexpr int kSmoothAfterMs = 150;

}  // namespace

GlCanvas::Painting GlCanvas::possible() { return QOpenGLContext::supportsThreadedOpenGL() ? Painting::behind : Painting::in_front; }

GlCanvas::GlCanvas(QWidget* parent, Painting painting) : QWidget(parent), behind_(painting == Painting::behind) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    surface_.create();
    rest_.setSingleShot(true);
    rest_.setInterval(kSmoothAfterMs);
    connect(&rest_, &QTimer::timeout, this, [this] {
        view_.smooth = stale_ = true;
        update();
    });
}

GlCanvas::~GlCanvas() {
    giveUp_ = true;
    if (!behind_) return;
    background_.start([this]() -> Background::Then {
        painter_.reset();
        return {};
    });
    background_.wait();
}

void GlCanvas::setShown(std::shared_ptr<const DrawScene>& place, std::shared_ptr<const DrawScene> mesh) {
    if (place == mesh) return;
    place = std::move(mesh);
    changed();
}

void GlCanvas::setMesh(std::shared_ptr<const DrawScene> mesh) { setShown(view_.shown, std::move(mesh)); }

void GlCanvas::setOther(std::shared_ptr<const DrawScene> mesh) { setShown(view_.other, std::move(mesh)); }

void GlCanvas::setGhost(std::shared_ptr<const DrawScene> mesh) { setShown(view_.ghost, std::move(mesh)); }

void GlCanvas::setDivider(double part) {
    view_.divider = part;
    changed();
}

void GlCanvas::setMarks(MarkShapes marks) {
    view_.marks = std::make_shared<const MarkShapes>(std::move(marks));
    changed();
}

void GlCanvas::setCamera(const StageCamera& camera) {
    view_.camera = camera;
    changed();
}

void GlCanvas::setOptions(const DrawOptions& options) {
    view_.options = options;
    changed();
}

void GlCanvas::setMoving(bool moving) {
    if (view_.moving == moving) return;
    view_.moving = moving;
    changed();
}

/// First a quick picture, then, when nothing has changed for a while, one with smooth edges.
void GlCanvas::changed() {
    stale_ = true;
    view_.smooth = false;
    // Smoothing can wait, and so can a full picture of what moves by now. Others are finished, or there would never be one while a setting is dragged.
    if (busy_ && (askedSmooth_ || (view_.moving && !askedMoving_))) giveUp_ = true;
    rest_.start();
    update();
}

void GlCanvas::resizeEvent(QResizeEvent*) { changed(); }

void GlCanvas::changeEvent(QEvent* event) {
    QWidget::changeEvent(event);
    if (event->type() == QEvent::PaletteChange) changed();
}

void GlCanvas::paintEvent(QPaintEvent*) {
    if (stale_ && !busy_) ask();
    QPainter painter(this);
    if (picture_.image.isNull()) painter.fillRect(rect(), stageInks().foot);
    else painter.drawImage(rect(), picture_.image);
}

QImage GlCanvas::picture() {
    while ((stale_ || busy_) && !size().isEmpty()) {
        if (!busy_) ask();
        background_.wait();
        take();
    }
    return picture_.image;
}

void GlCanvas::ask() {
    if (size().isEmpty()) return;
    stale_ = false;
    busy_ = true;
    giveUp_ = false;
    askedMoving_ = view_.moving;
    askedSmooth_ = view_.smooth;
    StageView view = view_;
    view.area = size();
    view.pixelRatio = devicePixelRatioF();
    view.inks = stageInks();
    if (!behind_) {
        paint(view);
        return take();
    }
    background_.start([this, view = std::move(view)]() -> Background::Then {
        paint(view);
        return [this] { take(); };
    });
}

/// Where the painter is: behind, or in front where OpenGL can't do that.
void GlCanvas::paint(const StageView& view) {
    if (!painter_) painter_ = std::make_unique<GlPainter>(surface_, giveUp_);
    auto picture = painter_->paint(view);
    const std::lock_guard lock(mutex_);
    finished_ = std::move(picture);
}

void GlCanvas::take() {
    StagePicture picture;
    {
        const std::lock_guard lock(mutex_);
        if (!finished_) return;
        picture = std::move(*finished_);
        finished_.reset();
    }
    busy_ = false;
    if (picture.givenUp) {
        stale_ = true;
        return update();
    }
    picture_ = std::move(picture);
    if (behind_ || stale_) update();
    Q_EMIT drawn();
}

}  // namespace seedloom::app
