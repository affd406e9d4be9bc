#include "app/settings/StrokesField.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/EntryList.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"
#include "app/widgets/WrapLayout.h"

#include <QtCore/QSettings>
#include <QtGui/QKeyEvent>
#include <QtWidgets/QButtonGroup>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr double kSmallest = 0.001, kLargest = 100;

QToolButton* button(const QString& text, const QString& tip, QWidget* parent) {
    auto* out = new QToolButton(parent);
    out->setText(text);
    out->setToolTip(tip);
    out->setFixedHeight(px(24));
    return out;
}

QLabel* nameOf(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setProperty("role", "faint");
    label->setFixedWidth(px(58));
    return label;
}

struct ModeText {
    QString label, tip;
};

ModeText textOf(const std::string& mode) {
    const auto tr = [](const char* text) { return StrokesField::tr(text); };
    if (mode == "add") return {tr("Add"), tr("Raises the mask")};
    if (mode == "remove") return {tr("Remove"), tr("Lowers the mask")};
    if (mode == "grab") return {tr("Grab"), tr("Takes what is under the brush along with the hand, whatever the strength")};
    if (mode == "push") return {tr("Push"), tr("Presses the surface in, half of the brush's size deep at full strength")};
    if (mode == "pull") return {tr("Pull"), tr("Raises the surface by half of the brush's size at full strength")};
    if (mode == "flatten") return {tr("Flatten"), tr("Lays the surface onto one plane, that of the whole stroke")};
    if (mode == "pinch") return {tr("Pinch"), tr("Draws the surface together towards the stroke: edges become sharper")};
    return {tr("Smooth"), tr("Evens it out")};
}

QString nameOfStroke(std::size_t number, const Json& stroke) {
    const auto text = [&](const char* key) {
        return stroke.is_object() && stroke.contains(key) && stroke[key].is_string() ? stroke[key].get<std::string>() : std::string();
    };
    const double radius = stroke.is_object() && stroke.contains("radius") && stroke["radius"].is_number() ? stroke["radius"].get<double>() : 0.1;
    const QString mirror = text("mirror").empty() ? QString() : StrokesField::tr("  ·  mirrored");
    return StrokesField::tr("%1 %2  ·  %3 m").arg(number).arg(textOf(text("mode").empty() ? "add" : text("mode")).label, shownNumber(radius, 'g', 2)) + mirror;
}

/// Unlike lines, strokes are always written as objects.
Json strokeShown(const Json& stroke, bool shown) {
    Json out = stroke;
    if (shown) out.erase("hidden");
    else out["hidden"] = true;
    return out;
}

}  // namespace

StrokesField::StrokesField(const std::vector<std::string>& modes, QWidget* parent) : QWidget(parent), list_(new EntryList(nameOfStroke, strokeShown, this)) {
    const bool shapes = modes.front() != "add";
    brush_.mode = modes.front();
    const QSettings settings;
    brush_.radius = settings.value(QStringLiteral("brush/radius"), brush_.radius).toDouble();
    brush_.strength = settings.value(QStringLiteral("brush/strength"), brush_.strength).toDouble();
    brush_.soft = settings.value(QStringLiteral("brush/soft"), brush_.soft).toDouble();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    addHead(shapes);
    addModes(modes);
    addPart(tr("Size"), tr("m"), 0.005, 0.5, &Brush::radius);
    addPart(tr("Strength"), {}, 0, 1, &Brush::strength);
    addPart(tr("Soft edge"), {}, 0, 1, &Brush::soft);
    addMirrors();
    list_->setAccessibleName(tr("Strokes"));
    list_->setToolTip(tr("Choose a stroke to see where it goes. One without its tick is kept, but left out."));
    column->addWidget(list_);
    connect(list_, &EntryList::edited, this, &StrokesField::edited);
    connect(list_, &EntryList::entryChosen, this, &StrokesField::strokeChosen);
    setStrokes(Json());
}

void StrokesField::addHead(bool shapes) {
    auto* head = new QHBoxLayout;
    paint_ = button(shapes ? tr("Shape") : tr("Paint"),
                    tr("Draw on the model with the left button; beside it the view turns. Shift and the wheel change the size, Escape ends it."), this);
    paint_->setCheckable(true);
    connect(paint_, &QToolButton::toggled, this, &StrokesField::brushChanged);
    head->addWidget(paint_);
    count_ = new QLabel(this);
    count_->setProperty("role", "faint");
    head->addWidget(count_, 1);
    remove_ = button(tr("Remove"), tr("Takes the chosen stroke away; the last one where none is chosen"), this);
    clear_ = button(tr("Clear"), tr("Takes all strokes away"), this);
    connect(remove_, &QToolButton::clicked, list_, &EntryList::removeChosen);
    connect(clear_, &QToolButton::clicked, this, [this] { Q_EMIT edited(Json()); });
    head->addWidget(remove_);
    head->addWidget(clear_);
    static_cast<QVBoxLayout*>(layout())->addLayout(head);
}

void StrokesField::addModes(const std::vector<std::string>& modes) {
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    line->addWidget(nameOf(tr("Does"), this), 0, Qt::AlignTop);
    auto* buttons = new QWidget(this);
    auto* wrap = new WrapLayout(buttons, 4);
    auto* group = new QButtonGroup(this);
    for (const std::string& mode : modes) {
        const ModeText text = textOf(mode);
        QToolButton* choice = button(text.label, text.tip, buttons);
        choice->setCheckable(true);
        choice->setChecked(mode == brush_.mode);
        choice->setObjectName(QStringLiteral("brush_mode_%1").arg(QString::fromStdString(mode)));
        group->addButton(choice);
        wrap->addWidget(choice);
        connect(choice, &QToolButton::clicked, this, [this, mode] {
            brush_.mode = mode;
            Q_EMIT brushChanged();
        });
    }
    line->addWidget(buttons, 1);
    layout()->addItem(line);
}

void StrokesField::addPart(const QString& label, const QString& unit, double low, double high, double Brush::*part) {
    auto* line = new QHBoxLayout;
    line->setSpacing(6);
    line->addWidget(nameOf(label, this));
    auto* field = new NumberField(this);
    field->setUnit(unit);
    field->setStep(0.005);
    field->setAccessibleName(tr("Brush: %1").arg(label));
    const bool isRadius = part == &Brush::radius;
    field->setLimits(isRadius ? kSmallest : low, isRadius ? kLargest : high);
    field->setValue(brush_.*part);
    auto* slider = new Slider(this);
    slider->setRange(low, high);
    slider->setValue(brush_.*part);
    slider->setAccessibleName(tr("Brush: %1").arg(label));
    const auto take = [this, field, slider, part](double v) {
        brush_.*part = v;
        field->setValue(v);
        slider->setValue(v);
        keep();
        Q_EMIT brushChanged();
    };
    connect(field, &NumberField::edited, this, take);
    connect(slider, &Slider::edited, this, take);
    line->addWidget(field, 1);
    line->addWidget(slider, 1);
    layout()->addItem(line);
    if (isRadius) radius_ = field, radiusSlider_ = slider;
}

void StrokesField::addMirrors() {
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    line->addWidget(nameOf(tr("Mirror"), this));
    for (const char axis : {'x', 'y', 'z'}) {
        QToolButton* mirror = button(QString(QLatin1Char(axis)), tr("The other side along %1, too").arg(QLatin1Char(axis)), this);
        mirror->setCheckable(true);
        mirror->setObjectName(QStringLiteral("brush_mirror_%1").arg(QLatin1Char(axis)));
        connect(mirror, &QToolButton::toggled, this, [this, axis](bool on) {
            std::erase(brush_.mirror, axis);
            if (on) brush_.mirror += axis;
            std::sort(brush_.mirror.begin(), brush_.mirror.end());
            Q_EMIT brushChanged();
        });
        line->addWidget(mirror);
    }
    line->addStretch();
    layout()->addItem(line);
}

void StrokesField::setStrokes(const Json& strokes) {
    const auto before = chosen();
    list_->setEntries(strokes);
    const int count = list_->count(), hidden = list_->hiddenCount();
    count_->setText(count == 0   ? tr("nothing yet")
                    : hidden > 0 ? tr("%n stroke(s), %1 left out", nullptr, count).arg(hidden)
                                 : tr("%n stroke(s)", nullptr, count));
    remove_->setEnabled(count > 0);
    clear_->setEnabled(count > 0);
    if (chosen() != before) Q_EMIT strokeChosen();
}

std::optional<std::size_t> StrokesField::chosen() const { return list_->chosen(); }

bool StrokesField::painting() const { return paint_->isChecked(); }
void StrokesField::setPainting(bool on) { paint_->setChecked(on); }

void StrokesField::setRadius(double metres) {
    brush_.radius = std::clamp(metres, kSmallest, kLargest);
    radius_->setValue(brush_.radius);
    radiusSlider_->setValue(brush_.radius);
    keep();
    Q_EMIT brushChanged();
}

void StrokesField::keep() const {
    QSettings settings;
    settings.setValue(QStringLiteral("brush/radius"), brush_.radius);
    settings.setValue(QStringLiteral("brush/strength"), brush_.strength);
    settings.setValue(QStringLiteral("brush/soft"), brush_.soft);
}

void StrokesField::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Escape && painting()) return setPainting(false);
    QWidget::keyPressEvent(event);
}

}  // namespace seedloom::app
