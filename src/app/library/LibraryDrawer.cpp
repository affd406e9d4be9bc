#include "app/library/LibraryDrawer.h"

#include "app/library/AssetCard.h"
#include "app/look/Theme.h"

#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListView>
#include <QtWidgets/QMenu>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

QString fileOf(const ShelfAsset& asset) { return QString::fromStdString(asset.file.string()); }

}  // namespace

LibraryDrawer::LibraryDrawer(Library& library, QWidget* parent)
    : QWidget(parent), library_(library), model_(library, this), search_(new QLineEdit(this)), tag_(new QComboBox(this)), version_(new QComboBox(this)),
      list_(new QListView(this)), place_(new QPushButton(tr("Put into the weave"), this)), more_(new QToolButton(this)) {
    setObjectName(QStringLiteral("library"));
    setStyleSheet(QStringLiteral("#library { background: %1; border-right: 1px solid %2; }").arg(colours().paper.name(), colours().line.name()));
    setAttribute(Qt::WA_StyledBackground);
    setMinimumWidth(px(260));
    setAccessibleName(tr("Library"));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 1, 0);
    column->setSpacing(0);
    column->addWidget(makeHead());
    list_->setModel(&model_);
    list_->setItemDelegate(new AssetCard(model_, list_));
    list_->setFrameShape(QFrame::NoFrame);
    list_->setDragEnabled(true);
    list_->setDragDropMode(QAbstractItemView::DragOnly);
    list_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    list_->setResizeMode(QListView::Adjust);
    list_->setMouseTracking(true);
    list_->setContextMenuPolicy(Qt::CustomContextMenu);
    list_->setStyleSheet(QStringLiteral("QListView { background: transparent; border: none; }"));
    list_->setAccessibleName(tr("Shelves"));
    list_->setAccessibleDescription(tr("Assets on their shelves; Enter puts one into the weave, a drag puts it where it is dropped"));
    connect(list_, &QListView::activated, this, &LibraryDrawer::activate);
    connect(list_, &QListView::customContextMenuRequested, this, [this](QPoint at) {
        QMenu* menu = makeMenu();
        if (menu->isEmpty()) return menu->deleteLater();
        menu->popup(list_->viewport()->mapToGlobal(at));
    });
    connect(list_->selectionModel(), &QItemSelectionModel::currentChanged, this, &LibraryDrawer::showChosen);
    connect(&model_, &QAbstractItemModel::modelAboutToBeReset, this, [this] {
        if (const ShelfAsset* asset = chosen()) kept_ = QString::fromStdString(asset->about.name);
    });
    connect(&model_, &QAbstractItemModel::modelReset, this, [this] {
        fillTags();
        choose(kept_);
        showChosen();
    });
    connect(&library_, &Library::pictureReady, list_->viewport(), qOverload<>(&QWidget::update));
    column->addWidget(list_, 1);
    column->addWidget(makeFoot());
    fillTags();
    showChosen();
}

QWidget* LibraryDrawer::makeHead() {
    auto* head = new QWidget(this);
    auto* column = new QVBoxLayout(head);
    column->setContentsMargins(px(12), px(10), px(8), px(8));
    column->setSpacing(px(6));
    auto* line = new QHBoxLayout;
    auto* title = new QLabel(tr("Library"), head);
    title->setProperty("role", "title");
    line->addWidget(title, 1);
    const auto button = [&](const char* picture, const QString& name, const QString& tip, auto signal) {
        auto* made = new QToolButton(head);
        made->setIcon(icon(QLatin1String(picture)));
        made->setAccessibleName(name);
        made->setToolTip(tip);
        connect(made, &QToolButton::clicked, this, signal);
        line->addWidget(made);
    };
    button("add", tr("Add a shelf"), tr("Adds a folder of looms and packs as a shelf"), &LibraryDrawer::shelfWanted);
    button("close", tr("Close the library"), tr("Closes the library (Ctrl+L)"), &LibraryDrawer::closeWanted);
    column->addLayout(line);
    auto* fields = new QHBoxLayout;
    search_->setPlaceholderText(tr("Search"));
    search_->setClearButtonEnabled(true);
    search_->setAccessibleName(tr("Search the library"));
    search_->setToolTip(tr("Words in the name, summary, author or tags; all of them must occur"));
    connect(search_, &QLineEdit::textChanged, this, &LibraryDrawer::filter);
    connect(search_, &QLineEdit::returnPressed, this, [this] {
        for (int row = 0; row < model_.rowCount(); ++row)
            if (model_.rows()[std::size_t(row)].kind == LibraryModel::Row::Kind::asset) {
                list_->setCurrentIndex(model_.index(row));
                return list_->setFocus();
            }
    });
    tag_->setAccessibleName(tr("Tag"));
    tag_->setToolTip(tr("Shows only what has this tag"));
    tag_->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    tag_->setMinimumContentsLength(7);
    connect(tag_, &QComboBox::activated, this, &LibraryDrawer::filter);
    fields->addWidget(search_, 1);
    fields->addWidget(tag_);
    column->addLayout(fields);
    return head;
}

QWidget* LibraryDrawer::makeFoot() {
    auto* foot = new QWidget(this);
    auto* line = new QHBoxLayout(foot);
    line->setContentsMargins(px(12), px(8), px(8), px(8));
    version_->setAccessibleName(tr("Version"));
    version_->setToolTip(tr("Which version is put into the weave; several can stand beside each other"));
    place_->setToolTip(tr("Puts it behind the chosen node where it takes geometry, else beside it (Enter)"));
    connect(place_, &QPushButton::clicked, this, [this] {
        if (const ShelfAsset* asset = chosen()) Q_EMIT placeWanted(fileOf(*asset));
    });
    more_->setText(tr("More …"));
    more_->setToolTip(tr("Open, work on a copy, update what is used here"));
    more_->setAccessibleName(tr("More that can be done with it"));
    connect(more_, &QToolButton::clicked, this, [this] { makeMenu()->popup(more_->mapToGlobal(QPoint(0, 0))); });
    line->addWidget(version_);
    line->addWidget(place_, 1);
    line->addWidget(more_);
    return foot;
}

void LibraryDrawer::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    library_.refresh();
}

void LibraryDrawer::filter() {
    model_.filter(search_->text(), tag_->currentData().toString());
    list_->scrollToTop();
}

/// Tags come and go with shelves; the chosen one stays while there are assets with it.
void LibraryDrawer::fillTags() {
    const QString before = tag_->currentData().toString();
    const QSignalBlocker quiet(tag_);
    tag_->clear();
    tag_->addItem(tr("Any tag"), QString());
    for (const auto& [tag, count] : model_.tags()) tag_->addItem(QStringLiteral("%1 · %2").arg(tag).arg(count), tag);
    tag_->setCurrentIndex(std::max(0, tag_->findData(before)));
    if (tag_->currentIndex() == 0 && !before.isEmpty()) filter();
}

const ShelfAsset* LibraryDrawer::chosen() const {
    const QModelIndex index = list_->currentIndex();
    if (!index.isValid() || model_.row(index).kind != LibraryModel::Row::Kind::asset) return nullptr;
    const auto& row = model_.row(index);
    return &model_.asset(row, std::size_t(std::clamp(version_->currentIndex(), 0, int(row.versions.size()) - 1)));
}

bool LibraryDrawer::choose(const QString& name) {
    const QModelIndex index = model_.find(name);
    if (index.isValid()) list_->setCurrentIndex(index);
    return index.isValid();
}

void LibraryDrawer::showChosen() {
    const QModelIndex index = list_->currentIndex();
    const bool asset = index.isValid() && model_.row(index).kind == LibraryModel::Row::Kind::asset;
    version_->clear();
    if (asset) {
        const auto& row = model_.row(index);
        for (std::size_t v = 0; v < row.versions.size(); ++v) {
            const ShelfAsset& one = model_.asset(row, v);
            version_->addItem(one.pack ? QString::fromStdString(one.about.version) : tr("loom"));
            version_->setItemData(int(v), fileOf(one), Qt::ToolTipRole);
        }
    }
    version_->setVisible(asset && version_->count() > 1);
    place_->setEnabled(asset && model_.asset(model_.row(index)).problem.empty());
    more_->setEnabled(index.isValid());
}

void LibraryDrawer::activate(const QModelIndex& index) {
    if (!index.isValid()) return;
    const auto& row = model_.row(index);
    if (row.kind == LibraryModel::Row::Kind::shelf) return model_.fold(model_.shelf(row).folder, !model_.folded(row));
    if (place_->isEnabled()) place_->click();
}

QMenu* LibraryDrawer::makeMenu() {
    auto* menu = new QMenu(window());
    menu->setAttribute(Qt::WA_DeleteOnClose);
    const QModelIndex index = list_->currentIndex();
    if (!index.isValid()) return menu;
    const auto& row = model_.row(index);
    if (row.kind != LibraryModel::Row::Kind::asset) {
        const Library::Shelf& shelf = model_.shelf(row);
        const bool folded = model_.folded(row);
        menu->addAction(folded ? tr("Unfold the shelf") : tr("Fold the shelf away"), this,
                        [this, folder = shelf.folder, folded] { model_.fold(folder, !folded); });
        menu->addAction(tr("Read it again"), this, [this] { library_.refresh(); });
        if (!shelf.demos) menu->addAction(tr("Take the shelf away"), this, [this, folder = shelf.folder] { library_.removeShelf(folder); });
        return menu;
    }
    const ShelfAsset asset = *chosen();
    const QString file = fileOf(asset);
    const auto add = [&](const QString& text, auto signal, bool possible) {
        menu->addAction(text, this, [this, signal, file] { Q_EMIT(this->*signal)(file); })->setEnabled(possible);
    };
    const bool usable = asset.problem.empty();
    add(tr("Put into the weave"), &LibraryDrawer::placeWanted, usable);
    const QStringList older = model_.olderInUse(row);
    if (!older.isEmpty())
        add(tr("Update %1 here to %2 …").arg(older.join(QStringLiteral(", ")), QString::fromStdString(asset.about.version)), &LibraryDrawer::updateWanted,
            usable);
    menu->addSeparator();
    if (asset.pack) add(tr("Work on a copy of it …"), &LibraryDrawer::unpackWanted, usable);
    else add(tr("Open it in a window"), &LibraryDrawer::openWanted, true);
    return menu;
}

}  // namespace seedloom::app
