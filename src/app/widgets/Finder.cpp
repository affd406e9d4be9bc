#include "app/widgets/Finder.h"

#include "app/look/Theme.h"

#include <QtGui/QPainter>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QStyledItemDelegate>

namespace seedloom::app {

namespace {

constexpr int kDetail = Qt::UserRole + 1, kKeys = Qt::UserRole + 2, kMostRows = 11;

class RowPainter : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem&, const QModelIndex&) const override { return {100, px(28)}; }
    void paint(QPainter* painter, const QStyleOptionViewItem& option, const QModelIndex& index) const override {
        const Colours& c = colours();
        const bool chosen = option.state & QStyle::State_Selected;
        painter->save();
        painter->setRenderHint(QPainter::Antialiasing);
        if (chosen) {
            painter->setPen(QPen(c.chosen, 1.5));
            painter->setBrush(c.field);
            painter->drawRoundedRect(option.rect.adjusted(3, 1, -3, -1), 4, 4);
        }
        const QRect row = option.rect.adjusted(12, 0, -12, 0);
        const QString keys = index.data(kKeys).toString(), detail = index.data(kDetail).toString();
        painter->setFont(numberFont(11));
        painter->setPen(c.faint);
        painter->drawText(row, Qt::AlignRight | Qt::AlignVCenter, keys);
        const int keysWidth = keys.isEmpty() ? 0 : painter->fontMetrics().horizontalAdvance(keys) + 12;
        painter->setFont(bodyFont(12, QFont::Medium));
        painter->setPen(index.flags() & Qt::ItemIsEnabled ? c.ink : c.faint);
        const QString title = painter->fontMetrics().elidedText(index.data().toString(), Qt::ElideRight, row.width() - keysWidth);
        painter->drawText(row, Qt::AlignLeft | Qt::AlignVCenter, title);
        const int used = painter->fontMetrics().horizontalAdvance(title) + 12;
        painter->setFont(bodyFont(11));
        painter->setPen(c.faint);
        painter->drawText(row.adjusted(used, 0, -keysWidth, 0), Qt::AlignLeft | Qt::AlignVCenter,
                          painter->fontMetrics().elidedText(detail, Qt::ElideRight, row.width() - used - keysWidth));
        painter->restore();
    }
};

/// Higher is better; 0 is not at all. Every typed word must be found.
int fit(const Finder::Entry& entry, const QStringList& words) {
    int total = 1;
    const QString title = entry.title.toLower(), all = (entry.title + QLatin1Char(' ') + entry.detail + QLatin1Char(' ') + entry.hidden).toLower();
    for (const QString& word : words) {
        if (!all.contains(word)) return 0;
        total += title.startsWith(word) ? 100 : title.contains(QLatin1Char(' ') + word) ? 60 : title.contains(word) ? 30 : 5;
    }
    return total;
}

}  // namespace

Finder::Finder(QWidget* owner) : SearchPopup(owner) {
    list()->setItemDelegate(new RowPainter(list()));
    list()->setAccessibleName(tr("Found"));
}

void Finder::open(const QString& prompt, std::vector<Entry> entries, QPoint at) {
    entries_ = std::move(entries);
    at_ = at;
    field()->setPlaceholderText(prompt);
    field()->setAccessibleName(prompt);
    openWith({});
}

void Finder::fill() {
    list()->clear();
    const QStringList words = field()->text().toLower().split(QLatin1Char(' '), Qt::SkipEmptyParts);
    std::vector<std::pair<int, std::size_t>> found;
    for (std::size_t i = 0; i < entries_.size(); ++i)
        if (const int points = fit(entries_[i], words); points > 0) found.push_back({points, i});
    std::stable_sort(found.begin(), found.end(), [](const auto& a, const auto& b) { return a.first > b.first; });
    for (const auto& [points, i] : found) {
        auto* item = new QListWidgetItem(entries_[i].title, list());
        item->setData(Qt::UserRole, qulonglong(i));
        item->setData(kDetail, entries_[i].detail);
        item->setData(kKeys, entries_[i].keys);
        item->setData(Qt::AccessibleTextRole, QString(entries_[i].title + QStringLiteral(", ") + entries_[i].detail));
    }
    if (found.empty()) addNothing(tr("Nothing has that in its name."));
    list()->setCurrentRow(0);
    // As high as what was found needs.
    const QSize area = parentWidget()->size();
    const int rows = std::clamp(list()->count(), 1, kMostRows);
    resize(std::min(px(460), area.width() - 16), std::min(px(60) + rows * px(28), area.height() - 16));
    move(std::clamp(at_.x() - width() / 2, 8, std::max(8, area.width() - width() - 8)), std::clamp(at_.y(), 8, std::max(8, area.height() - height() - 8)));
}

void Finder::take() {
    const QListWidgetItem* item = list()->currentItem();
    if (!item || !(item->flags() & Qt::ItemIsEnabled)) return;
    const auto use = entries_[std::size_t(item->data(Qt::UserRole).toULongLong())].use;
    close();
    if (use) use();
}

}  // namespace seedloom::app
