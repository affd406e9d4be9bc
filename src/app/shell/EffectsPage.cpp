#include "app/shell/EffectsPage.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "graph/Edit.h"

#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLabel>
#include <QtWidgets/QPushButton>
#include <QtWidgets/QTableWidget>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {

enum Column { kName, kReaches, kChanges, kCost, kState, kColumns };

QString nameOf(const Loom& loom, const std::string& id) {
    const Control* control = loom.control(id);
    return QString::fromStdString(control && !control->label.empty() ? control->label : id);
}

QString rangeText(const std::pair<double, double>& range, const Control* control) {
    const QString unit = control && !control->unit.empty() ? QLatin1Char(' ') + QString::fromStdString(control->unit) : QString();
    return EffectsPage::tr("%1 to %2").arg(shownNumber(range.first, 'g', 4), shownNumber(range.second, 'g', 4)) + unit;
}

}  // namespace

EffectsPage::EffectsPage(Session& session, QWidget* parent)
    : QWidget(parent), document_(session.document()), verdict_(new QLabel(this)), words_(new QLabel(this)), table_(new QTableWidget(0, kColumns, this)),
      look_(new QPushButton(tr("Look at each control"), this)), limit_(new QPushButton(tr("Make the safe range its limits"), this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 10, 0, 0);
    verdict_->setProperty("role", "title");
    verdict_->setWordWrap(true);
    verdict_->setAccessibleName(tr("What the controls do"));
    column->addWidget(verdict_);
    table_->setHorizontalHeaderLabels({tr("Control"), tr("Reaches"), tr("Changes"), tr("Rebuild"), tr("Fit")});
    for (int c : {int(kName), int(kReaches), int(kState)}) table_->horizontalHeaderItem(c)->setTextAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    for (int c : {int(kChanges), int(kCost)}) table_->horizontalHeaderItem(c)->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
    table_->horizontalHeader()->setSectionResizeMode(kReaches, QHeaderView::Stretch);
    table_->setColumnWidth(kState, px(140));
    table_->setColumnWidth(kChanges, px(80));
    table_->setColumnWidth(kCost, px(80));
    table_->verticalHeader()->hide();
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->setSelectionMode(QAbstractItemView::SingleSelection);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setShowGrid(false);
    table_->setWordWrap(false);
    table_->setAccessibleName(tr("Controls and what they do"));
    table_->setAccessibleDescription(tr("Choose one to read about it"));
    look_->setToolTip(tr("Tries each control from end to end, or stops doing so"));
    limit_->setToolTip(tr("Outside of it settings fail; as a limit they can't be reached"));
    connect(table_, &QTableWidget::itemSelectionChanged, this, &EffectsPage::showChoice);
    column->addWidget(table_, 1);
    words_->setWordWrap(true);
    column->addWidget(words_);
    auto* row = new QHBoxLayout;
    for (QPushButton* button : {look_, limit_}) button->setAutoDefault(false);
    connect(look_, &QPushButton::clicked, this, [this] {
        if (run_.running()) run_.cancel();
        else Q_EMIT lookWanted();
        fill();
    });
    connect(limit_, &QPushButton::clicked, this, &EffectsPage::limit);
    row->addStretch();
    row->addWidget(limit_);
    row->addWidget(look_);
    column->addLayout(row);
    connect(&run_, &FitRun::ended, this, &EffectsPage::fill);
    connect(&document_, &Document::changed, this, &EffectsPage::fill);
    fill();
}

EffectsPage::~EffectsPage() {
    run_.disconnect(this);
    table_->disconnect(this);
}

void EffectsPage::look(FitSubject subject, FitOptions options) {
    seen_ = asPublished(subject.loom);
    run_.study(std::move(subject), std::move(options));
    fill();
}

QString EffectsPage::verdict() const { return verdict_->text(); }

const ControlEffect* EffectsPage::chosen() const {
    const auto rows = table_->selectionModel() ? table_->selectionModel()->selectedRows() : QModelIndexList();
    const auto& all = run_.effects();
    return rows.isEmpty() || std::size_t(rows.front().row()) >= all.size() ? nullptr : &all[std::size_t(rows.front().row())];
}

void EffectsPage::fill() {
    const int before = table_->currentRow();
    const QSignalBlocker quiet(table_);
    table_->setRowCount(0);
    int idle = 0, unsafe = 0;
    for (const ControlEffect& effect : run_.effects()) {
        const Control* control = seen_->control(effect.control);
        const int row = table_->rowCount();
        table_->insertRow(row);
        const auto put = [&](Column at, const QString& text, Qt::Alignment align, bool marked = false) {
            auto* item = new QTableWidgetItem(text);
            item->setTextAlignment(align | Qt::AlignVCenter);
            if (marked) item->setForeground(colours().warning);
            table_->setItem(row, at, item);
        };
        QStringList nodes;
        for (const std::string& id : effect.nodes)
            if (const Node* node = seen_->node(id)) nodes << QString::fromStdString(displayName(*node));
        put(kName, nameOf(*seen_, effect.control), Qt::AlignLeft);
        put(kReaches,
            effect.tried == 0  ? tr("not tried: it has no ends")
            : effect.nothing() ? tr("nothing")
                               : nodes.join(QStringLiteral(" · ")),
            Qt::AlignLeft, effect.nothing());
        table_->item(row, kReaches)->setToolTip(nodes.join(QLatin1Char('\n')));
        put(kChanges, tr("%1 %").arg(qRound(effect.changed * 100)), Qt::AlignRight);
        put(kCost, tr("%1 ms").arg(qRound(effect.ms)), Qt::AlignRight);
        put(kState,
            effect.failed == 0 ? tr("everywhere")
            : effect.safe      ? rangeText(*effect.safe, control)
                               : tr("not at %1 of %2").arg(effect.failed).arg(effect.tried),
            Qt::AlignLeft, effect.failed > 0);
        idle += effect.nothing();
        unsafe += effect.failed > 0;
    }
    if (before >= 0 && before < table_->rowCount()) table_->selectRow(before);
    const bool stale = seen_ && !givesSameModels(*seen_, document_.loom());
    QStringList found;
    if (idle > 0) found << tr("%n control(s) without effect", nullptr, idle);
    if (unsafe > 0) found << tr("%n control(s) not fit everywhere", nullptr, unsafe);
    const int all = int(run_.effects().size());
    verdict_->setText(run_.running()    ? tr("Each control is tried from end to end …")
                      : all == 0        ? tr("Not looked at yet. Each control is tried from end to end, the others at their defaults.")
                      : stale           ? tr("The loom has changed since its controls were looked at.")
                      : found.isEmpty() ? tr("All %n controls do something, and are fit everywhere", nullptr, all)
                                        : found.join(QStringLiteral(", ")));
    look_->setText(run_.running() ? tr("Stop") : tr("Look at each control"));
    showChoice();
}

void EffectsPage::showChoice() {
    const ControlEffect* effect = chosen();
    const Control* control = effect ? document_.loom().control(effect->control) : nullptr;
    limit_->setEnabled(control && effect->safe && !run_.running());
    words_->setText(
        !effect             ? QString()
        : effect->nothing() ? tr("No value of it changes any node. Drag its name onto a setting, or remove it.")
        : effect->safe ? tr("Around its default it is fit from %1; outside, settings fail. Its limits can be made that.").arg(rangeText(*effect->safe, control))
        : effect->failed > 0 ? tr("It is not fit at %1 of %2 values that were tried, and the default is not between fit ones. Look at the settings that fail.")
                                   .arg(effect->failed)
                                   .arg(effect->tried)
                             : QString());
}

void EffectsPage::limit() {
    const ControlEffect* effect = chosen();
    const Control* found = effect ? document_.loom().control(effect->control) : nullptr;
    if (!found || !effect->safe) return;
    Control control = *found;
    control.min = effect->safe->first, control.max = effect->safe->second;
    document_.apply(changeControl(document_.loom(), control));
}

}  // namespace seedloom::app
