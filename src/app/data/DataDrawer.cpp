#include "app/data/DataDrawer.h"

#include "app/data/StatisticsStrip.h"
#include "app/look/Texts.h"
#include "app/look/Theme.h"

#include <QtGui/QClipboard>
#include <QtGui/QGuiApplication>
#include <QtGui/QShortcut>
#include <QtWidgets/QButtonGroup>
#include <QtWidgets/QHBoxLayout>
#include <QtWidgets/QHeaderView>
#include <QtWidgets/QLabel>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QMenu>
#include <QtWidgets/QStyle>
#include <QtWidgets/QTableView>
#include <QtWidgets/QToolButton>
#include <QtWidgets/QVBoxLayout>

namespace seedloom::app {

namespace {
constexpr std::size_t kMostMarked = 20000;  // more marks than that are no longer marks
}

DataDrawer::DataDrawer(QWidget* parent)
    : QWidget(parent), model_(new GeometryModel(this)), table_(new QTableView(this)), title_(new QLabel(this)), empty_(new QLabel(this)),
      problem_(new QLabel(this)), kinds_(new QButtonGroup(this)), filter_(new QLineEdit(this)), columns_(new QToolButton(this)), freeze_(new QToolButton(this)),
      pin_(new QToolButton(this)), kind_(new QToolButton(this)), strip_(new StatisticsStrip(this)) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(16, 5, 12, 3);
    head->setSpacing(4);
    title_->setFont(bodyFont(12, QFont::DemiBold));
    head->addWidget(title_);
    head->addSpacing(8);
    const std::pair<Element, QString> kinds[] = {{Element::point, tr("Points")}, {Element::corner, tr("Corners")}, {Element::face, tr("Faces")},
                                                 {Element::curve, tr("Curves")}, {Element::copy, tr("Copies")},    {Element::model, tr("Model")}};
    for (const auto& [element, text] : kinds) {
        auto* button = new QToolButton(this);
        button->setToolTip(tr("Shows the values that stand on elements of this kind"));
        button->setText(text);
        button->setCheckable(true);
        kinds_->addButton(button, int(element));
        head->addWidget(button);
    }
    kinds_->button(0)->setChecked(true);
    head->addStretch();
    column->addLayout(head);
    auto* tools = new QHBoxLayout;
    tools->setContentsMargins(16, 0, 12, 5);
    tools->setSpacing(4);
    filter_->setPlaceholderText(tr("Only rows where …  for example  position.y > 0.5"));
    filter_->setAccessibleName(tr("Filter by a formula"));
    filter_->setToolTip(tr("Shows the rows for which the formula is true; empty shows all"));
    filter_->setClearButtonEnabled(true);
    filter_->setMaximumWidth(px(320));
    tools->addWidget(filter_, 1);
    problem_->setProperty("role", "warning");
    tools->addWidget(problem_, 1);
    tools->addStretch();
    const auto tool = [&](QToolButton* button, const QString& text, const QString& tip, bool checkable) {
        button->setText(text);
        button->setToolTip(tip);
        button->setCheckable(checkable);
        tools->addWidget(button);
    };
    tool(columns_, tr("Columns"), tr("Choose which attributes are shown"), false);
    tool(freeze_, tr("Freeze"), tr("Keep these values while the model changes"), true);
    tool(pin_, tr("Pin"), tr("Stay with this node while others are chosen"), true);
    tool(kind_, tr("All of this kind"), tr("Mark all faces of the chosen one's kind: old skin, inside faces, crumbs or rims (Ctrl+Shift+A)"), false);
    kind_->setEnabled(false);
    connect(kind_, &QToolButton::clicked, this, &DataDrawer::kindWanted);
    auto* copyButton = new QToolButton(this);
    tool(copyButton, tr("Copy"), tr("Copy the chosen rows, or all, as comma separated values (Ctrl+C)"), false);
    column->addLayout(tools);
    table_->setModel(model_);
    table_->setAlternatingRowColors(true);
    table_->setAccessibleName(tr("Attribute values"));
    table_->setAccessibleDescription(tr("A row for each element. Rows that are chosen here are marked on the stage, and the other way round."));
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    // Fixed sizes: the view never asks a million rows for theirs.
    table_->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    table_->verticalHeader()->setDefaultSectionSize(px(21));
    table_->horizontalHeader()->setDefaultSectionSize(px(96));
    table_->horizontalHeader()->setSectionsClickable(true);
    table_->horizontalHeader()->setToolTip(tr("Click sorts: upwards, downwards, not at all"));
    table_->setWordWrap(false);
    column->addWidget(table_, 1);
    empty_->setAlignment(Qt::AlignCenter);
    empty_->setProperty("role", "faint");
    column->addWidget(empty_, 1);
    column->addWidget(strip_);
    connect(kinds_, &QButtonGroup::idClicked, this, [this](int id) {
        element_ = static_cast<Element>(id);
        choice_.attribute.clear();
        refresh();
    });
    connect(filter_, &QLineEdit::returnPressed, this, [this] { setFilter(filter_->text()); });
    connect(filter_, &QLineEdit::textChanged, this, [this](const QString& text) {
        if (text.isEmpty()) setFilter({});
    });
    connect(table_->horizontalHeader(), &QHeaderView::sectionClicked, this, [this](int section) {
        const auto& shown = model_->shown();
        if (section >= int(shown.size())) return;
        const auto& column = shown[std::size_t(section)];
        const bool same = choice_.attribute == column.attribute && choice_.component == column.component;
        if (same && choice_.descending) choice_.attribute.clear();
        else choice_ = {choice_.filter, column.attribute, column.component, same};
        Q_EMIT columnChosen(QString::fromStdString(column.attribute));
        arrange();
        showStatistics(section);
    });
    connect(columns_, &QToolButton::clicked, this, &DataDrawer::openColumnMenu);
    connect(copyButton, &QToolButton::clicked, this, &DataDrawer::copy);
    auto* keys = new QShortcut(QKeySequence::Copy, table_);
    keys->setContext(Qt::WidgetWithChildrenShortcut);
    connect(keys, &QShortcut::activated, this, &DataDrawer::copy);
    connect(freeze_, &QToolButton::toggled, this, [this](bool on) {
        if (on) return;
        outcome_ = waiting_;
        title_->setText(waitingName_);
        refresh();
    });
    connect(pin_, &QToolButton::toggled, this, [this](bool on) {
        pinned_ = on ? node_ : std::string();
        Q_EMIT pinChanged();
    });
    connect(table_->selectionModel(), &QItemSelectionModel::selectionChanged, this, &DataDrawer::selectionChanged);
    connect(table_->selectionModel(), &QItemSelectionModel::currentColumnChanged, this, [this](const QModelIndex& now) {
        if (now.isValid()) showStatistics(now.column());
    });
    refresh();
}

DataDrawer::~DataDrawer() = default;

void DataDrawer::show(const QString& nodeName, const std::string& node, std::shared_ptr<const NodeOutcome> outcome) {
    waiting_ = outcome;
    waitingName_ = nodeName;
    node_ = node;
    if (freeze_->isChecked()) return;
    title_->setText(nodeName);
    if (outcome == outcome_) return;
    outcome_ = std::move(outcome);
    refresh();
    leaveEmptyKind();
}

/// Where there are none of the kind that is looked at, the first that is there is shown instead.
void DataDrawer::leaveEmptyKind() {
    if (!outcome_ || element_ == Element::model || outcome_->geometry.count(element_) > 0) return;
    for (Element element : {Element::point, Element::copy, Element::face, Element::curve})
        if (outcome_->geometry.count(element) > 0) return setElement(element);
}

void DataDrawer::setElement(Element element) { kinds_->button(int(element))->click(); }

void DataDrawer::sortBy(int column, bool descending) {
    const auto& shown = model_->shown();
    if (column < 0 || column >= int(shown.size())) return;
    choice_ = {choice_.filter, shown[std::size_t(column)].attribute, shown[std::size_t(column)].component, descending};
    arrange();
}

void DataDrawer::setFilter(const QString& formula) {
    if (filter_->text() != formula) filter_->setText(formula);
    choice_.filter = formula.trimmed().toStdString();
    arrange();
}

void DataDrawer::openColumnMenu() {
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    for (const QString& name : model_->attributes()) {
        QAction* action = menu->addAction(name);
        action->setCheckable(true);
        action->setChecked(!model_->hiddenAttributes().contains(name));
        connect(action, &QAction::toggled, this, [this, name](bool on) {
            QStringList hidden = model_->hiddenAttributes();
            on ? (void)hidden.removeAll(name) : hidden.append(name);
            model_->hideAttributes(hidden);
        });
    }
    menu->popup(columns_->mapToGlobal(QPoint(0, columns_->height())));
}

void DataDrawer::refresh() {
    model_->show(outcome_, element_);
    const QStringList names{tr("Points"), tr("Corners"), tr("Faces"), tr("Curves"), tr("Copies"), tr("Model")};
    for (int e = 0; e < kElementKinds; ++e) {
        const std::size_t n = outcome_ && e < 5 ? outcome_->geometry.count(static_cast<Element>(e)) : 0;
        kinds_->button(e)->setText(n > 0 ? tr("%1 %2").arg(names[e], countText(n)) : names[e]);
        // Kinds that are not there take no room, but for the ones that everybody looks for.
        const auto kind = static_cast<Element>(e);
        kinds_->button(e)->setVisible(n > 0 || kind == element_ || kind == Element::point || kind == Element::face || kind == Element::model);
    }
    arrange();
    showStatistics(statisticsColumn_);
}

/// Sorting a million rows takes longer than a picture may wait, so it is done aside; the newest wish wins.
void DataDrawer::arrange() {
    ++generation_;
    const bool nothing = model_->elementCount() == 0 || model_->columnCount() == 0;
    table_->setVisible(!nothing);
    strip_->setVisible(!nothing);
    empty_->setVisible(nothing);
    empty_->setText(!outcome_                     ? tr("Choose a node to see its numbers.")
                    : model_->elementCount() == 0 ? tr("There are none of these here.")
                                                  : tr("These carry no attributes yet."));
    problem_->clear();
    busy_ = false;
    if (choice_.plain() || !outcome_) {
        if (model_->ordered()) model_->setOrder({}, true);
        return;
    }
    busy_ = true;
    background_.clear();
    background_.start([this, generation = generation_, outcome = outcome_, element = element_, choice = choice_]() -> Background::Then {
        return [this, generation, rows = chooseRows(outcome->geometry, element, choice)] { takeArranged(generation, rows); };
    });
}

void DataDrawer::takeArranged(int generation, ChosenRows rows) {
    if (generation != generation_) return;
    busy_ = false;
    problem_->setText(rows.problem);
    problem_->setProperty("role", rows.problem.isEmpty() ? "faint" : "warning");
    problem_->style()->unpolish(problem_);
    problem_->style()->polish(problem_);
    if (!choice_.filter.empty() && rows.problem.isEmpty())
        problem_->setText(tr("%1 of %2").arg(countText(rows.rows.size()), countText(model_->elementCount())));
    const bool filtered = !choice_.filter.empty() && rows.problem.isEmpty();
    // What a filter finds is marked on the stage.
    if (filtered)
        Q_EMIT rowsChosen(element_, rows.rows.size() > kMostMarked ? std::vector<Index>(rows.rows.begin(), rows.rows.begin() + kMostMarked) : rows.rows);
    model_->setOrder(std::move(rows.rows), false);
}

void DataDrawer::selectionChanged() {
    std::vector<Index> rows;
    for (const QItemSelectionRange& range : table_->selectionModel()->selection())
        for (int row = range.top(); row <= range.bottom() && rows.size() < kMostMarked; ++row) rows.push_back(model_->elementAt(row));
    std::sort(rows.begin(), rows.end());
    rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
    kind_->setEnabled(element_ == Element::face && !rows.empty());
    Q_EMIT rowsChosen(element_, rows);
}

void DataDrawer::chooseRow(Element element, Index row, bool extend) {
    if (element != element_) setElement(element);
    const int at = model_->rowOf(row);
    if (at < 0) return;
    const QModelIndex index = model_->index(at, 0);
    table_->selectionModel()->select(index, (extend ? QItemSelectionModel::Toggle : QItemSelectionModel::ClearAndSelect) | QItemSelectionModel::Rows);
    table_->scrollTo(index, QAbstractItemView::PositionAtCenter);
}

void DataDrawer::copy() {
    std::vector<int> rows;
    for (const QItemSelectionRange& range : table_->selectionModel()->selection())
        for (int row = range.top(); row <= range.bottom(); ++row) rows.push_back(row);
    std::sort(rows.begin(), rows.end());
    rows.erase(std::unique(rows.begin(), rows.end()), rows.end());
    QGuiApplication::clipboard()->setText(model_->csv(rows));
}

void DataDrawer::showStatistics(int column) {
    const auto& shown = model_->shown();
    if (column < 0 || column >= int(shown.size()) || !outcome_) return ++statisticsWish_, strip_->clear();
    statisticsColumn_ = column;
    const auto& wanted = shown[std::size_t(column)];
    background_.start([this, wish = ++statisticsWish_, data = *wanted.column, component = wanted.component, title = wanted.title]() -> Background::Then {
        return [this, wish, statistics = statisticsOf(data, component), title] {
            if (wish == statisticsWish_) strip_->show(title, statistics);
        };
    });
}

}  // namespace seedloom::app
