#pragma once
// The stage's picture in the window. It is painted on a thread of its own, where OpenGL can do that, so that the hand never waits for it.
#include "app/session/Background.h"
#include "app/stage/StageView.h"

#include <QtCore/QTimer>
#include <QtGui/QOffscreenSurface>
#include <QtWidgets/QWidget>

#include <atomic>
#include <mutex>
#include <optional>

namespace seedloom::app {

class GlPainter;

/// Why OpenGL can't be used here, or an empty text. Call before the first canvas is made: a failing one would end the program.
QString openGlProblem();

class GlCanvas : public QWidget {
    Q_OBJECT

public:
    /// Pictures are painted behind the interface, or in front where OpenGL can't be used on another thread.
    enum class Painting : unsigned char { behind, in_front };
    static Painting possible();
    explicit GlCanvas(QWidget* parent = nullptr, Painting painting = possible());
    ~GlCanvas() override;

    void setMesh(std::shared_ptr<const DrawScene> mesh);
    /// Drawn left of the divider (0–1 of the width); none: no divider.
    void setOther(std::shared_ptr<const DrawScene> mesh);
    /// Drawn faintly, around the mesh.
    void setGhost(std::shared_ptr<const DrawScene> mesh);
    void setDivider(double part);
    void setMarks(MarkShapes marks);
    void setCamera(const StageCamera& camera);
    void setOptions(const DrawOptions& options);
    void setMoving(bool moving);
    void setMostMovingMs(double ms) { view_.mostMovingMs = ms; }

    /// The last picture that was finished, which may be behind what was set.
    const StagePicture& shown() const { return picture_; }
    /// What is on the stage; waits for it where it is not painted yet.
    QImage picture();

Q_SIGNALS:
    void drawn();

protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void changeEvent(QEvent* event) override;

private:
    void changed();
    void ask();
    void take();
    void paint(const StageView& view);
    void setShown(std::shared_ptr<const DrawScene>& place, std::shared_ptr<const DrawScene> mesh);

    StageView view_;
    bool stale_ = true, busy_ = false;
    bool askedMoving_ = false, askedSmooth_ = false;  ///< of what is being painted
    StagePicture picture_;
    QTimer rest_;
    QOffscreenSurface surface_;
    const bool behind_;
    std::unique_ptr<GlPainter> painter_;  ///< made, used and ended where it paints
    std::atomic<bool> giveUp_ = false;    ///< what is being painted would come too late
    std::mutex mutex_;
    std::optional<StagePicture> finished_;
    Background background_;  ///< last: it stops before what it writes to goes
};

}  // namespace seedloom::app
