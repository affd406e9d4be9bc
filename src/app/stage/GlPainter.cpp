#include "app/stage/GlPainter.h"

#include "app/stage/GlShaders.h"
#include "app/stage/GlStyle.h"

#include <QtCore/QElapsedTimer>
#include <QtGui/QOpenGLExtraFunctions>

#ifndef GL_BGRA
#define GL_BGRA 0x80E1
#endif
#ifndef GL_PROGRAM_POINT_SIZE
#define GL_PROGRAM_POINT_SIZE 0x8642
#endif

namespace seedloom::app {

GlPainter::GlPainter(QSurface& surface, const std::atomic<bool>& giveUp) : surface_(surface), giveUp_(giveUp) {}

void GlPainter::Batch::create() {
    vertexArray.create();
    vertices.create();
    indices.create();
}

void GlPainter::Batch::destroy() {
    vertexArray.destroy();
    vertices.destroy();
    indices.destroy();
}

std::vector<GlPainter::Batch*> GlPainter::lasting() {
    std::vector<Batch*> out{&ground_, &screen_, &markLines_, &markDots_, &markTriangles_};
    for (Scene* scene : {&shown_, &other_, &ghost_})
        for (Batch* batch : scene->all()) out.push_back(batch);
    return out;
}

GlPainter::~GlPainter() {
    if (!ready_ || !context_.makeCurrent(&surface_)) return;
    for (Batch* batch : lasting()) batch->destroy();
    for (Scene* scene : {&shown_, &other_, &ghost_}) dropShapes(*scene);
    plain_.reset();
    smooth_.reset();
    shader_.reset();
    background_.reset();
    context_.doneCurrent();
}

/// Makes the context current, and what it needs the first time.
bool GlPainter::prepare() {
    if (!context_.isValid() && !context_.create()) return false;
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
    for (Batch* batch : lasting()) batch->create();
    upload(screen_, {{{-1, -1, 0}, {}, {}, {}}, {{1, -1, 0}, {}, {}, {}}, {{-1, 1, 0}, {}, {}, {}}, {{1, 1, 0}, {}, {}, {}}});
    ready_ = true;
    return true;
}

namespace {

constexpr double kMostWaitingMs = 400;  // until a change is seen at rest; then all triangles follow
constexpr int kPart = 300000;           ///< vertices drawn at a time: 100 000 triangles, about 10 ms on a software renderer

void describeVertex() {
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    for (GLuint slot = 0; slot < 4; ++slot) {
        gl->glEnableVertexAttribArray(slot);
        gl->glVertexAttribPointer(slot, slot < 3 ? 3 : 2, GL_FLOAT, GL_FALSE, sizeof(DrawScene::Vertex),
                                  reinterpret_cast<const void*>(std::uintptr_t(slot) * sizeof(Vec3)));
    }
}

}  // namespace

void GlPainter::upload(Batch& batch, const std::vector<DrawScene::Vertex>& vertices) {
    batch.vertexArray.bind();
    batch.vertices.bind();
    batch.vertices.allocate(vertices.data(), int(vertices.size() * sizeof(DrawScene::Vertex)));
    describeVertex();
    batch.count = int(vertices.size());
    batch.vertexArray.release();
}

void GlPainter::shareVertices(Batch& batch, Batch& owner) {
    batch.vertexArray.bind();
    owner.vertices.bind();
    describeVertex();
    batch.vertexArray.release();
}

void GlPainter::uploadIndices(Batch& batch, const std::vector<Index>& indices) {
    batch.vertexArray.bind();
    batch.indices.bind();
    batch.indices.allocate(indices.data(), int(indices.size() * sizeof(Index)));
    batch.count = int(indices.size());
    batch.vertexArray.release();
}

void GlPainter::uploadScene(Scene& scene) {
    static const DrawScene none;
    const DrawScene& mesh = scene.mesh ? *scene.mesh : none;
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
    upload(scene.shadow, mesh.shadow);
    uploadCopies(scene);
}

void GlPainter::uploadGround() {
    const double step = gridStep(view_.camera);
    // The ground, or the upright plane that an axis view shows.
    const int across = view_.camera.across().value_or(1), u = (across + 1) % 3, v = (across + 2) % 3;
    Vec3 centre{};
    for (int c : {u, v}) centre[c] = float(std::round(double(view_.camera.target[c]) / step) * step);
    if (step == groundStep_ && across == groundAcross_ && centre == groundCentre_ && groundColour_ == view_.inks.grid) return;
    groundStep_ = step;
    groundAcross_ = across;
    groundCentre_ = centre;
    groundColour_ = view_.inks.grid;
    constexpr int kLines = 16;
    std::vector<DrawScene::Vertex> lines;
    const auto reach = float(kLines * step);
    const Vec3 colour{float(groundColour_.redF()), float(groundColour_.greenF()), float(groundColour_.blueF())};
    // Short pieces, so that the fade towards the border is smooth.
    for (int i = -kLines; i <= kLines; ++i) {
        const auto at = float(i * step);
        for (int k = -kLines; k < kLines; ++k) {
            const float a = reach * float(k) / kLines, b = reach * float(k + 1) / kLines;
            for (auto [along, aside] : {std::pair{at, a}, {at, b}, {a, at}, {b, at}}) {
                Vec3 place = centre, facing{};
                place[u] += along, place[v] += aside, facing[across] = 1;
                lines.push_back({place, facing, colour, {}});
            }
        }
    }
    upload(ground_, lines);
}

void GlPainter::drawBackground() {
    background_->bind();
    background_->setUniformValue("top", vectorOf(view_.inks.top));
    background_->setUniformValue("foot", vectorOf(view_.inks.foot));
    screen_.vertexArray.bind();
    QOpenGLContext::currentContext()->functions()->glDrawArrays(GL_TRIANGLE_STRIP, 0, screen_.count);
    screen_.vertexArray.release();
}

void GlPainter::useStyle(const Style& style) {
    shader_->setUniformValue("lit", style.lit);
    shader_->setUniformValue("tint", style.tint);
    shader_->setUniformValue("nearer", style.nearer);
    shader_->setUniformValue("pointSize", style.pointSize * float(view_.pixelRatio));
    shader_->setUniformValue("fadeRadius", style.fade);
    shader_->setUniformValue("opacity", style.opacity);
    shader_->setUniformValue("shadow", style.shadow);
}

/// `copies`: how many of the instances that the batch has been given; 0 draws it once, where it is.
void GlPainter::drawBatch(Batch& batch, GLenum mode, bool indexed, const Style& style, int copies) {
    if (batch.count == 0 || giveUp_) return;
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    useStyle(style);
    batch.vertexArray.bind();
    // In parts, so that what is not wanted any more ends soon.
    if (copies > 0) {
        const int part = std::max(1, kPart / batch.count);
        for (int first = 0; first < copies && !giveUp_; first += part) {
            if (part < copies) describeInstances(*batch.instances, first);
            const int count = std::min(part, copies - first);
            if (indexed) gl->glDrawElementsInstanced(mode, batch.count, GL_UNSIGNED_INT, nullptr, count);
            else gl->glDrawArraysInstanced(mode, 0, batch.count, count);
        }
        if (part < copies) describeInstances(*batch.instances);
    } else {
        for (int first = 0; first < batch.count && !giveUp_; first += kPart) {
            const int count = std::min(kPart, batch.count - first);
            if (indexed) gl->glDrawElements(mode, count, GL_UNSIGNED_INT, reinterpret_cast<const void*>(std::uintptr_t(first) * sizeof(Index)));
            else gl->glDrawArrays(mode, first, count);
        }
    }
    batch.vertexArray.release();
}

void GlPainter::drawGround() {
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glEnable(GL_BLEND);
    gl->glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
    gl->glDepthMask(GL_FALSE);
    drawBatch(ground_, GL_LINES, false, {.fade = float(groundStep_ * 15)});
    gl->glDepthMask(GL_TRUE);
    gl->glDisable(GL_BLEND);
}

/// Where the model meets the ground; from below it would only be in the way.
void GlPainter::drawShadow(Scene& scene) {
    if (!scene.mesh || view_.camera.pitch <= 0 || view_.options.xray) return;
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glEnable(GL_BLEND);
    gl->glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
    gl->glDepthMask(GL_FALSE);
    drawBatch(scene.shadow, GL_TRIANGLES, false, {.tint = QVector4D(vectorOf(view_.inks.ink) * 0.6f, 1), .opacity = 0.34f, .shadow = 1});
    gl->glDepthMask(GL_TRUE);
    gl->glDisable(GL_BLEND);
}

void GlPainter::drawScene(Scene& scene) {
    if (!scene.mesh) return;
    drawShadow(scene);
    auto* gl = QOpenGLContext::currentContext()->functions();
    const DrawScene& mesh = *scene.mesh;
    shader_->setUniformValue("shading", float(shaderOf(mesh)));
    const QVector3D ink = vectorOf(view_.inks.wires);
    Batch& faces = reducing_ && scene.reduced.count > 0 ? scene.reduced : scene.faces;
    if (view_.options.xray) {
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
        if (view_.options.wire && !reducing_) {
            gl->glEnable(GL_BLEND);
            drawBatch(scene.wires, GL_LINES, true, {.tint = QVector4D(ink, 1), .nearer = 0.0004f, .opacity = 0.38f});
            gl->glDisable(GL_BLEND);
        }
    }
    drawCopies(scene);
    shader_->setUniformValue("shading", float(shaderOf(mesh)));
    const QVector4D line(vectorOf(view_.inks.ink), linesCarryColours(mesh) ? 0.0f : 1.0f);
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
void GlPainter::drawGhost() {
    if (!ghost_.mesh) return;
    auto* gl = QOpenGLContext::currentContext()->functions();
    const QVector3D ink = vectorOf(view_.inks.ink);
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

void GlPainter::drawMarks() {
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

void GlPainter::drawAll(QSize pixels) {
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glViewport(0, 0, pixels.width(), pixels.height());
    gl->glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    gl->glDisable(GL_DEPTH_TEST);
    gl->glDisable(GL_CULL_FACE);
    drawBackground();
    gl->glEnable(GL_DEPTH_TEST);
    gl->glEnable(GL_PROGRAM_POINT_SIZE);
    const QSizeF area = view_.area;
    shader_->bind();
    const Vec3 e = view_.camera.flat ? view_.camera.target + view_.camera.toEye() * float(view_.camera.distance * 40) : view_.camera.eye();
    const Vec3 key = normalized(view_.camera.toEye() * 0.6f + view_.camera.up() * 0.7f - view_.camera.right() * 0.6f);
    shader_->setUniformValue("transform", view_.camera.projection(area) * view_.camera.view());
    shader_->setUniformValue("eye", QVector3D(e.x, e.y, e.z));
    shader_->setUniformValue("key", QVector3D(key.x, key.y, key.z));
    shader_->setUniformValue("fadeCentre", QVector3D(groundCentre_.x, groundCentre_.y, groundCentre_.z));
    shader_->setUniformValue("shading", 0.0f);
    standAlone();
    copiesAsDots_ = 0;
    drawGround();
    if (other_.mesh) {
        const int at = int(std::lround(view_.divider * pixels.width()));
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

/// What was not drawn yet comes into the buffers.
void GlPainter::takeView(const StageView& view) {
    view_ = view;
    if (view_.shown != shown_.mesh) fullMs_ = 0;
    for (auto [scene, mesh] : {std::pair(&shown_, &view_.shown), std::pair(&other_, &view_.other), std::pair(&ghost_, &view_.ghost)}) {
        if (scene->mesh == *mesh) continue;
        scene->mesh = *mesh;
        uploadScene(*scene);
    }
    if (view_.marks != marks_) {
        marks_ = view_.marks;
        static const MarkShapes none;
        const MarkShapes& marks = marks_ ? *marks_ : none;
        upload(markLines_, marks.lines);
        upload(markDots_, marks.dots);
        upload(markTriangles_, marks.triangles);
    }
    uploadGround();
}

StagePicture GlPainter::paint(const StageView& view) {
    StagePicture out;
    const QSize pixels = view.pixels();
    if (pixels.isEmpty() || !prepare()) return out;
    takeView(view);
    reducing_ = reduces();
    smoothing_ = view_.smooth && !view_.moving && expectedMs() * kSmoothingCosts < kMostRestingMs;
    QElapsedTimer clock;
    clock.start();
    drawPicture(pixels);
    out.givenUp = giveUp_;
    if (!out.givenUp) {
        out.image = readBack(pixels);
        out.ms = double(clock.nsecsElapsed()) / 1e6;
        learn(out.ms);
    }
    context_.doneCurrent();
    out.camera = view_.camera;
    out.reducing = reducing_;
    out.copiesAsDots = copiesAsDots_;
    return out;
}

void GlPainter::drawPicture(QSize pixels) {
    const auto target = [&](std::unique_ptr<QOpenGLFramebufferObject>& made, int samples) {
        if (made && made->size() == pixels) return;
        QOpenGLFramebufferObjectFormat format;
        format.setSamples(samples);
        format.setAttachment(QOpenGLFramebufferObject::CombinedDepthStencil);
        made = std::make_unique<QOpenGLFramebufferObject>(pixels, format);
    };
    target(plain_, 0);
    if (!smoothing_) {
        plain_->bind();
        return drawAll(pixels);
    }
    constexpr int kSamples = 4;
    target(smooth_, kSamples);
    smooth_->bind();
    drawAll(pixels);
    QOpenGLFramebufferObject::blitFramebuffer(plain_.get(), smooth_.get());
    plain_->bind();
}

/// From the time a picture took to what the next one may hold.
void GlPainter::learn(double ms) {
    if (!reducing_) fullMs_ = smoothing_ ? std::max(fullMs_, ms / kSmoothingCosts) : ms;
    if (!reducing_ && copiesAsDots_ == 0 && triangleCount() > kReduceAbove) triangleMs_ = fullMs_ / double(triangleCount());
}

std::size_t GlPainter::triangleCount() const { return shown_.mesh ? seedloom::triangleCount(*shown_.mesh) : 0; }

/// What all triangles would take; before they were drawn it is judged by other models.
double GlPainter::expectedMs() const { return fullMs_ > 0 ? fullMs_ : triangleMs_ * double(triangleCount()); }

/// Whether fewer triangles are drawn: while something moves, for a first look, and where what was changed would be seen late.
bool GlPainter::reduces() const {
    if (!shown_.mesh || (shown_.mesh->reduced.empty() && shown_.mesh->copies.empty())) return false;
    if (view_.moving || (fullMs_ == 0 && !view_.smooth)) return expectedMs() > view_.mostMovingMs;
    return !view_.smooth && expectedMs() > kMostWaitingMs;
}

/// OpenGL counts rows from below.
QImage GlPainter::readBack(QSize pixels) {
    QImage rows(pixels, QImage::Format_RGB32);
    auto* gl = context_.functions();
    gl->glPixelStorei(GL_PACK_ALIGNMENT, 4);
    gl->glReadPixels(0, 0, pixels.width(), pixels.height(), GL_BGRA, GL_UNSIGNED_BYTE, rows.bits());
    QImage out = rows.mirrored();
    out.setDevicePixelRatio(view_.pixelRatio);
    return out;
}

}  // namespace seedloom::app
