// How the window is put together: rail, top line, message, workplaces, remembered layout.
#include "app/library/LibraryDrawer.h"
#include "app/look/Theme.h"
#include "app/shell/MainWindow.h"
#include "app/shell/Rail.h"
#include "app/shell/StartPage.h"
#include "app/shell/TopLine.h"
#include "app/weave/Weave.h"
#include "app/widgets/Finder.h"

#include <QtCore/QSettings>
#include <QtGui/QScreen>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QSplitter>
#include <QtWidgets/QStackedWidget>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

void MainWindow::makeLayout() {
    auto* whole = new QWidget(this);
    auto* row = new QHBoxLayout(whole);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    undo_->setIcon(icon(QStringLiteral("undo")));
    redo_->setIcon(icon(QStringLiteral("redo")));
    rail_ = new Rail(workplaces_, whole);
    connect(rail_, &Rail::workplaceWanted, this, &MainWindow::showWorkplace);
    connect(rail_, &Rail::helpWanted, this, [this] { showHelp(QStringLiteral("guide")); });
    connect(rail_, &Rail::settingsWanted, this, &MainWindow::openSettings);
    connect(rail_, &Rail::libraryWanted, this, &MainWindow::toggleLibrary);
    row->addWidget(rail_);

    beside_ = new QSplitter(Qt::Horizontal, whole);
    beside_->setHandleWidth(1);
    beside_->addWidget(makeLibrary(beside_));
    auto* main = new QWidget(beside_);
    auto* column = new QVBoxLayout(main);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new TopLine(document_, session_.rebuilds(), undo_, redo_, action(QStringLiteral("commands")), action(QStringLiteral("export")), main));
    column->addWidget(makeMessage(main));
    places_ = new QStackedWidget(main);
    for (const auto& workplace : workplaces_) places_->addWidget(workplace->makeWidget(places_));
    front_ = new QStackedWidget(main);
    front_->addWidget(places_);
    front_->addWidget(makeStart());
    column->addWidget(front_, 1);
    beside_->addWidget(main);
    beside_->setStretchFactor(1, 1);
    beside_->setCollapsible(0, false);
    beside_->setCollapsible(1, false);
    row->addWidget(beside_, 1);
    commands_ = new Finder(whole);
    setCentralWidget(whole);
}

QWidget* MainWindow::makeStart() {
    start_ = new StartPage(front_);
    connect(start_, &StartPage::emptyWanted, this, [this] { action(QStringLiteral("new"))->trigger(); });
    connect(start_, &StartPage::openWanted, this, [this] { openAsked(); });
    connect(start_, &StartPage::fileWanted, this, [this](const QString& file) {
        if (mayLeave()) openFile(file);
    });
    connect(start_, &StartPage::demoWanted, this, [this](const QString& id) {
        if (mayLeave()) openNamedDemo(id);
    });
    connect(start_, &StartPage::bringBackWanted, this, [this](const LeftWork& left) { bringBack(left.journal); });
    connect(start_, &StartPage::throwAwayWanted, this, [this](const LeftWork& left) { throwAway(left.journal); });
    connect(start_, &StartPage::left, this, [this] { showStart(false); });
    return start_;
}

void MainWindow::showStart(bool shown) {
    front_->setCurrentWidget(shown ? static_cast<QWidget*>(start_) : places_);
    if (shown) {
        start_->refresh();
        offerJournals();
    }
    (shown ? static_cast<QWidget*>(start_->emptyButton()) : weave())->setFocus();
}

QWidget* MainWindow::makeMessage(QWidget* parent) {
    const Colours& c = colours();
    message_ = new QWidget(parent);
    message_->setObjectName(QStringLiteral("message"));
    message_->setStyleSheet(QStringLiteral("#message { background: %1; border-top: 1px solid %2; }").arg(c.note.name(), c.line.name()));
    auto* row = new QHBoxLayout(message_);
    row->setContentsMargins(16, 5, 8, 5);
    messageText_ = new QLabel(message_);
    messageText_->setWordWrap(true);
    row->addWidget(messageText_, 1);
    messageAnswers_ = new QHBoxLayout;
    row->addLayout(messageAnswers_);
    auto* close = new QToolButton(message_);
    close->setIcon(icon(QStringLiteral("close")));
    close->setAccessibleName(tr("Close the message"));
    connect(close, &QToolButton::clicked, this, [this] { showMessage({}); });
    row->addWidget(close);
    message_->hide();
    return message_;
}

void MainWindow::showMessage(const QString& text, const std::vector<Answer>& answers) {
    messageText_->setText(text);
    while (QLayoutItem* item = messageAnswers_->takeAt(0)) {
        // It may be the button that is being pressed.
        item->widget()->hide();
        item->widget()->deleteLater();
        delete item;
    }
    for (const Answer& answer : answers) {
        auto* button = new QPushButton(answer.text, message_);
        connect(button, &QPushButton::clicked, this, answer.use);
        messageAnswers_->addWidget(button);
    }
    message_->setVisible(!text.isEmpty());
}

QString MainWindow::message() const { return messageText_->text(); }

bool MainWindow::answerMessage(const QString& text) {
    for (int i = 0; i < messageAnswers_->count(); ++i)
        if (auto* button = qobject_cast<QPushButton*>(messageAnswers_->itemAt(i)->widget()); button && button->text() == text) return button->click(), true;
    return false;
}

void MainWindow::rebuildInterface() {
    std::vector<std::function<void()>> restore;
    for (const auto& workplace : workplaces_) restore.push_back(workplace->keepState());
    const bool starting = front_->currentWidget() == start_, shelves = !drawer_->isHidden();
    const QByteArray beside = beside_->saveState();
    const QString text = message(), place = workplaces_[std::size_t(places_->currentIndex())]->id();
    setWindowIcon(icon(QStringLiteral("seedloom"), colours().chosen));
    delete takeCentralWidget();
    makeLayout();
    session_.pictures().refresh();
    for (const auto& again : restore) again();
    showWorkplace(place);
    showMessage(text);
    if (starting) showStart(true);
    beside_->restoreState(beside);
    showLibrary(shelves);
}

/// Each size of screen has a layout of its own.
QString MainWindow::layoutKey() const {
    const QSize size = screen() ? screen()->size() : QSize();
    return QStringLiteral("layout-%1x%2/").arg(size.width()).arg(size.height());
}

void MainWindow::restoreLayout() {
    const QSettings settings;
    const QString key = layoutKey();
    if (settings.contains(key + QStringLiteral("window"))) restoreGeometry(settings.value(key + QStringLiteral("window")).toByteArray());
    for (const auto& workplace : workplaces_) workplace->restoreLayout(key);
    if (settings.contains(key + QStringLiteral("library"))) beside_->restoreState(settings.value(key + QStringLiteral("library")).toByteArray());
    showLibrary(settings.value(key + QStringLiteral("libraryShown"), false).toBool());
}

void MainWindow::saveLayout() {
    const QString key = layoutKey();
    QSettings().setValue(key + QStringLiteral("window"), saveGeometry());
    for (const auto& workplace : workplaces_) workplace->saveLayout(key);
    QSettings().setValue(key + QStringLiteral("library"), beside_->saveState());
    QSettings().setValue(key + QStringLiteral("libraryShown"), !drawer_->isHidden());
}

void MainWindow::showEvent(QShowEvent* event) {
    QMainWindow::showEvent(event);
    build().fitSide(height());
}

}  // namespace seedloom::app
