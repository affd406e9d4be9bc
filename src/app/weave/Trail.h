#pragma once
// The strip over the weave that tells which container is looked into, leads out of it, and chooses the part that is looked at.
#include "app/session/Document.h"
#include "app/session/RebuildService.h"
#include "app/session/Selection.h"

#include <QtWidgets/QWidget>

class QCheckBox;
class QHBoxLayout;
class QLabel;
class QSpinBox;
class QToolButton;

namespace seedloom::app {

class Trail : public QWidget {
    Q_OBJECT

public:
    Trail(Document& document, RebuildService& rebuilds, Selection& selection, QWidget* parent);

    /// Whether the part is shown with all that is around it.
    bool surroundings() const;
    QCheckBox* surroundingsBox() const { return surroundings_; }
    QSpinBox* partField() const { return part_; }
    /// The way as it is written: the document's name, then the containers.
    QStringList steps() const;
    /// Presses a step: 0 leads out to the document.
    void go(int step);

Q_SIGNALS:
    void surroundingsChanged();

private:
    void rebuild();
    void refresh();
    void showFrame(const std::string& container);

    Document& document_;
    RebuildService& rebuilds_;
    Selection& selection_;
    bool overFrames_ = false;  ///< the number is the frame, not a part
    QHBoxLayout* way_ = nullptr;
    QLabel *partName_ = nullptr, *partCount_ = nullptr;
    QSpinBox* part_ = nullptr;
    QToolButton *before_ = nullptr, *next_ = nullptr;
    QCheckBox* surroundings_ = nullptr;
};

}  // namespace seedloom::app
