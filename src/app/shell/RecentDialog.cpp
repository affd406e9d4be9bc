#include "app/shell/RecentDialog.h"

#include "app/look/Theme.h"
#include "app/session/RecentFiles.h"

#include <QtCore/QFileInfo>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr int kPicture = 96;

}  // namespace

RecentDialog::RecentDialog(QWidget* parent) : QDialog(parent), list_(new QListWidget(this)) {
    setWindowTitle(tr("Recent looms"));
    resize(px(620), px(420));
    auto* column = new QVBoxLayout(this);
    list_->setViewMode(QListView::IconMode);
    list_->setIconSize({kPicture, kPicture});
    list_->setGridSize({px(140), kPicture + px(44)});
    list_->setResizeMode(QListView::Adjust);
    list_->setMovement(QListView::Static);
    list_->setWordWrap(true);
    list_->setAccessibleName(tr("Recent looms"));
    for (const QString& file : recentFiles()) {
        QPixmap picture = recentPicture(file);
        if (picture.isNull()) picture = iconPixmap(QStringLiteral("seedloom"), kPicture / 2, colours().faint);
        auto* item = new QListWidgetItem(QIcon(picture), QFileInfo(file).completeBaseName(), list_);
        item->setData(Qt::UserRole, file);
        item->setToolTip(file);
    }
    column->addWidget(list_);
    if (list_->count() == 0) {
        auto* none = new QLabel(tr("No looms yet. Those that you save or open appear here, with a picture."), this);
        none->setAlignment(Qt::AlignCenter);
        none->setProperty("role", "faint");
        column->addWidget(none);
    }
    list_->setCurrentRow(0);
    const auto take = [this](QListWidgetItem* item) {
        Q_EMIT chosen(item->data(Qt::UserRole).toString());
        accept();
    };
    connect(list_, &QListWidget::itemActivated, this, take);
}

}  // namespace seedloom::app
