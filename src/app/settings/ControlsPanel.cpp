#include "app/settings/ControlsPanel.h"

#include "app/look/Theme.h"
#include "app/settings/ControlForm.h"
#include "app/widgets/DragName.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "app/widgets/SwapPage.h"
#include "graph/Controls.h"

#include <QtCore/QMimeData>
#include <QtGui/QDragEnterEvent>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

ControlsPanel::ControlsPanel(Document& document, QWidget* parent) : QScrollArea(parent), document_(document) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Controls"));
    setAccessibleDescription(tr("The values by which the loom is adjusted. Drop the name of a setting here to make a control of it."));
    setAcceptDrops(true);
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
        out += c.id + "|" + c.label + "|" + c.unit + "|" + c.help + "|" + c.type + "|" + c.section + "|" + std::to_string(c.min.value_or(0)) + "|" +
               std::to_string(c.max.value_or(0)) + ";";
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
    names_.clear();
    presets_ = nullptr;
    form_ = nullptr;
    built_ = shape();
    const Loom& loom = document_.loom();
    if (loom.controls.size() > std::exchange(shown_, loom.controls.size())) Q_EMIT roomWanted();
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(16, 12, 12, 12);
    column->setSpacing(6);
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("Controls"), page);
    title->setProperty("role", "title");
    head->addWidget(title, 1);
    if (!loom.presets.empty()) {
        presets_ = new QComboBox(page);
        presets_->setAccessibleName(tr("Presets"));
        presets_->setToolTip(tr("Sets all controls to values that were kept under a name"));
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
    if (!loom.controls.empty()) {
        auto* keep = new QToolButton(page);
        keep->setIcon(icon(QStringLiteral("add")));
        keep->setToolTip(tr("Keep these values as a preset, or delete the one in use"));
        keep->setAccessibleName(tr("Keep or delete presets"));
        connect(keep, &QToolButton::clicked, this, [this, keep] {
            auto* menu = new QMenu(window());
            menu->setAttribute(Qt::WA_DeleteOnClose);
            menu->addAction(tr("Keep as a preset …"), this, &ControlsPanel::askForPreset);
            const QString name = presets_ ? presets_->currentText() : QString();
            if (presets_ && presets_->currentIndex() >= 0)
                menu->addAction(tr("Delete preset %1").arg(name), this, [this, name] { document_.apply(removePreset(document_.loom(), name.toStdString())); });
            menu->popup(keep->mapToGlobal(QPoint(0, keep->height())));
        });
        head->addWidget(keep);
    }
    column->addLayout(head);
    if (loom.controls.empty()) {
        auto* hint = new QLabel(tr("No controls yet. Drag the name of a setting here to make a control of it."), page);
        hint->setWordWrap(true);
        hint->setProperty("role", "faint");
        column->addWidget(hint);
    }
    std::string section;
    for (const Control& control : loom.controls) {
        if (control.section != section) {
            section = control.section;
            auto* label = new QLabel(QString::fromStdString(section).toUpper(), page);
            label->setProperty("role", "section");
            column->addWidget(label);
        }
        column->addWidget(makeRow(control, page));
    }
    column->addStretch();
    swapPage(this, page);
    for (const auto& refresher : refreshers_) refresher();
}

QWidget* ControlsPanel::makeRow(const Control& control, QWidget* page) {
    auto* row = new QWidget(page);
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(0, 0, 0, 0);
    line->setSpacing(8);
    auto* name = new DragName(QString::fromStdString(control.label), kControlMime, QByteArray::fromStdString(control.id), row);
    name->setFixedWidth(px(86));
    name->setWordWrap(true);
    name->setToolTip(QStringLiteral("<p>%1</p><p>%2</p>")
                         .arg(QString::fromStdString(control.help).toHtmlEscaped(),
                              tr("Click the name to go back to the default. Drag it onto a setting to drive that one, too; right click to change it.")));
    names_[control.id] = name;
    connect(name, &DragName::clicked, this, [this, id = control.id] {
        if (const Control* found = document_.loom().control(id)) put(id, found->fallback, false);
    });
    connect(name, &DragName::menuWanted, this, [this, id = control.id](QPoint at) { openMenu(id, at); });
    line->addWidget(name);
    refreshers_.push_back(
        [this, name, id = control.id] { name->setFont(bodyFont(12, document_.loom().values.contains(id) ? QFont::DemiBold : QFont::Normal)); });
    const std::string id = control.id;
    const auto current = [this, id]() -> Json {
        const Control* now = document_.loom().control(id);
        return now ? value(*now) : Json();
    };
    if (control.type == "boolean") {
        auto* box = new QCheckBox(row);
        box->setAccessibleName(QString::fromStdString(control.label));
        connect(box, &QCheckBox::clicked, this, [this, id](bool on) { put(id, on, false); });
        refreshers_.push_back([box, current] { box->setChecked(current() == Json(true)); });
        line->addWidget(box);
        line->addStretch();
    } else if (control.type == "choice") {
        auto* box = new QComboBox(row);
        box->setAccessibleName(QString::fromStdString(control.label));
        for (const std::string& word : control.choices) box->addItem(QString::fromStdString(word));
        connect(box, &QComboBox::activated, this, [this, id, box] { put(id, box->currentText().toStdString(), false); });
        refreshers_.push_back([box, current] {
            if (const Json v = current(); v.is_string()) box->setCurrentText(QString::fromStdString(v.get<std::string>()));
        });
        line->addWidget(box, 1);
    } else if (control.type == "text") {
        auto* field = new QLineEdit(row);
        field->setAccessibleName(QString::fromStdString(control.label));
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
            connect(widget, &Widget::dragEnded, this, [this] {
                gesture_ = 0;
                document_.endGesture();
            });
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
            if (components == 1) field->setFixedWidth(px(92));
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
    for (QWidget* part : row->findChildren<QWidget*>())
        if (part->toolTip().isEmpty())
            part->setAccessibleDescription(control.help.empty() ? tr("A control of the loom.") : QString::fromStdString(control.help));
    return row;
}

void ControlsPanel::openMenu(const std::string& id, QPoint global) {
    const Loom& loom = document_.loom();
    std::size_t at = 0;
    while (at < loom.controls.size() && loom.controls[at].id != id) ++at;
    if (at == loom.controls.size()) return;
    auto* menu = new QMenu(window());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    menu->addAction(tr("Change …"), this, [this, id] { askForChange(id); });
    const auto move = [&](const QString& text, std::size_t to, bool possible) {
        // It goes where its neighbour is, into that one's section.
        const std::string section = possible ? loom.controls[to].section : std::string();
        menu->addAction(text, this, [this, id, to, section] { document_.apply(moveControl(document_.loom(), id, to, section)); })->setEnabled(possible);
    };
    move(tr("Move up"), at - 1, at > 0);
    move(tr("Move down"), at + 1, at + 1 < loom.controls.size());
    menu->addAction(tr("Back to the default"), this, [this, id] { put(id, document_.loom().control(id)->fallback, false); });
    menu->addSeparator();
    menu->addAction(tr("Remove; settings keep the value"), this, [this, id] { document_.apply(removeControl(document_.loom(), id)); });
    menu->popup(global);
}

void ControlsPanel::endForm() {
    if (!form_) return;
    form_->hide();
    form_->deleteLater();
    form_ = nullptr;
}

void ControlsPanel::ask(const Control& control, const QString& button, std::function<void(const Control&)> take) {
    endForm();
    QStringList sections;
    for (const Control& c : document_.loom().controls) sections << QString::fromStdString(c.section);
    sections.removeDuplicates();
    form_ = new ControlForm(control, sections, button, widget());
    static_cast<QVBoxLayout*>(widget()->layout())->insertWidget(1, form_);
    connect(form_, &ControlForm::done, this, [this, take = std::move(take)](bool taken) {
        const Control made = form_->control();
        endForm();
        if (taken) take(made);
    });
    form_->show();
    form_->name()->setFocus();
    verticalScrollBar()->setValue(0);
    Q_EMIT roomWanted();
}

void ControlsPanel::askForNew(const std::string& node, const std::string& setting, const Control& proposed) {
    ask(proposed, tr("Make control"),
        [this, node, setting](const Control& made) { document_.apply(makeControl(document_.loom(), document_.place().path, node, setting, made)); });
}

void ControlsPanel::askForChange(const std::string& id) {
    const Control* control = document_.loom().control(id);
    if (control) ask(*control, tr("Change"), [this](const Control& changed) { document_.apply(changeControl(document_.loom(), changed)); });
}

void ControlsPanel::askForPreset() {
    auto* field = new QLineEdit(widget());
    field->setPlaceholderText(tr("Name of the preset, then Enter"));
    field->setAccessibleName(tr("Name of the preset"));
    field->setText(presets_ ? presets_->currentText() : QString());
    static_cast<QVBoxLayout*>(widget()->layout())->insertWidget(1, field);
    connect(field, &QLineEdit::returnPressed, this, [this, field] {
        const std::string name = field->text().trimmed().toStdString();
        field->hide();
        field->deleteLater();
        if (!name.empty()) document_.apply(savePreset(document_.loom(), name));
    });
    connect(field, &QLineEdit::editingFinished, field, [field] {
        if (field->hasFocus()) return;
        field->hide();
        field->deleteLater();
    });
    field->show();
    field->setFocus();
    field->selectAll();
}

QPoint ControlsPanel::namePixel(const std::string& control) const {
    const auto it = names_.find(control);
    return it == names_.end() ? QPoint() : it->second->mapTo(this, QPoint(6, it->second->height() / 2));
}

void ControlsPanel::dragEnterEvent(QDragEnterEvent* event) {
    if (!draggedSetting(event->mimeData()).second.empty()) event->acceptProposedAction();
}

void ControlsPanel::dropEvent(QDropEvent* event) {
    const auto [node, setting] = draggedSetting(event->mimeData());
    event->acceptProposedAction();
    Q_EMIT settingDropped(QString::fromStdString(node), QString::fromStdString(setting));
}

}  // namespace seedloom::app
