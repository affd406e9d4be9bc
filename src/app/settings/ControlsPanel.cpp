#include "app/settings/ControlsPanel.h"

#include "app/settings/NumberField.h"
#include "app/settings/Slider.h"
#include "app/shell/Theme.h"
#include "graph/Controls.h"

#include <QtGui/QMouseEvent>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

ControlsPanel::ControlsPanel(Document& document, QWidget* parent) : QScrollArea(parent), document_(document) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Controls"));
    connect(&document_, &Document::changed, this, &ControlsPanel::refresh);
    build();
}

Slider* ControlsPanel::slider(const std::string& control) const {
    const auto it = sliders_.find(control);
    return it == sliders_.end() ? nullptr : it->second;
}

NumberField* ControlsPanel::field(const std::string& control) const {
    const auto it = fields_.find(control);
    return it == fields_.end() ? nullptr : it->second;
}

int ControlsPanel::wantedHeight() const { return widget() ? widget()->sizeHint().height() : 0; }

std::string ControlsPanel::shape() const {
    std::string out;
    for (const Control& c : document_.loom().controls) {
        out += c.id + "|" + c.label + "|" + c.type + "|" + c.section + "|" + std::to_string(c.min.value_or(0)) + "|" + std::to_string(c.max.value_or(0)) + ";";
    }
    for (const Preset& p : document_.loom().presets) out += p.name + ";";
    return out;
}

Json ControlsPanel::value(const Control& control) const {
    const auto values = controlValues(document_.loom());
    if (!values) return control.fallback;
    const auto it = values->find(control.id);
    return it == values->end() ? control.fallback : it->second;
}

void ControlsPanel::put(const std::string& control, const Json& value, bool gesture) {
    document_.apply(setControlValue(document_.loom(), control, value), gesture ? gesture_ : 0);
}

void ControlsPanel::refresh() {
    if (shape() != built_) build();
    for (const auto& refresher : refreshers_) refresher();
}

void ControlsPanel::build() {
    refreshers_.clear();
    sliders_.clear();
    fields_.clear();
    built_ = shape();
    const Loom& loom = document_.loom();
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(16, 12, 12, 12);
    column->setSpacing(6);
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("Controls"), page);
    title->setFont(bodyFont(14, QFont::DemiBold));
    head->addWidget(title, 1);
    if (!loom.presets.empty()) {
        presets_ = new QComboBox(page);
        presets_->setAccessibleName(tr("Presets"));
        presets_->setPlaceholderText(tr("Presets"));
        for (const Preset& p : loom.presets) presets_->addItem(QString::fromStdString(p.name));
        presets_->setCurrentIndex(-1);
        connect(presets_, &QComboBox::activated, this, [this](int i) {
            if (i < int(document_.loom().presets.size())) document_.apply(applyPreset(document_.loom(), document_.loom().presets[std::size_t(i)]));
        });
        refreshers_.push_back([this, box = presets_] {
            int found = -1;
            const Loom& now = document_.loom();
            for (std::size_t i = 0; i < now.presets.size(); ++i)
                if (applyPreset(now, now.presets[i]).empty()) found = int(i);
            box->setCurrentIndex(found);
        });
        head->addWidget(presets_);
    }
    column->addLayout(head);
    if (loom.controls.empty()) {
        auto* hint = new QLabel(tr("No controls yet. Open the source button of a setting and choose 'Make a control of it'."), page);
        hint->setWordWrap(true);
        hint->setStyleSheet(QStringLiteral("color: %1;").arg(colours().faint.name()));
        column->addWidget(hint);
    }
    std::string section;
    for (const Control& control : loom.controls) {
        if (control.section != section) {
            section = control.section;
            auto* label = new QLabel(QString::fromStdString(section), page);
            label->setFont(bodyFont(11, QFont::DemiBold));
            label->setIndent(0);
            label->setStyleSheet(QStringLiteral("color: %1;").arg(colours().faint.name()));
            column->addWidget(label);
        }
        column->addWidget(makeRow(control, page));
    }
    column->addStretch();
    if (QWidget* old = takeWidget()) {
        old->hide();
        old->deleteLater();
    }
    setWidget(page);
    page->show();
    for (const auto& refresher : refreshers_) refresher();
}

QWidget* ControlsPanel::makeRow(const Control& control, QWidget* page) {
    auto* row = new QWidget(page);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(8);
    auto* name = new QLabel(QString::fromStdString(control.label), row);
    name->setFixedWidth(86);
    name->setToolTip(QStringLiteral("<p>%1</p><p>%2</p>").arg(QString::fromStdString(control.help), tr("Click the name to go back to the default.")));
    name->setProperty("control", QString::fromStdString(control.id));
    name->setCursor(Qt::PointingHandCursor);
    name->installEventFilter(this);
    line->addWidget(name);
    refreshers_.push_back([this, name, id = control.id] { name->setFont(bodyFont(12, document_.loom().values.contains(id) ? QFont::DemiBold : QFont::Normal)); });
    const std::string id = control.id;
    const auto current = [this, id]() -> Json {
        const Control* now = document_.loom().control(id);
        return now ? value(*now) : Json();
    };
    if (control.type == "boolean") {
        auto* box = new QCheckBox(row);
        connect(box, &QCheckBox::clicked, this, [this, id](bool on) { put(id, on, false); });
        refreshers_.push_back([box, current] { box->setChecked(current() == Json(true)); });
        line->addWidget(box);
        line->addStretch();
    } else if (control.type == "choice") {
        auto* box = new QComboBox(row);
        for (const std::string& word : control.choices) box->addItem(QString::fromStdString(word));
        connect(box, &QComboBox::activated, this, [this, id, box] { put(id, box->currentText().toStdString(), false); });
        refreshers_.push_back([box, current] {
            if (const Json v = current(); v.is_string()) box->setCurrentText(QString::fromStdString(v.get<std::string>()));
        });
        line->addWidget(box, 1);
    } else if (control.type == "text") {
        auto* field = new QLineEdit(row);
        connect(field, &QLineEdit::editingFinished, this, [this, id, field] { put(id, field->text().toStdString(), false); });
        refreshers_.push_back([field, current] {
            if (const Json v = current(); v.is_string() && !field->hasFocus()) field->setText(QString::fromStdString(v.get<std::string>()));
        });
        line->addWidget(field, 1);
    } else {
        const bool whole = control.type == "integer";
        const int components = control.type == "vec2" ? 2 : control.type == "vec3" ? 3 : 1;
        const auto toJson = [whole](double v) { return whole ? Json(std::int64_t(std::llround(v))) : Json(v); };
        const auto follow = [this](auto* widget) {
            using Widget = std::remove_pointer_t<decltype(widget)>;
            connect(widget, &Widget::dragStarted, this, [this] { gesture_ = document_.newGesture(); });
            connect(widget, &Widget::dragEnded, this, [this] { gesture_ = 0; });
        };
        for (int c = 0; c < components; ++c) {
            auto* field = new NumberField(row);
            field->setWhole(whole);
            field->setUnit(QString::fromStdString(control.unit));
            field->setLimits(control.min, control.max);
            field->setAccessibleName(QString::fromStdString(control.label));
            if (control.min && control.max) field->setStep(std::pow(10.0, std::floor(std::log10(std::max(*control.max - *control.min, 1e-9) / 150))));
            if (whole) field->setStep(0.1);
            follow(field);
            connect(field, &NumberField::edited, this, [this, id, c, components, toJson, current](double v, bool gesture) {
                Json now = components == 1 ? toJson(v) : current();
                if (components > 1 && now.is_array()) now[std::size_t(c)] = v;
                put(id, now, gesture);
            });
            refreshers_.push_back([field, current, c] {
                const Json v = current();
                const Json& part = v.is_array() && std::size_t(c) < v.size() ? v[std::size_t(c)] : v;
                if (part.is_number()) field->setValue(part.get<double>());
            });
            if (components == 1) field->setFixedWidth(92);
            line->addWidget(field, components == 1 ? 0 : 1);
            if (c == 0) fields_[id] = field;
        }
        if (components == 1 && control.min && control.max) {
            auto* slider = new Slider(row);
            slider->setAccessibleName(QString::fromStdString(control.label));
            slider->setRange(*control.min, *control.max);
            slider->setWhole(whole);
            follow(slider);
            connect(slider, &Slider::edited, this, [this, id, toJson](double v, bool gesture) { put(id, toJson(v), gesture); });
            refreshers_.push_back([slider, current] {
                if (const Json v = current(); v.is_number()) slider->setValue(v.get<double>());
            });
            sliders_[id] = slider;
            line->addWidget(slider, 1);
        } else if (components == 1) {
            line->addStretch(1);
        }
    }
    return row;
}

bool ControlsPanel::eventFilter(QObject* watched, QEvent* event) {
    const QVariant control = watched->property("control");
    if (event->type() == QEvent::MouseButtonRelease && control.isValid()) {
        if (const Control* found = document_.loom().control(control.toString().toStdString())) put(found->id, found->fallback, false);
        return true;
    }
    return QScrollArea::eventFilter(watched, event);
}

}  // namespace seedloom::app
