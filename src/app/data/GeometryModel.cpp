#include "app/data/GeometryModel.h"

#include "app/shell/Theme.h"

namespace seedloom::app {

void GeometryModel::show(std::shared_ptr<const NodeOutcome> outcome, Element element) {
    beginResetModel();
    outcome_ = std::move(outcome);
    element_ = element;
    columns_.clear();
    rows_ = 0;
    if (outcome_) {
        const Geometry& g = outcome_->geometry;
        rows_ = int(std::min<std::size_t>(g.count(element), std::size_t(std::numeric_limits<int>::max())));
        const auto add = [&](const std::string& name, const Column& column) {
            const int parts = std::max(componentCount(column.type()), 1);
            for (int c = 0; c < parts; ++c)
                columns_.push_back({QString::fromStdString(name) + (parts > 1 ? QStringLiteral(".") + QLatin1Char("xyzw"[c]) : QString()), &column, c});
        };
        // Positions first: they are what people look for.
        if (element == Element::point) add("position", *g.column(element, "position"));
        for (const auto& [name, column] : g.table(element))
            if (element != Element::point || name != "position") add(name, column);
        if (element == Element::model && columns_.empty()) rows_ = 0;
    }
    endResetModel();
}

int GeometryModel::rowCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : rows_; }
int GeometryModel::columnCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : int(columns_.size()); }

QVariant GeometryModel::data(const QModelIndex& index, int role) const {
    if (!index.isValid() || index.row() >= rows_ || index.column() >= int(columns_.size())) return {};
    if (role == Qt::TextAlignmentRole) return int(Qt::AlignRight | Qt::AlignVCenter);
    if (role == Qt::FontRole) return numberFont(11);
    if (role != Qt::DisplayRole) return {};
    const Shown& shown = columns_[std::size_t(index.column())];
    const auto row = std::size_t(index.row());
    if (const auto* texts = shown.column->as<std::string>()) return QString::fromStdString((*texts)[row]);
    const double v = shown.column->component(row, shown.component);
    if (shown.column->type() == ColumnType::boolean) return v != 0 ? tr("yes") : tr("no");
    return shown.column->type() == ColumnType::integer ? QString::number(v, 'f', 0) : QString::number(v, 'g', 6);
}

QVariant GeometryModel::headerData(int section, Qt::Orientation orientation, int role) const {
    if (role == Qt::FontRole) return orientation == Qt::Vertical ? numberFont(11) : bodyFont(11, QFont::Medium);
    if (role != Qt::DisplayRole) return {};
    if (orientation == Qt::Vertical) return section;
    return section < int(columns_.size()) ? columns_[std::size_t(section)].title : QString();
}

}  // namespace seedloom::app
