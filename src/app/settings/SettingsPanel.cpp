#include "app/settings/SettingsPanel.h"

#include "app/shell/Theme.h"
#include "operators/Catalogue.h"

#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

SettingsPanel::SettingsPanel(Document& document, RebuildService& rebuilds, QWidget* parent) : QScrollArea(parent), document_(document), rebuilds_(rebuilds) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Settings"));
    connect(&document_, &Document::changed, this, &SettingsPanel::refresh);
    connect(&rebuilds_, &RebuildService::finished, this, [this] {
        for (SettingRow* row : rows_) row->refresh();
        showNotices();
    });
    build();
}

void SettingsPanel::setNode(const std::string& node) {
    node_ = node;
    build();
}

SettingRow* SettingsPanel::row(const std::string& setting) const {
    for (SettingRow* row : rows_)
        if (row->spec().id == setting) return row;
    return nullptr;
}

void SettingsPanel::focusFirst() {
    if (!rows_.empty())
        for (QWidget* child : rows_.front()->findChildren<QWidget*>())
            if (child->focusPolicy() & Qt::TabFocus) return child->setFocus(Qt::TabFocusReason);
}

bool SettingsPanel::shown(const SettingSpec& spec) const {
    if (spec.shownWhenSetting.empty()) return true;
    const Node* node = document_.loom().node(node_);
    const OperatorSpec* op = findOperator(node->op);
    const auto it = node->settings.find(spec.shownWhenSetting);
    const Json& value = it == node->settings.end() ? op->setting(spec.shownWhenSetting)->fallback : *it;
    if (!value.is_string()) return true;
    return std::find(spec.shownWhenValue.begin(), spec.shownWhenValue.end(), value.get<std::string>()) != spec.shownWhenValue.end();
}

/// Which rows there are and how they are built; while it stays the same, rows are only refreshed (so a drag is never interrupted).
std::string SettingsPanel::shape() const {
    const Node* node = document_.loom().node(node_);
    const OperatorSpec* spec = node ? findOperator(node->op) : nullptr;
    if (!spec) return node ? "unknown" : "none";
    std::string out = node_;
    for (const SettingSpec& s : spec->settings) {
        if (!shown(s)) continue;
        const auto it = node->settings.find(s.id);
        const Json& value = it == node->settings.end() ? s.fallback : *it;
        const auto source = sourceFromJson(value);
        out += "|" + s.id + ":" + (source ? std::string(sourceKind(*source)) : "?");
        if (value.is_array()) out += std::to_string(value.size());
        if (value.is_boolean()) out += "b";
    }
    return out;
}

void SettingsPanel::refresh() {
    if (shape() != built_) return build();
    for (SettingRow* row : rows_) row->refresh();
    if (const Node* node = document_.loom().node(node_); node && title_) title_->setText(QString::fromStdString(displayName(*node)));
}

void SettingsPanel::build() {
    rows_.clear();
    title_ = notice_ = nullptr;
    built_ = shape();
    const int scroll = verticalScrollBar()->value();
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(16, 12, 12, 12);
    column->setSpacing(7);
    const Node* node = document_.loom().node(node_);
    const OperatorSpec* spec = node ? findOperator(node->op) : nullptr;
    const auto sentence = [&](const QString& text) {
        auto* label = new QLabel(text, page);
        label->setWordWrap(true);
        label->setStyleSheet(QStringLiteral("color: %1; font-size: 11px;").arg(colours().faint.name()));
        column->addWidget(label);
    };
    if (node) {
        auto* head = new QHBoxLayout;
        title_ = new QLabel(QString::fromStdString(displayName(*node)), page);
        title_->setFont(bodyFont(14, QFont::DemiBold));
        head->addWidget(title_, 1);
        auto* family = new QLabel(spec ? (node->label.empty() ? QString() : QString::fromStdString(spec->label).toLower() + QStringLiteral(" · ")) + QString::fromUtf8(familyName(spec->family).data()) : tr("unknown"), page);
        family->setStyleSheet(QStringLiteral("color: %1; font-size: 11px;").arg(colours().faint.name()));
        head->addWidget(family);
        column->addLayout(head);
        sentence(spec ? QString::fromStdString(spec->sentence) : tr("This version does not know the operator '%1'. The node and its settings are kept.").arg(QString::fromStdString(node->op)));
        notice_ = new QLabel(page);
        notice_->setWordWrap(true);
        column->addWidget(notice_);
    } else {
        sentence(tr("Choose a node in the weave to see its settings."));
    }
    if (spec)
        for (const SettingSpec& s : spec->settings)
            if (shown(s)) {
                auto* row = new SettingRow(document_, rebuilds_, node_, s, page);
                rows_.push_back(row);
                column->addWidget(row);
            }
    column->addStretch();
    // The old page may be where the signal came from: it goes when control has returned.
    if (QWidget* old = takeWidget()) {
        old->hide();
        old->deleteLater();
    }
    setWidget(page);
    page->show();
    verticalScrollBar()->setValue(scroll);
    showNotices();
}

void SettingsPanel::showNotices() {
    if (!notice_) return;
    QStringList lines;
    const auto report = rebuilds_.report(node_);
    std::map<std::string, QString> bySetting;
    if (report.outcome)
        for (const Notice& n : report.outcome->notices) {
            const QString text = QString::fromStdString(n.text);
            if (!n.setting.empty() && row(n.setting))
                bySetting[n.setting] = text;
            else
                lines << text;
        }
    notice_->setText(lines.join(QLatin1Char('\n')));
    notice_->setVisible(!lines.isEmpty());
    notice_->setStyleSheet(QStringLiteral("color: %1; background: %2; padding: 6px; border-left: 3px solid %1;").arg(colours().chosen.name(), colours().paper.name()));
    for (SettingRow* row : rows_) row->setNotice(bySetting.count(row->spec().id) ? bySetting[row->spec().id] : QString());
}

}  // namespace seedloom::app
