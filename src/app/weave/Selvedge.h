#pragma once
#include "operators/Spec.h"

#include <QtGui/QPainter>

namespace seedloom::app {

/// Draws a card's woven edge: a line pattern for each family, told apart by shape alone. `phase` (0–1) moves it while rebuilding.
void paintSelvedge(QPainter& painter, const QRectF& edge, Family family, const QColor& ink, double phase = 0);

}  // namespace seedloom::app
