#include "app/stage/GlCanvas.h"

#include "app/shell/Theme.h"
#include "app/stage/GlShaders.h"
#include "app/stage/GlStyle.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QElapsedTimer>
#include <QtGui/QGuiApplication>
#include <QtGui/QOffscreenSurface>
#include <QtGui/QOpenGLContext>
#include <QtGui/QOpenGLExtraFunctions>
#include <QtGui/QPainter>

#ifndef GL_BGRA
#define GL_BGRA 0x80E1
#endif
#ifndef GL_PROGRAM_POINT_SIZE
#define GL_PROGRAM_POINT_SIZE 0x8642
#endif

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
    if (version < qMakePair(3, 3)) return QCoreApplication::translate("Stage", "OpenGL 3.3 is needed, and only %1.%2 is here.").arg(version.first).arg(version.second);
    return {};
}

namespace {

constexpr int kSmoothAfterMs = 150;

}  // namespace

GlCanvas::GlCanvas(QWidget* parent) : QWidget(parent) {
    setAttribute(Qt::WA_OpaquePaintEvent);
    rest_.setSingleShot(true);
    rest_.setInterval(kSmoothAfterMs);
    connect(&rest_, &QTimer::timeout, this, [this] {
        smoothed_ = stale_ = true;
        update();
    });
}

GlCanvas::~GlCanvas() {
    if (!ready_ || !context_.makeCurrent(&surface_)) return;
    const auto destroy = [](Batch* batch) {
        batch->vertexArray.destroy();
        batch->vertices.destroy();
        batch->indices.destroy();
    };
    for (Scene* scene : {&shown_, &other_, &ghost_}) {
        for (Batch* batch : scene->all()) destroy(batch);
        destroy(&scene->copyDots);
        dropShapes(*scene);
    }
    for (Batch* batch : {&ground_, &screen_, &markLines_, &markDots_, &markTriangles_}) destroy(batch);
    plain_.reset();
    smooth_.reset();
    shader_.reset();
    background_.reset();
    context_.doneCurrent();
}

void GlCanvas::setMesh(std::shared_ptr<const StageMesh> mesh) {
    if (shown_.mesh == mesh) return;
    shown_.mesh = std::move(mesh);
    shown_.changed = true;
    fullMs_ = dotsMs_ = 0;
    changed();
}

void GlCanvas::setOther(std::shared_ptr<const StageMesh> mesh) {
    if (other_.mesh == mesh) return;
    other_.mesh = std::move(mesh);
    other_.changed = true;
    changed();
}

void GlCanvas::setGhost(std::shared_ptr<const StageMesh> mesh) {
    if (ghost_.mesh == mesh) return;
    ghost_.mesh = std::move(mesh);
    ghost_.changed = true;
    changed();
}

void GlCanvas::setDivider(double part) {
    divider_ = part;
    changed();
}

void GlCanvas::setMarks(MarkShapes marks) {
    marks_ = std::move(marks);
    marksChanged_ = true;
    changed();
}

void GlCanvas::setCamera(const Camera& camera) {
    camera_ = camera;
    changed();
}

void GlCanvas::setOptions(const DrawOptions& options) {
    options_ = options;
    changed();
}

void GlCanvas::setMoving(bool moving) {
    if (moving_ == moving) return;
    moving_ = moving;
    changed();
}

double GlCanvas::gridStep(const Camera& camera) {
    const double wanted = camera.distance / 12;
    const double power = std::pow(10.0, std::floor(std::log10(std::max(wanted, 1e-9))));
    return wanted / power < 2 ? power * (wanted / power < 1.5 ? 1 : 2) : wanted / power < 5 ? power * 5 : power * 10;
}

/// First a quick picture, then, when nothing has changed for a while, one with smooth edges.
void GlCanvas::changed() {
    stale_ = true;
    smoothed_ = false;
    rest_.start();
    update();
}

/// Makes the context current, and what it needs the first time.
bool GlCanvas::prepare() {
    if (!context_.isValid()) {
        surface_.create();
        if (!context_.create()) return false;
    }
    if (!context_.makeCurrent(&surface_)) return false;
    if (ready_) return true;
    const auto compile = [](const char* vertex, const char* fragment) {
        auto program = std::make_unique<QOpenGLShaderProgram>();
        program->addShaderFromSourceCode(QOpenGLShader::Vertex, vertex);
        program->addShaderFromSourceCode(QOpenGLShader::Fragment, fragment);
        program->link();
        return program;
    };
    shader_ = compile(kVertexShader, kFragmentShader);
    background_ = compile(kBackgroundVertex, kBackgroundFragment);
    const auto create = [](Batch* batch) {
        batch->vertexArray.create();
        batch->vertices.create();
        batch->indices.create();
    };
    for (Scene* scene : {&shown_, &other_, &ghost_}) {
        for (Batch* batch : scene->all()) create(batch);
        create(&scene->copyDots);
        scene->changed = true;
    }
    for (Batch* batch : {&ground_, &screen_, &markLines_, &markDots_, &markTriangles_}) create(batch);
    upload(screen_, {{{-1, -1, 0}, {}, {}, {}}, {{1, -1, 0}, {}, {}, {}}, {{-1, 1, 0}, {}, {}, {}}, {{1, 1, 0}, {}, {}, {}}});
    ready_ = true;
    groundStep_ = 0;
    marksChanged_ = true;
    return true;
}

namespace {

void describeVertex() {
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    for (GLuint slot = 0; slot < 4; ++slot) {
        gl->glEnableVertexAttribArray(slot);
        gl->glVertexAttribPointer(slot, slot < 3 ? 3 : 2, GL_FLOAT, GL_FALSE, sizeof(StageMesh::Vertex), reinterpret_cast<const void*>(std::uintptr_t(slot) * sizeof(Vec3)));
    }
}

}  // namespace

void GlCanvas::upload(Batch& batch, const std::vector<StageMesh::Vertex>& vertices) {
    batch.vertexArray.bind();
    batch.vertices.bind();
    batch.vertices.allocate(vertices.data(), int(vertices.size() * sizeof(StageMesh::Vertex)));
    describeVertex();
    batch.count = int(vertices.size());
    batch.vertexArray.release();
}

void GlCanvas::shareVertices(Batch& batch, Batch& owner) {
    batch.vertexArray.bind();
    owner.vertices.bind();
    describeVertex();
    batch.vertexArray.release();
}

void GlCanvas::uploadIndices(Batch& batch, const std::vector<Index>& indices) {
    batch.vertexArray.bind();
    batch.indices.bind();
    batch.indices.allocate(indices.data(), int(indices.size() * sizeof(Index)));
    batch.count = int(indices.size());
    batch.vertexArray.release();
}

void GlCanvas::uploadScene(Scene& scene) {
    scene.changed = false;
    static const StageMesh none;
    const StageMesh& mesh = scene.mesh ? *scene.mesh : none;
    upload(scene.faces, mesh.vertices);
    uploadIndices(scene.faces, mesh.triangles);
    // Wire and reduced triangles share the faces' vertices, with indices of their own.
    for (Batch* batch : {&scene.wires, &scene.reduced}) shareVertices(*batch, scene.faces);
    uploadIndices(scene.wires, mesh.wire);
    uploadIndices(scene.reduced, mesh.reduced);
    upload(scene.lines, mesh.lines);
    upload(scene.dots, mesh.dots);
    upload(scene.arrows, mesh.arrows);
    upload(scene.normals, mesh.normals);
    upload(scene.openEdges, mesh.openEdges);
    uploadCopies(scene);
}

void GlCanvas::uploadGround() {
    const double step = gridStep(camera_);
    const Vec3 centre{float(std::round(camera_.target.x / step) * step), 0, float(std::round(camera_.target.z / step) * step)};
    if (step == groundStep_ && centre == groundCentre_ && groundColour_ == colours().stageGrid) return;
    groundStep_ = step;
    groundCentre_ = centre;
    groundColour_ = colours().stageGrid;
    constexpr int kLines = 16;
    std::vector<StageMesh::Vertex> lines;
    const auto reach = float(kLines * step);
    const Vec3 colour{float(groundColour_.redF()), float(groundColour_.greenF()), float(groundColour_.blueF())};
    // Short pieces, so that the fade towards the border is smooth.
    for (int i = -kLines; i <= kLines; ++i) {
        const auto at = float(i * step);
        for (int k = -kLines; k < kLines; ++k) {
            const float a = reach * float(k) / kLines, b = reach * float(k + 1) / kLines;
            for (auto [x, z] : {std::pair{at, a}, {at, b}, {a, at}, {b, at}}) lines.push_back({centre + Vec3{x, 0, z}, {0, 1, 0}, colour, {}});
        }
    }
    upload(ground_, lines);
}

void GlCanvas::drawBackground() {
    background_->bind();
    background_->setUniformValue("top", vectorOf(colours().stageTop));
    background_->setUniformValue("foot", vectorOf(colours().stageFoot));
    screen_.vertexArray.bind();
    QOpenGLContext::currentContext()->functions()->glDrawArrays(GL_TRIANGLE_STRIP, 0, screen_.count);
    screen_.vertexArray.release();
}

void GlCanvas::useStyle(const Style& style) {
    shader_->setUniformValue("lit", style.lit);
    shader_->setUniformValue("tint", style.tint);
    shader_->setUniformValue("nearer", style.nearer);
    shader_->setUniformValue("pointSize", style.pointSize * float(devicePixelRatioF()));
    shader_->setUniformValue("fadeRadius", style.fade);
    shader_->setUniformValue("opacity", style.opacity);
}

/// `copies`: how many of the instances that the batch has been given; 0 draws it once, where it is.
void GlCanvas::drawBatch(Batch& batch, GLenum mode, bool indexed, const Style& style, int copies) {
    if (batch.count == 0) return;
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    useStyle(style);
    batch.vertexArray.bind();
    if (copies > 0 && indexed)
        gl->glDrawElementsInstanced(mode, batch.count, GL_UNSIGNED_INT, nullptr, copies);
    else if (copies > 0)
        gl->glDrawArraysInstanced(mode, 0, batch.count, copies);
    else if (indexed)
        gl->glDrawElements(mode, batch.count, GL_UNSIGNED_INT, nullptr);
    else
        gl->glDrawArrays(mode, 0, batch.count);
    batch.vertexArray.release();
}

void GlCanvas::drawGround() {
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glEnable(GL_BLEND);
    gl->glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
    gl->glDepthMask(GL_FALSE);
    drawBatch(ground_, GL_LINES, false, {.fade = float(groundStep_ * 15)});
    gl->glDepthMask(GL_TRUE);
    gl->glDisable(GL_BLEND);
}

void GlCanvas::drawScene(Scene& scene) {
    if (!scene.mesh) return;
    auto* gl = QOpenGLContext::currentContext()->functions();
    const StageMesh& mesh = *scene.mesh;
    shader_->setUniformValue("shading", float(shaderOf(mesh)));
    const QVector3D ink = inkForWires();
    Batch& faces = reducing_ && scene.reduced.count > 0 ? scene.reduced : scene.faces;
    if (options_.xray) {
        // Through the skin: faint faces that hide nothing, and all edges.
        gl->glEnable(GL_BLEND);
        gl->glDepthMask(GL_FALSE);
        drawBatch(faces, GL_TRIANGLES, true, {.lit = 1, .opacity = 0.22f});
        drawBatch(scene.wires, GL_LINES, true, {.tint = QVector4D(ink, 1), .nearer = 0.0004f, .opacity = 0.30f});
        gl->glDepthMask(GL_TRUE);
        gl->glDisable(GL_BLEND);
    } else {
        if (mesh.closed && mesh.shading != Shading::sides) gl->glEnable(GL_CULL_FACE);
        drawBatch(faces, GL_TRIANGLES, true, {.lit = 1});
        gl->glDisable(GL_CULL_FACE);
        if (options_.wire && !reducing_) {
            gl->glEnable(GL_BLEND);
            drawBatch(scene.wires, GL_LINES, true, {.tint = QVector4D(ink, 1), .nearer = 0.0004f, .opacity = 0.38f});
            gl->glDisable(GL_BLEND);
        }
    }
    drawCopies(scene);
    shader_->setUniformValue("shading", float(shaderOf(mesh)));
    const QVector4D line(vectorOf(colours().ink), linesCarryColours(mesh) ? 0.0f : 1.0f);
    drawBatch(scene.lines, GL_LINES, false, {.tint = line, .nearer = 0.0006f});
    drawBatch(scene.dots, GL_POINTS, false, {.tint = line, .nearer = 0.0008f, .pointSize = 5});
    if (reducing_) return;
    drawBatch(scene.normals, GL_LINES, false, {.nearer = 0.0006f});
    drawBatch(scene.arrows, GL_LINES, false, {.nearer = 0.0007f});
    gl->glLineWidth(2);
    drawBatch(scene.openEdges, GL_LINES, false, {.nearer = 0.0009f});
    gl->glLineWidth(1);
}

/// Faces that hide nothing and edges that can just be seen, so that the part itself stands out.
void GlCanvas::drawGhost() {
    if (!ghost_.mesh) return;
    auto* gl = QOpenGLContext::currentContext()->functions();
    const QVector3D ink = vectorOf(colours().ink);
    shader_->setUniformValue("shading", 0.0f);
    gl->glEnable(GL_BLEND);
    gl->glDepthMask(GL_FALSE);
    Batch& faces = reducing_ && ghost_.reduced.count > 0 ? ghost_.reduced : ghost_.faces;
    drawBatch(faces, GL_TRIANGLES, true, {.lit = 1, .opacity = 0.16f});
    drawFaintCopies(ghost_);
    if (!reducing_) drawBatch(ghost_.wires, GL_LINES, true, {.tint = QVector4D(ink, 1), .opacity = 0.06f});
    drawBatch(ghost_.lines, GL_LINES, false, {.tint = QVector4D(ink, 1), .opacity = 0.3f});
    // Few points can be large; many must leave what is under them to be seen.
    const float dot = ghost_.dots.count < 300 ? 4 : ghost_.dots.count < 5000 ? 3 : 2;
    drawBatch(ghost_.dots, GL_POINTS, false, {.tint = QVector4D(ink, 1), .nearer = 0.001f, .pointSize = dot, .opacity = 0.85f});
    gl->glDepthMask(GL_TRUE);
    gl->glDisable(GL_BLEND);
}

void GlCanvas::drawMarks() {
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glEnable(GL_BLEND);
    drawBatch(markTriangles_, GL_TRIANGLES, false, {.nearer = 0.0005f, .opacity = 0.35f});
    gl->glDisable(GL_BLEND);
    gl->glLineWidth(2);
    drawBatch(markLines_, GL_LINES, false, {.nearer = 0.001f});
    gl->glLineWidth(1);
    // Few points are told loudly, many quietly, or they would hide what they mark.
    const float size = markDots_.count < 200 ? 9 : markDots_.count < 2000 ? 5 : 3;
    drawBatch(markDots_, GL_POINTS, false, {.nearer = 0.0012f, .pointSize = size});
}

void GlCanvas::drawAll(QSize pixels) {
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glViewport(0, 0, pixels.width(), pixels.height());
    gl->glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    gl->glDisable(GL_DEPTH_TEST);
    gl->glDisable(GL_CULL_FACE);
    drawBackground();
    gl->glEnable(GL_DEPTH_TEST);
    gl->glEnable(GL_PROGRAM_POINT_SIZE);
    const QSizeF area = size();
    shader_->bind();
    const Vec3 e = camera_.flat ? camera_.target + camera_.toEye() * float(camera_.distance * 40) : camera_.eye();
    const Vec3 key = normalized(camera_.toEye() * 0.6f + camera_.up() * 0.7f - camera_.right() * 0.6f);
    shader_->setUniformValue("transform", camera_.projection(area) * camera_.view());
    shader_->setUniformValue("eye", QVector3D(e.x, e.y, e.z));
    shader_->setUniformValue("key", QVector3D(key.x, key.y, key.z));
    shader_->setUniformValue("fadeCentre", QVector3D(groundCentre_.x, 0, groundCentre_.z));
    shader_->setUniformValue("shading", 0.0f);
    standAlone();
    copiesAsDots_ = 0;
    drawnTriangles_ = 0;
    drawGround();
    if (other_.mesh) {
        const int at = int(std::lround(divider_ * pixels.width()));
        gl->glEnable(GL_SCISSOR_TEST);
        gl->glScissor(0, 0, at, pixels.height());
        drawScene(other_);
        gl->glScissor(at, 0, pixels.width() - at, pixels.height());
        drawScene(shown_);
        drawMarks();
        gl->glDisable(GL_SCISSOR_TEST);
    } else {
        drawScene(shown_);
        drawGhost();
        drawMarks();
    }
    shader_->release();
}

void GlCanvas::resizeEvent(QResizeEvent*) { changed(); }

void GlCanvas::paintEvent(QPaintEvent*) {
    if (stale_) draw();
    QPainter(this).drawImage(rect(), picture_);
}

QImage GlCanvas::picture() {
    if (stale_) draw();
    return picture_;
}

void GlCanvas::draw() {
    const QSize pixels = size() * devicePixelRatioF();
    if (pixels.isEmpty() || !prepare()) return;
    stale_ = false;
    for (Scene* scene : {&shown_, &other_, &ghost_})
        if (scene->changed) uploadScene(*scene);
    if (marksChanged_) {
        marksChanged_ = false;
        upload(markLines_, marks_.lines);
        upload(markDots_, marks_.dots);
        upload(markTriangles_, marks_.triangles);
    }
    uploadGround();
    reducing_ = wouldBeSlow() && (moving_ || (fullMs_ == 0 && !smoothed_));
    QElapsedTimer clock;
    clock.start();
    const auto target = [&](std::unique_ptr<QOpenGLFramebufferObject>& made, int samples) {
        if (made && made->size() == pixels) return;
        QOpenGLFramebufferObjectFormat format;
        format.setSamples(samples);
        format.setAttachment(QOpenGLFramebufferObject::CombinedDepthStencil);
        made = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
    };
    target(plain_, 0);
    const bool smooth = smoothed_ && !moving_;
    if (!smooth) {
        plain_->bind();
        drawAll(pixels);
    } else {
        constexpr int kSamples = 4;
        target(smooth_, kSamples);
        smooth_->bind();
        drawAll(pixels);
        QOpenGLFramebufferObject::blitFramebuffer(plain_.get(), smooth_.get());
        plain_->bind();
    }
    readBack(pixels);
    drawMs_ = double(clock.nsecsElapsed()) / 1e6;
    // Smoothing makes a picture up to three times slower; half of it is a safe guess at the plain one.
    if (!reducing_) fullMs_ = smooth ? std::max(fullMs_, drawMs_ / 2) : drawMs_;
    if (!reducing_ && copiesAsDots_ == 0 && triangleCount() > kReduceAbove) triangleMs_ = fullMs_ / double(triangleCount());
    // With many copies the next picture has as many of them as this one's pace allows.
    if (copiesAsDots_ > 0 && !smooth && drawnTriangles_ > 10000) triangleMs_ = std::max(drawMs_ - dotsMs_, 0.1) / drawnTriangles_;
    context_.doneCurrent();
    Q_EMIT drawn();
}

std::size_t GlCanvas::triangleCount() const { return shown_.mesh ? seedloom::app::triangleCount(*shown_.mesh) : 0; }

/// Whether all triangles would take too long while something moves, or for a first look; before they were drawn it is judged by other models.
bool GlCanvas::wouldBeSlow() const {
    const double expected = fullMs_ > 0 ? fullMs_ : triangleMs_ * double(triangleCount());
    return shown_.mesh && (!shown_.mesh->reduced.empty() || !shown_.mesh->copies.empty()) && expected > mostMovingMs_;
}

/// OpenGL counts rows from below.
void GlCanvas::readBack(QSize pixels) {
    QImage rows(pixels, QImage::Format_RGB32);
    auto* gl = context_.functions();
    gl->glPixelStorei(GL_PACK_ALIGNMENT, 4);
    gl->glReadPixels(0, 0, pixels.width(), pixels.height(), GL_BGRA, GL_UNSIGNED_BYTE, rows.bits());
    picture_ = rows.mirrored();
    picture_.setDevicePixelRatio(devicePixelRatioF());
}

}  // namespace seedloom::app
