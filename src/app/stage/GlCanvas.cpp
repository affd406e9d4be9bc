#include "app/stage/GlCanvas.h"

#include <QtCore/QCoreApplication>
#include <QtGui/QGuiApplication>
#include <QtGui/QOffscreenSurface>
#include <QtGui/QOpenGLContext>
#include <QtGui/QOpenGLExtraFunctions>

#ifndef GL_PROGRAM_POINT_SIZE
#define GL_PROGRAM_POINT_SIZE 0x8642
#endif

namespace seedloom::app {

namespace {

constexpr const char* kVertexShader = R"(#version 330 core
layout(location = 0) in vec3 position;
layout(location = 1) in vec3 normal;
layout(location = 2) in vec3 colour;
uniform mat4 transform;
uniform float nearer;
uniform float pointSize;
out vec3 worldNormal;
out vec3 worldPlace;
out vec3 baseColour;
void main() {
    worldNormal = normal;
    worldPlace = position;
    baseColour = colour;
    gl_Position = transform * vec4(position, 1.0);
    gl_Position.z -= nearer * gl_Position.w;
    gl_PointSize = pointSize;
}
)";

// A warm key light over the viewer's left shoulder, cool fill from below; backs are hatched, so that they differ by more than colour.
constexpr const char* kFragmentShader = R"(#version 330 core
in vec3 worldNormal;
in vec3 worldPlace;
in vec3 baseColour;
uniform vec3 eye;
uniform vec3 key;
uniform float lit;
uniform float plain;
uniform vec4 tint;
uniform vec3 fadeCentre;
uniform float fadeRadius;
uniform float opacity;
out vec4 result;
void main() {
    vec3 colour = mix(baseColour, tint.rgb, tint.a);
    float alpha = opacity;
    if (lit > 0.5) {
        vec3 n = normalize(worldNormal);
        vec3 toEye = normalize(eye - worldPlace);
        bool back = !gl_FrontFacing;
        if (back) n = -n;
        float main = max(dot(n, key), 0.0);
        float fill = 0.5 + 0.5 * n.y;
        float rim = pow(1.0 - max(dot(n, toEye), 0.0), 3.0);
        // Value colours must stay readable against their legend: they are shaded less than clay.
        float depth = mix(1.0, 0.55, plain);
        colour *= mix(1.0, 0.50 + 0.20 * fill + 0.42 * main, depth);
        colour -= rim * 0.08;
        if (back) {
            float stripe = step(0.5, fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0));
            colour *= mix(0.62, 0.78, stripe);
        }
    }
    if (fadeRadius > 0.0) alpha *= clamp(1.0 - length(worldPlace - fadeCentre) / fadeRadius, 0.0, 1.0);
    result = vec4(colour, alpha);
}
)";

constexpr const char* kBackgroundVertex = R"(#version 330 core
layout(location = 0) in vec3 position;
out float height;
void main() {
    height = position.y * 0.5 + 0.5;
    gl_Position = vec4(position.xy, 0.9999, 1.0);
}
)";
constexpr const char* kBackgroundFragment = R"(#version 330 core
in float height;
out vec4 result;
void main() { result = vec4(mix(vec3(0.855, 0.848, 0.828), vec3(0.945, 0.930, 0.900), smoothstep(0.0, 1.0, height)), 1.0); }
)";

}  // namespace

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

GlCanvas::GlCanvas(QWidget* parent) : QOpenGLWidget(parent) {}

GlCanvas::~GlCanvas() {
    if (!ready_) return;
    makeCurrent();
    for (Batch* batch : {&faces_, &wires_, &lines_, &dots_, &ground_, &screen_}) {
        batch->vertexArray.destroy();
        batch->vertices.destroy();
        batch->indices.destroy();
    }
    shader_.reset();
    background_.reset();
    doneCurrent();
}

void GlCanvas::setMesh(std::shared_ptr<const StageMesh> mesh) {
    mesh_ = std::move(mesh);
    meshChanged_ = true;
    update();
}

void GlCanvas::setCamera(const Camera& camera) {
    camera_ = camera;
    update();
}

void GlCanvas::setWire(bool on) {
    wire_ = on;
    update();
}

double GlCanvas::gridStep(const Camera& camera) {
    const double wanted = camera.distance / 12;
    const double power = std::pow(10.0, std::floor(std::log10(std::max(wanted, 1e-9))));
    return wanted / power < 2 ? power * (wanted / power < 1.5 ? 1 : 2) : wanted / power < 5 ? power * 5 : power * 10;
}

void GlCanvas::initializeGL() {
    const auto compile = [](const char* vertex, const char* fragment) {
        auto program = std::make_unique<QOpenGLShaderProgram>();
        program->addShaderFromSourceCode(QOpenGLShader::Vertex, vertex);
        program->addShaderFromSourceCode(QOpenGLShader::Fragment, fragment);
        program->link();
        return program;
    };
    shader_ = compile(kVertexShader, kFragmentShader);
    background_ = compile(kBackgroundVertex, kBackgroundFragment);
    for (Batch* batch : {&faces_, &wires_, &lines_, &dots_, &ground_, &screen_}) {
        batch->vertexArray.create();
        batch->vertices.create();
        batch->indices.create();
    }
    upload(screen_, {{{-1, -1, 0}, {}, {}}, {{1, -1, 0}, {}, {}}, {{-1, 1, 0}, {}, {}}, {{1, 1, 0}, {}, {}}});
    ready_ = true;
    groundStep_ = 0;
    meshChanged_ = true;
}

void GlCanvas::upload(Batch& batch, const std::vector<StageMesh::Vertex>& vertices) {
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    batch.vertexArray.bind();
    batch.vertices.bind();
    batch.vertices.allocate(vertices.data(), int(vertices.size() * sizeof(StageMesh::Vertex)));
    for (GLuint slot = 0; slot < 3; ++slot) {
        gl->glEnableVertexAttribArray(slot);
        gl->glVertexAttribPointer(slot, 3, GL_FLOAT, GL_FALSE, sizeof(StageMesh::Vertex), reinterpret_cast<const void*>(std::uintptr_t(slot) * sizeof(Vec3)));
    }
    batch.count = int(vertices.size());
    batch.vertexArray.release();
}

void GlCanvas::uploadIndices(Batch& batch, const std::vector<Index>& indices) {
    batch.vertexArray.bind();
    batch.indices.bind();
    batch.indices.allocate(indices.data(), int(indices.size() * sizeof(Index)));
    batch.count = int(indices.size());
    batch.vertexArray.release();
}

void GlCanvas::uploadMesh() {
    meshChanged_ = false;
    static const StageMesh none;
    const StageMesh& mesh = mesh_ ? *mesh_ : none;
    upload(faces_, mesh.vertices);
    uploadIndices(faces_, mesh.triangles);
    // The wire shares the faces' vertices, with indices of its own.
    auto* gl = QOpenGLContext::currentContext()->extraFunctions();
    wires_.vertexArray.bind();
    faces_.vertices.bind();
    for (GLuint slot = 0; slot < 3; ++slot) {
        gl->glEnableVertexAttribArray(slot);
        gl->glVertexAttribPointer(slot, 3, GL_FLOAT, GL_FALSE, sizeof(StageMesh::Vertex), reinterpret_cast<const void*>(std::uintptr_t(slot) * sizeof(Vec3)));
    }
    wires_.vertexArray.release();
    uploadIndices(wires_, mesh.wire);
    upload(lines_, mesh.lines);
    upload(dots_, mesh.dots);
}

void GlCanvas::uploadGround() {
    const double step = gridStep(camera_);
    const Vec3 centre{float(std::round(camera_.target.x / step) * step), 0, float(std::round(camera_.target.z / step) * step)};
    if (step == groundStep_ && centre == groundCentre_) return;
    groundStep_ = step;
    groundCentre_ = centre;
    constexpr int kLines = 16;
    std::vector<StageMesh::Vertex> lines;
    const auto reach = float(kLines * step);
    // Short pieces, so that the fade towards the border is smooth.
    for (int i = -kLines; i <= kLines; ++i) {
        const auto at = float(i * step);
        for (int k = -kLines; k < kLines; ++k) {
            const float a = reach * float(k) / kLines, b = reach * float(k + 1) / kLines;
            const Vec3 colour{0.72f, 0.69f, 0.63f};
            for (auto [x, z] : {std::pair{at, a}, {at, b}, {a, at}, {b, at}}) lines.push_back({centre + Vec3{x, 0, z}, {0, 1, 0}, colour});
        }
    }
    upload(ground_, lines);
}

void GlCanvas::drawBackground() {
    background_->bind();
    screen_.vertexArray.bind();
    QOpenGLContext::currentContext()->functions()->glDrawArrays(GL_TRIANGLE_STRIP, 0, screen_.count);
    screen_.vertexArray.release();
}

void GlCanvas::paintGL() {
    if (meshChanged_) uploadMesh();
    uploadGround();
    auto* gl = QOpenGLContext::currentContext()->functions();
    gl->glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    gl->glDisable(GL_DEPTH_TEST);
    gl->glDisable(GL_CULL_FACE);
    drawBackground();
    gl->glEnable(GL_DEPTH_TEST);
    gl->glEnable(GL_PROGRAM_POINT_SIZE);
    const QSizeF area = size();
    shader_->bind();
    const Vec3 e = camera_.eye(), key = normalized(camera_.toEye() * 0.6f + camera_.up() * 0.7f - camera_.right() * 0.6f);
    shader_->setUniformValue("transform", camera_.projection(area) * camera_.view());
    shader_->setUniformValue("eye", QVector3D(e.x, e.y, e.z));
    shader_->setUniformValue("key", QVector3D(key.x, key.y, key.z));
    shader_->setUniformValue("fadeCentre", QVector3D(groundCentre_.x, 0, groundCentre_.z));
    shader_->setUniformValue("plain", mesh_ && !mesh_->attribute.empty() ? 1.0f : 0.0f);
    const auto draw = [&](Batch& batch, GLenum mode, bool indexed, float lit, QVector4D tint, float nearer, float pointSize = 1, float fade = 0, float opacity = 1) {
        if (batch.count == 0) return;
        shader_->setUniformValue("lit", lit);
        shader_->setUniformValue("tint", tint);
        shader_->setUniformValue("nearer", nearer);
        shader_->setUniformValue("pointSize", pointSize * float(devicePixelRatioF()));
        shader_->setUniformValue("fadeRadius", fade);
        shader_->setUniformValue("opacity", opacity);
        batch.vertexArray.bind();
        if (indexed)
            gl->glDrawElements(mode, batch.count, GL_UNSIGNED_INT, nullptr);
        else
            gl->glDrawArrays(mode, 0, batch.count);
        batch.vertexArray.release();
    };
    gl->glEnable(GL_BLEND);
    gl->glBlendFunc(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA);
    gl->glDepthMask(GL_FALSE);
    draw(ground_, GL_LINES, false, 0, {}, 0, 1, float(groundStep_ * 15));
    gl->glDepthMask(GL_TRUE);
    gl->glDisable(GL_BLEND);
    if (mesh_ && mesh_->closed) gl->glEnable(GL_CULL_FACE);
    draw(faces_, GL_TRIANGLES, true, 1, {}, 0);
    gl->glDisable(GL_CULL_FACE);
    if (wire_) {
        gl->glEnable(GL_BLEND);
        draw(wires_, GL_LINES, true, 0, {0.137f, 0.169f, 0.212f, 1}, 0.0004f, 1, 0, 0.38f);
        gl->glDisable(GL_BLEND);
    }
    draw(lines_, GL_LINES, false, 0, {}, 0.0006f);
    draw(dots_, GL_POINTS, false, 0, {}, 0.0008f, 5);
    shader_->release();
}

}  // namespace seedloom::app
