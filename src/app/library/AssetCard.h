#pragma once
// How a row of the library is drawn.
#include <QtWidgets/QStyledItemDelegate>

namespace seedloom::app {

class LibraryModel;

class AssetCard : public QStyledItemDelegate {
    Q_OBJECT

public:
    AssetCard(const LibraryModel& model, QObject* parent);
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override;
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override;

private:
    void paintShelf(QPainter& painter, const QStyleOptionViewItem& option, const QModelIndex& index) const;
    void paintAsset(QPainter& painter, const QStyleOptionViewItem& option, const QModelIndex& index) const;
    const LibraryModel& model_;
};

}  // namespace seedloom::app
