#include "app/shell/MainWindow.h"

#include "app/look/Theme.h"
#include "app/shell/PublishWindow.h"
#include "app/shell/Rail.h"
#include "app/shell/UpdateWindow.h"

#include <QtCore/QTimer>
#include <QtWidgets/QStackedWidget>

namespace seedloom::app {

MainWindow::MainWindow() {
    resize(1280, 800);
    setWindowIcon(icon(QStringLiteral("seedloom"), colours().chosen));
    setAcceptDrops(true);
    workplaces_ = makeWorkplaces(session_);
    makeActions();
    makeLayout();
    connect(&document_, &Document::changed, this, &MainWindow::documentChanged);
    connect(&session_, &Session::problem, this, [this](const QString& text) { showMessage(text); });
    connect(&session_.pictures(), &Pictures::ready, this, &MainWindow::keepPicture);
    connect(&document_, &Document::replaced, this, [this] {
        pictureWanted_.clear();
        offered_.clear();
        showStart(false);
        showMessage({});
    });
    connect(&document_, &Document::journalFailed, this,
            [this](const QString& reason) { showMessage(tr("Edits are not journalled any more, so save now and then. %1").arg(reason)); });
    connect(&library_, &Library::changed, this, &MainWindow::offerUpdates);
    connect(&watcher_, &QFileSystemWatcher::fileChanged, this, [this] { QTimer::singleShot(300, this, &MainWindow::checkDisk); });
    for (const auto& workplace : workplaces_) {
        connect(workplace.get(), &Workplace::messageWanted, this, [this](const QString& text) { showMessage(text); });
        connect(workplace.get(), &Workplace::workplaceWanted, this, &MainWindow::showWorkplace);
        connect(workplace.get(), &Workplace::documentWanted, this, [](const QString& file) {
            MainWindow* window = openNew();
            window->openFile(file);
            window->show();
        });
    }
    restoreLayout();
    document_.startNew();
}

MainWindow::~MainWindow() {
    delete publish_.data();
    delete update_.data();
    exports_.wait();
    // Nobody who would ask the session may listen any more when it goes.
    document_.disconnect();
    session_.rebuilds().disconnect();
    session_.pictures().disconnect();
    delete takeCentralWidget();
}

VaryWorkplace& MainWindow::vary() const { return static_cast<VaryWorkplace&>(*workplaces_[1]); }

BuildWorkplace& MainWindow::build() const { return static_cast<BuildWorkplace&>(*workplaces_.front()); }

void MainWindow::documentChanged() {
    const auto name = [](QAction* action, const QString& verb, const QString& what, bool can) {
        action->setText(can ? verb + QLatin1Char(' ') + what : verb);
        action->setEnabled(can);
    };
    name(undo_, tr("Undo"), document_.undoText(), document_.history().undoable());
    name(redo_, tr("Redo"), document_.redoText(), document_.history().redoable());
    setWindowTitle(tr("%1%2 — Seed Loom").arg(document_.title(), document_.modified() ? tr(" (edited)") : QString()));
    if (watchedAssets_ != document_.assetFiles()) watchFile();
    showUses();
}

void MainWindow::showWorkplace(const QString& id) {
    for (std::size_t i = 0; i < workplaces_.size(); ++i) {
        if (workplaces_[i]->id() != id || int(i) == places_->currentIndex()) continue;
        workplaces_[std::size_t(places_->currentIndex())]->leave();
        places_->setCurrentIndex(int(i));
        workplaces_[i]->enter();
        rail_->setCurrent(id);
    }
}

}  // namespace seedloom::app
