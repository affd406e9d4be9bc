#pragma once
// The attribute values of one kind of element as a table; holds a snapshot, reads values only when they are shown.
#include "graph/Memo.h"

#include <QtCore/QAbstractTableModel>

namespace seedloom::app {

class GeometryModel : public QAbstractTableModel {
    Q_OBJECT

public:
    explicit GeometryModel(QObject* parent = nullptr) : QAbstractTableModel(parent) {}

    void show(std::shared_ptr<const NodeOutcome> outcome, Element element);

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

private:
    /// One shown column: a component of an attribute.
    struct Shown {
        QString title;
        const Column* column;
        int component;
    };
    std::shared_ptr<const NodeOutcome> outcome_;  ///< keeps the columns alive
    Element element_ = Element::point;
    std::vector<Shown> columns_;
    int rows_ = 0;
};

}  // namespace seedloom::app
