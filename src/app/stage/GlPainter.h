#pragma once
// Draws what the stage shows with OpenGL 3.3 into a picture, which is then painted like any other widget. A window that holds an OpenGL
// widget is put together by OpenGL for every change of any of its parts, which a software renderer takes 20 ms for (docs/decisions).
#include "app/stage/StageView.h"

#include <QtGui/QOpenGLContext>
#include <QtOpenGL/QOpenGLBuffer>
#include <QtOpenGL/QOpenGLFramebufferObject>
#include <QtOpenGL/QOpenGLShaderProgram>
#include <QtOpenGL/QOpenGLVertexArrayObject>

#include <atomic>

namespace seedloom::app {

class GlPainter {
public:
    /// A picture at rest may take so long; what copies are beyond that are drawn as dots. Nobody waits for it: what comes first is quick.
    static constexpr double kMostRestingMs = 1500;
    /// What smooth edges cost, times a plain picture: a guess between what was measured.
    static constexpr double kSmoothingCosts = 2.5;

    /// Lives on one thread, from here to its end. Drawing ends early once `giveUp` is set.
    GlPainter(QSurface& surface, const std::atomic<bool>& giveUp);
    ~GlPainter();

    StagePicture paint(const StageView& view);

private:
    std::size_t triangleCount() const;
    double expectedMs() const;
    bool reduces() const;
    struct Batch {
        QOpenGLVertexArrayObject vertexArray;
        QOpenGLBuffer vertices{QOpenGLBuffer::VertexBuffer}, indices{QOpenGLBuffer::IndexBuffer};
        QOpenGLBuffer* instances = nullptr;  ///< where it is drawn as copies
        int count = 0;
        void create();
        void destroy();
    };
    /// The batches of one shape that is drawn as copies.
    struct Shape {
        Batch faces, wires, reduced, lines, dots;
        QOpenGLBuffer instances{QOpenGLBuffer::VertexBuffer};
        std::array<Batch*, 5> all() { return {&faces, &wires, &reduced, &lines, &dots}; }
    };
    /// The batches of one mesh.
    struct Scene {
        Batch faces, wires, reduced, lines, dots, arrows, normals, openEdges, shadow;
        std::vector<std::unique_ptr<Shape>> shapes;  ///< as many as the mesh has groups of copies
        Batch copyDots;                              ///< one for each copy, shuffled
        std::shared_ptr<const DrawScene> mesh;
        std::array<Batch*, 10> all() { return {&faces, &wires, &reduced, &lines, &dots, &arrows, &normals, &openEdges, &shadow, &copyDots}; }
    };
    /// All that are there from the beginning to the end; those of shapes come and go.
    std::vector<Batch*> lasting();
    bool prepare();
    void takeView(const StageView& view);
    void drawPicture(QSize pixels);
    QImage readBack(QSize pixels);
    void learn(double ms);
    void drawAll(QSize pixels);
    void drawShadow(Scene& scene);
    void drawScene(Scene& scene);
    void drawCopies(Scene& scene);
    void drawShape(Shape& shape, const DrawCopies& copies, int shading, int count);
    void drawFaintCopies(Scene& scene);
    void uploadCopies(Scene& scene);
    void dropShapes(Scene& scene);
    std::size_t mostDots() const;
    /// Which part of the copies is drawn with its faces.
    double wholeCopies(const DrawScene& mesh) const;
    void drawGhost();
    void drawMarks();
    void drawGround();
    void drawBatch(Batch& batch, GLenum mode, bool indexed, const struct Style& style, int copies = 0);
    static void describeInstances(QOpenGLBuffer& instances, int first = 0);
    void useStyle(const struct Style& style);
    void shareVertices(Batch& batch, Batch& owner);
    void upload(Batch& batch, const std::vector<DrawScene::Vertex>& vertices);
    void uploadIndices(Batch& batch, const std::vector<Index>& indices);
    void uploadScene(Scene& scene);
    void uploadGround();
    void drawBackground();

    QSurface& surface_;
    const std::atomic<bool>& giveUp_;
    QOpenGLContext context_;
    bool ready_ = false;
    StageView view_;
    Scene shown_, other_, ghost_;
    std::shared_ptr<const MarkShapes> marks_;
    bool reducing_ = false, smoothing_ = false;
    double fullMs_ = 0, triangleMs_ = 1.2e-4;  ///< a guess, before anything large was drawn
    std::size_t copiesAsDots_ = 0;
    double dotMs_ = 1e-4;  ///< for one copy drawn as a dot; a guess at first
    double groundStep_ = 0;
    int groundAcross_ = 1;  ///< the axis that the grid faces
    Vec3 groundCentre_{};
    QColor groundColour_;
    std::unique_ptr<QOpenGLShaderProgram> shader_, background_;
    std::unique_ptr<QOpenGLFramebufferObject> plain_, smooth_;
    Batch ground_, screen_, markLines_, markDots_, markTriangles_;
};

}  // namespace seedloom::app
