#pragma once
// The 3D view with its tools, legend, read-outs and handles. Stage.cpp: what it shows; StageMouse.cpp: what the hand does there;
// StagePainting.cpp: what is painted over the model; StageBrush.cpp: painting on it;
// StageHover.cpp: the value under the pointer.
#include "app/session/Background.h"
#include "app/session/Brush.h"
#include "app/session/Selection.h"
#include "app/stage/HandleChain.h"
#include "app/stage/Picking.h"
#include "app/stage/StageCamera.h"
#include "graph/Memo.h"
#include "scene/DrawScene.h"

#include <QtCore/QLineF>
#include <QtCore/QTimer>
#include <QtWidgets/QWidget>

class QToolButton;

namespace seedloom::app {

class GlCanvas;
class StageLegend;
class StageTools;

class Stage : public QWidget {
    Q_OBJECT

public:
    explicit Stage(Selection& selection, QWidget* parent = nullptr);
    ~Stage() override;

    /// What the stage is asked to show.
    struct Subject {
        QString name;
        std::shared_ptr<const NodeOutcome> outcome;
        std::size_t output = 0;
        bool operator==(const Subject&) const = default;
    };
    /// Shows a node's result; the camera frames it the first time after frameNext(). `remark` stands before its name: pinned, input of.
    void show(const Subject& subject, const QString& remark = {});
    /// What is said while there is nothing to show.
    void setInvitation(const QString& text);
    /// Without tools, name and figures: they stand beside it.
    void setPlain();
    const Subject& subject() const { return subject_; }
    /// Shows `left` left of a divider that can be dragged, and the subject right of it. Without an outcome: no divider.
    void compare(const Subject& left);
    /// Drawn faintly around what is shown; without an outcome: nothing.
    void setGhost(const Subject& ghost);
    std::shared_ptr<const DrawScene> ghostMesh() const { return faint_.mesh; }
    bool comparing() const { return other_.outcome != nullptr && look_.shading != Shading::difference; }
    double divider() const { return divider_; }
    /// Where the divider's grip is, in pixels.
    QPoint dividerPixel() const;

    /// Frames whatever is shown from now on, until endFraming: a new document comes in piece by piece.
    void frameNext() { frameNext_ = true, lastFrame_ = false; }
    /// What is shown now, or is being made ready, is the last that is framed.
    void endFraming();
    void frameAll();
    /// Frames the marked elements, or all where there are none.
    void frameMarks();
    /// Along an axis, as Camera::lookFrom, without perspective until the hand turns the view.
    void lookFrom(int side);
    void setFlat(bool flat);

    void setMarks(const ElementMarks& marks) { selection_.setMarks(marks); }
    const ElementMarks& marks() const { return selection_.marks(); }

    /// Places of handles that can be dragged, where they slide along a line its direction, what they are called, and lines that belong to them. A double
    /// click on a chain's line puts a point in, one on a point takes it out, and one beside all of them adds to the nearer end of an open chain.
    struct Handles {
        std::vector<Vec3> at;
        std::vector<std::optional<Vec3>> along = {};
        std::vector<QString> name = {};
        std::vector<std::array<Vec3, 2>> lines = {}, drawn = {};  ///< dashed, and in full
        std::vector<HandleChain> chains = {};
        bool onGhost = false;  ///< new ends lie on what is shown faintly
    };
    void setHandles(Handles handles);
    const std::vector<Vec3>& handles() const { return handles_.at; }
    const Handles& handleSet() const { return handles_; }
    /// The line that shows the height of the model, where there is one: from its foot upwards.
    std::optional<QLineF> heightLine() const;
    /// Where a handle is on screen, for tests and for hints.
    QPoint handlePixel(int i) const;

    /// With a brush, a left drag on the model paints instead of turning the view.
    void setBrush(std::optional<Brush> brush);
    const std::optional<Brush>& brush() const { return brush_; }

    const StageCamera& camera() const { return camera_; }
    void setCamera(const StageCamera& camera);
    std::shared_ptr<const DrawScene> mesh() const { return shown_.mesh; }
    std::shared_ptr<const DrawScene> otherMesh() const { return left_.mesh; }
    void setAttribute(const QString& name);
    void setWire(bool on);
    StageTools* tools() const { return tools_; }
    StageLegend* legend() const { return legend_; }
    QToolButton* kindButton() const { return kind_; }
    /// The value under the resting pointer, as it is shown beside it; empty where there is none.
    const QString& hovered() const { return hovered_; }
    GlCanvas* canvas() const { return canvas_; }
    /// Pixel of the compass for one of six sides, as lookFrom.
    QPointF compassPixel(int side) const;
    /// What the line at the lower left says: grid, perspective, what is left out of the picture.
    QStringList remarks() const;
    QStringList facts() const;
    /// Why nothing is drawn, or an empty text.
    const QString& problem() const { return problem_; }

Q_SIGNALS:
    /// The brush is at a place on the model with that normal; phase 0 begins a stroke, 1 goes on, 2 ends it.
    void painted(Vec3 at, Vec3 normal, int phase);
    /// Shift and the wheel change the size of the brush.
    void brushResized(double radius);
    void handleInsertWanted(int behind, Vec3 at);
    /// A new point beyond a chain's first or last one.
    void handleAppendWanted(int end, Vec3 at);
    void handleRemoveWanted(int index);
    void handleMoved(int index, Vec3 to, int gesturePhase);  ///< phase 0 starts a drag, 1 goes on, 2 ends it
    void directionSettled(double yaw, double pitch);
    void meshShown();
    /// A click on an element of the shown geometry, or beside all of them (`hit` false).
    void picked(bool hit, Element element, Index row, bool extend);
    void compareWanted(bool on);
    /// All faces of the marked one's kind are to be marked.
    void kindWanted();

protected:
    void resizeEvent(QResizeEvent*) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    class Overlay;
    /// Makes the mesh of one subject at a time, off the interface thread; the newest wish wins.
    struct Side {
        std::shared_ptr<const DrawScene> mesh;
        bool building = false, again = false;
    };
    void offerAttributes();
    SceneLook lookNow() const;
    void takeLook();
    /// The name under which the choice of colours is kept.
    std::string colourKey(const SceneLook& look) const;
    void startMesh(Side& side, const Subject& subject);
    void takeMesh(Side& side, std::shared_ptr<const DrawScene> mesh);
    void refreshMarks();
    void offerKind();
    void cameraChanged();
    void moving();
    void settled();
    void layOut();
    int handleAt(QPointF at) const;
    Vec3 draggedTo(QPointF at, bool snap) const;
    Vec3 movedInPlane(Vec3 from, QPointF at, bool snap) const;
    std::optional<int> nearerEnd(QPointF at) const;
    void turnByHand(QPointF by);
    bool doubleClicked(QPointF at);
    void takeOver();
    void pressed(QMouseEvent* event);
    void moved(QMouseEvent* event);
    void released(QMouseEvent* event);
    void clicked(QPointF at, bool extend);
    /// The side of the compass under the pointer, or −1.
    int compassAt(QPointF at) const;
    QPointF compassCentre() const;

    /// The camera of the picture that is in the window: what lies on the model must not run ahead of it.
    const StageCamera& seen() const;
    void paintOverlay(QPainter& painter) const;
    void paintHeight(QPainter& painter) const;
    bool showsNothing() const;
    void paintReadout(QPainter& painter) const;
    void paintNames(QPainter& painter) const;
    void paintHandles(QPainter& painter) const;
    void paintCompass(QPainter& painter) const;
    void paintNumbers(QPainter& painter) const;
    void paintDivider(QPainter& painter) const;
    void paintHovered(QPainter& painter) const;
    void hoverMoved(QPointF at);
    void lookUnderPointer();

    GlCanvas* canvas_ = nullptr;
    QWidget* overlay_ = nullptr;
    StageTools* tools_ = nullptr;
    StageLegend* legend_ = nullptr;
    QToolButton* kind_ = nullptr;  ///< offers all faces of the marked one's kind
    QString problem_, remark_, invitation_;
    bool plain_ = false;
    bool frameNext_ = true, lastFrame_ = false, framed_ = false;

    StageCamera camera_;
    std::optional<bool> flatBefore_;  ///< while an axis view is looked at: what the view is again when it is turned
    SceneLook look_;
    std::map<std::string, ColourChoice> colours_;  ///< by attribute, as the user set them in the legend
    Subject subject_, other_, ghost_;
    Side shown_, left_, faint_;
    Selection& selection_;
    Bounds markBounds_;

    struct BrushPlace {
        Vec3 at, normal;
    };
    /// Where the brush touches the shown model under a pixel.
    std::optional<BrushPlace> brushPlace(QPointF at) const;
    std::optional<BrushPlace> penPlace(QPointF at) const;
    /// In the plane that faces the eye.
    std::optional<BrushPlace> placeFacing(Vec3 through, QPointF at) const;
    /// What the brush touches: the model as it was when the hand came down.
    struct BrushGround {
        std::shared_ptr<const DrawScene> mesh;
        std::optional<Geometry> geometry;
    };
    BrushGround groundNow() const;
    void paintStraightLine(QPainter& painter) const;
    bool paints(QMouseEvent* event, int phase);
    void paintBrush(QPainter& painter) const;

    std::optional<Brush> brush_;
    std::optional<BrushPlace> brushAt_, brushFrom_;  ///< from: where the stroke began
    BrushGround ground_;
    bool painting_ = false;
    Handles handles_;
    int hoveredHandle_ = -1, draggedHandle_ = -1;
    double divider_ = 0.5;
    bool dividerDragged_ = false, movedFar_ = false;
    QPointF last_, pressedAt_, dragOffset_;
    Qt::MouseButton button_ = Qt::NoButton;
    QTimer settle_, hover_;
    QPointF hoverAt_{-1, -1};
    QString hovered_;
    int hoverWish_ = 0;
    // Last: they stop before what they write to goes.
    Background background_, looking_;
};

}  // namespace seedloom::app
