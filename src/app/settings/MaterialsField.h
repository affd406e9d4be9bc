#pragma once
// A list of materials: a colour, a name and a share each.
#include "fields/Source.h"

#include <QtWidgets/QWidget>

class QToolButton;
class QVBoxLayout;

namespace seedloom::app {

class MaterialsField : public QWidget {
    Q_OBJECT

public:
    explicit MaterialsField(QWidget* parent = nullptr);
    /// A list as the setting is written; what can't be read is left out.
    void setMaterials(const Json& list);
    QToolButton* addButton() const { return add_; }
    QToolButton* swatch(int row) const { return swatches_[std::size_t(row)]; }

Q_SIGNALS:
    void edited(const Json& list);

private:
    void fill();
    void addRow(std::size_t i);
    void change(std::size_t i, const char* key, Json value);

    Json list_ = Json::array();
    QVBoxLayout* rows_;
    QToolButton* add_;
    std::vector<QToolButton*> swatches_;
};

}  // namespace seedloom::app
