#pragma once
// Draws stage meshes with OpenGL 3.3. Works on software renderers: no multisampling there, back faces of closed meshes culled.
#include "app/stage/Camera.h"
#include "app/stage/StageMesh.h"

#include <QtOpenGL/QOpenGLBuffer>
#include <QtOpenGL/QOpenGLShaderProgram>
#include <QtOpenGL/QOpenGLVertexArrayObject>
#include <QtOpenGLWidgets/QOpenGLWidget>

namespace seedloom::app {

/// Why OpenGL can't be used here, or an empty text. Call before the first canvas is made: a failing one would end the program.
QString openGlProblem();

class GlCanvas : public QOpenGLWidget {
    Q_OBJECT

public:
    explicit GlCanvas(QWidget* parent = nullptr);
    ~GlCanvas() override;

    void setMesh(std::shared_ptr<const StageMesh> mesh);
    void setCamera(const Camera& camera);
    void setWire(bool on);
    /// Metres between lines of the ground grid.
    static double gridStep(const Camera& camera);

protected:
    void initializeGL() override;
    void paintGL() override;

private:
    struct Batch {
        QOpenGLVertexArrayObject vertexArray;
        QOpenGLBuffer vertices{QOpenGLBuffer::VertexBuffer}, indices{QOpenGLBuffer::IndexBuffer};
        int count = 0;
    };
    void upload(Batch& batch, const std::vector<StageMesh::Vertex>& vertices);
    void uploadIndices(Batch& batch, const std::vector<Index>& indices);
    void uploadMesh();
    void uploadGround();
    void drawBackground();

    Camera camera_;
    std::shared_ptr<const StageMesh> mesh_;
    bool wire_ = false, meshChanged_ = false, ready_ = false;
    double groundStep_ = 0;
    Vec3 groundCentre_{};
    std::unique_ptr<QOpenGLShaderProgram> shader_, background_;
    Batch faces_, wires_, lines_, dots_, ground_, screen_;
};

}  // namespace seedloom::app
