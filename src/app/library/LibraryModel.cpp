#include "app/library/LibraryModel.h"

#include "app/widgets/AssetMime.h"

namespace seedloom::app {

LibraryModel::LibraryModel(Library& library, QObject* parent) : QAbstractListModel(parent), library_(library) {
    connect(&library_, &Library::changed, this, &LibraryModel::build);
    build();
}

void LibraryModel::filter(const QString& words, const QString& tag) {
    words_ = words.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    tag_ = tag;
    build();
}

void LibraryModel::setUses(std::vector<AssetUse> uses) {
    if (uses == uses_) return;
    uses_ = std::move(uses);
    if (!rows_.empty()) Q_EMIT dataChanged(index(0), index(int(rows_.size()) - 1));
}

void LibraryModel::fold(const QString& folder, bool folded) {
    if (folded) folded_.insert(folder);
    else folded_.erase(folder);
    build();
}

bool LibraryModel::fits(const ShelfAsset& asset) const {
    QStringList tags;
    for (const std::string& tag : asset.about.tags) tags << QString::fromStdString(tag);
    if (!tag_.isEmpty() && !tags.contains(tag_)) return false;
    const QString all =
        QStringList({QString::fromStdString(asset.about.name), QString::fromStdString(asset.about.summary), QString::fromStdString(asset.about.author),
                     QString::fromStdString(asset.file.stem().string()), tags.join(QLatin1Char(' '))})
            .join(QLatin1Char('\n'));
    return std::all_of(words_.begin(), words_.end(), [&](const QString& word) { return all.contains(word, Qt::CaseInsensitive); });
}

void LibraryModel::build() {
    beginResetModel();
    rows_.clear();
    shelves_ = library_.shelves();
    const bool filtered = !words_.isEmpty() || !tag_.isEmpty();
    for (std::size_t s = 0; s < shelves_.size(); ++s) {
        const Library::Shelf& shelf = shelves_[s];
        const std::vector<ShelfAsset>& assets = *shelf.assets;
        std::vector<Row> found;
        for (auto& versions : versionsOf(assets))
            if (std::any_of(versions.begin(), versions.end(), [&](std::size_t v) { return fits(assets[v]); }))
                found.push_back({Row::Kind::asset, s, std::move(versions), {}, 0});
        if (filtered && found.empty() && shelf.problem.isEmpty()) continue;
        rows_.push_back({Row::Kind::shelf, s, {}, shelf.name, int(found.size())});
        if (!filtered && folded_.contains(shelf.folder)) continue;
        const auto remark = [&](const QString& text) { rows_.push_back({Row::Kind::remark, s, {}, text, 0}); };
        if (!shelf.problem.isEmpty()) remark(shelf.problem);
        else if (shelf.reading && assets.empty()) remark(tr("Reading …"));
        else if (found.empty()) remark(tr("No looms or packs lie in this folder yet. Publish one into it."));
        std::move(found.begin(), found.end(), std::back_inserter(rows_));
    }
    if (filtered && rows_.empty()) rows_.push_back({Row::Kind::remark, 0, {}, tr("Nothing fits on any shelf. Try other words, or another tag."), 0});
    endResetModel();
}

std::vector<std::pair<QString, int>> LibraryModel::tags() const {
    std::map<QString, int> counts;
    for (const Library::Shelf& shelf : shelves_)
        for (const ShelfAsset& asset : *shelf.assets)
            for (const std::string& tag : asset.about.tags) ++counts[QString::fromStdString(tag)];
    std::vector<std::pair<QString, int>> out(counts.begin(), counts.end());
    std::stable_sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.second > b.second; });
    return out;
}

bool LibraryModel::inUse(const Row& row) const {
    const std::string& name = asset(row).about.name;
    return std::any_of(uses_.begin(), uses_.end(), [&](const AssetUse& use) { return use.name == name; });
}

QStringList LibraryModel::olderInUse(const Row& row) const {
    const AssetAbout& about = asset(row).about;
    QStringList out;
    for (const AssetUse& use : uses_)
        if (use.name == about.name && isVersion(use.version) && compareVersions(use.version, about.version) < 0) out << QString::fromStdString(use.version);
    out.removeDuplicates();
    return out;
}

QModelIndex LibraryModel::find(const QString& name) const {
    for (std::size_t r = 0; r < rows_.size(); ++r)
        if (rows_[r].kind == Row::Kind::asset && QString::fromStdString(asset(rows_[r]).about.name) == name) return index(int(r));
    return {};
}

QVariant LibraryModel::data(const QModelIndex& index, int role) const {
    const Row& r = row(index);
    if (r.kind != Row::Kind::asset) return role == Qt::DisplayRole || role == Qt::AccessibleTextRole ? QVariant(r.text) : QVariant();
    const ShelfAsset& newest = asset(r);
    const QString name = QString::fromStdString(newest.about.name), version = QString::fromStdString(newest.about.version);
    if (role == Qt::DisplayRole || role == Qt::AccessibleTextRole) return version.isEmpty() ? name : QStringLiteral("%1 %2").arg(name, version);
    if (role != Qt::ToolTipRole) return {};
    QStringList lines{QStringLiteral("<b>%1</b> %2").arg(name.toHtmlEscaped(), version.toHtmlEscaped())};
    const auto say = [&](const QString& text) {
        if (!text.isEmpty()) lines << text.toHtmlEscaped();
    };
    say(QString::fromStdString(newest.problem));
    say(QString::fromStdString(newest.about.summary));
    if (!newest.about.author.empty()) say(tr("By %1, %2").arg(QString::fromStdString(newest.about.author), QString::fromStdString(newest.about.licence)));
    say(tr("%n control(s)", nullptr, int(newest.controls.size())));
    if (!newest.inputs.empty()) {
        QStringList inputs;
        for (const std::string& input : newest.inputs) inputs << QString::fromStdString(input);
        say(tr("Takes %1").arg(inputs.join(QStringLiteral(", "))));
    }
    say(QString::fromStdString(newest.file.string()));
    return QStringLiteral("<p>%1</p>").arg(lines.join(QStringLiteral("</p><p>")));
}

Qt::ItemFlags LibraryModel::flags(const QModelIndex& index) const {
    if (!index.isValid()) return Qt::NoItemFlags;
    const Row& r = row(index);
    if (r.kind == Row::Kind::remark) return Qt::ItemIsEnabled;
    Qt::ItemFlags out = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
    if (r.kind == Row::Kind::asset && asset(r).problem.empty()) out |= Qt::ItemIsDragEnabled;
    return out;
}

QStringList LibraryModel::mimeTypes() const { return {QLatin1String(kAssetMime)}; }

QMimeData* LibraryModel::mimeData(const QModelIndexList& indexes) const {
    if (indexes.isEmpty() || row(indexes.front()).kind != Row::Kind::asset) return nullptr;
    auto* out = new QMimeData;
    out->setData(QLatin1String(kAssetMime), QByteArray::fromStdString(asset(row(indexes.front())).file.string()));
    return out;
}

}  // namespace seedloom::app
