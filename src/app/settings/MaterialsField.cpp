#include "app/settings/MaterialsField.h"

#include "app/widgets/ColourSwatch.h"
#include "app/widgets/FieldParts.h"
#include "app/widgets/NumberField.h"
#include "geometry/Materials.h"

#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

QColor colourOf(const Json& material) {
    const Json list = material.value("color", Json::array());
    const auto part = [&](std::size_t c) {
        return list.is_array() && c < list.size() && list[c].is_number() ? std::clamp(list[c].get<float>(), 0.0f, 1.0f) : Material{}.color[int(c)];
    };
    return QColor::fromRgbF(part(0), part(1), part(2));
}

}  // namespace

MaterialsField::MaterialsField(QWidget* parent) : QWidget(parent), rows_(new QVBoxLayout), add_(new QToolButton(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    rows_->setSpacing(4);
    column->addLayout(rows_);
    add_->setText(tr("Add material"));
    add_->setToolTip(tr("Adds a material to the list"));
    column->addWidget(add_, 0, Qt::AlignLeft);
    connect(add_, &QToolButton::clicked, this, [this] {
        const Material next = materialAt({}, std::int32_t(list_.size()));
        const auto rounded = [](float v) { return std::round(double(v) * 100) / 100; };
        Json list = list_;
        list.push_back({{"name", next.name}, {"color", {rounded(next.color.x), rounded(next.color.y), rounded(next.color.z)}}, {"share", 1}});
        Q_EMIT edited(list);
    });
}

void MaterialsField::setMaterials(const Json& list) {
    Json usable = Json::array();
    if (list.is_array())
        for (const Json& material : list)
            if (material.is_object()) usable.push_back(material);
    if (usable == list_ && swatches_.size() == list_.size()) return;  // whoever types keeps the field he types in
    list_ = std::move(usable);
    fill();
}

void MaterialsField::fill() {
    while (QLayoutItem* item = rows_->takeAt(0)) {
        if (QWidget* widget = item->widget()) widget->hide(), widget->deleteLater();
        delete item;
    }
    swatches_.clear();
    for (std::size_t i = 0; i < list_.size(); ++i) addRow(i);
}

void MaterialsField::addRow(std::size_t i) {
    auto* row = new QWidget(this);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(5);
    const Json& material = list_[i];
    const std::string written = material.contains("name") && material["name"].is_string() ? material["name"].get<std::string>() : std::string();
    const QString text = QString::fromStdString(written);
    auto* swatch = new ColourSwatch(row);
    swatch->setColour(colourOf(material));
    swatch->setToolTip(tr("Colour of %1").arg(text));
    swatch->setAccessibleName(swatch->toolTip());
    connect(swatch, &ColourSwatch::edited, this, [this, i](const QColor& colour) { change(i, "color", colourJson(colour)); });
    swatches_.push_back(swatch);
    auto* name = new QLineEdit(text, row);
    name->setAccessibleName(tr("Name of material %1").arg(i));
    connect(name, &QLineEdit::editingFinished, this, [this, i, name, written] {
        if (name->text().toStdString() != written) change(i, "name", name->text().toStdString());
    });
    auto* share = new NumberField(row);
    share->setLimits(0, {});
    share->setValue(material.contains("share") && material["share"].is_number() ? material["share"].get<double>() : 1);
    share->setAccessibleName(tr("Share of %1").arg(text));
    share->setToolTip(tr("How often it comes beside the others, where they are chosen by chance"));
    connect(share, &NumberField::edited, this, [this, i](double v, bool) { change(i, "share", v); });
    auto* away = new QToolButton(row);
    away->setText(QStringLiteral("×"));
    away->setToolTip(tr("Takes %1 out of the list").arg(text));
    away->setEnabled(list_.size() > 1);
    connect(away, &QToolButton::clicked, this, [this, i] {
        Json list = list_;
        list.erase(i);
        Q_EMIT edited(list);
    });
    line->addWidget(swatch);
    line->addWidget(name, 3);
    line->addWidget(share, 1);
    line->addWidget(away);
    rows_->addWidget(row);
}

void MaterialsField::change(std::size_t i, const char* key, Json value) {
    if (i >= list_.size()) return;
    Json list = list_;
    list[i][key] = std::move(value);
    Q_EMIT edited(list);
}

}  // namespace seedloom::app
