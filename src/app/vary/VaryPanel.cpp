#include "app/vary/VaryPanel.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/widgets/FieldParts.h"
#include "app/widgets/NumberField.h"
#include "app/widgets/SwapPage.h"
#include "vary/EvenDraws.h"

#include <QtCore/QDir>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QScrollArea>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

using How = VariedControl::How;
constexpr int kHowWide = 92;

QString nameOf(const Control& control) { return QString::fromStdString(control.label.empty() ? control.id : control.label); }

bool isNumber(const Control& control) { return control.type == "number" || control.type == "integer"; }

/// A name and how it varies, over what it varies over.
QComboBox* addRow(const QString& name, const QString& help, bool varies, QVBoxLayout* column, QWidget* page) {
    auto* line = new QHBoxLayout;
    line->setSpacing(px(8));
    auto* label = new QLabel(name, page);
    label->setFont(bodyFont(12, varies ? QFont::DemiBold : QFont::Normal));
    label->setToolTip(help);
    label->setMinimumWidth(px(40));
    line->addWidget(label, 1);
    auto* how = new QComboBox(page);
    how->setFixedWidth(px(kHowWide));
    how->setAccessibleName(VaryPanel::tr("How %1 varies").arg(name));
    how->setToolTip(VaryPanel::tr("Off leaves it as it is in Build"));
    how->setFocusPolicy(Qt::StrongFocus);
    line->addWidget(how);
    column->addLayout(line);
    return how;
}

/// Below the name, a little further in.
QHBoxLayout* editorLine(QWidget* row) {
    auto* line = new QHBoxLayout(row);
    line->setContentsMargins(px(10), 0, 0, px(4));
    line->setSpacing(px(4));
    return line;
}

}  // namespace

VaryPanel::VaryPanel(QWidget* parent)
    : QWidget(parent), area_(new QScrollArea(this)), all_(new QPushButton(tr("all of them"), this)), number_(new QPushButton(tr("a number"), this)),
      everything_(new QPushButton(tr("All by chance"), this)), nothing_(new QPushButton(tr("Nothing"), this)), count_(new QSpinBox(this)),
      seed_(new QSpinBox(this)), sum_(new QLabel(this)), cost_(smallLabel({}, this)), problem_(new QLabel(this)) {
    setObjectName(QStringLiteral("varyPanel"));
    setStyleSheet(QStringLiteral("#varyPanel { background: %1; }").arg(colours().card.name()));
    setAttribute(Qt::WA_StyledBackground);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(px(14), px(12), px(6), px(10));
    column->setSpacing(px(8));
    auto* head = new QHBoxLayout;
    auto* title = new QLabel(tr("What varies"), this);
    title->setProperty("role", "title");
    head->addWidget(title, 1);
    column->addLayout(head);
    auto* quick = new QHBoxLayout;
    everything_->setToolTip(tr("Every control that has a range or choices gets values by chance that cover it evenly"));
    nothing_->setToolTip(tr("All controls stay as they are in Build"));
    connect(everything_, &QPushButton::clicked, this, [this] {
        VaryPlan plan = everythingByChance(*loom_);
        plan.count = plan_.count, plan.seed = plan_.seed;
        take(std::move(plan), true);
    });
    connect(nothing_, &QPushButton::clicked, this, [this] {
        VaryPlan plan;
        plan.count = plan_.count, plan.seed = plan_.seed;
        take(std::move(plan), true);
    });
    quick->addWidget(everything_, 1);
    quick->addWidget(nothing_);
    quick->setContentsMargins(0, 0, px(8), 0);
    column->addLayout(quick);
    area_->setWidgetResizable(true);
    area_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    area_->setFocusPolicy(Qt::NoFocus);
    column->addWidget(area_, 1);
    column->addWidget(makeFoot());
}

QWidget* VaryPanel::makeFoot() {
    auto* foot = new QWidget(this);
    auto* column = new QVBoxLayout(foot);
    column->setContentsMargins(0, 0, px(8), 0);
    column->setSpacing(px(6));
    auto* title = new QLabel(tr("HOW MANY"), foot);
    title->setProperty("role", "section");
    column->addWidget(title);
    auto* kinds = new QHBoxLayout;
    for (QPushButton* button : {all_, number_}) {
        button->setCheckable(true);
        kinds->addWidget(button, 1);
    }
    all_->setToolTip(tr("Every combination of values, steps and presets; what varies by chance gets a value for each"));
    number_->setToolTip(tr("So many that cover everything that varies evenly; more of them never change the first ones"));
    connect(all_, &QPushButton::clicked, this, [this] {
        plan_.all = true;
        take(plan_, false);
    });
    connect(number_, &QPushButton::clicked, this, [this] {
        plan_.all = false;
        take(plan_, false);
    });
    column->addLayout(kinds);
    auto* line = new QHBoxLayout;
    count_->setRange(1, int(kMostVariations));
    count_->setAccessibleName(tr("How many"));
    count_->setToolTip(tr("How many variations are made, up to %1").arg(countText(kMostVariations)));
    seed_->setRange(0, 999'999);
    seed_->setAccessibleName(tr("Seed of chance"));
    seed_->setToolTip(tr("Another seed, other values; the same seed, the same ones"));
    count_->setKeyboardTracking(false);
    seed_->setKeyboardTracking(false);
    connect(count_, &QSpinBox::valueChanged, this, [this](int value) {
        plan_.count = std::size_t(value);
        take(plan_, false);
    });
    connect(seed_, &QSpinBox::valueChanged, this, [this](int value) {
        plan_.seed = unsigned(value);
        take(plan_, false);
    });
    line->addWidget(count_, 1);
    line->addSpacing(px(6));
    line->addWidget(new QLabel(tr("Seed"), foot));
    line->addWidget(seed_, 1);
    column->addLayout(line);
    auto* said = new QHBoxLayout;
    sum_->setWordWrap(true);
    said->addWidget(sum_, 1);
    column->addLayout(said);
    column->addWidget(cost_);
    problem_->setWordWrap(true);
    problem_->setProperty("role", "warning");
    problem_->hide();
    column->addWidget(problem_);
    return foot;
}

void VaryPanel::show(const std::shared_ptr<const Loom>& loom, const VaryPlan& plan, const QString& folder) {
    const bool sameControls = loom_ && loom_->controls == loom->controls && loom_->presets.size() == loom->presets.size();
    const bool same = sameControls && plan == plan_ && folder == folder_ && loom_->values == loom->values;
    loom_ = loom;
    plan_ = plan;
    folder_ = folder;
    if (!same) build();
    showCount();
}

void VaryPanel::take(VaryPlan plan, bool rebuild) {
    plan_ = std::move(plan);
    if (rebuild) build();
    showCount();
    Q_EMIT edited(plan_);
}

void VaryPanel::build() {
    hows_.clear();
    presets_ = nullptr;
    auto* page = new QWidget(area_);
    auto* column = new QVBoxLayout(page);
    column->setContentsMargins(0, 0, px(8), 0);
    column->setSpacing(px(5));
    if (!loom_->presets.empty()) addPresets(column, page);
    for (const Control& control : loom_->controls)
        if (control.type != "ramp") addControl(control, column, page);
    if (hows_.empty()) {
        auto* empty = new QLabel(tr("This loom has no controls. Drag a setting onto the controls in Build to make one."), page);
        empty->setWordWrap(true);
        empty->setProperty("role", "faint");
        column->addWidget(empty);
    }
    column->addStretch();
    swapPage(area_, page);
    everything_->setEnabled(!everythingByChance(*loom_).empty());
}

void VaryPanel::addPresets(QVBoxLayout* column, QWidget* page) {
    QComboBox* how = addRow(tr("Presets"), tr("Each preset of the loom; what varies beside it is varied from there"), plan_.presets, column, page);
    how->addItems({tr("off"), tr("all %1").arg(loom_->presets.size())});
    how->setCurrentIndex(plan_.presets ? 1 : 0);
    connect(how, &QComboBox::activated, this, [this](int index) {
        plan_.presets = index == 1;
        take(plan_, true);
    });
    presets_ = how;
}

void VaryPanel::addControl(const Control& control, QVBoxLayout* column, QWidget* page) {
    const VariedControl* varied = plan_.of(control.id);
    QComboBox* how = addRow(nameOf(control), QString::fromStdString(control.help), varied, column, page);
    how->addItem(tr("off"), -1);
    how->addItem(tr("values"), int(How::values));
    if (isNumber(control)) how->addItem(tr("steps"), int(How::steps));
    if (isNumber(control) || drawnFrom(control).possible()) how->addItem(tr("by chance"), int(How::random));
    how->setCurrentIndex(std::max(0, varied ? how->findData(int(varied->how)) : 0));
    connect(how, &QComboBox::activated, this, [this, id = control.id, how] { setHow(id, how->currentData().toInt()); });
    hows_[control.id] = how;
    if (varied) column->addWidget(makeEditor(control, *varied, page));
}

void VaryPanel::setHow(const std::string& control, int how) {
    VaryPlan plan = plan_;
    const auto it = std::find_if(plan.controls.begin(), plan.controls.end(), [&](const VariedControl& one) { return one.control == control; });
    if (how < 0) {
        if (it != plan.controls.end()) plan.controls.erase(it);
        return take(std::move(plan), true);
    }
    VariedControl proposed = proposedFor(*loom_, *loom_->control(control), How(how));
    if (it != plan.controls.end()) *it = std::move(proposed);
    else {
        // In the order of the loom's controls, so that the last of them runs fastest.
        const auto rank = [&](const std::string& id) {
            return std::find_if(loom_->controls.begin(), loom_->controls.end(), [&](const Control& one) { return one.id == id; }) - loom_->controls.begin();
        };
        const auto behind =
            std::find_if(plan.controls.begin(), plan.controls.end(), [&](const VariedControl& one) { return rank(one.control) > rank(control); });
        plan.controls.insert(behind, std::move(proposed));
    }
    take(std::move(plan), true);
}

void VaryPanel::change(const std::string& control, const std::function<void(VariedControl&)>& change) {
    for (VariedControl& one : plan_.controls)
        if (one.control == control) change(one);
    take(plan_, false);
}

QWidget* VaryPanel::makeEditor(const Control& control, const VariedControl& varied, QWidget* parent) {
    if (control.type == "choice" || control.type == "boolean") return makeChoices(control, varied, parent);
    return varied.how == How::values ? makeList(control, varied, parent) : makeRange(control, varied, parent);
}

QWidget* VaryPanel::makeList(const Control& control, const VariedControl& varied, QWidget* parent) {
    auto* row = new QWidget(parent);
    auto* line = editorLine(row);
    auto* field = new QLineEdit(QString::fromStdString(valuesText(varied.values)), row);
    field->setFont(numberFont(12));
    field->setAccessibleName(tr("Values of %1").arg(nameOf(control)));
    field->setToolTip(control.type == "file" ? tr("Files with semicolons between them, from the folder of the loom")
                                             : tr("Values with semicolons between them: 0.2; 0.6; 1"));
    field->setCursorPosition(0);
    connect(field, &QLineEdit::editingFinished, this, [this, field, control] {
        auto values = valuesFromText(control, field->text().toStdString());
        // What can't be read stays as it was typed, and says why.
        if (!values) return setProblem(QStringLiteral("%1: %2").arg(nameOf(control), QString::fromStdString(values.error().text)));
        change(control.id, [&](VariedControl& one) { one.values = std::move(*values); });
    });
    line->addWidget(field, 1);
    if (control.type != "file") return row;
    auto* more = new QToolButton(row);
    more->setText(QStringLiteral("…"));
    more->setAccessibleName(tr("Choose files for %1").arg(nameOf(control)));
    more->setToolTip(tr("Choose files, one variation each"));
    connect(more, &QToolButton::clicked, this, [this, field] {
        QStringList paths;
        for (const QString& file : QFileDialog::getOpenFileNames(this, tr("Files to vary over"), folder_))
            paths << (folder_.isEmpty() || !file.startsWith(folder_ + QLatin1Char('/')) ? file : QDir(folder_).relativeFilePath(file));
        if (paths.isEmpty()) return;
        field->setText(paths.join(QStringLiteral("; ")));
        Q_EMIT field->editingFinished();
    });
    line->addWidget(more);
    return row;
}

QWidget* VaryPanel::makeChoices(const Control& control, const VariedControl& varied, QWidget* parent) {
    auto* row = new QWidget(parent);
    auto* line = editorLine(row);
    auto* button = new QToolButton(row);
    button->setPopupMode(QToolButton::InstantPopup);
    button->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    button->setAccessibleName(tr("Values of %1").arg(nameOf(control)));
    button->setToolTip(tr("Which of them are taken"));
    auto* menu = new QMenu(button);
    const std::vector<Json> offered = drawnFrom(control).values;
    const std::vector<Json> taken = varied.values.empty() ? offered : varied.values;
    const auto text = [](const Json& value) {
        return value.is_string() ? QString::fromStdString(value.get<std::string>()) : value == Json(true) ? tr("yes") : tr("no");
    };
    const auto say = [button, text, offered](const std::vector<Json>& values) {
        QStringList words;
        for (const Json& value : values) words << text(value);
        const QString all = words.join(QStringLiteral(", "));
        button->setText(values.size() == offered.size() && values.size() > 2 ? tr("all %1").arg(values.size())
                                                                             : button->fontMetrics().elidedText(all, Qt::ElideRight, px(150)));
    };
    for (const Json& value : offered) {
        QAction* action = menu->addAction(text(value));
        action->setCheckable(true);
        action->setChecked(std::find(taken.begin(), taken.end(), value) != taken.end());
        connect(action, &QAction::toggled, this, [this, id = control.id, menu, offered, say] {
            std::vector<Json> now;
            for (int i = 0; i < menu->actions().size(); ++i)
                if (menu->actions()[i]->isChecked()) now.push_back(offered[std::size_t(i)]);
            if (now.empty()) now = offered;  // none would vary nothing
            say(now);
            change(id, [&](VariedControl& one) { one.values = now; });
        });
    }
    say(taken);
    button->setMenu(menu);
    line->addWidget(button);
    return row;
}

QWidget* VaryPanel::makeRange(const Control& control, const VariedControl& varied, QWidget* parent) {
    auto* row = new QWidget(parent);
    auto* line = editorLine(row);
    const double wide = std::abs(varied.to - varied.from);
    const auto field = [&](double value, const QString& name, double VariedControl::*part) {
        auto* one = new NumberField(row);
        one->setWhole(control.type == "integer");
        one->setUnit(QString::fromStdString(control.unit));
        one->setLimits(control.min, control.max);
        one->setStep(control.type == "integer" ? 0.1 : std::pow(10.0, std::floor(std::log10(std::max(wide, 1e-9) / 150))));
        one->setValue(value);
        one->setAccessibleName(name.arg(nameOf(control)));
        one->setToolTip(name.arg(nameOf(control)));
        connect(one, &NumberField::edited, this,
                [this, id = control.id, part](double now, bool) { change(id, [&](VariedControl& varied) { varied.*part = now; }); });
        line->addWidget(one, 1);
    };
    field(varied.from, tr("%1, from"), &VariedControl::from);
    field(varied.to, tr("%1, to"), &VariedControl::to);
    if (varied.how != How::steps) return row;
    auto* steps = new QSpinBox(row);
    steps->setRange(1, int(kMostVariations));
    steps->setValue(varied.steps);
    steps->setPrefix(QStringLiteral("× "));
    steps->setKeyboardTracking(false);
    steps->setFixedWidth(px(58));
    steps->setAccessibleName(tr("Steps of %1").arg(nameOf(control)));
    steps->setToolTip(tr("How many values, both ends included"));
    connect(steps, &QSpinBox::valueChanged, this, [this, id = control.id](int now) { change(id, [&](VariedControl& one) { one.steps = now; }); });
    line->addWidget(steps);
    return row;
}

/// "4 heights × 3 wears = 12", before any is made.
void VaryPanel::showCount() {
    const QSignalBlocker quietCount(count_), quietSeed(seed_);
    count_->setValue(int(plan_.count));
    seed_->setValue(int(plan_.seed));
    const bool combines = plan_.combines(), all = plan_.all && combines;
    all_->setEnabled(combines);
    all_->setChecked(all);
    number_->setChecked(!all);
    count_->setEnabled(!all && !plan_.empty());
    QStringList parts;
    if (all && plan_.presets) parts << tr("%n preset(s)", nullptr, int(loom_->presets.size()));
    for (const VariedControl& one : plan_.controls) {
        const Control* control = loom_->control(one.control);
        if (!all || one.how == How::random || !control) continue;
        if (const auto axis = axisOf(*loom_, one)) parts << QStringLiteral("%1 %2").arg(axis->values.size()).arg(nameOf(*control).toLower());
    }
    const auto count = plannedCount(plan_, *loom_);
    QString text = parts.join(QStringLiteral(" × "));
    if (parts.size() > 1 && count) text += QStringLiteral(" = %1").arg(countText(std::size_t(std::min(*count, 1e15))));
    if (plan_.empty()) text = tr("Nothing varies yet.");
    else if (!all) text = tr("%n variation(s)", nullptr, int(plan_.count));
    sum_->setText(text);
    setCost(ms_, jobs_);
}

void VaryPanel::setCost(double ms, int jobs) {
    ms_ = ms, jobs_ = jobs;
    QString text;
    if (ms > 0)
        text = tr("%1 each, %2 at a time").arg(ms < 1000 ? tr("%1 ms").arg(std::max(1, int(ms))) : tr("%1 s").arg(shownNumber(ms / 1000, 'f', 1))).arg(jobs);
    cost_->setText(text);
    cost_->setVisible(!text.isEmpty());
}

void VaryPanel::setProblem(const QString& text) {
    problem_->setText(text);
    problem_->setVisible(!text.isEmpty());
}

QComboBox* VaryPanel::how(const std::string& control) const {
    const auto it = hows_.find(control);
    return it == hows_.end() ? nullptr : it->second;
}

QString VaryPanel::sum() const { return sum_->text(); }

QString VaryPanel::problem() const { return problem_->text(); }

}  // namespace seedloom::app
