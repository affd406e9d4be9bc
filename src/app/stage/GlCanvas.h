#pragma once
// Draws stage meshes with OpenGL 3.3 into a picture of its own, which is then painted like any other widget. A window that holds an OpenGL
// widget is put together by OpenGL for every change of any of its parts, which a software renderer takes 20 ms for (docs/decisions).
#include "app/stage/Camera.h"
#include "app/stage/StageMesh.h"

#include <QtOpenGL/QOpenGLBuffer>
#include <QtOpenGL/QOpenGLFramebufferObject>
#include <QtOpenGL/QOpenGLShaderProgram>
#include <QtOpenGL/QOpenGLVertexArrayObject>
#include <QtCore/QTimer>
#include <QtGui/QImage>
#include <QtGui/QOffscreenSurface>
#include <QtGui/QOpenGLContext>
#include <QtWidgets/QWidget>

namespace seedloom::app {

/// Why OpenGL can't be used here, or an empty text. Call before the first canvas is made: a failing one would end the program.
QString openGlProblem();

/// What is drawn of a mesh, and how.
struct DrawOptions {
    bool wire = false, xray = false;
    bool operator==(const DrawOptions&) const = default;
};

class GlCanvas : public QWidget {
    Q_OBJECT

public:
    /// A picture that takes longer is drawn with fewer triangles while the view moves.
    static constexpr double kMostMovingMs = 55;
    void setMostMovingMs(double ms) { mostMovingMs_ = ms; }

    explicit GlCanvas(QWidget* parent = nullptr);
    ~GlCanvas() override;

    void setMesh(std::shared_ptr<const StageMesh> mesh);
    /// Drawn left of the divider (0–1 of the width); none: no divider.
    void setOther(std::shared_ptr<const StageMesh> mesh);
    /// Drawn faintly, around the mesh.
    void setGhost(std::shared_ptr<const StageMesh> mesh);
    void setDivider(double part);
    void setMarks(MarkShapes marks);
    void setCamera(const Camera& camera);
    void setOptions(const DrawOptions& options);
    /// While the view moves: no smoothing of edges, and fewer triangles where a full picture takes too long.
    void setMoving(bool moving);
    /// True while fewer triangles are drawn than there are.
    bool reducing() const { return reducing_; }
    /// Of how many copies are drawn as dots only: all of them would take too long, while the view moves or at rest.
    std::size_t copiesAsDots() const { return copiesAsDots_; }
    /// A picture at rest may take so long; what copies are beyond that are drawn as dots.
    static constexpr double kMostRestingMs = 400;
    double lastDrawMs() const { return drawMs_; }
    /// Metres between lines of the ground grid.
    static double gridStep(const Camera& camera);

    /// What is on the stage, drawn now where it is out of date.
    QImage picture();

Q_SIGNALS:
    void drawn();

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;

private:
    std::size_t triangleCount() const;
    bool wouldBeSlow() const;
    struct Batch {
        QOpenGLVertexArrayObject vertexArray;
        QOpenGLBuffer vertices{QOpenGLBuffer::VertexBuffer}, indices{QOpenGLBuffer::IndexBuffer};
        int count = 0;
    };
    /// The batches of one shape that is drawn as copies.
    struct Shape {
        Batch faces, wires, reduced, lines, dots;
        QOpenGLBuffer instances{QOpenGLBuffer::VertexBuffer};
        std::array<Batch*, 5> all() { return {&faces, &wires, &reduced, &lines, &dots}; }
    };
    /// The batches of one mesh.
    struct Scene {
        Batch faces, wires, reduced, lines, dots, arrows, normals, openEdges;
        std::vector<std::unique_ptr<Shape>> shapes;  ///< as many as the mesh has groups of copies
        Batch copyDots;                              ///< one for each copy, in the order of the groups
        std::shared_ptr<const StageMesh> mesh;
        bool changed = false;
        std::array<Batch*, 8> all() { return {&faces, &wires, &reduced, &lines, &dots, &arrows, &normals, &openEdges}; }
    };
    void changed();
    bool prepare();
    void draw();
    void readBack(QSize pixels);
    void drawAll(QSize pixels);
    void drawScene(Scene& scene);
    void drawCopies(Scene& scene);
    void drawShape(Shape& shape, const StageCopies& copies, int shading, int count);
    void drawFaintCopies(Scene& scene);
    void uploadCopies(Scene& scene);
    void dropShapes(Scene& scene);
    /// Which part of the copies is drawn with its faces.
    double wholeCopies(const StageMesh& mesh) const;
    void drawGhost();
    void drawMarks();
    void drawGround();
    void drawBatch(Batch& batch, GLenum mode, bool indexed, const struct Style& style, int copies = 0);
    void useStyle(const struct Style& style);
    void shareVertices(Batch& batch, Batch& owner);
    void upload(Batch& batch, const std::vector<StageMesh::Vertex>& vertices);
    void uploadIndices(Batch& batch, const std::vector<Index>& indices);
    void uploadScene(Scene& scene);
    void uploadGround();
    void drawBackground();

    Camera camera_;
    DrawOptions options_;
    Scene shown_, other_, ghost_;
    MarkShapes marks_;
    double divider_ = 0.5;
    bool ready_ = false, stale_ = true, smoothed_ = false, moving_ = false, reducing_ = false, marksChanged_ = false;
    double drawMs_ = 0, fullMs_ = 0, triangleMs_ = 0, mostMovingMs_ = kMostMovingMs;
    std::size_t copiesAsDots_ = 0;
    double drawnTriangles_ = 0, dotsMs_ = 0;  ///< of copies, in the last picture
    double groundStep_ = 0;
    Vec3 groundCentre_{};
    QColor groundColour_;
    std::unique_ptr<QOpenGLShaderProgram> shader_, background_;
    QTimer rest_;
    QOffscreenSurface surface_;
    QOpenGLContext context_;
    QImage picture_;
    std::unique_ptr<QOpenGLFramebufferObject> plain_, smooth_;
    Batch ground_, screen_, markLines_, markDots_, markTriangles_;
};

}  // namespace seedloom::app
