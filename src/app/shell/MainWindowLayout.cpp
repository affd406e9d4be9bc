// How the window is put together: panels, drawers, message, first steps, remembered layout.
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/TimeDrawer.h"
#include "app/look/Theme.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/shell/MainWindow.h"
#include "app/shell/Rail.h"
#include "app/shell/TopLine.h"
#include "app/stage/Stage.h"
#include "app/stage/StageTools.h"
#include "app/weave/Trail.h"
#include "app/weave/Weave.h"
#include "app/widgets/Finder.h"
#include "app/widgets/Slider.h"

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
    const Colours& c = colours();
    auto* whole = new QWidget(this);
    auto* row = new QHBoxLayout(whole);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    undo_->setIcon(icon(QStringLiteral("undo")));
    redo_->setIcon(icon(QStringLiteral("redo")));
    auto* rail = new Rail(whole);
    connect(rail, &Rail::helpWanted, this, &MainWindow::showHelp);
    connect(rail, &Rail::settingsWanted, this, &MainWindow::openSettings);
    row->addWidget(rail);

    auto* main = new QWidget(whole);
    auto* column = new QVBoxLayout(main);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    column->addWidget(new TopLine(document_, rebuilds_, undo_, redo_, action(QStringLiteral("commands")), action(QStringLiteral("export")), main));
    column->addWidget(makeMessage(main));

    stage_ = new Stage(this);
    weave_ = new Weave(document_, rebuilds_, pictures_, this);
    commands_ = new Finder(whole);
    for (QAction* one : weaveActions_ + placeActions_) {
        one->setShortcutContext(Qt::WidgetWithChildrenShortcut);
        weave_->QWidget::addAction(one);
    }
    for (QAction* one : placeActions_) stage_->QWidget::addAction(one);
    data_ = new DataDrawer(this);
    checkup_ = new CheckupDrawer(this);
    time_ = new TimeDrawer(this);
    notices_ = new QListWidget(this);
    notices_->setWordWrap(true);
    notices_->setStyleSheet(QStringLiteral("QListView { padding: 6px 12px; } QListView::item { padding: 5px 4px; }"));
    notices_->setAccessibleName(tr("Notices"));
    drawers_ = new QStackedWidget(this);
    for (QWidget* page : {static_cast<QWidget*>(data_), static_cast<QWidget*>(checkup_), static_cast<QWidget*>(notices_), static_cast<QWidget*>(time_)})
        drawers_->addWidget(page);
    drawers_->hide();

    down_ = new QSplitter(Qt::Vertical, main);
    down_->setHandleWidth(1);
    down_->addWidget(stage_);
    auto* lower = new QWidget(down_);
    auto* lowerColumn = new QVBoxLayout(lower);
    lowerColumn->setContentsMargins(0, 0, 0, 0);
    lowerColumn->setSpacing(0);
    firstSteps_ = makeFirstSteps();
    lowerColumn->addWidget(firstSteps_);
    trail_ = new Trail(document_, rebuilds_, lower);
    lowerColumn->addWidget(trail_);
    lowerColumn->addWidget(weave_, 1);
    down_->addWidget(lower);
    down_->addWidget(drawers_);
    connect(down_, &QSplitter::splitterMoved, this, [this] {
        if (const QString name = shownDrawer(); !name.isEmpty()) drawerHeights_[name] = down_->sizes().value(2);
    });
    down_->setCollapsible(0, false);
    down_->setCollapsible(1, false);
    column->addWidget(down_, 1);
    column->addWidget(makeDrawerBar());

    settings_ = new SettingsPanel(document_, rebuilds_, this);
    controls_ = new ControlsPanel(document_, this);
    for (QWidget* panel : {static_cast<QWidget*>(settings_), static_cast<QWidget*>(controls_)}) panel->setMinimumWidth(px(300));
    side_ = new QSplitter(Qt::Vertical, this);
    side_->setHandleWidth(1);
    side_->addWidget(controls_);
    side_->addWidget(settings_);
    side_->setCollapsible(0, false);
    side_->setStyleSheet(QStringLiteral("QSplitter { background: %1; }").arg(c.card.name()));

    across_ = new QSplitter(Qt::Horizontal, whole);
    across_->setHandleWidth(1);
    across_->addWidget(main);
    across_->addWidget(side_);
    across_->setStretchFactor(0, 1);
    across_->setStretchFactor(1, 0);
    across_->setCollapsible(0, false);
    across_->setCollapsible(1, false);
    row->addWidget(across_, 1);
    setCentralWidget(whole);
    connectPanels();
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

QWidget* MainWindow::makeDrawerBar() {
    const Colours& c = colours();
    auto* bar = new QWidget(this);
    bar->setFixedHeight(px(28));
    bar->setObjectName(QStringLiteral("drawerBar"));
    bar->setStyleSheet(QStringLiteral("#drawerBar { border-top: 1px solid %1; background: %2; } #drawerBar QToolButton { border: none; border-radius: 3px; "
                                      "background: transparent; padding: 3px 10px; }"
                                      "#drawerBar QToolButton:hover { background: %3; } #drawerBar QToolButton:checked { background: %4; color: %5; }")
                           .arg(c.line.name(), c.paper.name(), c.field.name(), c.ink.name(), c.card.name()));
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(8, 2, 14, 2);
    row->setSpacing(4);
    const auto drawer = [&](const QString& text, QWidget* page) {
        auto* button = new QToolButton(bar);
        button->setText(text);
        button->setCheckable(true);
        button->setFont(bodyFont(12, QFont::Medium));
        connect(button, &QToolButton::clicked, this, [this, page, button](bool on) {
            for (const auto& [id, other] : drawerButtons())
                if (other != button) other->setChecked(false);
            drawers_->setVisible(on);
            if (!on) return;
            drawers_->setCurrentWidget(page);
            fitDrawer();
            showChosen();
        });
        row->addWidget(button);
        return button;
    };
    dataButton_ = drawer(tr("Data"), data_);
    checkupButton_ = drawer(tr("Checkup"), checkup_);
    noticesButton_ = drawer(tr("Notices"), notices_);
    timeButton_ = drawer(tr("Time"), time_);
    row->addStretch();
    auto* hint = new QLabel(tr("/ add · Space peek · K skip · P pin"), bar);
    hint->setProperty("role", "faint");
    row->addWidget(hint);
    return bar;
}

QWidget* MainWindow::makeFirstSteps() {
    const Colours& c = colours();
    auto* strip = new QWidget(this);
    strip->setObjectName(QStringLiteral("firstSteps"));
    strip->setStyleSheet(QStringLiteral("#firstSteps { background: %1; border-top: 1px solid %2; }").arg(c.note.name(), c.line.name()));
    auto* row = new QHBoxLayout(strip);
    row->setContentsMargins(16, 5, 8, 5);
    row->setSpacing(10);
    auto* title = new QLabel(tr("Try:"), strip);
    title->setFont(bodyFont(12, QFont::Bold));
    row->addWidget(title);
    const auto step = [&](const QString& text, const QString& tip, std::function<void()> run) {
        auto* button = new QPushButton(text, strip);
        button->setToolTip(tip);
        button->setFixedHeight(px(24));
        connect(button, &QPushButton::clicked, this, [this, run] {
            for (const char* needed : {"outline", "even", "soften"})
                if (!document_.loom().node(needed))
                    return showMessage(tr("These steps belong to the demo bollard. Open it with File › Open the demo bollard."));
            run();
        });
        row->addWidget(button);
    };
    step(tr("1  Drag Height at the right"), tr("Controls are what a user of the model may change. Everything follows."), [this] {
        if (Slider* height = controls_->slider("height")) height->setFocus();
    });
    step(tr("2  Move a point of the outline"), tr("Chooses the first node, pins the result and shows the points' handles on the stage."), [this] {
        weave_->choose("soften");
        if (weave_->pinned() != "soften") weave_->togglePin();
        weave_->choose("outline");
    });
    step(tr("3  Insert a node"), tr("Opens quick add behind the chosen node. Try 'flip' or 'smooth'."), [this] {
        weave_->choose("even");
        weave_->openQuickAdd();
    });
    row->addStretch();
    auto* close = new QToolButton(strip);
    close->setIcon(icon(QStringLiteral("close")));
    close->setToolTip(tr("Close; Help › First steps brings it back"));
    close->setAccessibleName(tr("Close first steps"));
    connect(close, &QToolButton::clicked, this, [this] { showFirstSteps(false); });
    row->addWidget(close);
    strip->hide();
    return strip;
}

void MainWindow::showFirstSteps(bool shown) {
    firstSteps_->setVisible(shown);
    QSettings().setValue(QStringLiteral("firstStepsSeen"), !shown);
}

std::array<std::pair<QString, QToolButton*>, 4> MainWindow::drawerButtons() const {
    return {{{QStringLiteral("data"), dataButton_},
             {QStringLiteral("checkup"), checkupButton_},
             {QStringLiteral("notices"), noticesButton_},
             {QStringLiteral("time"), timeButton_}}};
}

/// Each drawer is as high as it was left, or as its content usually needs; stage and weave share what remains as they did before.
void MainWindow::fitDrawer() {
    const QString name = shownDrawer();
    static const std::map<QString, int> usual{{QStringLiteral("data"), 250},
                                              {QStringLiteral("checkup"), 150},
                                              {QStringLiteral("notices"), 130},
                                              {QStringLiteral("time"), 116}};
    const QList<int> sizes = down_->sizes();
    const auto kept = drawerHeights_.find(name);
    const int room = sizes[0] + sizes[1] + sizes[2], wanted = std::min(kept == drawerHeights_.end() ? px(usual.at(name)) : kept->second, room / 2);
    const int rest = room - wanted, weave = std::clamp(int(sizes[1]), px(96), std::max(px(96), rest - stage_->minimumHeight()));
    down_->setSizes({rest - weave, weave, wanted});
}

void MainWindow::showDrawer(const QString& name) {
    for (const auto& [id, button] : drawerButtons())
        if (name.isEmpty() && button->isChecked()) button->click();
    for (const auto& [id, button] : drawerButtons())
        if (name == id && !button->isChecked()) button->click();
}

QString MainWindow::shownDrawer() const {
    for (const auto& [id, button] : drawerButtons())
        if (button->isChecked()) return id;
    return {};
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
    const Json view = viewState();
    const auto chosen = weave_->chosenAll();
    const double frame = time_->frame();
    const QString text = message();
    const QString drawer = shownDrawer();
    const StageLook look = stage_->tools()->look();
    const QStringList overlays = stage_->tools()->overlaysOn();
    const QByteArray across = across_->saveState(), down = down_->saveState(), side = side_->saveState();
    setWindowIcon(icon(QStringLiteral("seedloom"), colours().chosen));
    delete takeCentralWidget();
    makeLayout();
    pictures_.refresh();
    across_->restoreState(across);
    side_->restoreState(side);
    takeViewState(view);
    stage_->tools()->takeFrom(look, overlays);
    weave_->chooseAll(chosen);
    time_->setFrame(frame);
    showMessage(text);
    showNotices();
    if (!drawer.isEmpty()) showDrawer(drawer);
    down_->restoreState(down);
    showChosen();
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
    across_->setSizes({880, px(344)});
    down_->setSizes({492, 208, 0});
    if (settings.contains(key + QStringLiteral("across"))) across_->restoreState(settings.value(key + QStringLiteral("across")).toByteArray());
    if (settings.contains(key + QStringLiteral("down"))) down_->restoreState(settings.value(key + QStringLiteral("down")).toByteArray());
    if (settings.contains(key + QStringLiteral("side"))) sideFitted_ = side_->restoreState(settings.value(key + QStringLiteral("side")).toByteArray());
    const QString drawer = settings.value(key + QStringLiteral("drawer")).toString();
    if (!drawer.isEmpty()) showDrawer(drawer);
}

void MainWindow::saveLayout() {
    QSettings settings;
    const QString key = layoutKey();
    settings.setValue(key + QStringLiteral("window"), saveGeometry());
    settings.setValue(key + QStringLiteral("across"), across_->saveState());
    settings.setValue(key + QStringLiteral("down"), down_->saveState());
    settings.setValue(key + QStringLiteral("side"), side_->saveState());
    settings.setValue(key + QStringLiteral("drawer"), shownDrawer());
}

void MainWindow::showEvent(QShowEvent* event) {
    QMainWindow::showEvent(event);
    if (sideFitted_) return;
    sideFitted_ = true;
    const int wanted = std::min(controls_->wantedHeight() + 24, height() / 2);
    side_->setSizes({wanted, height() - wanted});
}

}  // namespace seedloom::app
