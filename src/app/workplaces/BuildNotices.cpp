// What is told of the loom and of its nodes, with what helps.
#include "app/look/Theme.h"
#include "app/settings/SettingsPanel.h"
#include "app/weave/Weave.h"
#include "app/workplaces/BuildWorkplace.h"
#include "graph/Fixes.h"
#include "graph/InnerEdits.h"
#include "graph/LoomNotices.h"

#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QToolButton>

namespace seedloom::app {

void BuildWorkplace::showNotices() {
    notices_->clear();
    for (const LoomNotice& notice : loomNotices(document_.loom(), document_.assets())) {
        const Control* control = document_.loom().control(notice.control);
        const Loom* around = loomAt(document_.loom(), notice.path);
        const Node* node = around ? around->node(notice.node) : nullptr;
        const QString of = control ? QString::fromStdString(control->label) : node ? QString::fromStdString(displayName(*node)) : document_.title();
        QListWidgetItem* item = addNotice(notice.level, of, notice.text, notice.path.empty() ? notice.node : notice.path.front());
        std::vector<std::pair<std::string, std::function<void()>>> fixes;
        for (const LoomFix& fix : notice.fixes) fixes.emplace_back(fix.label, [this, edit = fix.edit] { document_.apply(edit); });
        offerFixes(item, fixes);
    }
    for (const Notice& given : rebuilds_.notices()) {
        const Notice notice = asTold(given, rebuilds_.reportOf(given.node));
        const Node* of = document_.loom().node(notice.node);
        QListWidgetItem* item = addNotice(notice.level, of ? QString::fromStdString(displayName(*of)) : QString(), notice.text, notice.node);
        std::vector<std::pair<std::string, std::function<void()>>> fixes;
        for (const NoticeFix& fix : notice.fixes)
            fixes.emplace_back(fix.label, [this, fix, node = notice.node] {
                // Notices are those of the document's own nodes.
                document_.leave(document_.place().path.size());
                useFix(fix, node);
            });
        offerFixes(item, fixes);
    }
    const int shown = notices_->count();
    if (shown == 0) {
        auto* item = new QListWidgetItem(tr("Nothing to report: every node is fine."), notices_);
        item->setFlags(Qt::NoItemFlags);
    }
    noticesButton_->setText(shown > 0 ? tr("Notices · %1").arg(shown) : tr("Notices"));
}

QListWidgetItem* BuildWorkplace::addNotice(NoticeLevel level, const QString& of, const std::string& text, const std::string& node) {
    const QString word = level == NoticeLevel::error ? tr("Error") : level == NoticeLevel::warning ? tr("Warning") : tr("Note");
    auto* item = new QListWidgetItem(QStringLiteral("%1  ·  %2  ·  %3").arg(word, of, QString::fromStdString(text)), notices_);
    item->setData(Qt::UserRole, QString::fromStdString(node));
    item->setForeground(level == NoticeLevel::error ? colours().chosen : level == NoticeLevel::warning ? colours().warning : colours().ink);
    return item;
}

/// A row with what helps at its right: one click, one step to undo.
void BuildWorkplace::offerFixes(QListWidgetItem* item, const std::vector<std::pair<std::string, std::function<void()>>>& fixes) {
    if (fixes.empty()) return;
    auto* row = new QWidget;
    auto* across = new QHBoxLayout(row);
    across->setContentsMargins(4, 2, 4, 2);
    auto* text = new QLabel(item->text(), row);
    text->setWordWrap(true);
    text->setStyleSheet(QStringLiteral("color: %1;").arg(item->foreground().color().name()));
    across->addWidget(text, 1);
    for (const auto& [label, use] : fixes) {
        auto* button = new QPushButton(QString::fromStdString(label), row);
        button->setAccessibleDescription(item->text());
        connect(button, &QPushButton::clicked, this, use);
        across->addWidget(button);
    }
    item->setData(Qt::AccessibleTextRole, item->text());
    item->setText({});
    constexpr int kPadding = 10;  // the list's own around its rows
    item->setSizeHint(QSize(0, std::max(row->sizeHint().height(), text->heightForWidth(px(560)) + 4) + kPadding));
    notices_->setItemWidget(item, row);
}

/// One click, one step to undo; what came of it is chosen.
void BuildWorkplace::useFix(const NoticeFix& fix, const std::string& node) {
    if (fix.kind == NoticeFix::Kind::ask) {
        weave_->choose(node);
        return settings_->focusOn(fix.setting);
    }
    if (fix.kind == NoticeFix::Kind::show) {
        selection_.pin({});
        weave_->choose(nodeShownBy(document_.shown(), node, fix));
        selection_.setMarks({fix.element, fix.rows, {}});
        return stage_->frameMarks();
    }
    std::string made;
    document_.applyShown(fixed(document_.shown(), document_.assets(), node, fix, &made));
    if (made.empty()) return;
    weave_->choose(made);
    beginProfile(made);
}

}  // namespace seedloom::app
