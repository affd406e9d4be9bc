#include "app/session/Library.h"

#include "app/session/Demos.h"
#include "app/session/RecentFiles.h"
#include "files/FileSource.h"

#include <QtCore/QDir>
#include <QtCore/QFileInfo>
#include <QtCore/QSettings>

namespace seedloom::app {

namespace {

constexpr const char* kShelves = "library/shelves";
constexpr std::size_t kMostShown = 1000;  // pictures; 100 MB
constexpr int kSoon = 300;                // ms
constexpr std::size_t kMostAsked = 60;    // pictures that wait; what was asked for before is out of sight by then

QStringList chosenFolders() { return QSettings().value(QLatin1String(kShelves)).toStringList(); }

QImage small(const QImage& image) {
    return image.width() > Library::kPictureWidth ? image.scaledToWidth(Library::kPictureWidth, Qt::SmoothTransformation) : image;
}

}  // namespace

Library::Library(QObject* parent) : QObject(parent) {
    soon_.setSingleShot(true);
    soon_.setInterval(kSoon);
    connect(&soon_, &QTimer::timeout, this, &Library::refresh);
    connect(&watcher_, &QFileSystemWatcher::directoryChanged, this, [this] { soon_.start(); });
    list();
}

Library::~Library() {
    reader_.clear();
    painter_.clear();
}

void Library::list() {
    std::vector<Shelf> now;
    const auto keep = [&](const QString& folder, const QString& name, bool demos) {
        const auto it = std::find_if(shelves_.begin(), shelves_.end(), [&](const Shelf& s) { return s.folder == folder; });
        if (it != shelves_.end()) return now.push_back(*it);
        Shelf shelf;
        shelf.folder = folder, shelf.name = name, shelf.demos = demos;
        now.push_back(std::move(shelf));
    };
    for (const QString& folder : chosenFolders()) keep(folder, QDir(folder).dirName(), false);
    keep({}, tr("Demos from Gull Rock harbour"), true);
    shelves_ = std::move(now);
}

void Library::addShelf(const QString& folder) {
    const QString whole = QDir::cleanPath(QDir(folder).absolutePath());
    QStringList folders = chosenFolders();
    if (folders.contains(whole)) return;
    folders << whole;
    QSettings().setValue(QLatin1String(kShelves), folders);
    refresh();
}

void Library::removeShelf(const QString& folder) {
    QStringList folders = chosenFolders();
    folders.removeAll(folder);
    QSettings().setValue(QLatin1String(kShelves), folders);
    refresh();
}

bool Library::reading() const {
    return std::any_of(shelves_.begin(), shelves_.end(), [](const Shelf& s) { return s.reading; });
}

void Library::refresh() {
    list();
    reader_.clear();
    for (Shelf& shelf : shelves_) read(shelf);
    Q_EMIT changed();
}

void Library::read(Shelf& shelf) {
    shelf.reading = true;
    reader_.start([this, folder = shelf.folder, demos = shelf.demos, known = known_]() -> Background::Then {
        const QString place = demos ? demoFolder() : folder;
        const auto files = place.isEmpty()
                             ? Result<std::vector<std::filesystem::path>>(Error{"shelf.gone", "The demos could not be written to your data folder."})
                             : filesOnShelf(place.toStdString());
        if (!files) return [this, folder, error = files.error()] { take(folder, error, {}); };
        std::vector<ShelfAsset> assets;
        Known seen;
        for (const auto& file : *files) {
            const Stamp stamp = diskFiles()->stamp(file);
            const auto before = known.find(file);
            assets.push_back(before != known.end() && stamp && before->second.first == stamp ? before->second.second : shelfAsset(file));
            seen[file] = {stamp, assets.back()};
        }
        return [this, folder, assets = std::move(assets), seen = std::move(seen)] { take(folder, assets, seen); };
    });
}

void Library::take(const QString& folder, const Result<std::vector<ShelfAsset>>& read, const Known& known) {
    const auto shelf = std::find_if(shelves_.begin(), shelves_.end(), [&](const Shelf& s) { return s.folder == folder; });
    if (shelf == shelves_.end()) return;
    shelf->reading = false;
    shelf->problem = read ? QString() : QString::fromStdString(read.error().text);
    shelf->assets = std::make_shared<const std::vector<ShelfAsset>>(read ? *read : std::vector<ShelfAsset>());
    for (const auto& [file, one] : known) known_[file] = one;
    if (read && !shelf->demos) {
        std::set<QString> folders{folder};
        for (const ShelfAsset& asset : *read) folders.insert(QString::fromStdString(asset.file.parent_path().string()));
        watcher_.addPaths(QStringList(folders.begin(), folders.end()));
    }
    Q_EMIT changed();
}

QPixmap Library::picture(const ShelfAsset& asset) {
    const auto known = known_.find(asset.file);
    const Stamp stamp = known == known_.end() ? Stamp() : known->second.first;
    const QString key = QString::fromStdString(asset.file.string()) + (stamp ? QStringLiteral("|%1|%2").arg(stamp->time).arg(stamp->size) : QString());
    if (const auto it = pictures_.find(key); it != pictures_.end()) return it->second;
    if (pictures_.size() > kMostShown) pictures_.clear();  // those in sight come back
    if (asset.pack) {
        if (asked_.size() > kMostAsked) {
            painter_.clear();
            asked_.clear();
        }
        if (!asked_.insert(key).second) return {};
        painter_.start([this, key, file = asset.file]() -> Background::Then {
            const std::string bytes = shelfPicture(file);
            const QImage image = small(QImage::fromData(reinterpret_cast<const uchar*>(bytes.data()), int(bytes.size())));
            return [this, key, image] {
                asked_.erase(key);
                pictures_[key] = QPixmap::fromImage(image);
                Q_EMIT pictureReady();
            };
        });
        return {};
    }
    const QString file = QString::fromStdString(asset.file.string());
    QPixmap& kept = pictures_[key];
    kept = isDemoFile(file) ? demoPicture(QFileInfo(file).completeBaseName()) : recentPicture(file);
    if (kept.width() > kPictureWidth) kept = kept.scaledToWidth(kPictureWidth, Qt::SmoothTransformation);
    return kept;
}

const ShelfAsset* Library::newerThan(const std::string& name, const std::string& version) const {
    const ShelfAsset* best = nullptr;
    for (const Shelf& shelf : shelves_)
        for (const ShelfAsset& asset : *shelf.assets) {
            if (!asset.pack || !asset.problem.empty() || asset.about.name != name || !isVersion(asset.about.version)) continue;
            if (compareVersions(asset.about.version, best ? best->about.version : version) > 0) best = &asset;
        }
    return best;
}

}  // namespace seedloom::app
