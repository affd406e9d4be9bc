// How the window is put together: actions, panels, drawers, first steps, remembered layout.
#include "app/data/DataDrawer.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/settings/Slider.h"
#include "app/shell/MainWindow.h"
#include "app/shell/Rail.h"
#include "app/shell/Theme.h"
#include "app/shell/TopLine.h"
#include "app/stage/Stage.h"
#include "app/weave/Weave.h"

#include <QtCore/QSettings>
#include <QtWidgets/QDialog>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QMenuBar>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QSplitter>
#include <QtWidgets/QStackedWidget>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

void MainWindow::makeActions() {
    const auto add = [this](QMenu* menu, const QString& text, const QKeySequence& keys, auto&& run) {
        QAction* action = menu->addAction(text);
        action->setShortcut(keys);
        connect(action, &QAction::triggered, this, run);
        return action;
    };
    QMenu* file = menuBar()->addMenu(tr("&File"));
    new_ = add(file, tr("&New"), QKeySequence::New, [this] {
        if (mayLeave()) document_.startNew();
    });
    open_ = add(file, tr("&Open …"), QKeySequence::Open, [this] { openAsked(); });
    add(file, tr("Open the &demo bollard"), {}, [this] {
        if (mayLeave()) openDemo();
    });
    file->addSeparator();
    save_ = add(file, tr("&Save"), QKeySequence::Save, [this] { save(); });
    saveAs_ = add(file, tr("Save &as …"), QKeySequence(QStringLiteral("Ctrl+Shift+S")), [this] { saveAs(); });
    add(file, tr("Re&name …"), {}, [this] { renameAsked(); });
    export_ = add(file, tr("&Export …"), QKeySequence(QStringLiteral("Ctrl+E")), [this] { exportAsked(); });
    export_->setToolTip(tr("Write the output's model as .glb, .obj, .ply or .stl (Ctrl+E)"));
    file->addSeparator();
    add(file, tr("&Quit"), QKeySequence::Quit, [this] { close(); });

    QMenu* edit = menuBar()->addMenu(tr("&Edit"));
    undo_ = document_.history().createUndoAction(this, tr("Undo"));
    undo_->setShortcut(QKeySequence::Undo);
    undo_->setIcon(icon(QStringLiteral("undo")));
    redo_ = document_.history().createRedoAction(this, tr("Redo"));
    redo_->setShortcuts({QKeySequence(QStringLiteral("Ctrl+Shift+Z")), QKeySequence(QStringLiteral("Ctrl+Y"))});
    redo_->setIcon(icon(QStringLiteral("redo")));
    edit->addActions({undo_, redo_});

    QMenu* node = menuBar()->addMenu(tr("&Node"));
    add(node, tr("&Add …"), QKeySequence(QStringLiteral("/")), [this] { weave_->openQuickAdd(); });
    // These are keys of the weave alone: in a ramp or a table Delete and letters mean something else.
    weaveActions_ << add(node, tr("&Rename"), QKeySequence(QStringLiteral("F2")), [this] { weave_->renameChosen(); });
    weaveActions_ << add(node, tr("S&kip or use"), QKeySequence(QStringLiteral("K")), [this] { weave_->toggleSkip(); });
    weaveActions_ << add(node, tr("&Pin on stage"), QKeySequence(QStringLiteral("P")), [this] { weave_->togglePin(); });
    weaveActions_ << add(node, tr("&Delete"), QKeySequence::Delete, [this] { weave_->deleteChosen(); });

    QMenu* view = menuBar()->addMenu(tr("&View"));
    viewActions_ << add(view, tr("&Frame all"), QKeySequence(QStringLiteral("Home")), [this] { stage_->frameAll(); });
    viewActions_ << add(view, tr("Show the whole &weave"), QKeySequence(QStringLiteral("Shift+Home")), [this] { weave_->showAll(); });
    view->addSeparator();
    add(view, tr("&Data"), QKeySequence(QStringLiteral("Ctrl+1")), [this] { dataButton_->click(); });
    add(view, tr("&Notices"), QKeySequence(QStringLiteral("Ctrl+2")), [this] { noticesButton_->click(); });

    QMenu* help = menuBar()->addMenu(tr("&Help"));
    add(help, tr("&First steps"), {}, [this] { showFirstSteps(true); });
    add(help, tr("&Keys"), QKeySequence(QStringLiteral("F1")), [this] { showHelp(); });
}

void MainWindow::makeLayout() {
    const Colours& c = colours();
    auto* whole = new QWidget(this);
    auto* row = new QHBoxLayout(whole);
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(0);
    auto* rail = new Rail(whole);
    connect(rail, &Rail::helpWanted, this, &MainWindow::showHelp);
    row->addWidget(rail);

    auto* main = new QWidget(whole);
    auto* column = new QVBoxLayout(main);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* top = new TopLine(document_, rebuilds_, undo_, redo_, export_, main);
    column->addWidget(top);

    message_ = new QWidget(main);
    message_->setStyleSheet(QStringLiteral("background: %1; border-top: 1px solid %2;").arg(c.note.name(), c.line.name()));
    auto* messageRow = new QHBoxLayout(message_);
    messageRow->setContentsMargins(16, 6, 8, 6);
    messageText_ = new QLabel(message_);
    messageText_->setWordWrap(true);
    messageText_->setStyleSheet(QStringLiteral("border: none;"));
    messageRow->addWidget(messageText_, 1);
    auto* closeMessage = new QToolButton(message_);
    closeMessage->setIcon(icon(QStringLiteral("close")));
    closeMessage->setAccessibleName(tr("Close the message"));
    connect(closeMessage, &QToolButton::clicked, this, [this] { showMessage({}); });
    messageRow->addWidget(closeMessage);
    message_->hide();
    column->addWidget(message_);

    stage_ = new Stage(this);
    weave_ = new Weave(document_, rebuilds_, pictures_, this);
    for (QAction* action : weaveActions_ + viewActions_) {
        action->setShortcutContext(Qt::WidgetWithChildrenShortcut);
        weave_->addAction(action);
    }
    for (QAction* action : viewActions_) stage_->addAction(action);
    data_ = new DataDrawer(this);
    notices_ = new QListWidget(this);
    notices_->setWordWrap(true);
    notices_->setStyleSheet(QStringLiteral("QListView { padding: 6px 0; } QListView::item { padding: 5px 16px; }"));
    notices_->setAccessibleName(tr("Notices"));
    drawers_ = new QStackedWidget(this);
    drawers_->addWidget(data_);
    drawers_->addWidget(notices_);
    drawers_->hide();
    connect(notices_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        const std::string node = item->data(Qt::UserRole).toString().toStdString();
        if (!node.empty()) weave_->choose(node);
    });

    down_ = new QSplitter(Qt::Vertical, main);
    down_->setHandleWidth(1);
    down_->addWidget(stage_);
    auto* lower = new QWidget(down_);
    auto* lowerColumn = new QVBoxLayout(lower);
    lowerColumn->setContentsMargins(0, 0, 0, 0);
    lowerColumn->setSpacing(0);
    firstSteps_ = makeFirstSteps();
    lowerColumn->addWidget(firstSteps_);
    lowerColumn->addWidget(weave_, 1);
    down_->addWidget(lower);
    down_->addWidget(drawers_);
    down_->setCollapsible(0, false);
    down_->setCollapsible(1, false);
    column->addWidget(down_, 1);
    column->addWidget(makeDrawerBar());

    settings_ = new SettingsPanel(document_, rebuilds_, this);
    controls_ = new ControlsPanel(document_, this);
    for (QWidget* panel : {static_cast<QWidget*>(settings_), static_cast<QWidget*>(controls_)}) panel->setMinimumWidth(300);
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
}

QWidget* MainWindow::makeDrawerBar() {
    const Colours& c = colours();
    auto* bar = new QWidget(this);
    bar->setFixedHeight(28);
    bar->setObjectName(QStringLiteral("drawerBar"));
    bar->setStyleSheet(QStringLiteral("#drawerBar { border-top: 1px solid %1; background: %2; } #drawerBar QToolButton { border: none; border-radius: 3px; background: transparent; padding: 3px 10px; }"
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
            for (QToolButton* other : {dataButton_, noticesButton_})
                if (other != button) other->setChecked(false);
            drawers_->setVisible(on);
            if (!on) return;
            drawers_->setCurrentWidget(page);
            const QList<int> sizes = down_->sizes();
            if (sizes.value(2) < 80) down_->setSizes({sizes[0] * 3 / 4, sizes[1] - 10, 200});
            showChosen();
        });
        row->addWidget(button);
        return button;
    };
    dataButton_ = drawer(tr("Data"), data_);
    noticesButton_ = drawer(tr("Notices"), notices_);
    row->addStretch();
    auto* hint = new QLabel(tr("/ add a node   ·   K skip   ·   P pin   ·   Del delete"), bar);
    hint->setStyleSheet(QStringLiteral("color: %1; font-size: 11px;").arg(c.faint.name()));
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
        button->setFixedHeight(24);
        connect(button, &QPushButton::clicked, this, [this, run] {
            for (const char* needed : {"outline", "even", "soften"})
                if (!document_.loom().node(needed)) return showMessage(tr("These steps belong to the demo bollard. Open it with File › Open the demo bollard."));
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

void MainWindow::showDrawer(const QString& name) {
    QToolButton* button = name == QLatin1String("notices") ? noticesButton_ : dataButton_;
    if (!button->isChecked()) button->click();
}

void MainWindow::showNotices() {
    notices_->clear();
    int shown = 0;
    for (const Notice& notice : rebuilds_.notices()) {
        const Node* node = document_.loom().node(notice.node);
        const QString level = notice.level == NoticeLevel::error ? tr("Error") : notice.level == NoticeLevel::warning ? tr("Warning") : tr("Note");
        auto* item = new QListWidgetItem(QStringLiteral("%1  ·  %2  ·  %3").arg(level, node ? QString::fromStdString(displayName(*node)) : QString(), QString::fromStdString(notice.text)), notices_);
        item->setData(Qt::UserRole, QString::fromStdString(notice.node));
        item->setForeground(notice.level == NoticeLevel::error ? colours().chosen : notice.level == NoticeLevel::warning ? colours().warning : colours().ink);
        ++shown;
    }
    if (shown == 0) {
        auto* item = new QListWidgetItem(tr("Nothing to report: every node is fine."), notices_);
        item->setFlags(Qt::NoItemFlags);
    }
    noticesButton_->setText(shown > 0 ? tr("Notices %1").arg(shown) : tr("Notices"));
}

void MainWindow::showMessage(const QString& text) {
    messageText_->setText(text);
    message_->setVisible(!text.isEmpty());
}

void MainWindow::showHelp() {
    auto* dialog = new QDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setWindowTitle(tr("Keys"));
    auto* column = new QVBoxLayout(dialog);
    column->setContentsMargins(24, 20, 24, 16);
    const std::pair<QString, QString> keys[] = {
        {tr("/  or double click a free cell"), tr("Add a node")}, {tr("Double click a thread"), tr("Insert a node there")},
        {tr("Pull from a card's right edge"), tr("Link to another card, or add one in the open")}, {tr("Arrow keys"), tr("Walk along the strands")},
        {tr("K · P · F2 · Del"), tr("Skip, pin on stage, rename, delete")}, {tr("Drag · right drag · wheel on the stage"), tr("Orbit, pan, zoom to the pointer")},
        {tr("Home · Shift+Home"), tr("Frame the model, show the whole weave")}, {tr("Drag a number sideways"), tr("Change it; Shift finer, Ctrl coarser; click to type 12cm or 1/3")}};
    QString text = QStringLiteral("<table cellspacing='7'>");
    for (const auto& [key, what] : keys) text += QStringLiteral("<tr><td><b>%1</b></td><td>%2</td></tr>").arg(key.toHtmlEscaped(), what.toHtmlEscaped());
    column->addWidget(new QLabel(text + QStringLiteral("</table>"), dialog));
    auto* close = new QPushButton(tr("Close"), dialog);
    close->setDefault(true);
    connect(close, &QPushButton::clicked, dialog, &QDialog::accept);
    column->addWidget(close, 0, Qt::AlignRight);
    dialog->open();
}

void MainWindow::restoreLayout() {
    const QSettings settings;
    if (settings.contains(QStringLiteral("window"))) restoreGeometry(settings.value(QStringLiteral("window")).toByteArray());
    across_->setSizes({880, 344});
    down_->setSizes({492, 208, 0});
    if (settings.contains(QStringLiteral("across"))) across_->restoreState(settings.value(QStringLiteral("across")).toByteArray());
    if (settings.contains(QStringLiteral("side"))) sideFitted_ = side_->restoreState(settings.value(QStringLiteral("side")).toByteArray());
}

void MainWindow::saveLayout() {
    QSettings settings;
    settings.setValue(QStringLiteral("window"), saveGeometry());
    settings.setValue(QStringLiteral("across"), across_->saveState());
    settings.setValue(QStringLiteral("side"), side_->saveState());
}

void MainWindow::showEvent(QShowEvent* event) {
    QMainWindow::showEvent(event);
    if (sideFitted_) return;
    sideFitted_ = true;
    const int wanted = std::min(controls_->wantedHeight() + 24, height() / 2);
    side_->setSizes({wanted, height() - wanted});
}

}  // namespace seedloom::app
