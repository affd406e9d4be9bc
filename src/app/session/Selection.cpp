#include "app/session/Selection.h"

namespace seedloom::app {

void Selection::choose(std::vector<std::string> nodes) {
    const std::string last = nodes.empty() ? std::string() : nodes.back();
    if (chosen_ == last && all_ == nodes) return;
    chosen_ = last;
    all_ = std::move(nodes);
    Q_EMIT chosenChanged();
}

void Selection::pin(const std::string& node) {
    if (pinned_ == node) return;
    pinned_ = node;
    Q_EMIT pinnedChanged();
}

void Selection::setMarks(const ElementMarks& marks) {
    if (marks == marks_) return;
    marks_ = marks;
    Q_EMIT marksChanged();
}

void Selection::setFrame(double frame, bool moving) {
    if (frame == frame_) return;
    frame_ = frame;
    Q_EMIT frameChanged(frame, moving);
}

void Selection::forget() {
    chosen_.clear();
    pinned_.clear();
    all_.clear();
}

}  // namespace seedloom::app
