#include "app/settings/ControlRow.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/ColourSwatch.h"
#include "app/widgets/FieldParts.h"
#include "app/widgets/FileField.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/RampEditor.h"
#include "app/widgets/Slider.h"
#include "fields/Source.h"
#include "graph/Controls.h"

#include <QtCore/QDir>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr int kChoicePicture = 36;

}  // namespace

ControlRow::ControlRow(const Control& control, QString folder, QWidget* parent)
    : QWidget(parent), control_(control), folder_(std::move(folder)), column_(new QVBoxLayout(this)), line_(new QHBoxLayout) {
    column_->setContentsMargins(0, 0, 0, 0);
    column_->setSpacing(4);
    line_->setContentsMargins(0, 0, 0, 0);
    line_->setSpacing(8);
    column_->addLayout(line_);
    build();
    describe();
}

void ControlRow::show(const Json& value) {
    shown_ = value;
    for (const auto& refresher : refreshers_) refresher(value);
}

void ControlRow::build() {
    const std::string& type = control_.type;
    if (type == "boolean") return buildBoolean();
    if (type == "choice") return buildChoice();
    if (type == "text") return buildText();
    if (type == "file") return buildFile();
    if (type == "color") return buildColour();
    if (type == "ramp") return buildRamp();
    buildNumbers(type == "vec2" ? 2 : type == "vec3" ? 3 : 1);
}

template <class Widget> void ControlRow::follow(Widget* widget) {
    connect(widget, &Widget::dragStarted, this, &ControlRow::dragStarted);
    connect(widget, &Widget::dragEnded, this, &ControlRow::dragEnded);
}

void ControlRow::buildNumbers(int components) {
    const bool whole = control_.type == "integer";
    const auto range = sliderRange(control_);
    for (int c = 0; c < components; ++c) {
        auto* field = new NumberField(this);
        field->setWhole(whole);
        field->setUnit(QString::fromStdString(control_.unit));
        field->setLimits(control_.min, control_.max);
        if (range) field->setStep(std::pow(10.0, std::floor(std::log10(std::max(range->second - range->first, 1e-9) / 150))));
        if (whole) field->setStep(0.1);
        follow(field);
        connect(field, &NumberField::edited, this, [this, c, components, whole](double v, bool gesture) {
            Json now = components == 1 ? numberJson(v, whole) : shown_;
            if (components > 1 && !now.is_array()) now = Json::array_t(std::size_t(components), 0.0);
            if (components > 1) now[std::size_t(c)] = v;
            Q_EMIT edited(now, gesture);
        });
        refreshers_.push_back([field, c](const Json& v) {
            const Json& part = v.is_array() && std::size_t(c) < v.size() ? v[std::size_t(c)] : v;
            if (part.is_number()) field->setValue(part.get<double>());
        });
        if (components == 1) field->setFixedWidth(px(92));
        line_->addWidget(field, components == 1 ? 0 : 1);
        if (c == 0) field_ = field;
    }
    if (components > 1) return;
    if (range) buildSlider();
    else line_->addStretch(1);
}

void ControlRow::buildSlider() {
    const bool whole = control_.type == "integer";
    const auto range = sliderRange(control_);
    slider_ = new Slider(this);
    slider_->setRange(range->first, range->second);
    slider_->setWhole(whole);
    slider_->setStep(control_.step);
    follow(slider_);
    connect(slider_, &Slider::edited, this, [this, whole](double v, bool gesture) { Q_EMIT edited(numberJson(v, whole), gesture); });
    refreshers_.push_back([this](const Json& v) {
        if (v.is_number()) slider_->setValue(v.get<double>());
    });
    line_->addWidget(slider_, 1);
}

void ControlRow::buildBoolean() {
    auto* box = new QCheckBox(this);
    connect(box, &QCheckBox::clicked, this, [this](bool on) { Q_EMIT edited(on, false); });
    refreshers_.push_back([box](const Json& v) { box->setChecked(v == Json(true)); });
    line_->addWidget(box);
    line_->addStretch();
}

void ControlRow::buildChoice() {
    auto* box = new QComboBox(this);
    bool pictured = false;
    for (std::size_t i = 0; i < control_.choices.size(); ++i) {
        const QString file = i < control_.pictures.size() ? QDir(folder_).filePath(QString::fromStdString(control_.pictures[i])) : QString();
        const QIcon picture = file.isEmpty() ? QIcon() : QIcon(file);
        pictured |= !picture.availableSizes().isEmpty();
        box->addItem(picture, QString::fromStdString(control_.choices[i]));
    }
    if (pictured) box->setIconSize({px(kChoicePicture), px(kChoicePicture)});
    connect(box, &QComboBox::activated, this, [this, box] { Q_EMIT edited(box->currentText().toStdString(), false); });
    refreshers_.push_back([box](const Json& v) {
        if (v.is_string()) box->setCurrentText(QString::fromStdString(v.get<std::string>()));
    });
    line_->addWidget(box, 1);
}

void ControlRow::buildText() {
    auto* field = new QLineEdit(this);
    connect(field, &QLineEdit::editingFinished, this, [this, field] {
        if (Json(field->text().toStdString()) != shown_) Q_EMIT edited(field->text().toStdString(), false);
    });
    refreshers_.push_back([field](const Json& v) {
        if (v.is_string() && !field->hasFocus()) field->setText(QString::fromStdString(v.get<std::string>()));
    });
    line_->addWidget(field, 1);
}

void ControlRow::buildFile() {
    auto* file = new FileField(control_.choices, folder_, this);
    connect(file, &FileField::edited, this, [this](const QString& path) { Q_EMIT edited(path.toStdString(), false); });
    refreshers_.push_back([file](const Json& v) { file->setPath(v.is_string() ? QString::fromStdString(v.get<std::string>()) : QString()); });
    line_->addWidget(file, 1);
}

void ControlRow::buildColour() {
    auto* swatch = new ColourSwatch(this);
    swatch->setToolTip(tr("Colour: %1").arg(QString::fromStdString(control_.label)));
    auto* code = smallLabel({}, this);
    connect(swatch, &ColourSwatch::edited, this, [this](const QColor& colour) { Q_EMIT edited(colourJson(colour), false); });
    refreshers_.push_back([swatch, code](const Json& v) {
        if (!v.is_array() || v.size() != 3) return;
        const auto part = [&](std::size_t c) { return std::clamp(v[c].is_number() ? v[c].get<float>() : 0.0f, 0.0f, 1.0f); };
        swatch->setColour(QColor::fromRgbF(part(0), part(1), part(2)));
        code->setText(QStringLiteral("%1  %2  %3").arg(shownNumber(part(0), 'f', 2), shownNumber(part(1), 'f', 2), shownNumber(part(2), 'f', 2)));
    });
    line_->addWidget(swatch);
    line_->addWidget(code);
    line_->addStretch();
}

void ControlRow::buildRamp() {
    line_->addStretch();
    auto* ramp = new RampEditor(this);
    follow(ramp);
    connect(ramp, &RampEditor::edited, this, [this](const Ramp& drawn, bool gesture) { Q_EMIT edited(rampToJson(drawn), gesture); });
    refreshers_.push_back([ramp](const Json& v) {
        if (const auto read = rampFromJson(v)) ramp->setRamp(*read);
    });
    column_->addWidget(ramp);
}

void ControlRow::describe() {
    for (QWidget* part : findChildren<QWidget*>()) {
        if (part->accessibleName().isEmpty() && part->focusPolicy() != Qt::NoFocus) part->setAccessibleName(QString::fromStdString(control_.label));
        if (part->toolTip().isEmpty())
            part->setAccessibleDescription(control_.help.empty() ? tr("A control of the loom.") : QString::fromStdString(control_.help));
    }
}

}  // namespace seedloom::app
