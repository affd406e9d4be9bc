#pragma once
// What is chosen, pinned and marked, and the frame: one for all parts of a window, none of which keeps a choice of its own.
#include "geometry/Geometry.h"

#include <QtCore/QObject>

#include <array>
#include <string>
#include <vector>

namespace seedloom::app {

/// Elements that are marked on the stage: rows of one kind, or edges by their two points.
struct StageMarks {
    Element element = Element::point;
    std::vector<Index> rows;
    std::vector<std::array<Index, 2>> edges;  ///< by their points, besides the rows
    bool empty() const { return rows.empty() && edges.empty(); }
    bool operator==(const StageMarks&) const = default;
};

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

    const StageMarks& marks() const { return marks_; }
    void setMarks(const StageMarks& marks);

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
    StageMarks marks_;
    double frame_ = 0;
};

}  // namespace seedloom::app
