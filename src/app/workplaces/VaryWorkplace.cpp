#include "app/workplaces/VaryWorkplace.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/session/VaryMemory.h"
#include "app/vary/FactList.h"
#include "app/vary/VaryPanel.h"
#include "app/vary/VaryView.h"
#include "vary/VariedInputs.h"
#include "vary/VaryFacts.h"

#include <QtCore/QStandardPaths>
#include <QtWidgets/QComboBox>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QListWidget>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QSplitter>
#include <QtWidgets/QStackedWidget>
#include <QtWidgets/QToolButton>

#include <thread>

namespace seedloom::app {

namespace {

constexpr int kRememberMs = 800, kTurnMs = 150;

std::string wordIn(const Json& json, const char* key) { return json.contains(key) && json[key].is_string() ? json[key].get<std::string>() : std::string(); }

Json variationJson(const Variation& variation) { return {{"preset", variation.preset}, {"given", variation.given}}; }

std::optional<Variation> variationFrom(const Json& json) {
    if (!json.is_object() || !json.value("given", Json()).is_object()) return {};
    Variation out{wordIn(json, "preset"), {}};
    for (const auto& [id, value] : json["given"].items()) out.given[id] = value;
    return out;
}

/// All values of a variation, as a preset would have them.
Preset presetOf(const Loom& loom, const Variation& variation, const std::string& name) {
    Preset out{name, variation.given, Json::object()};
    if (const Preset* preset = loom.preset(variation.preset)) out.values.insert(preset->values.begin(), preset->values.end());
    std::erase_if(out.values, [&](const auto& entry) { return !loom.control(entry.first); });
    return out;
}

}  // namespace

VaryWorkplace::VaryWorkplace(Session& session, QObject* parent)
    : Workplace(session, parent), document_(session.document()), sheet_(document_), table_(sheet_, nullptr) {
    remember_.setSingleShot(true);
    remember_.setInterval(kRememberMs);
    connect(&remember_, &QTimer::timeout, this, &VaryWorkplace::remember);
    turn_.setSingleShot(true);
    turn_.setInterval(kTurnMs);
    connect(&turn_, &QTimer::timeout, this, [this] { sheet_.setDirection(stage_->camera().yaw, stage_->camera().pitch); });
    connect(&document_, &Document::changed, this, &VaryWorkplace::documentChanged);
    connect(&document_, &Document::replaced, this, [this] {
        if (remember_.isActive()) remember_.stop();
        shown_.reset(), compared_.reset();
        takeMemory(rememberedVary(document_));
    });
    connect(&sheet_, &VarySheet::planned, this, &VaryWorkplace::showPlan);
    connect(&sheet_, &VarySheet::progressed, this, &VaryWorkplace::showProgress);
    connect(&sheet_, &VarySheet::starsChanged, this, [this] {
        showStars();
        remember_.start();
    });
    connect(&sheet_, &VarySheet::itemChanged, this, [this](std::size_t item) {
        if ((shown_ && sheet_.find(*shown_) == item) || item == sheet_.inUse()) showFacts();
        if (item < sheet_.all() && sheet_.starred(sheet_.variation(item))) showStars();
    });
    connect(&table_, &VaryTable::arranged, this, [this] {
        if (view_) fillArrangement();
    });
    connect(&table_.pictures(), &PictureFiles::ready, this, [this](const QString& file) {
        for (const Variation& star : sheet_.stars())
            if (const auto item = sheet_.find(star); item && sheet_.pictureFile(*item) == file) return showStars();
    });
    connect(&model_, &VariedModel::built, this, &VaryWorkplace::showModels);
    connect(&other_, &VariedModel::built, this, &VaryWorkplace::showModels);
    connect(&export_, &VaryExport::progressed, this, [this](int done, int all) { exportText_->setText(tr("%1 of %2 written …").arg(done).arg(all)); });
    connect(&export_, &VaryExport::ended, this, [this](const QString& problem, int written, int failed) {
        const QString failures = failed > 0 ? tr(" %n failed; index.csv says why.", nullptr, failed) : QString();
        exportText_->setText(problem.isEmpty() ? tr("%n written.", nullptr, written) + failures : tr("Not written. %1").arg(problem));
        showStars();
    });
}

VaryWorkplace::~VaryWorkplace() {
    if (remember_.isActive()) remember();
    sheet_.disconnect(this);
    table_.disconnect(this);
    document_.disconnect(this);
}

QString VaryWorkplace::progressText() const { return progress_->text(); }

QString VaryWorkplace::exportText() const { return exportText_->text(); }

void VaryWorkplace::addCommands(CommandHost& host) {
    menu_ = host.menu(QStringLiteral("vary"), tr("V&ariations"));
    const auto add = [&](const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run) {
        actions_ << host.add(menu_, id, text, keys, std::move(run));
    };
    add("vary_everything", tr("Vary &everything by chance"), {}, [this] { sheet_.setPlan(everythingByChance(sheet_.loom())); });
    add("vary_nothing", tr("Vary &nothing"), {}, [this] { sheet_.setPlan({}); });
    add("vary_stop", tr("&Stop, or go on"), {}, [this] { stopButton_->click(); });
    menu_->addSeparator();
    add("vary_star", tr("S&tar, or take the star away"), {}, [this] {
        if (shown_) sheet_.setStarred(*shown_, !sheet_.starred(*shown_));
    });
    add("vary_use", tr("&Use these values"), {}, [this] { useShown(); });
    add("vary_open", tr("&Open in Build"), {}, [this] { build_->click(); });
    add("vary_keep", tr("&Keep as preset …"), {}, [this] { keep_->click(); });
    add("vary_compare", tr("&Compare with the loom as it is in Build"), {},
        [this] { compareWith(compared_ ? std::nullopt : std::optional(sheet_.variation(sheet_.inUse()))); });
    add("vary_export", tr("E&xport the starred ones …"), {}, [this] { exportAsked(); });
    offerCommands(false);
}

void VaryWorkplace::offerCommands(bool offered) {
    for (QAction* one : actions_) one->setEnabled(offered);
    menu_->menuAction()->setVisible(offered);
}

void VaryWorkplace::connectParts() {
    connect(panel_, &VaryPanel::edited, this, [this](const VaryPlan& plan) { sheet_.setPlan(plan); });
    connect(view_, &VaryView::chosenChanged, this, &VaryWorkplace::showChosen);
    connect(view_, &VaryView::starWanted, this, &VaryWorkplace::toggleStar);
    connect(view_, &VaryView::useWanted, this, [this](std::size_t item) {
        view_->choose(item);
        showChosen();
        useShown();
    });
    for (QComboBox* box : {columns_, rows_, order_, kind_}) connect(box, &QComboBox::activated, this, &VaryWorkplace::arrange);
    connect(largest_, &QPushButton::toggled, this, &VaryWorkplace::arrange);
    connect(condition_, &QLineEdit::returnPressed, this, &VaryWorkplace::arrange);
    connect(condition_, &QLineEdit::textChanged, this, [this](const QString& text) {
        if (text.isEmpty()) arrange();
    });
    connect(stopButton_, &QPushButton::clicked, this, [this] { sheet_.stopped() ? sheet_.goOn() : sheet_.stop(); });
    connect(use_, &QPushButton::clicked, this, &VaryWorkplace::useShown);
    connect(build_, &QPushButton::clicked, this, [this] {
        useShown();
        Q_EMIT workplaceWanted(QStringLiteral("build"));
    });
    connect(keep_, &QPushButton::clicked, this, [this] {
        presetName_->show();
        presetName_->clear();
        presetName_->setFocus();
    });
    connect(presetName_, &QLineEdit::returnPressed, this, [this] { keepAsPreset(presetName_->text()); });
    presetName_->installEventFilter(this);
    connect(compare_->menu(), &QMenu::aboutToShow, this, &VaryWorkplace::fillCompare);
    connect(stars_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row < 0 || row >= int(sheet_.stars().size())) return;
        const Variation star = sheet_.stars()[std::size_t(row)];
        if (const auto item = sheet_.find(star); item && *item < sheet_.count() && table_.indexOf(*item).isValid()) return view_->choose(*item);
        view_->setCurrentIndex({});  // it is not of the sheet
        shown_ = star;
        showChosen();
    });
    connect(stage_, &Stage::directionSettled, this, [this] { turn_.start(); });
    connect(exportButton_, &QPushButton::clicked, this, [this] {
        if (!export_.running()) return exportAsked();
        export_.cancel();
        exportText_->setText(tr("Stopped. What is written stays."));
        showStars();
    });
    connect(pattern_, &QLineEdit::textChanged, this, [this](const QString& text) {
        names_ = text.trimmed();
        remember_.start();
    });
    connect(format_, &QComboBox::currentTextChanged, this, [this](const QString& text) {
        ending_ = text;
        remember_.start();
    });
}

bool VaryWorkplace::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::KeyPress) {
        const int key = static_cast<QKeyEvent*>(event)->key();
        if (watched == presetName_ && key == Qt::Key_Escape) {
            presetName_->hide();
            view_->setFocus();
            return true;
        }
        if (watched == stars_ && (key == Qt::Key_Delete || key == Qt::Key_Space) && stars_->currentRow() >= 0) {
            const Variation star = sheet_.stars()[std::size_t(stars_->currentRow())];
            sheet_.setStarred(star, false);
            return true;
        }
    }
    return Workplace::eventFilter(watched, event);
}

void VaryWorkplace::enter() {
    front_ = true;
    offerCommands(true);
    sheet_.refresh();
    showPlan();
    if (const auto item = shown_ ? sheet_.find(*shown_) : std::nullopt) view_->choose(*item);
    showChosen();
    view_->setFocus();
}

void VaryWorkplace::leave() {
    front_ = false;
    offerCommands(false);
    remember();
}

/// What is changed while nobody looks is made when somebody does.
void VaryWorkplace::documentChanged() {
    if (front_) sheet_.refresh();
}

void VaryWorkplace::showPlan() {
    if (!panel_) return;
    panel_->show(sheet_.subject().loom, sheet_.plan(), QString::fromStdString(document_.file().parent_path().string()));
    panel_->setProblem(sheet_.problem());
    middle_->setCurrentIndex(sheet_.plan().empty() ? 1 : 0);
    bar_->setVisible(!sheet_.plan().empty());
    fillArrangement();
    showProgress();
    showStars();
    showFacts();
    if (!restoring_) remember_.start();
}

void VaryWorkplace::showProgress() {
    if (!progress_) return;
    const std::size_t all = sheet_.count(), done = sheet_.doneCount(), failed = sheet_.failedCount();
    QString text = done == all ? tr("%n variation(s)", nullptr, int(all)) : tr("%1 of %2 built").arg(countText(done), countText(all));
    if (failed > 0) text += tr(" · %1 failed").arg(failed);
    if (const auto left = sheet_.remainingMs(); left && done < all) text += tr(" · %1 s left").arg(countText(std::size_t(std::max(1.0, *left / 1000))));
    if (table_.shownCount() < all) text += tr(" · %1 shown").arg(countText(table_.shownCount()));
    if (sheet_.stopped() && done < all) text += tr(" · stopped");
    progress_->setText(all == 0 ? QString() : text);
    const QString style = QStringLiteral("color: %1;").arg((done == all && failed == 0 ? colours().fresh : colours().ink).name());
    if (progress_->styleSheet() != style) progress_->setStyleSheet(style);
    stopButton_->setVisible(done < all);
    stopButton_->setText(sheet_.stopped() ? tr("Go on") : tr("Stop"));
    double ms = 0;
    std::size_t known = 0;
    for (std::size_t i = 0; i < all && known < 100; ++i)
        if (const VaryRow* row = sheet_.row(i); row && row->ms > 0) ms += row->ms, ++known;
    panel_->setCost(known > 0 ? ms / double(known) : 0, int(std::max(1u, std::thread::hardware_concurrency())));
}

QString VaryWorkplace::nameOf(const Variation& variation) const {
    return variation == sheet_.variation(sheet_.inUse()) ? tr("As it is in Build") : table_.title(variation);
}

const VaryRow* VaryWorkplace::rowOf(const std::optional<Variation>& variation) const {
    const auto item = variation ? sheet_.find(*variation) : std::nullopt;
    return item ? sheet_.row(*item) : nullptr;
}

void VaryWorkplace::showChosen() {
    if (!view_ || restoring_) return;
    const auto before = shown_;
    // What is not in the sheet any more makes room for what is.
    if (const auto item = view_->chosen()) shown_ = sheet_.variation(*item);
    else if (!shown_ || !sheet_.find(*shown_)) shown_ = sheet_.variation(sheet_.inUse());
    showFacts();
    if (!front_) return;
    // Two that are compared are seen from one place.
    if (shown_ != before && !compared_) stage_->frameNext();
    FitSubject subject = sheet_.subject();
    if (shown_ != wanted_ || subject.loom != wantedOf_) {
        wanted_ = shown_, wantedOf_ = subject.loom;
        model_.want(subject, *shown_);
    }
    if (compared_) other_.want(sheet_.subject(), *compared_);
    const QSignalBlocker quiet(stars_);
    const auto& stars = sheet_.stars();
    const auto star = std::find(stars.begin(), stars.end(), *shown_);
    stars_->setCurrentRow(star == stars.end() ? -1 : int(star - stars.begin()));
}

void VaryWorkplace::showModels() {
    if (!stage_ || !shown_ || model_.building() || (compared_ && other_.building())) return;
    if (!model_.outcome()) {
        const VaryRow* row = rowOf(shown_);
        stage_->setInvitation(row && !row->problem.empty() ? QString::fromStdString(row->problem) : tr("Nothing was built."));
    }
    const bool both = compared_ && other_.outcome();
    stage_->compare(both ? Stage::Subject{nameOf(*compared_), other_.outcome()} : Stage::Subject{});
    stage_->show({nameOf(*shown_), model_.outcome()});
    stage_->endFraming();
}

void VaryWorkplace::showFacts() {
    if (!facts_) return;
    const bool any = shown_.has_value(), inUse = any && shown_ == sheet_.variation(sheet_.inUse());
    const VaryRow* row = rowOf(shown_);
    const bool withInUse = !compared_;
    const VaryRow* beside = withInUse ? sheet_.row(sheet_.inUse()) : rowOf(compared_);
    title_->setText(any ? nameOf(*shown_) : tr("None chosen"));
    title_->setToolTip(title_->text());
    const QString told = row && !row->problem.empty() ? QString::fromStdString(row->problem) : QString();
    if (!told.isEmpty()) beside_->setText(told);
    else
        beside_->setText(!any || inUse ? tr("Choose one in the sheet to see it here.")
                         : withInUse   ? tr("Beside the loom as it is in Build")
                                       : tr("Beside: %1").arg(nameOf(*compared_)));
    beside_->setWordWrap(true);
    facts_->show(row, inUse && withInUse ? nullptr : beside);
    for (QPushButton* part : {use_, build_, keep_}) part->setEnabled(any && !inUse);
    compare_->setEnabled(any);
}

void VaryWorkplace::showStars() {
    if (!stars_) return;
    const QSignalBlocker quiet(stars_);
    const auto& stars = sheet_.stars();
    while (stars_->count() > int(stars.size())) delete stars_->takeItem(stars_->count() - 1);
    int chosen = -1;
    for (std::size_t i = 0; i < stars.size(); ++i) {
        if (int(i) >= stars_->count()) stars_->addItem(new QListWidgetItem);
        QListWidgetItem* item = stars_->item(int(i));
        item->setSizeHint(stars_->iconSize() + QSize(10, 10));  // also while there is no picture yet
        const auto place = sheet_.find(stars[i]);
        const QPixmap picture = place ? table_.picture(*place, stars_->iconSize()) : QPixmap();
        QIcon shown(picture);
        shown.addPixmap(picture, QIcon::Selected);  // as it is, without a tint
        item->setIcon(picture.isNull() ? icon(QStringLiteral("vary"), colours().faint) : shown);
        item->setToolTip(nameOf(stars[i]));
        item->setData(Qt::AccessibleTextRole, nameOf(stars[i]));
        if (shown_ == stars[i]) chosen = int(i);
    }
    stars_->setCurrentRow(chosen);
    stars_->setVisible(!stars.empty());
    starTitle_->setText(stars.empty() ? tr("NONE STARRED YET") : tr("STARRED · %1").arg(stars.size()));
    exportButton_->setText(export_.running() ? tr("Stop") : stars.empty() ? tr("Export …") : tr("Export %1 …").arg(stars.size()));
    exportButton_->setEnabled(export_.running() || !stars.empty() || shown_);
    view_->viewport()->update();
}

void VaryWorkplace::toggleStar(std::size_t item) {
    const Variation variation = sheet_.variation(item);
    sheet_.setStarred(variation, !sheet_.starred(variation));
}

void VaryWorkplace::compareWith(std::optional<Variation> other) {
    compared_ = std::move(other);
    if (compared_) other_.want(sheet_.subject(), *compared_);
    else {
        other_.forget();
        stage_->compare({});
    }
    compare_->setText(compared_ ? tr("Compared …") : tr("Compare with …"));
    showModels();
    showFacts();
}

void VaryWorkplace::fillCompare() {
    QMenu* menu = compare_->menu();
    menu->clear();
    if (compared_) {
        menu->addAction(tr("Nothing: show it alone"), this, [this] { compareWith({}); });
        menu->addSeparator();
    }
    menu->addAction(tr("The loom as it is in Build"), this, [this] { compareWith(sheet_.variation(sheet_.inUse())); });
    menu->addAction(tr("This one: then choose another"), this, [this] { compareWith(shown_); });
    for (const Variation& star : sheet_.stars()) {
        if (shown_ == star) continue;
        const auto place = sheet_.find(star);
        menu->addAction(QIcon(place ? table_.picture(*place, stars_->iconSize()) : QPixmap()),
                        menu->fontMetrics().elidedText(nameOf(star), Qt::ElideRight, px(320)), this, [this, star] { compareWith(star); });
    }
}

void VaryWorkplace::useShown() {
    if (!shown_) return;
    Edit edit = useVaried(document_.loom(), presetOf(sheet_.loom(), *shown_, {}).values);
    edit.label = tr("Use the values of a variation").toStdString();
    document_.apply(edit);
}

void VaryWorkplace::keepAsPreset(const QString& name) {
    const QString plain = name.trimmed();
    if (!shown_ || plain.isEmpty()) return;
    const Preset all = presetOf(sheet_.loom(), *shown_, plain.toStdString()), kept = presetOf(document_.loom(), *shown_, all.name);
    document_.apply(keepPreset(document_.loom(), kept));
    presetName_->hide();
    view_->setFocus();
    const bool whole = all.values.size() == kept.values.size();
    Q_EMIT messageWanted(tr("Kept as the preset %1.").arg(plain) + (whole ? QString() : tr(" What is plugged in is no part of a preset: Use puts it in.")));
}

void VaryWorkplace::fillArrangement() {
    const VaryTable::Arrangement& now = table_.arrangement();
    const auto fill = [&](QComboBox* box, const QString& none, const std::string& chosen) {
        const QSignalBlocker quiet(box);
        box->clear();
        box->addItem(none, QString());
        for (const VariedControl& one : sheet_.plan().controls) {
            const Control* control = sheet_.loom().control(one.control);
            if (control) box->addItem(QString::fromStdString(control->label.empty() ? control->id : control->label), QString::fromStdString(control->id));
        }
        box->setCurrentIndex(std::max(0, box->findData(QString::fromStdString(chosen))));
    };
    fill(columns_, tr("columns: –"), now.columns);
    fill(rows_, tr("rows: –"), now.rows);
    const QSignalBlocker quietOrder(order_), quietKind(kind_), quietLargest(largest_), quietCondition(condition_);
    order_->clear();
    order_->addItem(tr("as planned"), QString());
    for (const auto& [text, word] : {std::pair{tr("by faces"), "faces"},
                                     {tr("by height"), "size_y"},
                                     {tr("by width"), "size_x"},
                                     {tr("by depth"), "size_z"},
                                     {tr("by volume"), "volume"},
                                     {tr("by time"), "ms"}})
        order_->addItem(text, QString::fromLatin1(word));
    order_->setCurrentIndex(std::max(0, order_->findData(QString::fromStdString(now.order))));
    largest_->setChecked(now.largestFirst);
    largest_->setText(now.largestFirst ? QStringLiteral("↓") : QStringLiteral("↑"));
    largest_->setVisible(!now.order.empty());
    kind_->setCurrentIndex(now.starred ? 1 : now.failed ? 2 : 0);
    if (!condition_->hasFocus()) condition_->setText(QString::fromStdString(now.condition));
}

void VaryWorkplace::arrange() {
    VaryTable::Arrangement to;
    to.columns = columns_->currentData().toString().toStdString();
    to.rows = rows_->currentData().toString().toStdString();
    if (to.rows == to.columns) to.rows.clear();
    to.order = order_->currentData().toString().toStdString();
    to.largestFirst = largest_->isChecked();
    to.condition = condition_->text().trimmed().toStdString();
    to.starred = kind_->currentIndex() == 1, to.failed = kind_->currentIndex() == 2;
    table_.arrange(std::move(to));
    problem_->setText(table_.problem());
    problem_->setVisible(!table_.problem().isEmpty());
    fillArrangement();
    showProgress();
    remember_.start();
}

void VaryWorkplace::showNames() {
    if (!pattern_) return;
    const QSignalBlocker quietPattern(pattern_), quietFormat(format_);
    pattern_->setText(names_);
    format_->setCurrentIndex(std::max(0, format_->findText(ending_)));
    ending_ = format_->currentText();
}

void VaryWorkplace::exportAsked() {
    const QString start = document_.file().empty() ? QStandardPaths::writableLocation(QStandardPaths::DocumentsLocation)
                                                   : QString::fromStdString(document_.file().parent_path().string());
    const QString folder = QFileDialog::getExistingDirectory(across_, tr("Folder for the variations"), start);
    if (!folder.isEmpty()) exportTo(folder);
}

void VaryWorkplace::exportTo(const QString& folder) {
    std::vector<Variation> variations = sheet_.stars();
    if (variations.empty() && shown_) variations.push_back(*shown_);
    if (variations.empty()) return;
    ControlValues values;
    for (const Control& control : sheet_.loom().controls) values[control.id] = Json();
    const std::string pattern = names_.toStdString();
    if (const auto name = variationName(pattern, sheet_.loom(), 1, variations.front(), values); !name)
        return exportText_->setText(QString::fromStdString(name.error().text));
    export_.start(sheet_.subject(), variations, folder, '.' + ending_.toStdString(), pattern);
    exportText_->setText(tr("0 of %1 written …").arg(variations.size()));
    showStars();
}

Json VaryWorkplace::memory() const {
    const VaryTable::Arrangement& a = table_.arrangement();
    Json stars = Json::array();
    for (const Variation& star : sheet_.stars()) stars.push_back(variationJson(star));
    Json out{{"plan", planJson(sheet_.plan())},
             {"stars", std::move(stars)},
             {"columns", a.columns},
             {"rows", a.rows},
             {"order", a.order},
             {"largest_first", a.largestFirst},
             {"condition", a.condition},
             {"yaw", std::round(sheet_.yaw() * 10) / 10},
             {"pitch", std::round(sheet_.pitch() * 10) / 10},
             {"names", names_.toStdString()},
             {"format", ending_.toStdString()}};
    if (shown_) out["shown"] = variationJson(*shown_);
    return out;
}

void VaryWorkplace::remember() {
    remember_.stop();
    if (!sheet_.plan().empty() || !sheet_.stars().empty() || !rememberedVary(document_).is_null()) rememberVary(document_, memory());
}

void VaryWorkplace::takeMemory(const Json& varied) {
    const Json json = varied.is_object() ? varied : Json::object();
    restoring_ = true;
    VaryTable::Arrangement to;
    to.columns = wordIn(json, "columns"), to.rows = wordIn(json, "rows"), to.order = wordIn(json, "order"), to.condition = wordIn(json, "condition");
    to.largestFirst = json.value("largest_first", Json()) == Json(true);
    shown_ = variationFrom(json.value("shown", Json()));
    std::vector<Variation> stars;
    if (const Json list = json.value("stars", Json()); list.is_array())
        for (const Json& one : list)
            if (auto star = variationFrom(one)) stars.push_back(std::move(*star));
    const auto degrees = [&](const char* key, double fallback) {
        const Json value = json.value(key, Json());
        return value.is_number() ? std::clamp(value.get<double>(), -360.0, 360.0) : fallback;
    };
    if (stage_) {
        StageCamera camera = stage_->camera();
        camera.yaw = degrees("yaw", 30), camera.pitch = std::clamp(degrees("pitch", 18), -90.0, 90.0);
        stage_->setCamera(camera);
        stage_->frameNext();
    }
    names_ = json.contains("names") ? QString::fromStdString(wordIn(json, "names")) : QStringLiteral("{name}-{n}");
    ending_ = json.contains("format") ? QString::fromStdString(wordIn(json, "format")) : QStringLiteral("glb");
    showNames();
    // Nothing is made before somebody looks.
    sheet_.rest();
    sheet_.setDirection(degrees("yaw", 30), degrees("pitch", 18));
    table_.arrange(std::move(to));
    sheet_.setPlan(planFromJson(json.value("plan", Json())));
    sheet_.setStars(std::move(stars));
    restoring_ = false;
    if (front_) enter();
}

Json VaryWorkplace::saveView() const { return sheet_.plan().empty() && sheet_.stars().empty() ? Json() : memory(); }

void VaryWorkplace::restoreView(const Json& view) {
    const Json kept = rememberedVary(document_);
    if (kept.is_null() && view.is_object()) takeMemory(view);
}

std::function<void()> VaryWorkplace::keepState() {
    const QByteArray across = across_->saveState();
    const StageCamera camera = stage_->camera();
    const auto shown = shown_;
    return [=, this] {
        across_->restoreState(across);
        stage_->setCamera(camera);
        shown_ = shown;
        showPlan();
        if (const auto item = shown_ ? sheet_.find(*shown_) : std::nullopt) view_->choose(*item);
        showModels();
    };
}

}  // namespace seedloom::app
