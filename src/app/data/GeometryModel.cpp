#include "app/data/GeometryModel.h"

#include "app/look/Texts.h"
#include "app/look/Theme.h"
#include "fields/Evaluate.h"
#include "files/Csv.h"
#include "geometry/ElementTransfer.h"

#include <numeric>

namespace seedloom::app {

void GeometryModel::show(std::shared_ptr<const NodeOutcome> outcome, Element element) {
    beginResetModel();
    outcome_ = std::move(outcome);
    element_ = element;
    elements_ = outcome_ ? std::min<std::size_t>(outcome_->geometry.count(element), std::size_t(std::numeric_limits<int>::max())) : 0;
    order_.clear();
    all_ = true;
    listColumns();
    endResetModel();
}

void GeometryModel::hideAttributes(const QStringList& names) {
    beginResetModel();
    hidden_ = names;
    listColumns();
    endResetModel();
}

void GeometryModel::listColumns() {
    columns_.clear();
    if (!outcome_) return;
    const Geometry& g = outcome_->geometry;
    const auto add = [&](const std::string& name, const Column& column) {
        if (hidden_.contains(QString::fromStdString(name))) return;
        const int parts = std::max(componentCount(column.type()), 1);
        for (int c = 0; c < parts; ++c)
            columns_.push_back({QString::fromStdString(name) + (parts > 1 ? QStringLiteral(".") + QLatin1Char("xyzw"[c]) : QString()), name, &column, c});
    };
    // Positions first: they are what people look for.
    if (element_ == Element::point) add("position", *g.column(element_, "position"));
    places_ = element_ == Element::copy ? columnFor(g, "position", element_) : std::nullopt;
    if (places_) add("position", *places_);
    for (const auto& [name, column] : g.table(element_))
        if (element_ != Element::point || name != "position") add(name, column);
    if (element_ == Element::model && g.table(element_).empty()) elements_ = 0;
}

QStringList GeometryModel::attributes() const {
    QStringList out;
    if (outcome_ && element_ == Element::copy) out << QStringLiteral("position");
    if (outcome_)
        for (const auto& [name, column] : outcome_->geometry.table(element_)) out << QString::fromStdString(name);
    return out;
}

void GeometryModel::setOrder(std::vector<Index> order, bool all) {
    beginResetModel();
    order_ = std::move(order);
    all_ = all;
    endResetModel();
}

int GeometryModel::rowOf(Index element) const {
    if (all_) return element < elements_ ? int(element) : -1;
    const auto it = std::find(order_.begin(), order_.end(), element);
    return it == order_.end() ? -1 : int(it - order_.begin());
}

int GeometryModel::rowCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : all_ ? int(elements_) : int(order_.size()); }
int GeometryModel::columnCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : int(columns_.size()); }

QString GeometryModel::textAt(int row, int column, bool full) const {
    const Shown& shown = columns_[std::size_t(column)];
    const std::size_t element = elementAt(row);
    if (const auto* texts = shown.column->as<std::string>()) return QString::fromStdString((*texts)[element]);
    const double v = shown.column->component(element, shown.component);
    if (shown.column->type() == ColumnType::boolean) return full ? QString::number(v) : v != 0 ? tr("yes") : tr("no");
    if (shown.column->type() == ColumnType::integer) return QString::number(v, 'f', 0);
    return full ? QString::number(v, 'g', 9) : shownNumber(v, 'g', 6);  // copied values always have the point: commas part them
}

QVariant GeometryModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rowCount() || index.column() >= columnCount()) return {};
    if (role == Qt::TextAlignmentRole) return int(Qt::AlignRight | Qt::AlignVCenter);
    if (role == Qt::FontRole) return numberFont(11);
    return role == Qt::DisplayRole ? QVariant(textAt(index.row(), index.column(), false)) : QVariant();
}

QVariant GeometryModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (role == Qt::FontRole) return orientation == Qt::Vertical ? numberFont(11) : bodyFont(11, QFont::Medium);
    if (role != Qt::DisplayRole) return {};
    if (orientation == Qt::Vertical) return section < rowCount() ? QVariant(int(elementAt(section))) : QVariant();
    return section < columnCount() ? columns_[std::size_t(section)].title : QString();
}

QString GeometryModel::csv(const std::vector<int>& rows) const {
    const auto quoted = [](const QString& text) { return QString::fromStdString(csvCell(text.toStdString())); };
    QString out = QString::fromUtf8(elementName(element_).data());
    for (const Shown& column : columns_) out += QLatin1Char(',') + quoted(column.title);
    out += QLatin1Char('\n');
    const int count = rows.empty() ? rowCount() : int(rows.size());
    for (int i = 0; i < count; ++i) {
        const int row = rows.empty() ? i : rows[std::size_t(i)];
        out += QString::number(elementAt(row));
        for (int c = 0; c < columnCount(); ++c) out += QLatin1Char(',') + quoted(textAt(row, c, true));
        out += QLatin1Char('\n');
    }
    return out;
}

ChosenRows chooseRows(const Geometry& geometry, Element element, const RowChoice& choice) {
    ChosenRows out;
    const std::size_t count = geometry.count(element);
    out.rows.reserve(count);
    if (choice.filter.empty()) {
        out.rows.resize(count);
        std::iota(out.rows.begin(), out.rows.end(), Index(0));
    } else {
        try {
            FieldContext context;
            context.geometry = &geometry;
            context.element = element;
            context.perElement = true;
            const Numbers holds = evaluate(FormulaSource{choice.filter}, context);
            for (Index i = 0; i < count; ++i)
                if (holds.uniform ? holds.value[0] != 0 : holds.columns[0][i] != 0) out.rows.push_back(i);
        } catch (const FieldError& error) {
            out.problem = QString::fromUtf8(error.what());
            out.rows.resize(count);
            std::iota(out.rows.begin(), out.rows.end(), Index(0));
        }
    }
    // Places of copies are no stored column.
    const auto computed = element == Element::copy && choice.attribute == "position" ? columnFor(geometry, choice.attribute, element) : std::nullopt;
    const Column* column = computed ? &*computed : choice.attribute.empty() ? nullptr : geometry.column(element, choice.attribute);
    if (!column) return out;
    if (const auto* texts = column->as<std::string>()) {
        std::stable_sort(out.rows.begin(), out.rows.end(),
                         [&](Index a, Index b) { return choice.descending ? (*texts)[b] < (*texts)[a] : (*texts)[a] < (*texts)[b]; });
        return out;
    }
    // Keys first: a comparison then costs no look into the column. Values that are no numbers go to the end.
    std::vector<std::pair<float, Index>> keys;
    keys.reserve(out.rows.size());
    for (Index row : out.rows) {
        const auto v = float(column->component(row, choice.component));
        keys.push_back({std::isnan(v) ? std::numeric_limits<float>::infinity() : choice.descending ? -v : v, row});
    }
    std::stable_sort(keys.begin(), keys.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 0; i < keys.size(); ++i) out.rows[i] = keys[i].second;
    return out;
}

}  // namespace seedloom::app
