// Copies on the canvas: every shape is sent once, and drawn where each copy stands. What would take too long is drawn as dots.
#include "app/shell/Theme.h"
#include "app/stage/GlCanvas.h"
#include "app/stage/GlStyle.h"

#include <QtGui/QOpenGLExtraFunctions>

namespace seedloom::app {

namespace {

constexpr std::size_t kMostCopyDots = 400000;
constexpr double kGuessedTriangleMs = 1.2e-4;  // before anything large was drawn

/// Tells the bound vertex array where each instance's values are.
void describeInstances() {
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    using Instance = StageCopies::Instance;
    static_assert(sizeof(Instance) == 16 * sizeof(float));
    for (GLuint i = 0; i < 5; ++i) {
        const GLuint slot = 4 + i;
        gl->glEnableVertexAttribArray(slot);
        gl->glVertexAttribPointer(slot, i < 4 ? 3 : 4, GL_FLOAT, GL_FALSE, sizeof(Instance), reinterpret_cast<const void*>(std::uintptr_t(i) * sizeof(Vec3)));
        gl->glVertexAttribDivisor(slot, 1);
    }
}

}  // namespace

void GlCanvas::dropShapes(Scene& scene) {
    for (auto& shape : scene.shapes) {
        for (Batch* batch : shape->all()) {
            batch->vertexArray.destroy();
            batch->vertices.destroy();
            batch->indices.destroy();
        }
        shape->instances.destroy();
    }
    scene.shapes.clear();
}

void GlCanvas::uploadCopies(Scene& scene) {
    dropShapes(scene);
    std::vector<StageMesh::Vertex> dots;
    const auto& groups = scene.mesh ? scene.mesh->copies : std::vector<StageCopies>();
    const QColor clay(204, 195, 179);
    for (const StageCopies& group : groups) {
        auto& shape = *scene.shapes.emplace_back(std::make_unique<Shape>());
        for (Batch* batch : shape.all()) {
            batch->vertexArray.create();
            batch->vertices.create();
            batch->indices.create();
        }
        upload(shape.faces, group.shape->vertices);
        uploadIndices(shape.faces, group.shape->triangles);
        for (Batch* batch : {&shape.wires, &shape.reduced}) shareVertices(*batch, shape.faces);
        uploadIndices(shape.wires, group.shape->wire);
        uploadIndices(shape.reduced, group.shape->reduced);
        upload(shape.lines, group.shape->lines);
        upload(shape.dots, group.shape->dots);
        shape.instances.create();
        shape.instances.bind();
        shape.instances.allocate(group.instances.data(), int(group.instances.size() * sizeof(StageCopies::Instance)));
        for (Batch* batch : shape.all()) {
            batch->vertexArray.bind();
            shape.instances.bind();
            describeInstances();
            batch->vertexArray.release();
        }
        const Vec3 middle = group.shape->bounds.centre();
        const Vec3 own = group.shape->vertices.empty() ? Vec3{float(clay.redF()), float(clay.greenF()), float(clay.blueF())} : group.shape->vertices.front().colour;
        for (const auto& instance : group.instances) {
            const Vec4 c = instance.colour;
            dots.push_back({instance.place.point(middle), {0, 1, 0}, mix(own, {c.x, c.y, c.z}, c.w) * 0.92f, {}});
        }
    }
    upload(scene.copyDots, dots);
}

double GlCanvas::wholeCopies(const StageMesh& mesh) const {
    const auto all = double(seedloom::app::triangleCount(mesh)), own = double(mesh.triangles.size() / 3);
    if (all <= double(kReduceAbove) || all <= own) return 1;
    const double each = triangleMs_ > 0 ? triangleMs_ : kGuessedTriangleMs;
    const double room = (reducing_ ? mostMovingMs_ * 0.6 : kMostRestingMs) / each;
    return std::clamp((room - (reducing_ ? std::min(own, double(kReduceAbove)) : own)) / (all - own), 0.0, 1.0);
}

void GlCanvas::drawCopies(Scene& scene) {
    if (scene.shapes.empty()) return;
    const double whole = wholeCopies(*scene.mesh);
    for (std::size_t s = 0; s < scene.shapes.size(); ++s) {
        const StageCopies& group = scene.mesh->copies[s];
        const auto count = int(whole < 1 ? std::floor(double(group.instances.size()) * whole) : double(group.instances.size()));
        copiesAsDots_ += group.instances.size() - std::size_t(count);
        drawShape(*scene.shapes[s], group, count);
    }
    if (whole == 1) return;
    shader_->setUniformValue("shading", 0.0f);
    const int all = scene.copyDots.count;
    scene.copyDots.count = int(std::min<std::size_t>(std::size_t(all), reducing_ ? kMostCopyDots / 4 : kMostCopyDots));
    drawBatch(scene.copyDots, GL_POINTS, false, {.pointSize = 2});
    scene.copyDots.count = all;
}

void GlCanvas::drawShape(Shape& shape, const StageCopies& copies, int count) {
    if (count == 0) return;
    auto* gl = QOpenGLContext::currentContext()->functions();
    const StageMesh& mesh = *copies.shape;
    shader_->setUniformValue("shading", float(shaderFor(*shown_.mesh, mesh)));
    const QVector3D ink = inkForWires();
    Batch& faces = reducing_ && shape.reduced.count > 0 ? shape.reduced : shape.faces;
    gl->glFrontFace(copies.mirrored ? GL_CW : GL_CCW);
    if (options_.xray) {
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
        if (options_.wire && !reducing_) {
            gl->glEnable(GL_BLEND);
            drawBatch(shape.wires, GL_LINES, true, {.tint = QVector4D(ink, 1), .nearer = 0.0004f, .opacity = 0.38f}, count);
            gl->glDisable(GL_BLEND);
        }
    }
    gl->glFrontFace(GL_CCW);
    const QVector4D line(vectorOf(colours().ink), linesCarryColours(mesh) ? 0.0f : 1.0f);
    drawBatch(shape.lines, GL_LINES, false, {.tint = line, .nearer = 0.0006f}, count);
    drawBatch(shape.dots, GL_POINTS, false, {.tint = line, .nearer = 0.0008f, .pointSize = 5}, count);
}

}  // namespace seedloom::app
