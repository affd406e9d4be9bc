#include "app/stage/StageTools.h"

#include "app/look/Theme.h"
#include "app/widgets/Slider.h"

#include <QtCore/QSettings>
#include <QtGui/QAction>
#include <QtWidgets/QButtonGroup>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QMenu>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QWidgetAction>

namespace seedloom::app {

StageTools::StageTools(QWidget* parent) : QWidget(parent), shadings_(new QWidget(this)), overlays_(new QWidget(this)) {
    for (QWidget* group : {shadings_, overlays_}) {
        auto* row = new QHBoxLayout(group);
        row->setContentsMargins(0, 0, 0, 0);
        row->setSpacing(4);
    }
    auto* group = new QButtonGroup(this);
    const std::tuple<Shading, QString, QString> shadings[] = {
        {Shading::look, tr("Look"), tr("Show it in its own colours and materials")},
        {Shading::clay, tr("Clay"), tr("Show the plain shape, whatever its colours")},
        {Shading::attribute, tr("Attribute"), tr("Colour by an attribute")},
        {Shading::checker, tr("Checker"), tr("Squares that follow the uv, to see how a texture would lie")},
        {Shading::sides, tr("Face sides"), tr("Fronts plain, backs hatched: turned faces show")},
        {Shading::difference, tr("Difference"),
         tr("How far each point moved since the node before, or between two chosen nodes; what was added and what is gone")}};
    for (const auto& [shading, text, tip] : shadings) {
        const auto i = std::size_t(shading);
        shading_[i] = add(shadings_, text, tip);
        group->addButton(shading_[i]);
        if (shading == Shading::attribute) {
            attribute_ = new QComboBox(shadings_);
            attribute_->setAccessibleName(tr("Attribute that gives the colours"));
            attribute_->setToolTip(tr("The attribute that gives the colours"));
            attribute_->setMinimumWidth(px(92));
            attribute_->hide();
            shadings_->layout()->addWidget(attribute_);
        }
        connect(shading_[i], &QToolButton::toggled, this, [this, i](bool on) {
            if (i == std::size_t(Shading::attribute)) attribute_->setVisible(on);
            if (on) Q_EMIT lookChanged();
        });
    }
    shading_[std::size_t(Shading::look)]->setChecked(true);
    connect(attribute_, &QComboBox::currentTextChanged, this, &StageTools::lookChanged);
    wire_ = add(overlays_, tr("Wire"), tr("Draw the edges of all faces"));
    points_ = add(overlays_, tr("Points"), tr("Draw all points, and let a click choose them"));
    normals_ = add(overlays_, tr("Normals"), tr("Draw the direction that the surface faces at each point"));
    xray_ = add(overlays_, tr("X-ray"), tr("See through the faces"));
    for (QToolButton* button : {wire_, xray_}) connect(button, &QToolButton::toggled, this, &StageTools::optionsChanged);
    for (QToolButton* button : {points_, normals_}) connect(button, &QToolButton::toggled, this, &StageTools::lookChanged);
    more_ = add(overlays_, tr("More"), tr("Open edges, element numbers, the height, arrows of an attribute"));
    more_->setCheckable(false);
    more_->setPopupMode(QToolButton::InstantPopup);
    compare_ = add(overlays_, tr("Compare"), tr("Before and after the chosen node, side by side; with a pinned or a second chosen node, those two"));
    connect(compare_, &QToolButton::clicked, this, &StageTools::compareWanted);
    fillMore();
    addApart();
    for (const char* id : {"wire", "points", "normals", "xray"})
        connect(overlayButton(QLatin1String(id)), &QToolButton::toggled, this, [this, id](bool on) { Q_EMIT overlayChanged(QLatin1String(id), on); });
    for (const char* id : {"open_edges", "numbers", "height"})
        connect(overlayAction(QLatin1String(id)), &QAction::toggled, this, [this, id](bool on) { Q_EMIT overlayChanged(QLatin1String(id), on); });
}

/// Only there where the shown geometry is in pieces.
void StageTools::addApart() {
    apartRow_ = new QWidget(overlays_);
    auto* row = new QHBoxLayout(apartRow_);
    row->setContentsMargins(6, 0, 0, 0);
    row->setSpacing(4);
    auto* name = new QLabel(tr("Apart"), apartRow_);
    name->setFont(bodyFont(11, QFont::Medium));
    row->addWidget(name);
    apart_ = new Slider(apartRow_);
    apart_->setRange(0, 2);
    apart_->setAccessibleName(tr("Draw pieces apart"));
    apartRow_->setToolTip(tr("Draw the pieces apart, to look inside; nothing is changed"));
    row->addWidget(apart_);
    overlays_->layout()->addWidget(apartRow_);
    apartRow_->hide();
    connect(apart_, &Slider::edited, this, &StageTools::lookChanged);
}

void StageTools::offerApart(bool pieces) { apartRow_->setVisible(pieces); }

void StageTools::fillMore() {
    auto* menu = new QMenu(more_);
    openEdges_ = menu->addAction(tr("Open edges"));
    numbers_ = menu->addAction(tr("Numbers of points or faces"));
    height_ = menu->addAction(tr("Height beside the model"));
    for (QAction* action : {openEdges_, numbers_, height_}) action->setCheckable(true);
    height_->setChecked(heightWanted());
    connect(height_, &QAction::toggled, this, [this](bool on) {
        QSettings().setValue(QStringLiteral("stage/height"), on);
        Q_EMIT optionsChanged();
    });
    connect(openEdges_, &QAction::toggled, this, &StageTools::lookChanged);
    connect(numbers_, &QAction::toggled, this, &StageTools::optionsChanged);
    menu->addSeparator();
    auto* page = new QWidget(menu);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(12, 4, 12, 8);
    column->addWidget(new QLabel(tr("Arrows of"), page));
    arrows_ = new QComboBox(page);
    arrows_->setAccessibleName(tr("Attribute drawn as arrows"));
    arrows_->addItem(tr("nothing"));
    column->addWidget(arrows_);
    column->addWidget(new QLabel(tr("Length"), page));
    length_ = new Slider(page);
    length_->setAccessibleName(tr("Length of arrows"));
    length_->setRange(0.1, 5);
    length_->setValue(1);
    length_->setMinimumWidth(px(150));
    column->addWidget(length_);
    auto* row = new QWidgetAction(menu);
    row->setDefaultWidget(page);
    menu->addAction(row);
    more_->setMenu(menu);
    connect(arrows_, &QComboBox::currentTextChanged, this, &StageTools::lookChanged);
    connect(length_, &Slider::edited, this, &StageTools::lookChanged);
}

QToolButton* StageTools::add(QWidget* group, const QString& text, const QString& tip) {
    auto* made = new QToolButton(group);
    made->setText(text);
    made->setToolTip(tip);
    made->setCheckable(true);
    made->setFont(bodyFont(11, QFont::Medium));
    made->setMinimumHeight(px(24));
    group->layout()->addWidget(made);
    return made;
}

SceneLook StageTools::look() const {
    SceneLook look;
    for (std::size_t i = 0; i < shading_.size(); ++i)
        if (shading_[i]->isChecked()) look.shading = static_cast<Shading>(i);
    if (look.shading == Shading::attribute) look.attribute = attribute_->currentText().toStdString();
    if (arrows_->currentIndex() > 0) look.arrows = arrows_->currentText().toStdString();
    look.arrowLength = length_->value();
    look.apart = apart_->value();
    look.points = points_->isChecked();
    look.normals = normals_->isChecked();
    look.openEdges = openEdges_->isChecked();
    return look;
}

DrawOptions StageTools::options() const { return {wire_->isChecked(), xray_->isChecked()}; }

bool StageTools::numbers() const { return numbers_->isChecked(); }

bool StageTools::heightWanted() { return QSettings().value(QStringLiteral("stage/height"), true).toBool(); }

bool StageTools::height() const { return height_->isChecked(); }

void StageTools::setAttribute(const QString& name) {
    if (attribute_->findText(name) < 0) attribute_->addItem(name);
    attribute_->setCurrentText(name);
    shading_[std::size_t(Shading::attribute)]->setChecked(true);
}

void StageTools::setShading(Shading shading) { shading_[std::size_t(shading)]->setChecked(true); }

void StageTools::setWire(bool on) { wire_->setChecked(on); }

QToolButton* StageTools::overlayButton(const QString& id) const {
    const std::pair<const char*, QToolButton*> buttons[] = {{"wire", wire_}, {"points", points_}, {"normals", normals_}, {"xray", xray_}};
    for (const auto& [name, button] : buttons)
        if (id == QLatin1String(name)) return button;
    return nullptr;
}

QAction* StageTools::overlayAction(const QString& id) const {
    return id == QLatin1String("open_edges") ? openEdges_ : id == QLatin1String("numbers") ? numbers_ : id == QLatin1String("height") ? height_ : nullptr;
}

void StageTools::setOverlay(const QString& id, bool on) {
    if (QToolButton* button = overlayButton(id)) button->setChecked(on);
    if (QAction* action = overlayAction(id)) action->setChecked(on);
}

bool StageTools::overlay(const QString& id) const {
    const QToolButton* button = overlayButton(id);
    const QAction* action = overlayAction(id);
    return (button && button->isChecked()) || (action && action->isChecked());
}

QStringList StageTools::overlaysOn() const {
    QStringList out;
    for (const char* id : {"wire", "points", "normals", "xray", "open_edges", "numbers"})
        if (overlay(QLatin1String(id))) out << QLatin1String(id);
    return out;
}

void StageTools::takeFrom(const SceneLook& look, const QStringList& overlays) {
    for (const QString& id : overlays) setOverlay(id, true);
    if (!look.arrows.empty()) setArrows(QString::fromStdString(look.arrows), look.arrowLength);
    apart_->setValue(look.apart);
    if (!look.attribute.empty()) setAttribute(QString::fromStdString(look.attribute));
    setShading(look.shading);
}

void StageTools::setArrows(const QString& attribute, double length) {
    if (arrows_->findText(attribute) < 0) arrows_->addItem(attribute);
    length_->setValue(length);
    arrows_->setCurrentText(attribute);
    Q_EMIT lookChanged();
}

void StageTools::offer(const QStringList& attributes, const QStringList& vectors) {
    const auto fill = [](QComboBox* box, QStringList names, bool keep, const QStringList& before) {
        const QString chosen = box->currentText();
        if (keep && !chosen.isEmpty() && !names.contains(chosen) && !before.contains(chosen)) names << chosen;
        names = before + names;
        const QSignalBlocker blocker(box);
        box->clear();
        box->addItems(names);
        box->setCurrentIndex(std::max<int>(0, int(names.indexOf(chosen))));
    };
    fill(attribute_, attributes, shading_[std::size_t(Shading::attribute)]->isChecked(), {});
    fill(arrows_, vectors, arrows_->currentIndex() > 0, {tr("nothing")});
}

void StageTools::layOut(int width) {
    const QSize first = shadings_->sizeHint(), second = overlays_->sizeHint();
    shadings_->setGeometry(QRect(QPoint(0, 0), first));
    const int gap = 10;
    const bool beside = first.width() + gap + second.width() <= width;
    overlays_->setGeometry(QRect(beside ? QPoint(first.width() + gap, 0) : QPoint(0, first.height() + 4), second));
    resize(beside ? first.width() + gap + second.width() : std::max(first.width(), second.width()),
           beside ? std::max(first.height(), second.height()) : first.height() + second.height() + 4);
}

}  // namespace seedloom::app
