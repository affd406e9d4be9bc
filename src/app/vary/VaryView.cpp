#include "app/vary/VaryView.h"

#include "app/look/Theme.h"
#include "app/vary/VaryCell.h"

#include <QtGui/QKeyEvent>
#include <QtGui/QPainter>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QScrollBar>

namespace seedloom::app {

namespace {

constexpr int kLeastWide = 148, kLeastInGrid = 118, kMostWide = 216;

}  // namespace

int VaryView::leastWide() { return px(kLeastWide); }

VaryView::VaryView(VaryTable& table, QWidget* parent) : QTableView(parent), table_(table) {
    setModel(&table_);
    setItemDelegate(new VaryCell(table_, this));
    setShowGrid(false);
    setFrameShape(QFrame::NoFrame);
    setSelectionMode(SingleSelection);
    setVerticalScrollMode(ScrollPerPixel);
    setHorizontalScrollMode(ScrollPerPixel);
    setMouseTracking(true);
    setTabKeyNavigation(false);
    setCornerButtonEnabled(false);
    setWordWrap(false);
    horizontalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    horizontalHeader()->setHighlightSections(false);
    verticalHeader()->setHighlightSections(false);
    horizontalHeader()->setSectionsClickable(false);
    verticalHeader()->setSectionsClickable(false);
    verticalHeader()->setDefaultAlignment(Qt::AlignCenter);
    setStyleSheet(QStringLiteral("QTableView { background: %1; border: none; selection-background-color: %1; } QHeaderView { background: %1; border: none; }"
                                 "QHeaderView::section { background: %1; color: %2; border: none; font-weight: 600; padding: 4px 6px; }")
                      .arg(colours().paper.name(), colours().ink.name()));
    setAccessibleName(tr("Variations"));
    setAccessibleDescription(tr("Arrow keys choose one, Space stars it, Enter uses its values in Build"));
    connect(&table_, &QAbstractItemModel::modelAboutToBeReset, this, [this] { laying_ = true; });
    connect(&table_, &VaryTable::arranged, this, [this] {
        fitCells();
        // The same variation stays chosen, wherever it is now.
        if (const auto item = kept_ ? table_.sheet().find(*kept_) : std::nullopt) choose(*item);
        laying_ = false;
        tellView();
        Q_EMIT chosenChanged();
    });
    fitCells();
}

/// As many beside each other as there is room for, each as wide as that leaves.
void VaryView::fitCells() {
    const bool heads = table_.arrangement().grid();
    horizontalHeader()->setVisible(heads && !table_.arrangement().columns.empty());
    verticalHeader()->setVisible(heads && !table_.arrangement().rows.empty());
    const int room = width() - verticalScrollBar()->sizeHint().width() - (verticalHeader()->isVisible() ? verticalHeader()->sizeHint().width() : 0) - 2;
    table_.setAcross(std::max(1, room / leastWide()));
    const int wide = std::clamp(room / std::max(1, table_.columnCount()), horizontalHeader()->isVisible() ? px(kLeastInGrid) : leastWide(), px(kMostWide));
    horizontalHeader()->setDefaultSectionSize(wide);
    verticalHeader()->setDefaultSectionSize(VaryCell::highFor(wide));
}

void VaryView::resizeEvent(QResizeEvent* event) {
    QTableView::resizeEvent(event);
    fitCells();
    tellView();
}

void VaryView::scrollContentsBy(int dx, int dy) {
    QTableView::scrollContentsBy(dx, dy);
    tellView();
}

/// What is in view is made first.
void VaryView::tellView() {
    if (laying_ || table_.rowCount() == 0) return;
    table_.pictures().forgetWishes();
    std::vector<std::size_t> seen;
    const int first = std::max(0, rowAt(0)), beyond = rowAt(viewport()->height() - 1), last = beyond < 0 ? table_.rowCount() - 1 : beyond;
    for (int row = first; row <= last; ++row)
        for (int column = 0; column < table_.columnCount(); ++column)
            if (const auto item = table_.item(table_.index(row, column))) seen.push_back(*item);
    if (const auto now = chosen()) seen.insert(seen.begin(), *now);
    table_.sheet().lookAt(seen);
    viewport()->update();
}

QRect VaryView::starOf(const QModelIndex& index) const { return VaryCell::starIn(visualRect(index)); }

std::optional<std::size_t> VaryView::chosen() const { return table_.item(currentIndex()); }

void VaryView::choose(std::size_t item) {
    if (const QModelIndex at = table_.indexOf(item); at.isValid()) setCurrentIndex(at);
}

void VaryView::currentChanged(const QModelIndex& now, const QModelIndex& before) {
    QTableView::currentChanged(now, before);
    if (const auto item = table_.item(now)) kept_ = table_.sheet().variation(*item);
    else if (!laying_) kept_.reset();
    if (!laying_) Q_EMIT chosenChanged();
}

void VaryView::mousePressEvent(QMouseEvent* event) {
    const QModelIndex at = indexAt(event->position().toPoint());
    const auto item = table_.item(at);
    if (event->button() == Qt::LeftButton && item && starOf(at).contains(event->position().toPoint())) return Q_EMIT starWanted(*item);
    QTableView::mousePressEvent(event);
}

void VaryView::mouseDoubleClickEvent(QMouseEvent* event) {
    const QModelIndex at = indexAt(event->position().toPoint());
    const auto item = table_.item(at);
    if (item && starOf(at).contains(event->position().toPoint())) return Q_EMIT starWanted(*item);
    if (event->button() == Qt::LeftButton && item) Q_EMIT useWanted(*item);
}

void VaryView::keyPressEvent(QKeyEvent* event) {
    const auto item = chosen();
    if (item && event->key() == Qt::Key_Space) return Q_EMIT starWanted(*item);
    if (item && (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)) return Q_EMIT useWanted(*item);
    // Left and right go on into the next row, as one reads.
    if (item && (event->key() == Qt::Key_Right || event->key() == Qt::Key_Left)) {
        const int step = event->key() == Qt::Key_Right ? 1 : -1, columns = table_.columnCount(), most = table_.rowCount() * columns;
        for (int at = currentIndex().row() * columns + currentIndex().column() + step; at >= 0 && at < most; at += step)
            if (table_.item(table_.index(at / columns, at % columns))) return setCurrentIndex(table_.index(at / columns, at % columns));
        return;
    }
    QTableView::keyPressEvent(event);
}

void VaryView::paintEvent(QPaintEvent* event) {
    QTableView::paintEvent(event);
    if (table_.rowCount() > 0 || table_.sheet().count() == 0) return;
    QPainter painter(viewport());
    painter.setPen(colours().faint);
    painter.setFont(bodyFont(13));
    painter.drawText(viewport()->rect().adjusted(px(40), 0, -px(40), 0), Qt::AlignCenter | Qt::TextWordWrap,
                     tr("None of the %1 variations is of that kind. Change what is shown above.").arg(table_.sheet().count()));
}

}  // namespace seedloom::app
