#pragma once
#include <QtWidgets/QStyledItemDelegate>

namespace seedloom::app {

class VaryTable;

/// Paints one variation of the sheet.
class VaryCell : public QStyledItemDelegate {
    Q_OBJECT

public:
    VaryCell(VaryTable& table, QObject* parent) : QStyledItemDelegate(parent), table_(table) {}
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    /// How high a cell of this width is.
    static int highFor(int wide);
    /// Where its star is.
    static QRect starIn(const QRect& cell);

private:
    void paintWaiting(QPainter& painter, const QRectF& picture, std::size_t item) const;
    VaryTable& table_;
};

}  // namespace seedloom::app
