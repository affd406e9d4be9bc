#pragma once
// Items beside each other, in as many rows as it takes.
#include <QtWidgets/QLayout>

#include <memory>
#include <vector>

namespace seedloom::app {

class WrapLayout : public QLayout {
public:
    explicit WrapLayout(QWidget* parent, int gap) : QLayout(parent), gap_(gap) { setContentsMargins(0, 0, 0, 0); }

    void addItem(QLayoutItem* item) override { items_.emplace_back(item); }
    int count() const override { return int(items_.size()); }
    QLayoutItem* itemAt(int index) const override { return index >= 0 && index < count() ? items_[std::size_t(index)].get() : nullptr; }
    QLayoutItem* takeAt(int index) override;
    Qt::Orientations expandingDirections() const override { return {}; }
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override { return placed({0, 0, width, 0}, false); }
    /// As wide as its widest item.
    QSize minimumSize() const override;
    QSize sizeHint() const override { return minimumSize(); }
    void setGeometry(const QRect& rect) override;

private:
    /// How high it is; with `move` the items are put there.
    int placed(const QRect& whole, bool move) const;

    int gap_;
    std::vector<std::unique_ptr<QLayoutItem>> items_;
};

}  // namespace seedloom::app
