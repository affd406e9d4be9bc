#include "app/widgets/EntryList.h"

#include "app/look/Theme.h"
#include "operators/DrawnLine.h"

#include <QtCore/QSignalBlocker>
#include <QtGui/QKeyEvent>

namespace seedloom::app {

namespace {

constexpr int kEntryRow = 22, kMostEntryRows = 6;

}  // namespace

EntryList::EntryList(std::function<QString(std::size_t, const Json&)> nameOf, std::function<Json(const Json&, bool)> shown, QWidget* parent)
    : QListWidget(parent), nameOf_(std::move(nameOf)), shown_(std::move(shown)) {
    setUniformItemSizes(true);
    connect(this, &QListWidget::currentRowChanged, this, &EntryList::entryChosen);
    connect(this, &QListWidget::itemChanged, this, [this](QListWidgetItem* item) {
        const auto entry = std::size_t(row(item));
        const bool isShown = item->checkState() == Qt::Checked;
        if (entry >= entries_.size() || lineHidden(entries_[entry]) == !isShown) return;
        Json entries = entries_;
        entries[entry] = shown_(entries[entry], isShown);
        Q_EMIT edited(entries);
    });
    showRows();
}

void EntryList::setEntries(const Json& entries) {
    const Json next = entries.is_array() ? entries : Json::array();
    if (next == entries_ && count() == int(next.size())) return;
    entries_ = next;
    showRows();
}

void EntryList::showRows() {
    const QSignalBlocker quiet(this);
    while (count() > int(entries_.size())) delete takeItem(count() - 1);
    while (count() < int(entries_.size())) {
        auto* item = new QListWidgetItem(this);
        item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
        item->setSizeHint(QSize(0, px(kEntryRow)));
    }
    for (std::size_t i = 0; i < entries_.size(); ++i) {
        const bool hidden = lineHidden(entries_[i]);
        QListWidgetItem* entry = item(int(i));
        entry->setText(nameOf_(i + 1, entries_[i]));
        entry->setCheckState(hidden ? Qt::Unchecked : Qt::Checked);
        entry->setForeground(hidden ? colours().faint : colours().ink);
    }
    if (currentRow() >= count()) setCurrentRow(-1);
    setVisible(count() > 0);
    setFixedHeight(std::clamp(count(), 1, kMostEntryRows) * px(kEntryRow) + 2 * frameWidth() + 2);
}

std::optional<std::size_t> EntryList::chosen() const {
    const int row = currentRow();
    return row >= 0 && row < int(entries_.size()) ? std::optional(std::size_t(row)) : std::nullopt;
}

int EntryList::hiddenCount() const { return int(std::count_if(entries_.begin(), entries_.end(), lineHidden)); }

void EntryList::removeChosen() {
    if (entries_.empty()) return;
    Json entries = entries_;
    entries.erase(chosen().value_or(entries.size() - 1));
    Q_EMIT edited(entries);
}

void EntryList::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Delete && chosen()) return removeChosen();
    if (event->key() == Qt::Key_Escape && chosen()) return setCurrentRow(-1);
    QListWidget::keyPressEvent(event);
}

}  // namespace seedloom::app
