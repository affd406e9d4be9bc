#pragma once
// The attribute values of one kind of element as a table; holds a snapshot, reads values only when they are shown. Rows can be left out
// and put in another order without touching the values.
#include "graph/Memo.h"

#include <QtCore/QAbstractTableModel>

namespace seedloom::app {

class GeometryModel : public QAbstractTableModel {
    Q_OBJECT

public:
    explicit GeometryModel(QObject* parent = nullptr) : QAbstractTableModel(parent) {}

    /// One shown column: a component of an attribute.
    struct Shown {
        QString title;
        std::string attribute;
        const Column* column;
        int component;
    };

    void show(std::shared_ptr<const NodeOutcome> outcome, Element element);
    /// Leaves out columns of these attributes.
    void hideAttributes(const QStringList& names);
    QStringList attributes() const;
    const QStringList& hiddenAttributes() const { return hidden_; }

    /// Rows of elements in the order in which they are shown; empty with `all`: every element in its own order.
    void setOrder(std::vector<Index> order, bool all);
    bool ordered() const { return !all_; }
    std::size_t elementCount() const { return elements_; }
    /// The element of a row, and the row of an element (−1 where it is left out).
    Index elementAt(int row) const { return all_ ? Index(row) : order_[std::size_t(row)]; }
    int rowOf(Index element) const;

    const std::vector<Shown>& shown() const { return columns_; }
    Element element() const { return element_; }
    const std::shared_ptr<const NodeOutcome>& outcome() const { return outcome_; }

    int rowCount(const QModelIndex& parent = {}) const override;
    int columnCount(const QModelIndex& parent = {}) const override;
    QVariant data(const QModelIndex& index, int role) const override;
    QVariant headerData(int section, Qt::Orientation orientation, int role) const override;

    /// Rows (all that are shown where `rows` is empty) as comma separated values with a line of titles; full precision.
    QString csv(const std::vector<int>& rows) const;

private:
    void listColumns();
    QString textAt(int row, int column, bool full) const;

    std::shared_ptr<const NodeOutcome> outcome_;  ///< keeps the columns alive
    Element element_ = Element::point;
    std::optional<Column> places_;  ///< of copies
    std::vector<Shown> columns_;
    QStringList hidden_;
    std::vector<Index> order_;
    bool all_ = true;
    std::size_t elements_ = 0;
};

/// What the table should show of a geometry: rows where a formula holds, sorted by a column.
struct RowChoice {
    std::string filter;     ///< a formula such as "mask > 0.5"; empty: all
    std::string attribute;  ///< sorted by it; empty: in their own order
    int component = 0;
    bool descending = false;
    bool plain() const { return filter.empty() && attribute.empty(); }
};

struct ChosenRows {
    std::vector<Index> rows;
    QString problem;  ///< why the filter can't be used
};
/// Thread-safe and without interface. Equal values keep their order. Cost: O(rows · log rows).
ChosenRows chooseRows(const Geometry& geometry, Element element, const RowChoice& choice);

}  // namespace seedloom::app
