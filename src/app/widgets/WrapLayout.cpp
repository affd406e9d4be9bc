#include "app/widgets/WrapLayout.h"

namespace seedloom::app {

QLayoutItem* WrapLayout::takeAt(int index) {
    if (index < 0 || index >= count()) return nullptr;
    QLayoutItem* out = items_[std::size_t(index)].release();
    items_.erase(items_.begin() + index);
    return out;
}

QSize WrapLayout::minimumSize() const {
    QSize out;
    for (const auto& item : items_)
        if (!item->isEmpty()) out = out.expandedTo(item->minimumSize());
    return out;
}

void WrapLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    placed(rect, true);
}

int WrapLayout::placed(const QRect& whole, bool move) const {
    const QMargins margins = contentsMargins();
    const QRect rect = whole.marginsRemoved(margins);
    int x = rect.x(), y = rect.y(), row = 0;
    for (const auto& item : items_) {
        if (item->isEmpty()) continue;
        const QSize wanted = item->sizeHint(), size(std::min(wanted.width(), std::max(rect.width(), item->minimumSize().width())), wanted.height());
        if (x > rect.x() && x + size.width() > rect.x() + rect.width()) {
            x = rect.x();
            y += row + gap_;
            row = 0;
        }
        if (move) item->setGeometry({QPoint(x, y), size});
        x += size.width() + gap_;
        row = std::max(row, size.height());
    }
    return y + row - rect.y() + margins.top() + margins.bottom();
}

}  // namespace seedloom::app
