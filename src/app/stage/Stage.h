#pragma once
// The 3D view with its tools, legend, read-outs and handles.
#include "app/stage/Camera.h"
#include "app/stage/StageMesh.h"
#include "graph/Memo.h"

#include <QtCore/QThreadPool>
#include <QtWidgets/QWidget>

class QToolButton;
class QComboBox;
class QLabel;

namespace seedloom::app {

class GlCanvas;

class Stage : public QWidget {
    Q_OBJECT

public:
    explicit Stage(QWidget* parent = nullptr);
    ~Stage() override;

    /// Shows a node's result; the camera frames it the first time after frameNext().
    void show(const QString& nodeName, std::shared_ptr<const NodeOutcome> outcome, bool pinned);
    /// Frames the next thing that is shown.
    void frameNext() { frameNext_ = true; }
    void frameAll();

    /// Places of handles that can be dragged (a point list's points).
    void setHandles(std::vector<Vec3> handles);
    const std::vector<Vec3>& handles() const { return handles_; }
    /// Where a handle is on screen, for tests and for hints.
    QPoint handlePixel(int i) const;

    const Camera& camera() const { return camera_; }
    void setCamera(const Camera& camera);
    std::shared_ptr<const StageMesh> mesh() const { return mesh_; }
    void setAttribute(const QString& name);
    void setWire(bool on);

Q_SIGNALS:
    void handleMoved(int index, Vec3 to, int gesturePhase);  ///< phase 0 starts a drag, 1 goes on, 2 ends it
    void directionSettled(double yaw, double pitch);
    void meshShown();

protected:
    void resizeEvent(QResizeEvent*) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    class Overlay;
    void makeTools();
    void startMesh();
    void takeMesh(int generation, std::shared_ptr<const StageMesh> mesh);
    void cameraChanged();
    void layOut();
    int handleAt(QPointF at) const;
    Vec3 draggedTo(QPointF at) const;
    void pressed(QMouseEvent* event);
    void moved(QMouseEvent* event);
    void released(QMouseEvent* event);
    void paintOverlay(QPainter& painter) const;
    void paintLegend(QPainter& painter) const;
    void paintReadout(QPainter& painter) const;
    void paintHandles(QPainter& painter) const;
    void paintCompass(QPainter& painter) const;

    GlCanvas* canvas_ = nullptr;
    QWidget* overlay_ = nullptr;
    QWidget* tools_ = nullptr;
    QToolButton *clay_ = nullptr, *attributeMode_ = nullptr, *wire_ = nullptr;
    QComboBox* attribute_ = nullptr;
    QString problem_, nodeName_;
    bool pinned_ = false, frameNext_ = true;

    Camera camera_;
    StageLook look_;
    std::shared_ptr<const NodeOutcome> outcome_;
    std::shared_ptr<const StageMesh> mesh_;
    QThreadPool pool_;
    int generation_ = 0;
    bool building_ = false, again_ = false;

    std::vector<Vec3> handles_;
    int hoveredHandle_ = -1, draggedHandle_ = -1;
    QPointF last_, dragOffset_;
    Qt::MouseButton button_ = Qt::NoButton;
};

}  // namespace seedloom::app
