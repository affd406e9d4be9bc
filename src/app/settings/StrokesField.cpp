#include "app/settings/StrokesField.h"

#include "app/look/Theme.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/Slider.h"

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

}  // namespace

StrokesField::StrokesField(QWidget* parent) : QWidget(parent) {
    const QSettings settings;
    brush_.radius = settings.value(QStringLiteral("brush/radius"), brush_.radius).toDouble();
    brush_.strength = settings.value(QStringLiteral("brush/strength"), brush_.strength).toDouble();
    brush_.soft = settings.value(QStringLiteral("brush/soft"), brush_.soft).toDouble();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    paint_ = button(tr("Paint"),
                    tr("Draw on the model with the left button; beside it the view turns. Shift and the wheel change the size, Escape ends painting."), this);
    paint_->setCheckable(true);
    connect(paint_, &QToolButton::toggled, this, &StrokesField::brushChanged);
    head->addWidget(paint_);
    count_ = new QLabel(this);
    count_->setProperty("role", "faint");
    head->addWidget(count_, 1);
    back_ = button(tr("Take back"), tr("Take the last stroke away"), this);
    clear_ = button(tr("Clear"), tr("Take all strokes away"), this);
    connect(back_, &QToolButton::clicked, this, &StrokesField::takeBackWanted);
    connect(clear_, &QToolButton::clicked, this, &StrokesField::clearWanted);
    head->addWidget(back_);
    head->addWidget(clear_);
    column->addLayout(head);
    addModes();
    addPart(tr("Size"), tr("m"), 0.005, 0.5, &Brush::radius);
    addPart(tr("Strength"), {}, 0, 1, &Brush::strength);
    addPart(tr("Soft edge"), {}, 0, 1, &Brush::soft);
    addMirrors();
    setCount(0);
}

void StrokesField::addModes() {
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    line->addWidget(nameOf(tr("Does"), this));
    auto* group = new QButtonGroup(this);
    const std::pair<QString, QString> modes[] = {{tr("Add"), tr("Raises the mask")},
                                                 {tr("Remove"), tr("Lowers the mask")},
                                                 {tr("Smooth"), tr("Evens the mask out")}};
    for (int i = 0; i < 3; ++i) {
        QToolButton* mode = button(modes[i].first, modes[i].second, this);
        mode->setCheckable(true);
        mode->setChecked(i == int(brush_.mode));
        mode->setObjectName(QStringLiteral("brush_mode_%1").arg(i));
        group->addButton(mode, i);
        line->addWidget(mode);
    }
    line->addStretch();
    connect(group, &QButtonGroup::idClicked, this, [this](int id) {
        brush_.mode = Brush::Mode(id);
        Q_EMIT brushChanged();
    });
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
        QToolButton* mirror = button(QString(QLatin1Char(axis)), tr("Paint the other side along %1, too").arg(QLatin1Char(axis)), this);
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

void StrokesField::setCount(std::size_t strokes) {
    count_->setText(strokes == 0 ? tr("nothing painted yet") : tr("%n stroke(s)", nullptr, int(strokes)));
    back_->setEnabled(strokes > 0);
    clear_->setEnabled(strokes > 0);
}

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
