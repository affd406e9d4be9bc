// Frame of a setting's row: name, source button, sources. SettingFields.cpp builds the fields.
#include "app/settings/SettingRow.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/DragName.h"
#include "app/widgets/FormulaEditor.h"
#include "app/widgets/NoticeStrip.h"
#include "app/widgets/NumberField.h"
#include "graph/Controls.h"

#include <QtCore/QMimeData>
#include <QtGui/QDragEnterEvent>
#include <QtGui/QPainter>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QMenu>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

SettingRow::SettingRow(Document& document, RebuildService& rebuilds, Background& background, std::vector<std::string> nodes, const SettingSpec& spec,
                       QWidget* parent)
    : QWidget(parent), document_(document), rebuilds_(rebuilds), background_(background), nodes_(std::move(nodes)), node_(nodes_.back()), spec_(spec) {
    setAcceptDrops(true);
    setObjectName(QStringLiteral("setting_") + QString::fromStdString(spec.id));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    head_ = new QHBoxLayout;
    head_->setSpacing(6);
    name_ = new DragName(catalogueText(spec.label), kSettingMime, QByteArray::fromStdString(node_ + "\n" + spec.id), this);
    name_->setFixedWidth(px(84));
    name_->setWordWrap(true);
    name_->setToolTip(tip());
    connect(name_, &DragName::clicked, this, [this] {
        const Node* node = document_.shown().node(node_);
        if (node && node->settings.contains(spec_.id)) put(Json());
    });
    connect(name_, &DragName::menuWanted, this, [this] {
        if (sourceButton_) openSourceMenu();
    });
    head_->addWidget(name_);
    column->addLayout(head_);
    body_ = new QVBoxLayout;
    body_->setSpacing(3);
    column->addLayout(body_);
    notice_ = new NoticeStrip(false, this);
    connect(notice_, &NoticeStrip::fixWanted, this, &SettingRow::fixWanted);
    column->addWidget(notice_);
    build();
    refresh();
    // What the setting does is said with every part of its field.
    for (QWidget* part : findChildren<QWidget*>()) {
        if (part->accessibleDescription().isEmpty() && part->toolTip().isEmpty()) part->setAccessibleDescription(catalogueText(spec.help));
        if (part->accessibleName().isEmpty() && part->inherits("QLineEdit")) part->setAccessibleName(catalogueText(spec.label));
    }
}

Json SettingRow::value() const {
    const Node* node = document_.shown().node(node_);
    if (!node) return spec_.fallback;
    const auto it = node->settings.find(spec_.id);
    return it == node->settings.end() ? spec_.fallback : *it;
}

void SettingRow::put(const Json& value, bool gesture) {
    document_.applyShown(setSettings(document_.shown(), nodes_, spec_.id, value, document_.assets()), gesture ? gesture_ : 0);
}

bool SettingRow::mixed() const {
    const auto of = [this](const std::string& id) {
        const Node* node = document_.shown().node(id);
        return node && node->settings.contains(spec_.id) ? node->settings[spec_.id] : spec_.fallback;
    };
    return std::any_of(nodes_.begin(), nodes_.end(), [&](const std::string& id) { return of(id) != of(node_); });
}

/// What it does, in which unit, how far it goes, and what it is by default.
QString SettingRow::tip() const {
    const QString unit = QString::fromUtf8(unitSymbol(spec_.unit).data());
    QStringList facts;
    if (spec_.unit == Unit::metre) facts << tr("in metres");
    if (spec_.unit == Unit::degree) facts << tr("in degrees");
    if (spec_.min && spec_.max) facts << tr("from %1 to %2").arg(*spec_.min).arg(*spec_.max);
    else if (spec_.min) facts << tr("at least %1").arg(*spec_.min);
    if (spec_.fallback.is_number()) facts << tr("default %1").arg(spec_.fallback.get<double>());
    if (spec_.perElement) facts << tr("can differ for each %1").arg(QString::fromUtf8(elementName(spec_.element).data()));
    return QStringLiteral("<p>%1</p><p>%2</p><p>%3</p>")
        .arg(catalogueText(spec_.help).toHtmlEscaped(), facts.join(QStringLiteral(" · ")),
             tr("Click the name to go back to the default; drag it onto the controls to make a control of it."));
}

QWidget* SettingRow::nameLabel() const { return name_; }

std::string SettingRow::shape() const {
    const Json now = value();
    const auto source = sourceFromJson(now);
    std::string out = source ? std::string(sourceKind(*source)) : "unreadable";
    if (spec_.type == SettingType::points && now.is_array()) out += std::to_string(now.size());
    return out;
}

void SettingRow::build() {
    const auto source = sourceFromJson(value());
    kind_ = source ? sourceKind(*source) : "fixed";
    if (kind_ == "control") buildControl();
    else if (kind_ == "formula") buildFormula();
    else if (kind_ == "attribute") buildAttribute();
    else if (kind_ == "ramp") buildRampSource();
    else if (kind_ == "noise") buildNoise();
    else if (kind_ == "random") buildRandom();
    else buildFixed();
    if (kind_ != "fixed" && kind_ != "control" && spec_.perElement) addPreview();
    if (spec_.type == SettingType::formula || spec_.type == SettingType::strokes || spec_.type == SettingType::lines || spec_.type == SettingType::materials ||
        spec_.type == SettingType::file || spec_.type == SettingType::points || spec_.type == SettingType::ramp || spec_.type == SettingType::range)
        return;
    sourceButton_ = new QToolButton(this);
    sourceButton_->setIcon(icon(QString::fromStdString(kind_), kind_ == "fixed" ? colours().faint : colours().chosen));
    sourceButton_->setIconSize({16, 16});
    sourceButton_->setFixedSize(px(24), px(24));
    sourceButton_->setStyleSheet(QStringLiteral("padding: 2px;"));
    sourceButton_->setToolTip(tr("Source: %1. Click to take the value from somewhere else.").arg(QString::fromStdString(kind_)));
    sourceButton_->setAccessibleName(tr("Source of %1").arg(catalogueText(spec_.label)));
    connect(sourceButton_, &QToolButton::clicked, this, &SettingRow::openSourceMenu);
    head_->addWidget(sourceButton_);
}

void SettingRow::refresh() {
    const Node* node = document_.shown().node(node_);
    const bool changed = node && node->settings.contains(spec_.id);
    QFont font = bodyFont(12, changed ? QFont::DemiBold : QFont::Normal);
    font.setItalic(mixed());
    if (font != name_->font()) name_->setFont(font);
    name_->setText(mixed() ? tr("%1 (mixed)").arg(catalogueText(spec_.label)) : catalogueText(spec_.label));
    const Json now = value();
    for (const auto& refresher : refreshers_) refresher(now);
}

void SettingRow::setNotice(const Notice& notice) { notice_->setNotice(QString::fromStdString(notice.text), notice.level, notice.fixes); }

void SettingRow::setMark(int line, int column) {
    if (formula_) formula_->setMark(line, column);
}

void SettingRow::openSourceMenu() {
    // Not a child, and not waited for: choosing a source replaces this row.
    auto* menu = new QMenu(window());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const std::pair<const char*, QString> kinds[] = {{"fixed", tr("Fixed value")}, {"control", tr("Control")}, {"attribute", tr("Attribute")},
                                                     {"ramp", tr("Ramp")},         {"noise", tr("Noise")},     {"random", tr("Random")},
                                                     {"formula", tr("Formula")}};
    for (const auto& [kind, text] : kinds) {
        if (!spec_.numeric() && std::string_view(kind) != "fixed" && std::string_view(kind) != "control") continue;
        QAction* action = menu->addAction(icon(QLatin1String(kind)), text);
        action->setEnabled(kind_ != kind && (std::string_view(kind) != "control" || !document_.visibleControls().empty()));
        connect(action, &QAction::triggered, this, [this, kind = std::string(kind)] { useSource(kind); });
    }
    menu->addSeparator();
    QAction* control = menu->addAction(icon(QStringLiteral("add")), tr("Make a control of it"));
    control->setEnabled(canBecomeControl());
    connect(control, &QAction::triggered, this, [this] { Q_EMIT controlWanted(QString::fromStdString(node_), QString::fromStdString(spec_.id)); });
    QAction* reset = menu->addAction(tr("Back to the default"));
    connect(reset, &QAction::triggered, this, [this] { put(Json()); });
    menu->popup(sourceButton_->mapToGlobal(QPoint(0, sourceButton_->height())));
}

bool SettingRow::canBecomeControl() const {
    return kind_ == "fixed" && (spec_.numeric() || spec_.type == SettingType::choice || spec_.type == SettingType::text);
}

Control SettingRow::proposedControl() const {
    Control control;
    control.id = spec_.id;
    control.label = spec_.label;
    control.section = document_.loom().controls.empty() ? tr("Shape").toStdString() : document_.loom().controls.back().section;
    control.help = spec_.help;
    control.fallback = value();
    control.unit = unitSymbol(spec_.unit);
    control.type = spec_.type == SettingType::integer ? "integer"
                 : spec_.type == SettingType::choice  ? "choice"
                 : spec_.type == SettingType::text    ? "text"
                 : control.fallback.is_boolean()      ? "boolean"
                 : spec_.type == SettingType::vec2    ? "vec2"
                 : spec_.type == SettingType::vec3    ? "vec3"
                                                      : "number";
    control.choices = spec_.choices;
    if (spec_.low) control.min = *spec_.low, control.max = *spec_.high;
    if (control.type == "number" && control.max && control.fallback.is_number() && control.fallback.get<double>() > *control.max)
        control.max = control.fallback.get<double>();
    return control;
}

void SettingRow::dragEnterEvent(QDragEnterEvent* event) {
    if (draggedControl(event->mimeData()).empty() || spec_.type == SettingType::points || spec_.type == SettingType::materials ||
        spec_.type == SettingType::ramp || spec_.type == SettingType::range)
        return;
    dropping_ = true;
    update();
    event->acceptProposedAction();
}

void SettingRow::dragLeaveEvent(QDragLeaveEvent*) {
    dropping_ = false;
    update();
}

/// A control that is dropped drives the setting; dropped on a setting that it drives, it gives it back its value.
void SettingRow::dropEvent(QDropEvent* event) {
    dropping_ = false;
    update();
    const std::string control = draggedControl(event->mimeData());
    const Json use{{"control", control}};
    event->acceptProposedAction();
    if (value() != use) return put(use);
    const auto values = controlValues(document_.loom());
    if (values && values->count(control)) put(values->at(control));
}

void SettingRow::paintEvent(QPaintEvent* event) {
    QWidget::paintEvent(event);
    if (!dropping_) return;
    QPainter painter(this);
    painter.setPen(QPen(colours().chosen, 1.5, Qt::DashLine));
    painter.drawRoundedRect(rect().adjusted(1, 1, -1, -1), 4, 4);
}

}  // namespace seedloom::app
