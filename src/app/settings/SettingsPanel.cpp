#include "app/settings/SettingsPanel.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/DragName.h"
#include "app/widgets/FormulaEditor.h"
#include "app/widgets/NoticeStrip.h"
#include "app/widgets/SwapPage.h"
#include "graph/Controls.h"
#include "graph/NodeSpec.h"

#include <QtGui/QDragEnterEvent>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

SettingsPanel::SettingsPanel(Document& document, RebuildService& rebuilds, QWidget* parent) : QScrollArea(parent), document_(document), rebuilds_(rebuilds) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Settings"));
    setAccessibleDescription(tr("The settings of the chosen nodes. Tab goes from one to the next, F1 explains the one that has the keyboard."));
    setAcceptDrops(true);
    connect(&document_, &Document::changed, this, &SettingsPanel::refresh);
    connect(&rebuilds_, &RebuildService::finished, this, [this] {
        for (SettingRow* row : rows_) row->refresh();
        showNotices();
    });
    build();
}

void SettingsPanel::setNodes(const std::vector<std::string>& nodes) {
    const std::string before = node_;
    node_ = nodes.empty() ? std::string() : nodes.back();
    const Node* last = document_.shown().node(node_);
    const bool alike = last && std::all_of(nodes.begin(), nodes.end(), [&](const std::string& id) {
                           const Node* node = document_.shown().node(id);
                           return node && node->op == last->op;
                       });
    nodes_ = alike ? nodes : last ? std::vector<std::string>{node_} : std::vector<std::string>();
    if (before != node_) sought_.clear();
    build();
}

SettingRow* SettingsPanel::row(const std::string& setting) const {
    for (SettingRow* row : rows_)
        if (row->spec().id == setting) return row;
    return nullptr;
}

void SettingsPanel::focusFirst() {
    if (!rows_.empty()) focusIn(*rows_.front());
}

void SettingsPanel::focusOn(const std::string& setting) {
    SettingRow* found = row(setting);
    if (!found) return;
    focusIn(*found);
    ensureWidgetVisible(found);
}

void SettingsPanel::focusIn(SettingRow& row) {
    for (QWidget* child : row.findChildren<QWidget*>())
        if (child->focusPolicy() & Qt::TabFocus) return child->setFocus(Qt::TabFocusReason);
}

/// A container's own setting is shown as its loom says, with the plain values that the node gives its controls.
static bool shownInside(const Node& node, const Assets& assets, const std::string& setting) {
    const Inside inside = insideOf(node, assets);
    const Control* control = inside ? inside->control(setting) : nullptr;
    if (!control || control->shownWhen.empty()) return true;
    ControlChoice choice;
    for (const Control& each : inside->controls)
        if (const auto it = node.settings.find(each.id); it != node.settings.end() && checkedControlValue(each, *it)) choice.given[each.id] = *it;
    const auto values = controlValues(*inside.loom, choice);
    return !values || controlShown(*control, *values);
}

bool SettingsPanel::shown(const SettingSpec& spec) const {
    const Node* node = document_.shown().node(node_);
    if (!shownInside(*node, document_.assets(), spec.id)) return false;
    if (spec.shownWhenSetting.empty()) return true;
    const auto op = document_.specOf(*node);
    const auto it = node->settings.find(spec.shownWhenSetting);
    const Json& value = it == node->settings.end() ? op->setting(spec.shownWhenSetting)->fallback : *it;
    if (!value.is_string()) return true;
    return std::find(spec.shownWhenValue.begin(), spec.shownWhenValue.end(), value.get<std::string>()) != spec.shownWhenValue.end();
}

/// Which rows there are and how they are built; while it stays the same, rows are only refreshed (so a drag is never interrupted).
std::string SettingsPanel::shape() const {
    const Node* node = document_.shown().node(node_);
    const auto spec = node ? document_.specOf(*node) : nullptr;
    if (!spec) return node ? "unknown" : "none";
    std::string out;
    for (const std::string& id : nodes_) out += id + ",";
    for (const SettingSpec& s : spec->settings) {
        if (!shown(s)) continue;
        const auto it = node->settings.find(s.id);
        const Json& value = it == node->settings.end() ? s.fallback : *it;
        const auto source = sourceFromJson(value);
        out += "|" + s.id + ":" + (source ? std::string(sourceKind(*source)) : "?");
        if (value.is_array() && s.type != SettingType::strokes && s.type != SettingType::lines && s.type != SettingType::materials)
            out += std::to_string(value.size());
        if (value.is_boolean()) out += "b";
    }
    return out;
}

void SettingsPanel::refresh() {
    if (shape() != built_) return build();
    for (SettingRow* row : rows_) row->refresh();
    if (const Node* node = document_.shown().node(node_); node && title_)
        title_->setText(nodes_.size() > 1 ? tr("%n nodes together", nullptr, int(nodes_.size())) : QString::fromStdString(displayName(*node)));
}

void SettingsPanel::build() {
    // New dials make new rows: whoever types the formula that declares them must not notice.
    std::string typedIn;
    int anchor = 0, position = 0;
    QString text;
    for (const SettingRow* row : rows_)
        if (const FormulaEditor* editor = row->formulaEditor(); editor && editor->hasFocus()) {
            typedIn = row->spec().id;
            anchor = editor->textCursor().anchor(), position = editor->textCursor().position();
            text = editor->toPlainText();
        }
    rows_.clear();
    sections_.clear();
    title_ = nullptr;
    notices_ = nullptr;
    strips_.clear();
    search_ = nullptr;
    built_ = shape();
    const int scroll = verticalScrollBar()->value();
    auto* page = new QWidget;
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(16, 12, 12, 12);
    column->setSpacing(7);
    const Node* node = document_.shown().node(node_);
    const auto spec = node ? document_.specOf(*node) : nullptr;
    const auto sentence = [&](const QString& text) {
        auto* label = new QLabel(text, page);
        label->setWordWrap(true);
        label->setProperty("role", "faint");
        column->addWidget(label);
    };
    if (node) {
        auto* head = new QHBoxLayout;
        title_ = new QLabel(nodes_.size() > 1 ? tr("%n nodes together", nullptr, int(nodes_.size())) : QString::fromStdString(displayName(*node)), page);
        title_->setProperty("role", "title");
        head->addWidget(title_, 1);
        auto* family = new QLabel(spec ? (node->label.empty() && nodes_.size() < 2 ? QString() : catalogueText(spec->label).toLower() + QStringLiteral(" · ")) +
                                             catalogueText(std::string(familyName(spec->family)))
                                       : tr("unknown"),
                                  page);
        family->setProperty("role", "faint");
        head->addWidget(family);
        column->addLayout(head);
        sentence(spec ? catalogueText(spec->sentence)
                      : tr("This version does not know the operator '%1'. The node and its settings are kept.").arg(QString::fromStdString(node->op)));
        notices_ = new QVBoxLayout;
        notices_->setSpacing(4);
        column->addLayout(notices_);
    } else {
        sentence(tr("Choose a node in the weave to see its settings."));
    }
    constexpr std::size_t kLong = 8;
    if (spec && spec->settings.size() > kLong) {
        search_ = new QLineEdit(sought_, page);
        search_->setPlaceholderText(tr("Find a setting"));
        search_->setAccessibleName(tr("Find a setting"));
        search_->setToolTip(tr("Shows only settings whose name or help has these letters"));
        search_->setClearButtonEnabled(true);
        connect(search_, &QLineEdit::textChanged, this, [this](const QString& text) {
            sought_ = text;
            showFound();
        });
        column->addWidget(search_);
    }
    std::string section;
    if (spec) sections_.push_back({nullptr, {}});
    for (const SettingSpec& s : spec ? spec->settings : std::vector<SettingSpec>()) {
        if (!shown(s)) continue;
        if (s.section != section) {
            section = s.section;
            auto* heading = new QLabel(catalogueText(section).toUpper(), page);
            heading->setProperty("role", "section");
            heading->setContentsMargins(0, 6, 0, 0);
            column->addWidget(heading);
            sections_.push_back({heading, {}});
        }
        auto* row = new SettingRow(document_, rebuilds_, background_, nodes_, s, page);
        connect(row, &SettingRow::controlWanted, this,
                [this, row](const QString& node, const QString& setting) { Q_EMIT controlWanted(node, row->proposedControl(), setting); });
        connect(row, &SettingRow::brushChanged, this, &SettingsPanel::brushChanged);
        connect(row, &SettingRow::lineChosen, this, &SettingsPanel::lineChosen);
        connect(row, &SettingRow::fixWanted, this, &SettingsPanel::fixWanted);
        rows_.push_back(row);
        sections_.back().second.push_back(row);
        column->addWidget(row);
    }
    column->addStretch();
    swapPage(this, page);
    Q_EMIT brushChanged();
    if (SettingRow* again = typedIn.empty() ? nullptr : row(typedIn); again && again->formulaEditor()) {
        FormulaEditor* editor = again->formulaEditor();
        editor->showText(text);
        QTextCursor cursor = editor->textCursor();
        cursor.setPosition(anchor);
        cursor.setPosition(position, QTextCursor::KeepAnchor);
        editor->setTextCursor(cursor);
        editor->setFocus();
    }
    verticalScrollBar()->setValue(scroll);
    showNotices();
    showFound();
}

StrokesField* SettingsPanel::strokes() const {
    for (const SettingRow* row : rows_)
        if (row->strokes()) return row->strokes();
    return nullptr;
}

LinesField* SettingsPanel::lines() const {
    for (const SettingRow* row : rows_)
        if (row->lines()) return row->lines();
    return nullptr;
}

QToolButton* SettingsPanel::planeButton() const {
    for (const SettingRow* row : rows_)
        if (row->planeButton()) return row->planeButton();
    return nullptr;
}

void SettingsPanel::showFound() {
    const QString wanted = search_ ? sought_.trimmed().toLower() : QString();
    for (const auto& [heading, rows] : sections_) {
        bool any = false;
        for (SettingRow* row : rows) {
            const SettingSpec& spec = row->spec();
            const bool fits = wanted.isEmpty() ||
                              (catalogueText(spec.label) + QLatin1Char(' ') + QString::fromStdString(spec.id) + QLatin1Char(' ') + catalogueText(spec.help))
                                  .toLower()
                                  .contains(wanted);
            row->setVisible(fits);
            any |= fits;
        }
        if (heading) heading->setVisible(any);
    }
}

void SettingsPanel::dragEnterEvent(QDragEnterEvent* event) {
    if (!draggedControl(event->mimeData()).empty()) event->acceptProposedAction();
}

void SettingsPanel::dropEvent(QDropEvent* event) {
    event->acceptProposedAction();
    Q_EMIT controlDropped(QString::fromStdString(draggedControl(event->mimeData())));
}

void SettingsPanel::showNotices() {
    if (!notices_) return;
    const auto report = rebuilds_.report(node_);
    std::vector<Notice> general;
    std::map<std::string, const Notice*> bySetting;  // the gravest of each
    if (report.outcome)
        for (const Notice& n : report.outcome->notices) {
            if (n.setting.empty() || !row(n.setting)) general.push_back(asTold(n, report));
            else if (const Notice*& told = bySetting[n.setting]; !told || n.level > told->level) told = &n;
        }
    while (strips_.size() < general.size()) {
        strips_.push_back(new NoticeStrip(true, this));
        connect(strips_.back(), &NoticeStrip::fixWanted, this, &SettingsPanel::fixWanted);
        notices_->addWidget(strips_.back());
    }
    for (std::size_t i = 0; i < strips_.size(); ++i) {
        const Notice notice = i < general.size() ? general[i] : Notice{};
        strips_[i]->setNotice(QString::fromStdString(notice.text), notice.level, notice.fixes);
    }
    for (SettingRow* row : rows_) {
        const auto it = bySetting.find(row->spec().id);
        const Notice notice = it == bySetting.end() ? Notice{} : *it->second;
        row->setNotice(notice);
        row->setMark(notice.line, notice.column);
    }
}

}  // namespace seedloom::app
