// How Vary is put together.
#include "app/look/Theme.h"
#include "app/vary/FactList.h"
#include "app/vary/VaryPanel.h"
#include "app/vary/VaryView.h"
#include "app/widgets/FieldParts.h"
#include "app/workplaces/VaryWorkplace.h"
#include "meshes/MeshFile.h"

#include <QtCore/QSettings>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QSplitter>
#include <QtWidgets/QStackedWidget>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

constexpr int kPanelWide = 236, kSideWide = 344, kStarWide = 64, kStarHigh = 48;

QLabel* sectionLabel(const QString& text, QWidget* parent) {
    auto* label = new QLabel(text, parent);
    label->setProperty("role", "section");
    return label;
}

QComboBox* smallBox(const QString& name, const QString& tip, QWidget* parent) {
    auto* box = new QComboBox(parent);
    box->setAccessibleName(name);
    box->setToolTip(tip);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(6);
    return box;
}

}  // namespace

QWidget* VaryWorkplace::makeWidget(QWidget* parent) {
    across_ = new QSplitter(Qt::Horizontal, parent);
    across_->setHandleWidth(1);
    panel_ = new VaryPanel(across_);
    panel_->setMinimumWidth(px(210));
    across_->addWidget(panel_);
    across_->addWidget(makeMiddle(across_));
    across_->addWidget(makeSide(across_));
    across_->setStretchFactor(0, 0);
    across_->setStretchFactor(1, 1);
    across_->setStretchFactor(2, 0);
    for (int i = 0; i < 3; ++i) across_->setCollapsible(i, false);
    connectParts();
    return across_;
}

QWidget* VaryWorkplace::makeMiddle(QWidget* parent) {
    auto* middle = new QWidget(parent);
    middle->setMinimumWidth(px(300));
    auto* column = new QVBoxLayout(middle);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    bar_ = makeSheetBar(middle);
    column->addWidget(bar_);
    problem_ = new QLabel(middle);
    problem_->setProperty("role", "warning");
    problem_->setWordWrap(true);
    problem_->setContentsMargins(px(12), 0, px(12), px(6));
    problem_->hide();
    column->addWidget(problem_);
    middle_ = new QStackedWidget(middle);
    view_ = new VaryView(table_, middle_);
    middle_->addWidget(view_);
    middle_->addWidget(makeInvitation(middle_));
    column->addWidget(middle_, 1);
    return middle;
}

/// What is seen of the sheet, and how far it is.
QWidget* VaryWorkplace::makeSheetBar(QWidget* parent) {
    auto* bar = new QWidget(parent);
    auto* lines = new QVBoxLayout(bar);
    lines->setContentsMargins(px(12), px(8), px(12), px(6));
    lines->setSpacing(px(6));
    auto* upper = new QHBoxLayout;
    progress_ = new QLabel(bar);
    progress_->setFont(bodyFont(12, QFont::Medium));
    upper->addWidget(progress_, 1);
    condition_ = new QLineEdit(bar);
    condition_->setPlaceholderText(tr("Only where …  faces < 20000"));
    condition_->setClearButtonEnabled(true);
    condition_->setMaximumWidth(px(230));
    condition_->setAccessibleName(tr("Filter by a formula"));
    condition_->setToolTip(
        tr("Shows those for which the formula is true. It may read faces, triangles, points, size_x, size_y, size_z, volume, closed, ms, and controls by "
           "their id; empty shows all"));
    upper->addWidget(condition_, 1);
    stopButton_ = new QPushButton(tr("Stop"), bar);
    stopButton_->setToolTip(tr("Makes no more of them; what is done stays"));
    upper->addWidget(stopButton_);
    lines->addLayout(upper);
    auto* lower = new QHBoxLayout;
    lower->setSpacing(px(6));
    columns_ = smallBox(tr("Columns"), tr("The control whose values stand over the columns"), bar);
    rows_ = smallBox(tr("Rows"), tr("The control whose values stand before the rows"), bar);
    order_ = smallBox(tr("Order"), tr("In which order they stand"), bar);
    largest_ = new QPushButton(QStringLiteral("↑"), bar);
    largest_->setCheckable(true);
    largest_->setFixedWidth(px(26));
    largest_->setAccessibleName(tr("Largest first"));
    largest_->setToolTip(tr("Largest first, or smallest"));
    kind_ = smallBox(tr("Show"), tr("Which of them are shown"), bar);
    kind_->addItems({tr("all"), tr("starred"), tr("warned")});
    for (QWidget* part : {static_cast<QWidget*>(columns_), static_cast<QWidget*>(rows_), static_cast<QWidget*>(order_)}) lower->addWidget(part, 2);
    lower->addWidget(largest_);
    lower->addWidget(kind_, 2);
    lines->addLayout(lower);
    return bar;
}

/// What there is to do while nothing varies.
QWidget* VaryWorkplace::makeInvitation(QWidget* parent) {
    auto* page = new QWidget(parent);
    auto* column = new QVBoxLayout(page);
    column->addStretch(2);
    auto* title = new QLabel(tr("See many of them side by side"), page);
    title->setFont(bodyFont(16, QFont::DemiBold));
    title->setAlignment(Qt::AlignCenter);
    column->addWidget(title);
    auto* words = new QLabel(tr("Choose at the left which controls vary, and how. Each variation is built and drawn here; the ones you star can be kept as "
                                "presets, compared, or exported together."),
                             page);
    words->setProperty("role", "faint");
    words->setWordWrap(true);
    words->setAlignment(Qt::AlignCenter);
    words->setFixedWidth(px(420));
    words->ensurePolished();
    words->setMinimumHeight(words->heightForWidth(px(420)));
    column->addWidget(words, 0, Qt::AlignCenter);
    column->addSpacing(px(10));
    auto* line = new QHBoxLayout;
    line->addStretch();
    auto* everything = new QPushButton(tr("Vary everything by chance"), page);
    everything->setDefault(true);
    everything->setToolTip(tr("Every control that has a range or choices gets values by chance that cover it evenly"));
    connect(everything, &QPushButton::clicked, this, [this] {
        VaryPlan plan = everythingByChance(sheet_.loom());
        sheet_.setPlan(plan);
    });
    line->addWidget(everything);
    line->addStretch();
    column->addLayout(line);
    column->addStretch(3);
    return page;
}

QWidget* VaryWorkplace::makeSide(QWidget* parent) {
    auto* side = new QWidget(parent);
    side->setObjectName(QStringLiteral("varySide"));
    side->setStyleSheet(QStringLiteral("#varySide { background: %1; }").arg(colours().card.name()));
    side->setMinimumWidth(px(300));
    auto* column = new QVBoxLayout(side);
    column->setContentsMargins(px(14), px(10), px(14), px(10));
    column->setSpacing(px(7));
    title_ = new QLabel(side);
    title_->setFont(bodyFont(13, QFont::DemiBold));
    title_->setWordWrap(true);
    title_->setMaximumHeight(px(36));
    column->addWidget(title_);
    stage_ = new Stage(selection_, side);
    stage_->setMinimumHeight(px(150));
    stage_->setPlain();
    column->addWidget(stage_, 1);
    beside_ = smallLabel({}, side);
    column->addWidget(beside_);
    facts_ = new FactList(side);
    column->addWidget(facts_);
    auto* upper = new QHBoxLayout;
    auto* lower = new QHBoxLayout;
    use_ = new QPushButton(tr("Use these values"), side);
    use_->setDefault(true);
    use_->setToolTip(tr("Puts its values into the controls; one step to undo (Enter)"));
    build_ = new QPushButton(tr("Open in Build"), side);
    build_->setToolTip(tr("Uses its values, and goes to Build"));
    keep_ = new QPushButton(tr("Keep as preset …"), side);
    keep_->setToolTip(tr("Keeps its values under a name, beside the loom's other presets"));
    compare_ = new QToolButton(side);
    compare_->setText(tr("Compare with …"));
    compare_->setPopupMode(QToolButton::InstantPopup);
    compare_->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    compare_->setAccessibleName(tr("Compare with"));
    compare_->setToolTip(tr("Shows it beside another one, with a divider that can be dragged"));
    compare_->setStyleSheet(QStringLiteral("QToolButton::menu-indicator { image: none; }"));  // the dots say it
    compare_->setMenu(new QMenu(compare_));
    upper->addWidget(use_, 1);
    upper->addWidget(build_, 1);
    lower->addWidget(keep_, 1);
    lower->addWidget(compare_, 1);
    column->addLayout(upper);
    column->addLayout(lower);
    presetName_ = new QLineEdit(side);
    presetName_->setPlaceholderText(tr("Name of the preset"));
    presetName_->setAccessibleName(tr("Name of the preset"));
    presetName_->setToolTip(tr("Enter keeps it, Escape does not"));
    presetName_->hide();
    column->addWidget(presetName_);
    starTitle_ = sectionLabel(tr("STARRED"), side);
    column->addWidget(starTitle_);
    stars_ = new QListWidget(side);
    stars_->setViewMode(QListView::IconMode);
    stars_->setFlow(QListView::LeftToRight);
    stars_->setWrapping(false);
    stars_->setMovement(QListView::Static);
    stars_->setIconSize({px(kStarWide), px(kStarHigh)});
    stars_->setSpacing(px(3));
    stars_->setFixedHeight(px(kStarHigh) + px(24));
    stars_->setVerticalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    stars_->setAccessibleName(tr("Starred variations"));
    stars_->setAccessibleDescription(tr("A click shows one; Delete takes its star away"));
    stars_->setStyleSheet(
        QStringLiteral("QListView { background: %1; border: none; } QListView::item { border: 1px solid %2; border-radius: 3px; padding: 1px; }"
                       "QListView::item:selected { background: %1; border: 2px solid %3; }")
            .arg(colours().card.name(), colours().line.name(), colours().chosen.name()));
    stars_->installEventFilter(this);
    column->addWidget(stars_);
    column->addWidget(makeExport(side));
    return side;
}

QWidget* VaryWorkplace::makeExport(QWidget* parent) {
    auto* box = new QWidget(parent);
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(px(6));
    auto* line = new QHBoxLayout;
    pattern_ = new QLineEdit(box);
    pattern_->setFont(numberFont(12));
    pattern_->setAccessibleName(tr("Names of files"));
    pattern_->setToolTip(tr("{name} is the loom's, {n} the number, {preset}, and {ID} the value of a control"));
    format_ = smallBox(tr("Format"), tr("As what the models are written"), box);
    for (const std::string& ending : writableEndings()) format_->addItem(QString::fromStdString(ending).mid(1));
    showNames();
    exportButton_ = new QPushButton(box);
    exportButton_->setToolTip(tr("Writes the starred ones into a folder, with index.csv and a contact sheet"));
    line->addWidget(pattern_, 2);
    line->addWidget(format_, 1);
    line->addWidget(exportButton_, 2);
    column->addLayout(line);
    exportText_ = smallLabel(tr("With index.csv and a contact sheet"), box);
    exportText_->setWordWrap(true);
    column->addWidget(exportText_);
    return box;
}

void VaryWorkplace::restoreLayout(const QString& key) {
    across_->setSizes({px(kPanelWide), 1280 - px(kPanelWide) - px(kSideWide), px(kSideWide)});
    const QByteArray kept = QSettings().value(key + QStringLiteral("varyAcross")).toByteArray();
    if (!kept.isEmpty()) across_->restoreState(kept);
}

void VaryWorkplace::saveLayout(const QString& key) const { QSettings().setValue(key + QStringLiteral("varyAcross"), across_->saveState()); }

}  // namespace seedloom::app
