#pragma once
// The rows of the library: shelves, and on each its assets, those of one name as one row.
#include "app/session/Library.h"
#include "graph/AssetUpdate.h"

#include <QtCore/QAbstractListModel>

namespace seedloom::app {

class LibraryModel : public QAbstractListModel {
    Q_OBJECT

public:
    struct Row {
        enum class Kind : unsigned char { shelf, asset, remark };
        Kind kind = Kind::asset;
        std::size_t shelf = 0;
        std::vector<std::size_t> versions;  ///< of an asset: places on its shelf, newest first
        QString text;                       ///< of a shelf its name, of a remark what it says
        int count = 0;                      ///< of a shelf: how many assets are shown or folded away
    };

    LibraryModel(Library& library, QObject* parent);
    /// Shows what has all these words in its name, summary, author or tags, and the tag; an empty tag: any.
    void filter(const QString& words, const QString& tag);
    /// What the document uses: shown at its asset.
    void setUses(std::vector<AssetUse> uses);
    void fold(const QString& folder, bool folded);
    bool folded(const Row& row) const { return folded_.contains(shelf(row).folder); }
    /// All tags on all shelves with how often they are there, the most frequent first.
    std::vector<std::pair<QString, int>> tags() const;

    const Row& row(const QModelIndex& index) const { return rows_[std::size_t(index.row())]; }
    const std::vector<Row>& rows() const { return rows_; }
    /// The newest of an asset's versions.
    const ShelfAsset& asset(const Row& row, std::size_t version = 0) const { return (*shelves_[row.shelf].assets)[row.versions[version]]; }
    const Library::Shelf& shelf(const Row& row) const { return shelves_[row.shelf]; }
    /// Versions of it that the document uses and that are older than the newest.
    QStringList olderInUse(const Row& row) const;
    bool inUse(const Row& row) const;
    QPixmap picture(const Row& row) const { return library_.picture(asset(row)); }
    QModelIndex find(const QString& name) const;

    int rowCount(const QModelIndex& parent = {}) const override { return parent.isValid() ? 0 : int(rows_.size()); }
    QVariant data(const QModelIndex& index, int role) const override;
    Qt::ItemFlags flags(const QModelIndex& index) const override;
    QStringList mimeTypes() const override;
    QMimeData* mimeData(const QModelIndexList& indexes) const override;

private:
    void build();
    bool fits(const ShelfAsset& asset) const;

    Library& library_;
    std::vector<Library::Shelf> shelves_;  ///< that the rows are of; the library may have others by now
    std::vector<Row> rows_;
    std::vector<AssetUse> uses_;
    QStringList words_;
    QString tag_;
    std::set<QString> folded_;
};

}  // namespace seedloom::app
