#include "app/vary/VaryTable.h"

#include "app/look/Texts.h"
#include "vary/VaryFacts.h"

#include <algorithm>
#include <map>

namespace seedloom::app {

namespace {

constexpr int kAgainMs = 300;
constexpr int kJudgedAtOnce = 500;  // a hundredth of a second

}  // namespace

VaryTable::VaryTable(VarySheet& sheet, QObject* parent) : QAbstractTableModel(parent), sheet_(sheet) {
    again_.setSingleShot(true);
    connect(&again_, &QTimer::timeout, this, &VaryTable::lay);
    connect(&sheet_, &VarySheet::planned, this, [this] {
        meets_.clear();
        lay();
    });
    connect(&sheet_, &VarySheet::itemChanged, this, &VaryTable::itemChanged);
    connect(&sheet_, &VarySheet::starsChanged, this, [this] {
        if (arrangement_.starred) lay();
    });
    connect(&pictures_, &PictureFiles::ready, this, [this](const QString& file) {
        const auto wished = wishedFor_.constFind(file);
        if (wished == wishedFor_.constEnd()) return;
        if (const QModelIndex at = indexOf(*wished); at.isValid()) Q_EMIT dataChanged(at, at, {Qt::DecorationRole});
    });
    lay();
}

void VaryTable::arrange(Arrangement arrangement) {
    if (arrangement == arrangement_) return;
    if (arrangement.condition != arrangement_.condition) meets_.clear();
    arrangement_ = std::move(arrangement);
    lay();
}

void VaryTable::setAcross(int across) {
    across = std::max(1, across);
    if (across == across_) return;
    across_ = across;
    if (arrangement_.columns.empty() || !arrangement_.grid()) lay();
}

Json VaryTable::valueOf(std::size_t item, const std::string& control) const {
    const Variation& variation = sheet_.variation(item);
    if (const auto it = variation.given.find(control); it != variation.given.end()) return it->second;
    if (const Preset* preset = sheet_.loom().preset(variation.preset))
        if (const auto it = preset->values.find(control); it != preset->values.end()) return it->second;
    const auto it = plain_.find(control);
    return it == plain_.end() ? Json() : it->second;
}

/// Whether the condition holds for rows that are known; of very many only so many, and more when the window has had its turn.
void VaryTable::judgeSome() {
    meets_.resize(sheet_.all());
    int judged = 0;
    for (std::size_t i = 0; i < sheet_.count(); ++i) {
        const VaryRow* row = sheet_.row(i);
        if (!row || meets_[i]) continue;
        if (++judged > kJudgedAtOnce) return again_.start(0);
        const auto meets = rowMeets(arrangement_.condition, *row);
        if (!meets) {
            problem_ = QString::fromStdString(meets.error().text);
            return;
        }
        meets_[i] = *meets;
    }
}

/// Those that are to be seen, in their order.
std::vector<std::size_t> VaryTable::chosen() {
    problem_.clear();
    if (!arrangement_.condition.empty()) judgeSome();
    std::vector<std::size_t> out;
    for (const std::size_t i :
         arrangement_.order.empty() ? std::vector<std::size_t>() : orderedBy(arrangement_.order, arrangement_.largestFirst, sheet_.rows()))
        out.push_back(i);
    if (arrangement_.order.empty())
        for (std::size_t i = 0; i < sheet_.count(); ++i) out.push_back(i);
    std::erase_if(out, [&](std::size_t i) {
        const VaryRow* row = sheet_.row(i);
        if (arrangement_.starred && !sheet_.starred(sheet_.variation(i))) return true;
        if (arrangement_.failed && (!row || row->problem.empty())) return true;
        // What is not made yet keeps its place until it is known.
        if (arrangement_.condition.empty() || !row || !problem_.isEmpty()) return false;
        return meets_[i] && !*meets_[i];
    });
    return out;
}

void VaryTable::lay() {
    again_.stop();
    beginResetModel();
    pictures_.forgetWishes();
    wishedFor_.clear();
    const Loom& loom = sheet_.loom();
    const auto values = controlValues(loom);
    plain_ = values ? *values : ControlValues();
    differing_.clear();
    for (const Control& control : loom.controls)
        if (sheet_.plan().of(control.id)) differing_.push_back(&control);
    const std::vector<std::size_t> items = chosen();
    shown_ = items.size();
    columnTexts_.clear(), rowTexts_.clear(), places_.clear();
    if (arrangement_.grid()) layInGrid(items);
    else layInRows(items);
    placeOf_.assign(sheet_.all(), -1);
    for (std::size_t p = 0; p < places_.size(); ++p)
        if (places_[p]) placeOf_[*places_[p]] = int(p);
    endResetModel();
    Q_EMIT arranged();
}

void VaryTable::layInRows(const std::vector<std::size_t>& items) {
    columns_ = items.empty() ? 0 : across_;
    rows_ = (int(items.size()) + across_ - 1) / across_;
    places_.assign(items.begin(), items.end());
    places_.resize(std::size_t(rows_ * columns_));
}

/// What has the same values of both controls stands one below the other.
void VaryTable::layInGrid(const std::vector<std::size_t>& items) {
    const auto headings = [&](const std::string& control, QStringList& texts) {
        std::map<std::string, int> seen;
        std::vector<int> of;
        const Control* known = sheet_.loom().control(control);
        for (const std::size_t i : items) {
            const Json value = known ? valueOf(i, control) : Json();
            const auto [it, fresh] = seen.emplace(value.dump(-1, ' ', false, Json::error_handler_t::replace), int(seen.size()));
            if (fresh) texts << (known ? shownNumbers(QString::fromStdString(shownValue(*known, value))) : QString());
            of.push_back(it->second);
        }
        return of;
    };
    QStringList groupTexts;
    const bool wide = !arrangement_.columns.empty();
    std::vector<int> column = headings(arrangement_.columns, columnTexts_), group = headings(arrangement_.rows, groupTexts);
    columns_ = wide ? int(columnTexts_.size()) : across_;
    const std::size_t groups = std::size_t(groupTexts.size());
    std::vector<std::vector<int>> filled(groups, std::vector<int>(std::size_t(std::max(columns_, 1)), 0));
    std::vector<int> down(items.size());
    std::vector<int> next(groups, 0);
    for (std::size_t k = 0; k < items.size(); ++k) {
        if (!wide) column[k] = next[std::size_t(group[k])]++ % std::max(columns_, 1);
        down[k] = filled[std::size_t(group[k])][std::size_t(column[k])]++;
    }
    std::vector<int> start(groups, 0);
    rows_ = 0;
    for (std::size_t g = 0; g < groups; ++g) {
        start[g] = rows_;
        const int high = *std::max_element(filled[g].begin(), filled[g].end());
        for (int r = 0; r < high; ++r) rowTexts_ << (r == 0 ? groupTexts[int(g)] : QString());
        rows_ += high;
    }
    if (items.empty()) columns_ = rows_ = 0;
    places_.assign(std::size_t(rows_) * std::size_t(columns_), std::nullopt);
    for (std::size_t k = 0; k < items.size(); ++k) places_[std::size_t((start[std::size_t(group[k])] + down[k]) * columns_ + column[k])] = items[k];
    if (!wide) columnTexts_.clear();
    if (arrangement_.rows.empty()) rowTexts_.clear();
}

void VaryTable::itemChanged(std::size_t item) {
    if (item >= placeOf_.size()) return;
    // Where facts say what is seen, and where, the table is laid anew when some have come together.
    if (!arrangement_.order.empty() || !arrangement_.condition.empty() || arrangement_.failed) {
        if (!again_.isActive()) again_.start(kAgainMs);
    }
    if (const QModelIndex at = indexOf(item); at.isValid()) Q_EMIT dataChanged(at, at);
}

int VaryTable::rowCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : rows_; }

int VaryTable::columnCount(const QModelIndex& parent) const { return parent.isValid() ? 0 : columns_; }

std::optional<std::size_t> VaryTable::item(const QModelIndex& index) const {
    if (!index.isValid()) return {};
    const auto at = std::size_t(index.row() * columns_ + index.column());
    return at < places_.size() ? places_[at] : std::nullopt;
}

QModelIndex VaryTable::indexOf(std::size_t item) const {
    if (item >= placeOf_.size() || placeOf_[item] < 0) return {};
    return index(placeOf_[item] / columns_, placeOf_[item] % columns_);
}

Qt::ItemFlags VaryTable::flags(const QModelIndex& index) const { return item(index) ? Qt::ItemIsEnabled | Qt::ItemIsSelectable : Qt::NoItemFlags; }

QString VaryTable::caption(std::size_t item) const {
    QStringList parts;
    const Variation& variation = sheet_.variation(item);
    if (!variation.preset.empty()) parts << QString::fromStdString(variation.preset);
    for (const Control* control : differing_) {
        const bool heading = arrangement_.grid() && (control->id == arrangement_.columns || control->id == arrangement_.rows);
        if (!heading) parts << shownNumbers(QString::fromStdString(shownValue(*control, valueOf(item, control->id))));
    }
    return parts.isEmpty() ? QStringLiteral("%1").arg(item + 1) : parts.join(QStringLiteral(" · "));
}

QString VaryTable::title(const Variation& variation) const {
    QStringList parts;
    if (!variation.preset.empty()) parts << QString::fromStdString(variation.preset);
    for (const Control& control : sheet_.loom().controls)
        if (const auto it = variation.given.find(control.id); it != variation.given.end())
            parts << shownNumbers(QString::fromStdString(shownValue(control, it->second)));
    return parts.isEmpty() ? tr("All at their defaults") : parts.join(QStringLiteral(" · "));
}

QString VaryTable::facts(std::size_t item) const {
    const VaryRow* row = sheet_.row(item);
    if (!row) return sheet_.working(item) ? tr("being built …") : sheet_.stopped() ? tr("stopped") : tr("waiting");
    if (!row->ok) return tr("failed");
    const QString faces = tr("%1 faces").arg(countText(row->faces));
    // What is as it should be need not be said.
    if (!row->problem.empty()) return tr("%1 · warned").arg(faces);
    return row->closed ? faces : tr("%1 · open").arg(faces);
}

QPixmap VaryTable::picture(std::size_t item, QSize pixels) const {
    const QString file = sheet_.pictureFile(item);
    QPixmap out = pictures_.of(file, pixels);
    if (out.isNull()) wishedFor_[file] = item;
    return out;
}

QVariant VaryTable::data(const QModelIndex& index, int role) const {
    const auto at = item(index);
    if (!at) return {};
    const VaryRow* row = sheet_.row(*at);
    const QString problem = row ? QString::fromStdString(row->problem) : QString();
    if (role == Qt::DisplayRole) return caption(*at);
    if (role == Qt::ToolTipRole || role == Qt::AccessibleTextRole) {
        QStringList lines{title(sheet_.variation(*at)), facts(*at)};
        if (!problem.isEmpty()) lines << problem;
        if (role == Qt::AccessibleTextRole && sheet_.starred(sheet_.variation(*at))) lines << tr("starred");
        return lines.join(QLatin1Char('\n'));
    }
    return {};
}

QVariant VaryTable::headerData(int section, Qt::Orientation orientation, int role) const {
    if (role != Qt::DisplayRole) return {};
    const QStringList& texts = orientation == Qt::Horizontal ? columnTexts_ : rowTexts_;
    return section < texts.size() ? texts[section] : QString();
}

}  // namespace seedloom::app
