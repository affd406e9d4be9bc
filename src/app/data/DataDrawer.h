#pragma once
#include "app/data/GeometryModel.h"

#include <QtWidgets/QWidget>

class QLabel;
class QTableView;
class QButtonGroup;

namespace seedloom::app {

/// The table of the chosen node's attribute values, by element kind.
class DataDrawer : public QWidget {
    Q_OBJECT

public:
    explicit DataDrawer(QWidget* parent = nullptr);
    void show(const QString& nodeName, std::shared_ptr<const NodeOutcome> outcome);
    void setElement(Element element);
    QTableView* table() const { return table_; }
    GeometryModel* model() const { return model_; }

private:
    void refresh();

    GeometryModel* model_;
    QTableView* table_;
    QLabel *title_, *empty_;
    QButtonGroup* kinds_;
    std::shared_ptr<const NodeOutcome> outcome_;
    Element element_ = Element::point;
};

}  // namespace seedloom::app
