// How Build is put together: panels, drawers, first steps.
#include "app/data/CheckupDrawer.h"
#include "app/data/DataDrawer.h"
#include "app/data/TimeDrawer.h"
#include "app/look/Theme.h"
#include "app/settings/ControlsPanel.h"
#include "app/settings/SettingsPanel.h"
#include "app/weave/Trail.h"
#include "app/weave/Weave.h"
#include "app/widgets/Slider.h"
#include "app/workplaces/BuildWorkplace.h"

#include <QtCore/QSettings>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QSplitter>
#include <QtWidgets/QStackedWidget>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

QWidget* BuildWorkplace::makeWidget(QWidget* parent) {
    auto* main = new QWidget(parent);
    auto* column = new QVBoxLayout(main);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    stage_ = new Stage(selection_, main);
    weave_ = new Weave(session_, main);
    for (QAction* one : weaveActions_ + placeActions_) {
        one->setShortcutContext(Qt::WidgetWithChildrenShortcut);
        weave_->QWidget::addAction(one);
    }
    for (QAction* one : placeActions_) stage_->QWidget::addAction(one);
    data_ = new DataDrawer(main);
    checkup_ = new CheckupDrawer(main);
    time_ = new TimeDrawer(selection_, main);
    notices_ = new QListWidget(main);
    notices_->setWordWrap(true);
    notices_->setStyleSheet(QStringLiteral("QListView { padding: 6px 12px; } QListView::item { padding: 5px 4px; }"));
    notices_->setAccessibleName(tr("Notices"));
    notices_->setAccessibleDescription(tr("What the nodes have to tell; a click chooses the node, buttons do what helps."));
    drawers_ = new QStackedWidget(main);
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
    firstSteps_ = makeFirstSteps(lower);
    lowerColumn->addWidget(firstSteps_);
    trail_ = new Trail(document_, rebuilds_, selection_, lower);
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
    column->addWidget(makeDrawerBar(main));
    makeSide(parent, main);
    connectSession();
    connectPanels();
    return across_;
}

/// Controls over settings, right of all else.
void BuildWorkplace::makeSide(QWidget* parent, QWidget* main) {
    across_ = new QSplitter(Qt::Horizontal, parent);
    settings_ = new SettingsPanel(document_, rebuilds_, across_);
    controls_ = new ControlsPanel(document_, across_);
    for (QWidget* panel : {static_cast<QWidget*>(settings_), static_cast<QWidget*>(controls_)}) panel->setMinimumWidth(px(300));
    side_ = new QSplitter(Qt::Vertical, across_);
    side_->setHandleWidth(1);
    side_->addWidget(controls_);
    side_->addWidget(settings_);
    side_->setCollapsible(0, false);
    side_->setStyleSheet(QStringLiteral("QSplitter { background: %1; }").arg(colours().card.name()));
    across_->setHandleWidth(1);
    across_->addWidget(main);
    across_->addWidget(side_);
    across_->setStretchFactor(0, 1);
    across_->setStretchFactor(1, 0);
    across_->setCollapsible(0, false);
    across_->setCollapsible(1, false);
}

QWidget* BuildWorkplace::makeDrawerBar(QWidget* parent) {
    const Colours& c = colours();
    auto* bar = new QWidget(parent);
    bar->setFixedHeight(px(28));
    bar->setObjectName(QStringLiteral("drawerBar"));
    bar->setStyleSheet(QStringLiteral("#drawerBar { border-top: 1px solid %1; background: %2; } #drawerBar QToolButton { border: none; border-radius: 3px; "
                                      "background: transparent; padding: 3px 10px; }"
                                      "#drawerBar QToolButton:hover { background: %3; } #drawerBar QToolButton:checked { background: %4; color: %5; }")
                           .arg(c.line.name(), c.paper.name(), c.field.name(), c.ink.name(), c.card.name()));
    auto* row = new QHBoxLayout(bar);
    row->setContentsMargins(8, 2, 14, 2);
    row->setSpacing(4);
    const auto drawer = [&](const QString& text, QWidget* page, const QString& tip) {
        auto* button = new QToolButton(bar);
        button->setText(text);
        button->setToolTip(tip);
        button->setCheckable(true);
        button->setFont(bodyFont(12, QFont::Medium));
        connect(button, &QToolButton::clicked, this, [this, page, button](bool on) {
            for (const auto& [id, other] : drawerButtons())
                if (other != button) other->setChecked(false);
            drawers_->setVisible(on);
            showGhosts();
            if (!on) return;
            drawers_->setCurrentWidget(page);
            fitDrawer();
            showChosen();
        });
        row->addWidget(button);
        return button;
    };
    dataButton_ = drawer(tr("Data"), data_, tr("The numbers of the chosen node, element by element (Ctrl+1)"));
    checkupButton_ = drawer(tr("Checkup"), checkup_, tr("Whether the model is sound, and what helps where it is not (Ctrl+2)"));
    noticesButton_ = drawer(tr("Notices"), notices_, tr("What all nodes have to tell, with what helps (Ctrl+3)"));
    timeButton_ = drawer(tr("Time"), time_, tr("The frame that is built, and playing (Ctrl+4)"));
    row->addStretch();
    auto* hint = new QLabel(tr("/ add · Space peek · K skip · P pin"), bar);
    hint->setProperty("role", "faint");
    row->addWidget(hint);
    return bar;
}

QWidget* BuildWorkplace::makeFirstSteps(QWidget* parent) {
    const Colours& c = colours();
    auto* strip = new QWidget(parent);
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
            if (hasFirstSteps()) run();
            else Q_EMIT messageWanted(tr("These steps belong to the demo bollard. Open it with File › Open the demo bollard."));
        });
        row->addWidget(button);
    };
    step(tr("1  Drag Height at the right"), tr("Controls are what a user of the model may change. Everything follows."), [this] {
        if (Slider* height = controls_->slider("height")) height->setFocus();
    });
    step(tr("2  Move a point of the outline"), tr("Chooses the first node, pins the result and shows the points' handles on the stage."), [this] {
        weave_->choose("soften");
        if (selection_.pinned() != "soften") weave_->togglePin();
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

/// They belong to the demo: whether its nodes are here.
bool BuildWorkplace::hasFirstSteps() const { return document_.loom().node("outline") && document_.loom().node("even") && document_.loom().node("soften"); }

void BuildWorkplace::showFirstSteps(bool shown) {
    firstSteps_->setVisible(shown);
    QSettings().setValue(QStringLiteral("firstStepsSeen"), !shown);
}

std::array<std::pair<QString, QToolButton*>, 4> BuildWorkplace::drawerButtons() const {
    return {{{QStringLiteral("data"), dataButton_},
             {QStringLiteral("checkup"), checkupButton_},
             {QStringLiteral("notices"), noticesButton_},
             {QStringLiteral("time"), timeButton_}}};
}

/// Each drawer is as high as it was left, or as its content usually needs; stage and weave share what remains as they did before.
void BuildWorkplace::fitDrawer() {
    const QString name = shownDrawer();
    static const std::map<QString, int> usual{{QStringLiteral("data"), 250},
                                              {QStringLiteral("checkup"), 150},
                                              {QStringLiteral("notices"), 130},
                                              {QStringLiteral("time"), 116}};
    const QList<int> sizes = down_->sizes();
    const auto kept = drawerHeights_.find(name);
    const int room = sizes[0] + sizes[1] + sizes[2],
              wanted = kept == drawerHeights_.end() ? std::min(px(usual.at(name)), room / 3) : std::min(kept->second, room / 2);
    const int rest = room - wanted, weave = std::clamp(int(sizes[1]), px(96), std::max(px(96), rest - stage_->minimumHeight()));
    down_->setSizes({rest - weave, weave, wanted});
}

void BuildWorkplace::showDrawer(const QString& name) {
    for (const auto& [id, button] : drawerButtons())
        if (name.isEmpty() && button->isChecked()) button->click();
    for (const auto& [id, button] : drawerButtons())
        if (name == id && !button->isChecked()) button->click();
}

QString BuildWorkplace::shownDrawer() const {
    for (const auto& [id, button] : drawerButtons())
        if (button->isChecked()) return id;
    return {};
}

}  // namespace seedloom::app
