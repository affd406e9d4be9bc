#include "app/weave/CardMotion.h"

namespace seedloom::app {

double CardMotion::part() const { return clock_.isValid() ? std::min(1.0, double(clock_.elapsed()) / kMs) : 1.0; }

bool CardMotion::moving() const { return part() < 1; }

void CardMotion::retarget(const Loom& loom, bool animate) {
    std::map<std::string, Way> next;
    bool any = false;
    for (const Node& node : loom.nodes) {
        const QPointF to(node.cell.column, node.cell.row);
        const auto way = ways_.find(node.id);
        const QPointF from = way == ways_.end() ? to : shown(way->second);
        any |= from != to;
        next[node.id] = {from, to};
    }
    if (!any && moving()) return;
    ways_ = std::move(next);
    if (!animate || loom.nodes.size() > kMost) clock_.invalidate();
    else if (any) clock_.start();
}

QPointF CardMotion::shown(const Way& way) const {
    const double rest = 1 - part();
    return way.to + (way.from - way.to) * (rest * rest * rest);
}

QPointF CardMotion::place(const Node& node) const {
    if (!moving()) return {double(node.cell.column), double(node.cell.row)};
    const auto way = ways_.find(node.id);
    return way == ways_.end() ? QPointF(node.cell.column, node.cell.row) : shown(way->second);
}

}  // namespace seedloom::app
