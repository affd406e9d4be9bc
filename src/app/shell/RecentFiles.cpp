#include "app/shell/RecentFiles.h"

#include "app/look/Theme.h"

#include <QtCore/QCryptographicHash>
#include <QtCore/QDir>
#include <QtCore/QFileInfo>
#include <QtCore/QSettings>
#include <QtCore/QStandardPaths>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr const char* kRecent = "recentFiles";
constexpr int kMost = 12, kPicture = 96;

QString pictureFile(const QString& file) {
    const QByteArray name = QCryptographicHash::hash(file.toUtf8(), QCryptographicHash::Sha1).toHex();
    return QStandardPaths::writableLocation(QStandardPaths::CacheLocation) + QStringLiteral("/recent/") + QLatin1String(name) + QStringLiteral(".png");
}

}  // namespace

QStringList recentFiles() {
    QStringList files = QSettings().value(QLatin1String(kRecent)).toStringList();
    files.erase(std::remove_if(files.begin(), files.end(), [](const QString& file) { return !QFileInfo::exists(file); }), files.end());
    return files;
}

void rememberRecent(const QString& file) {
    const QString whole = QFileInfo(file).absoluteFilePath();
    QStringList files = QSettings().value(QLatin1String(kRecent)).toStringList();
    files.removeAll(whole);
    files.prepend(whole);
    while (files.size() > kMost) QFile::remove(pictureFile(files.takeLast()));
    QSettings().setValue(QLatin1String(kRecent), files);
}

void rememberPicture(const QString& file, const QPixmap& picture) {
    if (picture.isNull()) return;
    const QString to = pictureFile(QFileInfo(file).absoluteFilePath());
    QDir().mkpath(QFileInfo(to).path());
    picture.save(to);
}

QPixmap recentPicture(const QString& file) { return QPixmap(pictureFile(QFileInfo(file).absoluteFilePath())); }

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
