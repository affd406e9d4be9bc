// Assets on shelves, and those that the document uses.
#include "app/library/LibraryDrawer.h"
#include "app/shell/MainWindow.h"
#include "app/shell/Rail.h"
#include "app/shell/UpdateWindow.h"
#include "app/weave/Weave.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"
#include "operators/flow/Containers.h"

#include <QtCore/QDir>
#include <QtCore/QFileInfo>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QSplitter>

namespace seedloom::app {

QWidget* MainWindow::makeLibrary(QWidget* parent) {
    drawer_ = new LibraryDrawer(library_, parent);
    drawer_->hide();
    connect(drawer_, &LibraryDrawer::placeWanted, this, [this](const QString& file) {
        showStart(false);
        weave()->placeAsset(file);
    });
    connect(drawer_, &LibraryDrawer::openWanted, this, [](const QString& file) {
        MainWindow* window = openNew();
        window->openFile(file);
        window->show();
    });
    connect(drawer_, &LibraryDrawer::unpackWanted, this, &MainWindow::unpackAsked);
    connect(drawer_, &LibraryDrawer::updateWanted, this, &MainWindow::showUpdate);
    connect(drawer_, &LibraryDrawer::shelfWanted, this, &MainWindow::addShelfAsked);
    connect(drawer_, &LibraryDrawer::closeWanted, this, &MainWindow::toggleLibrary);
    drawer_->model().setUses(uses_);
    return drawer_;
}

void MainWindow::showLibrary(bool shown) {
    drawer_->setVisible(shown);
    rail_->setLibraryShown(shown);
}

/// By a hand, which goes on there.
void MainWindow::toggleLibrary() {
    showLibrary(drawer_->isHidden());
    if (drawer_->isVisible()) drawer_->search()->setFocus();
    else weave()->setFocus();
}

void MainWindow::addShelfAsked() {
    const QString folder = QFileDialog::getExistingDirectory(this, tr("Choose a folder of looms and packs"), folderOfFiles());
    if (!folder.isEmpty()) library_.addShelf(folder);
}

/// The shelves are read where there is something on them to be compared with.
void MainWindow::showUses() {
    std::vector<AssetUse> now = assetUses(document_.loom(), document_.assets());
    if (now == uses_) return;
    uses_ = std::move(now);
    drawer_->model().setUses(uses_);
    if (!uses_.empty()) library_.refresh();
}

/// Said once for each version.
void MainWindow::offerUpdates() {
    if (library_.reading()) return;
    for (const AssetUse& use : uses_) {
        const ShelfAsset* newer = isVersion(use.version) ? library_.newerThan(use.name, use.version) : nullptr;
        if (!newer) continue;
        const QString name = QString::fromStdString(use.name), version = QString::fromStdString(newer->about.version);
        if (!offered_.insert(name + QLatin1Char(' ') + version).second) continue;
        return showMessage(tr("%1 %2 is in the library; this loom uses %3.").arg(name, version, QString::fromStdString(use.version)),
                           {{tr("See what changes …"), [this, file = QString::fromStdString(newer->file.string())] { showUpdate(file); }}});
    }
}

UpdateWindow* MainWindow::showUpdate(const QString& file) {
    const ShelfAsset newer = shelfAsset(file.toStdString());
    if (!newer.problem.empty()) return showMessage(QString::fromStdString(newer.problem)), nullptr;
    std::vector<AssetUse> uses;
    for (const AssetUse& use : uses_)
        if (use.name == newer.about.name && compareVersions(use.version, newer.about.version) != 0) uses.push_back(use);
    if (uses.empty()) return showMessage(tr("Nothing in this loom uses another version of %1.").arg(QString::fromStdString(newer.about.name))), nullptr;
    delete update_.data();
    update_ = new UpdateWindow(session_, std::move(uses), newer, this);
    connect(update_, &UpdateWindow::updated, this, [this, newer](int nodes) {
        showMessage(tr("%n node(s) stand for %1 now. Undo takes it back.", nullptr, nodes)
                        .arg(QString::fromStdString(newer.about.name) + QLatin1Char(' ') + QString::fromStdString(newer.about.version)));
    });
    update_->show();
    return update_;
}

void MainWindow::unpackAsked(const QString& pack) {
    const QString where = folderOfFiles() + QLatin1Char('/') + QFileInfo(pack).completeBaseName();
    const QString folder = QFileDialog::getSaveFileName(this, tr("Folder for the copy"), where, tr("A new folder (*)"));
    if (!folder.isEmpty()) unpackTo(pack, folder);
}

bool MainWindow::unpackTo(const QString& pack, const QString& folder) {
    const auto loom = unpacked(pack.toStdString(), folder.toStdString());
    if (!loom) return showMessage(tr("No copy was made. %1").arg(QString::fromStdString(loom.error().text))), false;
    MainWindow* window = openNew();
    const bool opened = window->openFile(QString::fromStdString(loom->string()));
    window->show();
    return opened;
}

void MainWindow::makeLocal() {
    const Node* node = document_.shown().node(weave()->chosen());
    if (!node || node->op != kAsset) return showMessage(tr("Choose the node of an asset first."));
    const std::filesystem::path file = (document_.file().parent_path() / assetFileOf(node->settings)).lexically_normal();
    if (!isPack(file)) return showMessage(tr("It is a loom already: open it with Ctrl+Enter and change it there."));
    if (document_.file().empty())
        return showMessage(tr("Save this loom first, so that there is a folder to put the asset into."), {{tr("Save as …"), [this] { saveAs(); }}});
    const std::filesystem::path folder = document_.file().parent_path() / file.stem();
    const auto loom = unpacked(file, folder);
    if (!loom) return showMessage(tr("The asset was not made local. %1").arg(QString::fromStdString(loom.error().text)));
    const auto read = loomOnShelf(shelfAsset(*loom));
    if (!read) return showMessage(QString::fromStdString(read.error().text));
    std::vector<AssetUse> uses;
    for (const AssetUse& use : uses_)
        if (use.path == document_.place().path && use.node == node->id) uses.push_back(use);
    Edit edit = updateAssets(document_.loom(), uses, document_.writtenPath(QString::fromStdString(loom->string())), *read, document_.assets());
    edit.label = tr("Make %1 local").arg(QString::fromStdString(read->name)).toStdString();
    document_.apply(edit);
    showMessage(tr("The node stands for %1 now, which you can change.").arg(QString::fromStdString(loom->filename().string())),
                {{tr("Open it"), [file = QString::fromStdString(loom->string())] {
                      MainWindow* window = openNew();
                      window->openFile(file);
                      window->show();
                  }}});
}

}  // namespace seedloom::app
