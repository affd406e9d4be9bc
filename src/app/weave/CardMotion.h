#pragma once
// Where cards are drawn while they slide to their cells: a short, eased way from where they were.
#include "graph/Loom.h"

#include <QtCore/QElapsedTimer>
#include <QtCore/QPointF>

namespace seedloom::app {

class CardMotion {
public:
    static constexpr int kMs = 170;
    /// More cards than this jump: sliding a whole large graph shows nothing that an eye could follow.
    static constexpr std::size_t kMost = 400;

    /// Cards go to the cells of `loom` from where they are shown now; new cards appear at theirs.
    void retarget(const Loom& loom, bool animate);
    /// Column and row, in fractions, where a card is shown now.
    QPointF place(const Node& node) const;
    bool moving() const;

private:
    struct Way {
        QPointF from, to;
    };
    double part() const;
    QPointF shown(const Way& way) const;
    std::map<std::string, Way> ways_;
    QElapsedTimer clock_;
};

}  // namespace seedloom::app
