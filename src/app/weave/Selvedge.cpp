#include "app/weave/Selvedge.h"

namespace seedloom::app {

namespace {

/// One repeat of a pattern, as line pieces in a square of 0–1 by 0–1.
using Stitch = std::vector<QLineF>;

const Stitch& stitchOf(Family family) {
    static const std::map<Family, Stitch> stitches{
        {Family::make, {{0, .25, 1, .25}, {0, .75, 1, .75}}},
        {Family::curve, {{0, 0, 1, .5}, {1, .5, 0, 1}}},
        {Family::surface, {{0, .5, 1, .5}, {.5, 0, .5, .5}}},
        {Family::deform, {{0, 1, 1, 0}}},
        {Family::attribute, {{.15, .2, .45, .2}, {.55, .7, .85, .7}}},
        {Family::scatter, {{.2, .2, .3, .2}, {.7, .5, .8, .5}, {.3, .85, .4, .85}}},
        {Family::breaking, {{0, 0, .6, .4}, {.4, .55, 1, 1}}},
        {Family::motion, {{0, .5, .5, 0}, {.5, .5, 1, 0}}},
        {Family::flow, {{.5, 0, .5, 1}}},
        {Family::look, {{0, 0, 1, 1}, {1, 0, 0, 1}}},
    };
    return stitches.at(family);
}

}  // namespace

void paintSelvedge(QPainter& painter, const QRectF& edge, Family family, const QColor& ink, double phase) {
    painter.save();
    painter.setClipRect(edge, Qt::IntersectClip);
    painter.setPen(QPen(ink, 1.2));
    const double w = edge.width(), repeat = w;
    for (double y = edge.top() - repeat + phase * repeat; y < edge.bottom(); y += repeat)
        for (const QLineF& l : stitchOf(family))
            painter.drawLine(QPointF(edge.left() + l.x1() * w, y + l.y1() * repeat), QPointF(edge.left() + l.x2() * w, y + l.y2() * repeat));
    painter.restore();
}

}  // namespace seedloom::app
