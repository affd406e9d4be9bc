#pragma once
// What is chosen, pinned and marked, and the frame: one for all parts of a window, none of which keeps a choice of its own.
#include "scene/Marks.h"

#include <QtCore/QObject>

#include <string>
#include <vector>

namespace seedloom::app {

class Selection : public QObject {
    Q_OBJECT

public:
    /// The node that stage and settings show; with several chosen, the one that was taken last.
    const std::string& chosen() const { return chosen_; }
    /// All chosen nodes, the shown one last.
    const std::vector<std::string>& all() const { return all_; }
    void choose(std::vector<std::string> nodes);
    const std::string& pinned() const { return pinned_; }
    void pin(const std::string& node);

    const ElementMarks& marks() const { return marks_; }
    void setMarks(const ElementMarks& marks);

    double frame() const { return frame_; }
    /// `moving`: a hand is on it.
    void setFrame(double frame, bool moving = false);

    /// Nothing chosen or pinned any more, without a signal: another graph comes, and chooses anew.
    void forget();

Q_SIGNALS:
    void chosenChanged();
    void pinnedChanged();
    void marksChanged();
    void frameChanged(double frame, bool moving);

private:
    std::string chosen_, pinned_;
    std::vector<std::string> all_;
    ElementMarks marks_;
    double frame_ = 0;
};

}  // namespace seedloom::app
