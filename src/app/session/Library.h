#pragma once
// The shelves of the library: folders that somebody chose, and the demos. What lies on them is read behind the interface.
#include "app/session/Background.h"
#include "formats/Shelf.h"

#include <QtCore/QFileSystemWatcher>
#include <QtCore/QObject>
#include <QtCore/QTimer>
#include <QtGui/QPixmap>

#include <set>

namespace seedloom::app {

class Library : public QObject {
    Q_OBJECT

public:
    struct Shelf {
        QString folder, name;
        QString problem;  ///< why it can't be read, or empty
        bool demos = false, reading = true;
        std::shared_ptr<const std::vector<ShelfAsset>> assets = std::make_shared<const std::vector<ShelfAsset>>();
    };

    explicit Library(QObject* parent = nullptr);
    ~Library() override;

    /// Those that were chosen, in their order; the demos last.
    const std::vector<Shelf>& shelves() const { return shelves_; }
    /// Remembered for all windows and later starts. Nothing where it is one already.
    void addShelf(const QString& folder);
    void removeShelf(const QString& folder);
    /// Reads all shelves again; what has not changed since is not opened again.
    void refresh();
    bool reading() const;

    /// Of an asset, as wide as kPictureWidth or less; null while it is not read, or there is none. pictureReady() tells.
    QPixmap picture(const ShelfAsset& asset);
    static constexpr int kPictureWidth = 192;

    /// The pack of that name with the newest version above `version`, on any shelf; null where there is none.
    const ShelfAsset* newerThan(const std::string& name, const std::string& version) const;

Q_SIGNALS:
    void changed();
    void pictureReady();

private:
    using Stamp = std::optional<FileStamp>;
    using Known = std::map<std::filesystem::path, std::pair<Stamp, ShelfAsset>>;
    void list();
    void read(Shelf& shelf);
    void take(const QString& folder, const Result<std::vector<ShelfAsset>>& read, const Known& known);

    std::vector<Shelf> shelves_;
    Known known_;
    std::map<QString, QPixmap> pictures_;  ///< by file and its stamp; null ones are known to be missing
    std::set<QString> asked_;
    QFileSystemWatcher watcher_;
    QTimer soon_;  ///< a copied folder tells of each of its files
    Background reader_, painter_;
};

}  // namespace seedloom::app
