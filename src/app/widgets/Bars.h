#pragma once
#include "app/look/Theme.h"

#include <QtGui/QPainter>

#include <algorithm>
#include <vector>

namespace seedloom::app {

/// Bars over the whole of a field; one that is not empty can be seen, however rare its values are.
inline void paintBars(QPainter& painter, const QRectF& field, const std::vector<std::size_t>& bars) {
    const auto most = bars.empty() ? 0.0 : double(*std::max_element(bars.begin(), bars.end()));
    const double wide = field.width() / double(std::max<std::size_t>(bars.size(), 1));
    for (std::size_t i = 0; i < bars.size(); ++i) {
        if (bars[i] == 0) continue;
        const double high = std::max(1.5, double(bars[i]) / most * field.height());
        painter.fillRect(QRectF(field.left() + double(i) * wide, field.bottom() - high, std::max(1.0, wide - 1), high), colours().link);
    }
}

}  // namespace seedloom::app
