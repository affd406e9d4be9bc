#pragma once
// What the stage shows at one moment: all that its painter needs, cheap to hand to another thread.
#include "app/stage/StageCamera.h"
#include "scene/Marks.h"

#include <QtGui/QColor>
#include <QtGui/QImage>

namespace seedloom::app {

/// What is drawn of a mesh, and how.
struct DrawOptions {
    bool wire = false, xray = false;
    bool operator==(const DrawOptions&) const = default;
};

/// Colours of the theme.
struct StageInks {
    QColor top, foot, grid, ink, wires;
};
StageInks stageInks();

struct StageView {
    std::shared_ptr<const DrawScene> shown;
    std::shared_ptr<const DrawScene> other;  ///< left of the divider; none: no divider
    std::shared_ptr<const DrawScene> ghost;  ///< faintly around what is shown
    std::shared_ptr<const MarkShapes> marks;
    double divider = 0.5;  ///< part of the width
    StageCamera camera;
    DrawOptions options;
    StageInks inks;
    bool moving = false;  ///< no smoothing of edges, and fewer triangles where a full picture takes too long
    bool smooth = false;
    double mostMovingMs = 55;  ///< what a picture may take while the view moves
    QSizeF area;               ///< in the interface's pixels
    double pixelRatio = 1;
    QSize pixels() const { return (area * pixelRatio).toSize(); }
};

struct StagePicture {
    QImage image;  ///< null where it could not be drawn
    StageCamera camera;
    bool reducing = false;         ///< fewer triangles are drawn than there are
    std::size_t copiesAsDots = 0;  ///< all of them would take too long, while the view moves or at rest
    double ms = 0;
    bool givenUp = false;  ///< a newer one is wanted instead
};

/// Metres between lines of the ground grid.
double gridStep(const StageCamera& camera);

}  // namespace seedloom::app
