#include "app/shell/PublishWindow.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "app/shell/EffectsPage.h"
#include "files/FileIo.h"
#include "publish/Publish.h"

#include <QtCore/QFileInfo>
#include <QtWidgets/QCheckBox>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QFormLayout>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QProgressBar>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QScrollBar>
#include <QtWidgets/QSpinBox>
#include <QtWidgets/QTabWidget>
#include <QtWidgets/QTableWidget>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

enum Column { kState, kValues, kTime, kTriangles, kColumns };
constexpr int kMostTriangles = 100'000'000, kFillMs = 150;

QString stateText(const Verdict& v) {
    switch (v.state) {
        case Verdict::State::waiting: return PublishWindow::tr("waiting");
        case Verdict::State::failed: return PublishWindow::tr("failed");
        case Verdict::State::unsound: return PublishWindow::tr("not sound");
        case Verdict::State::sound: break;
    }
    return v.heavy ? PublishWindow::tr("too heavy") : v.slow ? PublishWindow::tr("slow") : PublishWindow::tr("fit");
}

/// A trial in the words of the controls.
QString valuesText(const Trial& trial, const Loom& loom) {
    if (trial.kind == Trial::Kind::plain) return PublishWindow::tr("Defaults");
    if (trial.kind == Trial::Kind::preset && trial.given.empty()) return PublishWindow::tr("Preset %1").arg(QString::fromStdString(trial.preset));
    QStringList out;
    for (const auto& [id, value] : trial.given) {
        const Control* control = loom.control(id);
        const QString name = QString::fromStdString(control && !control->label.empty() ? control->label : id);
        const QString unit = control && !control->unit.empty() && value.is_number() ? QLatin1Char(' ') + QString::fromStdString(control->unit) : QString();
        const QString text = value.is_number_float() ? shownNumber(value.get<double>(), 'g', 4)
                           : value.is_boolean()      ? (value.get<bool>() ? PublishWindow::tr("yes") : PublishWindow::tr("no"))
                           : value.is_string()       ? QStringLiteral("“%1”").arg(QString::fromStdString(value.get<std::string>()))
                                                     : QString::fromStdString(value.dump());
        out << name + QLatin1Char(' ') + text + unit;
    }
    return out.join(QStringLiteral(" · "));
}

QString faultsText(const Verdict& v) {
    QStringList out;
    for (const std::string& fault : v.faults) out << QString::fromStdString(fault);
    if (v.slow) out << PublishWindow::tr("It takes more than ten times as long as most settings.");
    if (v.heavy) out << PublishWindow::tr("It has more triangles than the budget.");
    return out.join(QLatin1Char('\n'));
}

QString timeText(double ms) { return ms < 1000 ? PublishWindow::tr("%1 ms").arg(qRound(ms)) : PublishWindow::tr("%1 s").arg(shownNumber(ms / 1000, 'f', 1)); }

}  // namespace

PublishWindow::PublishWindow(Session& session, QWidget* parent) : QDialog(parent), session_(session), document_(session.document()) {
    setWindowTitle(tr("Publish"));
    setAttribute(Qt::WA_DeleteOnClose);
    resize(px(1000), px(660));
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(20, 16, 20, 14);
    column->setSpacing(10);
    auto* across = new QHBoxLayout;
    across->setSpacing(20);
    across->addWidget(makeFacts());
    effects_ = new EffectsPage(session, this);
    pages_ = new QTabWidget(this);
    pages_->setAccessibleName(tr("What was found"));
    pages_->setAccessibleDescription(tr("Settings that were tried, or what each control does"));
    pages_->addTab(makeReport(), tr("Settings"));
    pages_->addTab(effects_, tr("Controls"));
    connect(effects_, &EffectsPage::lookWanted, this, [this] { effects_->look(subjectNow(), optionsNow()); });
    across->addWidget(pages_, 1);
    column->addLayout(across, 1);
    message_ = new QLabel(this);
    message_->setWordWrap(true);
    message_->setAccessibleName(tr("What happened"));
    message_->hide();
    column->addWidget(message_);
    column->addWidget(makeButtons());
    fill_.setSingleShot(true);
    fill_.setInterval(kFillMs);
    connect(&fill_, &QTimer::timeout, this, &PublishWindow::fillTable);
    connect(&run_, &FitRun::progressed, this, [this] {
        if (!fill_.isActive()) fill_.start();
    });
    connect(&run_, &FitRun::ended, this, [this] {
        fill_.stop();
        fillTable();
        showVerdict();
    });
    connect(&run_, &FitRun::shrunk, this, [this](std::size_t trial, const Trial& smallest) {
        message_->setText(tr("The smallest change that fails so: %1. These values are in use now.").arg(valuesText(smallest, document_.loom())));
        message_->show();
        use(smallest, run_.verdicts()[trial].node);
    });
    connect(&document_, &Document::changed, this, [this] {
        showFacts();
        showVerdict();
    });
    connect(&document_, &Document::replaced, this, &QDialog::close);
    showFacts();
    showVerdict();
}

PublishWindow::~PublishWindow() {
    *stopWriting_ = true;
    run_.disconnect(this);
    sheet_.disconnect(this);
    // A field that loses the focus while the dialog goes away must not ask for what has gone already.
    for (QLineEdit* field : findChildren<QLineEdit*>()) field->disconnect(this);
    table_->disconnect(this);
}

QWidget* PublishWindow::makeFacts() {
    auto* box = new QWidget(this);
    box->setFixedWidth(px(300));
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 0, 0, 0);
    auto* title = new QLabel(tr("The asset"), box);
    title->setProperty("role", "title");
    column->addWidget(title);
    picture_ = new QLabel(box);
    picture_->setFixedHeight(Pictures::kSize + 8);
    picture_->setAlignment(Qt::AlignCenter);
    picture_->setStyleSheet(QStringLiteral("background: %1; border-radius: 4px;").arg(colours().field.name()));
    picture_->setToolTip(tr("As it is built now"));
    column->addWidget(picture_);
    connect(&session_.pictures(), &Pictures::ready, this, &PublishWindow::showPicture);
    showPicture();
    auto* form = new QFormLayout;
    const auto add = [&](const QString& label, const QString& hint, const QString& help) {
        auto* field = new QLineEdit(box);
        field->setAccessibleName(label);
        field->setToolTip(help);
        field->setPlaceholderText(hint);
        form->addRow(label, field);
        connect(field, &QLineEdit::editingFinished, this, &PublishWindow::takeFacts);
        return field;
    };
    name_ = add(tr("Name"), {}, tr("What the asset is called"));
    version_ = add(tr("Version"), QStringLiteral("1.0.0"), tr("Three whole numbers; larger ones are newer"));
    summary_ = add(tr("Summary"), tr("One sentence: what it is for"), tr("What others read of it first"));
    author_ = add(tr("Author"), {}, tr("Who made it"));
    licence_ = add(tr("Licence"), tr("What others may do with it"), tr("The licence under which others get it"));
    tags_ = add(tr("Tags"), tr("harbour, wood, …"), tr("Words by which it is found, with commas between"));
    column->addLayout(form);
    advice_ = new QLabel(box);
    advice_->setWordWrap(true);
    advice_->setProperty("role", "faint");
    advice_->setAccessibleName(tr("What others will miss"));
    column->addWidget(advice_);
    column->addSpacing(10);
    auto* how = new QLabel(tr("The check"), box);
    how->setProperty("role", "title");
    column->addWidget(how);
    auto* options = new QFormLayout;
    random_ = new QSpinBox(box);
    random_->setRange(0, 10000);
    random_->setValue(50);
    random_->setAccessibleName(tr("Random settings"));
    random_->setToolTip(tr("Settings of all controls at once, beside the defaults, presets, ends and pairs of ends"));
    options->addRow(tr("Random settings"), random_);
    budget_ = new QSpinBox(box);
    budget_->setRange(0, kMostTriangles);
    budget_->setSingleStep(1000);
    budget_->setSpecialValueText(tr("no budget"));
    budget_->setAccessibleName(tr("Most triangles"));
    budget_->setToolTip(tr("Settings with more are not fit"));
    options->addRow(tr("Most triangles"), budget_);
    for (QSpinBox* number : {random_, budget_})
        for (QLineEdit* inner : number->findChildren<QLineEdit*>()) {
            inner->setAccessibleName(number->accessibleName());
            inner->setToolTip(number->toolTip());
        }
    column->addLayout(options);
    openMeant_ = new QCheckBox(tr("Open surfaces are meant"), box);
    openMeant_->setToolTip(tr("For curtains, sails and terrains: an open edge is no fault then"));
    column->addWidget(openMeant_);
    column->addStretch();
    return box;
}

QWidget* PublishWindow::makeReport() {
    auto* box = new QWidget(this);
    auto* column = new QVBoxLayout(box);
    column->setContentsMargins(0, 10, 0, 0);
    verdict_ = new QLabel(box);
    verdict_->setProperty("role", "title");
    verdict_->setWordWrap(true);
    verdict_->setAccessibleName(tr("Verdict"));
    column->addWidget(verdict_);
    progress_ = new QProgressBar(box);
    progress_->setTextVisible(false);
    progress_->setFixedHeight(px(6));
    progress_->setAccessibleName(tr("Settings tried"));
    column->addWidget(progress_);
    table_ = new QTableWidget(0, kColumns, box);
    table_->setHorizontalHeaderLabels({tr("State"), tr("Setting"), tr("Time"), tr("Triangles")});
    table_->horizontalHeader()->setSectionResizeMode(kValues, QHeaderView::Stretch);
    table_->horizontalHeaderItem(kState)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeaderItem(kValues)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    table_->horizontalHeaderItem(kTime)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    table_->horizontalHeaderItem(kTriangles)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    table_->verticalHeader()->hide();
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setAccessibleName(tr("Settings that were tried"));
    table_->setAccessibleDescription(tr("Enter uses the values of the chosen one"));
    table_->setShowGrid(false);
    table_->setWordWrap(false);
    connect(table_, &QTableWidget::itemSelectionChanged, this, &PublishWindow::showChoice);
    connect(table_, &QTableWidget::itemActivated, this, [this] {
        if (const auto trial = chosen()) use(run_.trials()[*trial], run_.verdicts()[*trial].node);
    });
    column->addWidget(table_, 1);
    faults_ = new QLabel(box);
    faults_->setWordWrap(true);
    faults_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    faults_->setAccessibleName(tr("What is wrong with the chosen setting"));
    faults_->hide();
    column->addWidget(faults_);
    auto* row = new QHBoxLayout;
    onlyUnfit_ = new QCheckBox(tr("Only what is not fit"), box);
    onlyUnfit_->setToolTip(tr("Leaves away the settings at which all is well"));
    connect(onlyUnfit_, &QCheckBox::toggled, this, &PublishWindow::fillTable);
    open_ = new QPushButton(tr("Use these values"), box);
    open_->setToolTip(tr("Sets the controls to them, and chooses the node that is at fault"));
    connect(open_, &QPushButton::clicked, this, [this] {
        if (const auto trial = chosen()) use(run_.trials()[*trial], run_.verdicts()[*trial].node);
    });
    shrink_ = new QPushButton(tr("Find the smallest change"), box);
    shrink_->setToolTip(tr("Looks for the smallest change from the defaults that fails in the same way"));
    connect(shrink_, &QPushButton::clicked, this, [this] {
        const auto trial = chosen();
        if (!trial) return;
        run_.shrink(*trial);
        showVerdict();
    });
    row->addWidget(onlyUnfit_);
    row->addStretch();
    row->addWidget(shrink_);
    row->addWidget(open_);
    column->addLayout(row);
    return box;
}

QWidget* PublishWindow::makeButtons() {
    auto* box = new QWidget(this);
    auto* row = new QHBoxLayout(box);
    row->setContentsMargins(0, 0, 0, 0);
    auto* close = new QPushButton(tr("Close"), box);
    check_ = new QPushButton(tr("Check"), box);
    publish_ = new QPushButton(tr("Publish …"), box);
    sheetButton_ = new QPushButton(tr("Sheet …"), box);
    sheetButton_->setAutoDefault(false);
    sheetButton_->setToolTip(tr("Writes one page that shows the asset: what each control does, its presets and figures; or stops doing so"));
    connect(sheetButton_, &QPushButton::clicked, this, &PublishWindow::sheetAsked);
    publish_->setProperty("role", "default");
    for (QPushButton* button : {close, check_, publish_}) button->setAutoDefault(false);
    for (QPushButton* button : {open_, shrink_}) button->setAutoDefault(false);  // Enter in a field only ends typing
    close->setToolTip(tr("Ends a check that runs"));
    check_->setToolTip(tr("Builds the loom at many settings of its controls, or stops doing so"));
    connect(close, &QPushButton::clicked, this, &QDialog::close);
    connect(check_, &QPushButton::clicked, this, [this] {
        if (run_.running()) run_.cancel();
        else check();
        showVerdict();
    });
    connect(publish_, &QPushButton::clicked, this, &PublishWindow::publishAsked);
    row->addStretch();
    row->addWidget(close);
    row->addWidget(check_);
    row->addWidget(sheetButton_);
    row->addWidget(publish_);
    return box;
}

void PublishWindow::showPicture() {
    const std::string& output = document_.loom().output;
    const NodeReport report = session_.rebuilds().reportOf(output);
    picture_->setPixmap(session_.pictures().ofNode(output, report.key.digest, report.outcome));
}

void PublishWindow::showFacts() {
    const AssetAbout about = aboutOf(document_.loom());
    QStringList tags;
    for (const std::string& tag : about.tags) tags << QString::fromStdString(tag);
    const std::pair<QLineEdit*, QString> all[] = {{name_, QString::fromStdString(about.name)},       {version_, QString::fromStdString(about.version)},
                                                  {summary_, QString::fromStdString(about.summary)}, {author_, QString::fromStdString(about.author)},
                                                  {licence_, QString::fromStdString(about.licence)}, {tags_, tags.join(QStringLiteral(", "))}};
    for (const auto& [field, text] : all)
        if (!field->hasFocus() && field->text() != text) {
            field->setText(text);
            field->setCursorPosition(0);
        }
    showAdvice();
}

void PublishWindow::takeFacts() {
    const auto text = [](const QLineEdit* field) { return field->text().trimmed().toStdString(); };
    AssetAbout about{text(name_), text(version_), text(summary_), text(author_), text(licence_), {}};
    for (const QString& tag : tags_->text().split(QLatin1Char(','), Qt::SkipEmptyParts))
        if (!tag.trimmed().isEmpty()) about.tags.push_back(tag.trimmed().toStdString());
    if (about == aboutOf(document_.loom())) return;
    document_.apply(setFacts(document_.loom(), withAbout(document_.loom(), about)));
}

void PublishWindow::showAdvice() {
    QStringList lines;
    if (const auto problem = publishProblem(document_.loom())) lines << QString::fromStdString(problem->text);
    for (const std::string& line : publishAdvice(document_.loom())) lines << QString::fromStdString(line);
    constexpr int kMostLines = 6;
    if (lines.size() > kMostLines) lines = lines.mid(0, kMostLines) << tr("… and %n more", nullptr, int(lines.size()) - kMostLines);
    advice_->setText(lines.join(QLatin1Char('\n')));
    advice_->setHidden(lines.isEmpty());
}

FitSubject PublishWindow::subjectNow() const { return {document_.snapshot(), document_.assets(), document_.file().parent_path().string(), diskFiles()}; }

FitOptions PublishWindow::optionsNow() const {
    FitOptions out;
    out.closed = !openMeant_->isChecked();
    out.mostTriangles = std::size_t(budget_->value());
    return out;
}

void PublishWindow::check() {
    takeFacts();
    message_->hide();
    FitSubject subject = subjectNow();
    checked_ = asPublished(subject.loom);
    auto trials = trialsOf(*subject.loom, {.middles = true, .pairs = true, .random = random_->value()});
    rowOf_.assign(trials.size(), -1);
    table_->setRowCount(0);
    run_.start(std::move(subject), std::move(trials), optionsNow());
    fillTable();
    showVerdict();
}

/// Rows of what has been tried; during the check what is not fit comes first into sight.
void PublishWindow::fillTable() {
    const auto before = chosen();
    const int scrolled = table_->verticalScrollBar()->value();
    const QSignalBlocker quiet(table_);
    table_->setRowCount(0);
    std::fill(rowOf_.begin(), rowOf_.end(), -1);
    for (std::size_t i = 0; i < run_.verdicts().size(); ++i) {
        const Verdict& v = run_.verdicts()[i];
        if (v.state == Verdict::State::waiting || (onlyUnfit_->isChecked() && v.fine())) continue;
        const int row = table_->rowCount();
        table_->insertRow(row);
        rowOf_[i] = row;
        const auto put = [&](Column column, const QString& text, Qt::Alignment align) {
            auto* item = new QTableWidgetItem(text);
            item->setData(Qt::UserRole, qulonglong(i));
            item->setTextAlignment(align | Qt::AlignVCenter);
            if (!v.fine()) item->setForeground(column == kState ? colours().warning : colours().ink);
            table_->setItem(row, column, item);
        };
        put(kState, stateText(v), Qt::AlignLeft);
        const QString values = valuesText(run_.trials()[i], *checked_);
        put(kValues, values, Qt::AlignLeft);
        table_->item(row, kValues)->setToolTip((values + QLatin1Char('\n') + faultsText(v)).trimmed());
        put(kTime, timeText(v.ms), Qt::AlignRight);
        put(kTriangles, countText(v.triangles), Qt::AlignRight);
    }
    table_->setColumnWidth(kState, px(90));
    if (before && rowOf_[*before] >= 0) table_->selectRow(rowOf_[*before]);
    table_->verticalScrollBar()->setValue(scrolled);
    showChoice();
    showVerdict();
}

std::optional<std::size_t> PublishWindow::chosen() const {
    const auto rows = table_->selectionModel() ? table_->selectionModel()->selectedRows() : QModelIndexList();
    if (rows.isEmpty() || !table_->item(rows.front().row(), kState)) return {};
    return std::size_t(table_->item(rows.front().row(), kState)->data(Qt::UserRole).toULongLong());
}

void PublishWindow::showChoice() {
    const auto trial = chosen();
    const Verdict* v = trial ? &run_.verdicts()[*trial] : nullptr;
    const QString text = v ? faultsText(*v) : QString();
    faults_->setText(text);
    faults_->setHidden(text.isEmpty());
    open_->setEnabled(v != nullptr);
    shrink_->setEnabled(v && !run_.running() && (v->state == Verdict::State::failed || v->state == Verdict::State::unsound));
}

void PublishWindow::showVerdict() {
    std::size_t tried = 0, fit = 0;
    int slow = 0;
    for (const Verdict& v : run_.verdicts()) {
        tried += v.state != Verdict::State::waiting;
        fit += v.fit();
        slow += v.fit() && v.slow;
    }
    const std::size_t all = run_.verdicts().size();
    const bool stale = checked_ && !givesSameModels(*checked_, document_.loom());
    verdict_->setText(all == 0         ? tr("Not checked yet. A check builds the loom at many settings of its controls.")
                      : run_.running() ? tr("%1 of %2 settings tried, %3 not fit so far").arg(tried).arg(all).arg(tried - fit)
                      : tried < all    ? tr("Stopped after %1 of %2 settings; %3 not fit").arg(tried).arg(all).arg(tried - fit)
                      : stale          ? tr("The loom has changed since %1 settings were tried. Check it again.").arg(all)
                      : fit == all     ? tr("All %1 settings are fit").arg(all) + (slow > 0 ? tr(", %n of them slow", nullptr, slow) : QString())
                                       : tr("%1 of %2 settings are not fit").arg(all - fit).arg(all));
    progress_->setRange(0, std::max(1, int(all)));
    progress_->setValue(int(tried));
    check_->setText(run_.running() ? tr("Stop") : tr("Check"));
    sheetButton_->setText(sheet_.running() ? tr("Stop the sheet") : tr("Sheet …"));
    publish_->setEnabled(!run_.running() && !publishProblem(document_.loom()));
    publish_->setToolTip(knownFit() ? tr("Writes the pack") : tr("Writes the pack, though it is not known to be fit at all settings"));
}

bool PublishWindow::knownFit() const {
    const auto& all = run_.verdicts();
    return !all.empty() && std::all_of(all.begin(), all.end(), [](const Verdict& v) { return v.fit(); }) && givesSameModels(*checked_, document_.loom());
}

QString PublishWindow::verdict() const { return verdict_->text(); }
QString PublishWindow::message() const { return message_->isHidden() ? QString() : message_->text(); }

void PublishWindow::use(const Trial& trial, const std::string& node) {
    Preset values{trial.text(), trial.given, {}};
    if (const Preset* preset = document_.loom().preset(trial.preset)) values.values.insert(preset->values.begin(), preset->values.end());
    Edit edit = applyPreset(document_.loom(), values);
    edit.label = tr("Use the values of a trial").toStdString();
    document_.apply(edit);
    if (!node.empty()) Q_EMIT nodeWanted(QString::fromStdString(node));
}

/// With its version, so that those that are in use already stay as they are.
QString PublishWindow::proposed(const QString& ending) const {
    const AssetAbout about = aboutOf(document_.loom());
    QString name = document_.title().toLower().replace(QLatin1Char(' '), QLatin1Char('-'));
    if (isVersion(about.version)) name += QLatin1Char('-') + QString::fromStdString(about.version);
    const QString folder = QString::fromStdString(document_.file().parent_path().string());
    return (folder.isEmpty() ? name : folder + QLatin1Char('/') + name) + ending;
}

void PublishWindow::publishAsked() {
    const QString ending = QLatin1String(kPackEnding);
    QString file = QFileDialog::getSaveFileName(this, tr("Publish as"), proposed(ending), tr("Packs (*%1)").arg(ending));
    if (file.isEmpty()) return;
    if (!file.endsWith(ending)) file += ending;
    publishTo(file);
}

void PublishWindow::sheetAsked() {
    if (sheet_.running()) {
        sheet_.cancel();
        message_->setText(tr("The sheet was stopped; nothing was written."));
        return showVerdict();
    }
    const QString page = tr("One page (*.html)"), picture = tr("One picture (*.png)");
    QString chosen = page;
    QString file =
        QFileDialog::getSaveFileName(this, tr("Write the sheet as"), proposed(QStringLiteral(".html")), page + QStringLiteral(";;") + picture, &chosen);
    if (file.isEmpty()) return;
    if (!file.endsWith(QLatin1String(".html")) && !file.endsWith(QLatin1String(".png")))
        file += chosen == picture ? QStringLiteral(".png") : QStringLiteral(".html");
    sheetTo(file);
}

void PublishWindow::sheetTo(const QString& file) {
    takeFacts();
    const QString name = QFileInfo(file).fileName();
    sheet_.disconnect(this);
    connect(&sheet_, &SheetRun::progressed, this,
            [this, name](int done, int all) { message_->setText(tr("%1: %2 of %3 settings built …").arg(name).arg(done).arg(all)); });
    connect(&sheet_, &SheetRun::ended, this, [this, file](const QString& problem) {
        message_->setText(problem.isEmpty() ? tr("The sheet is written as %1.").arg(file) : tr("The sheet was not written. %1").arg(problem));
        showVerdict();
    });
    message_->setText(tr("Building what stands on %1 …").arg(name));
    message_->show();
    sheet_.start(subjectNow(), file);
    showVerdict();
}

bool PublishWindow::publishTo(const QString& file) {
    takeFacts();
    const auto say = [this](const QString& text) {
        message_->setText(text);
        message_->show();
    };
    if (const auto problem = publishProblem(document_.loom())) {
        say(QString::fromStdString(problem->text));
        return false;
    }
    FitSubject subject = subjectNow();
    say(tr("Writing %1 …").arg(QFileInfo(file).fileName()));
    publish_->setEnabled(false);
    writing_.start([this, subject = std::move(subject), file, stop = stopWriting_]() -> Background::Then {
        const auto bytes = publishedPack(subject, stop.get());
        const auto error = bytes ? writeFileAtomically(file.toStdString(), *bytes) : bytes.error();
        return [this, error, file] {
            const QString unsure = knownFit() ? QString() : QLatin1Char(' ') + tr("It is not known to be fit at all settings.");
            message_->setText(error ? tr("Not published. %1").arg(QString::fromStdString(error->text)) : tr("Published as %1.").arg(file) + unsure);
            showVerdict();
            Q_EMIT written(!error);
        };
    });
    return true;
}

}  // namespace seedloom::app
