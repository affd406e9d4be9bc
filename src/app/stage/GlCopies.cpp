// Copies on the canvas: every shape is sent once, and drawn where each copy stands. What would take too long is drawn as dots.
#include "app/stage/GlPainter.h"
#include "app/stage/GlStyle.h"
#include "fields/Random.h"

#include <QtCore/QElapsedTimer>
#include <QtGui/QOpenGLExtraFunctions>

namespace seedloom::app {

namespace {

constexpr std::size_t kMostCopyDots = 400000, kFewestCopyDots = 20000;

struct Instance {
    Affine place;
    std::array<std::uint8_t, 4> colour{};
};

std::vector<Instance> instancesOf(const DrawCopies& copies, const std::vector<Affine>& places) {
    std::vector<Instance> out(copies.rows.size());
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i].place = places[copies.rows[i]];
        if (!copies.colours.empty()) out[i].colour = copies.colours[i];
    }
    return out;
}

}  // namespace

/// Tells the bound vertex array where each instance's values are; `first` of them are left out.
void GlPainter::describeInstances(QOpenGLBuffer& instances, int first) {
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    instances.bind();
    for (GLuint i = 0; i < 5; ++i) {
        const GLuint slot = 4 + i;
        const auto* offset = reinterpret_cast<const void*>(std::uintptr_t(first) * sizeof(Instance) + std::uintptr_t(i) * sizeof(Vec3));
        gl->glEnableVertexAttribArray(slot);
        if (i < 4) gl->glVertexAttribPointer(slot, 3, GL_FLOAT, GL_FALSE, sizeof(Instance), offset);
        else gl->glVertexAttribPointer(slot, 4, GL_UNSIGNED_BYTE, GL_TRUE, sizeof(Instance), offset);
        gl->glVertexAttribDivisor(slot, 1);
    }
}

void GlPainter::dropShapes(Scene& scene) {
    for (auto& shape : scene.shapes) {
        for (Batch* batch : shape->all()) batch->destroy();
        shape->instances.destroy();
    }
    scene.shapes.clear();
}

void GlPainter::uploadCopies(Scene& scene) {
    dropShapes(scene);
    std::vector<DrawScene::Vertex> dots;
    const auto& groups = scene.mesh ? scene.mesh->copies : std::vector<DrawCopies>();
    const QColor clay(204, 195, 179);
    for (const DrawCopies& group : groups) {
        auto& shape = *scene.shapes.emplace_back(std::make_unique<Shape>());
        for (Batch* batch : shape.all()) batch->create();
        upload(shape.faces, group.shape->vertices);
        uploadIndices(shape.faces, group.shape->triangles);
        for (Batch* batch : {&shape.wires, &shape.reduced}) shareVertices(*batch, shape.faces);
        uploadIndices(shape.wires, group.shape->wire);
        uploadIndices(shape.reduced, group.shape->reduced);
        upload(shape.lines, group.shape->lines);
        upload(shape.dots, group.shape->dots);
        shape.instances.create();
        shape.instances.bind();
        const std::vector<Instance> instances = instancesOf(group, scene.mesh->geometry.copies()->place);
        shape.instances.allocate(instances.data(), int(instances.size() * sizeof(Instance)));
        for (Batch* batch : shape.all()) {
            batch->instances = &shape.instances;
            batch->vertexArray.bind();
            describeInstances(shape.instances);
            batch->vertexArray.release();
        }
        const Vec3 middle = group.shape->bounds.centre();
        const Vec3 own =
            group.shape->vertices.empty() ? Vec3{float(clay.redF()), float(clay.greenF()), float(clay.blueF())} : group.shape->vertices.front().colour;
        // Of each group its share of the dots there can be; rows are shuffled, so that any of them stand for all.
        const auto most = std::size_t(double(group.rows.size()) * std::min(1.0, double(kMostCopyDots) / double(scene.mesh->copyCount)));
        for (std::size_t i = 0; i < most; ++i) {
            const auto& c = instances[i].colour;
            dots.push_back(
                {instances[i].place.point(middle), {0, 1, 0}, mix(own, Vec3{float(c[0]), float(c[1]), float(c[2])} / 255, float(c[3]) / 255) * 0.92f, {}});
        }
    }
    // While the view moves the first of them stand for all, so they must not be in the order of their shapes.
    for (std::size_t i = dots.size(); i > 1; --i) std::swap(dots[i - 1], dots[mixBits(i) % i]);
    upload(scene.copyDots, dots);
}

/// How many dots there is time for: while the view moves less than half of what a picture may take.
std::size_t GlPainter::mostDots() const {
    if (!reducing_) return kMostCopyDots;
    return std::min(kMostCopyDots, std::max(kFewestCopyDots, std::size_t(view_.mostMovingMs * 0.4 / dotMs_)));
}

double GlPainter::wholeCopies(const DrawScene& mesh) const {
    const auto all = double(seedloom::triangleCount(mesh)), own = double(mesh.triangles.size() / 3);
    if (all <= double(kReduceAbove) || all <= own) return 1;
    // Dots take what they take; at rest a few copies are always whole.
    const double dots = dotMs_ * double(std::min(mesh.copyCount, mostDots()));
    const double time = reducing_ ? view_.mostMovingMs * 0.65 - dots : std::max(kMostRestingMs - dots, kMostRestingMs / 4);
    const double room = std::max(time, 0.0) / triangleMs_;
    return std::clamp((room - (reducing_ ? std::min(own, double(kReduceAbove)) : own)) / (all - own), 0.0, 1.0);
}

void GlPainter::drawCopies(Scene& scene) {
    if (scene.shapes.empty()) return;
    const double whole = wholeCopies(*scene.mesh);
    // Where not all can be drawn, what is drawn is timed apart, for the next picture's share; waiting for it costs something.
    auto* gl = QOpenGLContext::currentContext()->functions();
    QElapsedTimer clock;
    if (whole < 1) gl->glFinish();
    clock.start();
    double triangles = 0;
    for (std::size_t s = 0; s < scene.shapes.size(); ++s) {
        const DrawCopies& group = scene.mesh->copies[s];
        const auto count = int(whole < 1 ? std::floor(double(group.rows.size()) * whole) : double(group.rows.size()));
        triangles += double(count) * double(group.shape->triangles.size() / 3);
        // What is said of the picture is said of what is looked at, not of what it is compared with.
        if (&scene == &shown_) copiesAsDots_ += group.rows.size() - std::size_t(count);
        drawShape(*scene.shapes[s], group, shaderFor(*scene.mesh, *group.shape), count);
    }
    standAlone();
    if (whole == 1) return;
    gl->glFinish();
    if (triangles > 10000 && !giveUp_) triangleMs_ = double(clock.nsecsElapsed()) / 1e6 / triangles / (smoothing_ ? kSmoothingCosts : 1);
    clock.restart();
    shader_->setUniformValue("shading", 0.0f);
    const int all = scene.copyDots.count;
    scene.copyDots.count = int(std::min(std::size_t(all), mostDots()));
    drawBatch(scene.copyDots, GL_POINTS, false, {.pointSize = 2});
    gl->glFinish();
    if (scene.copyDots.count > int(kFewestCopyDots) / 2 && !giveUp_) dotMs_ = double(clock.nsecsElapsed()) / 1e6 / scene.copyDots.count;
    scene.copyDots.count = all;
}

/// Around what is looked at: faces that hide nothing, of as many copies as there is time for.
void GlPainter::drawFaintCopies(Scene& scene) {
    if (scene.shapes.empty()) return;
    const double whole = wholeCopies(*scene.mesh);
    for (std::size_t s = 0; s < scene.shapes.size(); ++s) {
        const auto count = int(double(scene.mesh->copies[s].rows.size()) * whole);
        if (count > 0) drawBatch(scene.shapes[s]->faces, GL_TRIANGLES, true, {.lit = 1, .opacity = 0.16f}, count);
    }
    standAlone();
}

void GlPainter::drawShape(Shape& shape, const DrawCopies& copies, int shading, int count) {
    if (count == 0) return;
    auto* gl = QOpenGLContext::currentContext()->functions();
    const DrawScene& mesh = *copies.shape;
    shader_->setUniformValue("shading", float(shading));
    const QVector3D ink = vectorOf(view_.inks.wires);
    Batch& faces = reducing_ && shape.reduced.count > 0 ? shape.reduced : shape.faces;
    gl->glFrontFace(copies.mirrored ? GL_CW : GL_CCW);
    if (view_.options.xray) {
        gl->glEnable(GL_BLEND);
        gl->glDepthMask(GL_FALSE);
        drawBatch(faces, GL_TRIANGLES, true, {.lit = 1, .opacity = 0.22f}, count);
        drawBatch(shape.wires, GL_LINES, true, {.tint = QVector4D(ink, 1), .nearer = 0.0004f, .opacity = 0.30f}, count);
        gl->glDepthMask(GL_TRUE);
        gl->glDisable(GL_BLEND);
    } else {
        if (mesh.closed && mesh.shading != Shading::sides) gl->glEnable(GL_CULL_FACE);
        drawBatch(faces, GL_TRIANGLES, true, {.lit = 1}, count);
        gl->glDisable(GL_CULL_FACE);
        if (view_.options.wire && !reducing_) {
            gl->glEnable(GL_BLEND);
            drawBatch(shape.wires, GL_LINES, true, {.tint = QVector4D(ink, 1), .nearer = 0.0004f, .opacity = 0.38f}, count);
            gl->glDisable(GL_BLEND);
        }
    }
    gl->glFrontFace(GL_CCW);
    const QVector4D line(vectorOf(view_.inks.ink), linesCarryColours(mesh) ? 0.0f : 1.0f);
    drawBatch(shape.lines, GL_LINES, false, {.tint = line, .nearer = 0.0006f}, count);
    drawBatch(shape.dots, GL_POINTS, false, {.tint = line, .nearer = 0.0008f, .pointSize = 5}, count);
}

}  // namespace seedloom::app
