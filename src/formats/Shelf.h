#pragma once
// Folders of looms and packs as shelves of a library: what lies there, and what is told of each without reading all of it.
#include "formats/Pack.h"

namespace seedloom {

inline constexpr std::size_t kMostOnShelf = 20'000;
inline constexpr int kDeepestShelf = 8;

/// Whether it can lie on a shelf, by its ending.
bool isForShelf(const std::filesystem::path& file);

/// The looms and packs in a folder and in those inside of it (down to kDeepestShelf; links to folders are not followed), sorted. At most kMostOnShelf.
/// Error `shelf.gone` where there is no such folder, or it can't be read.
Result<std::vector<std::filesystem::path>> filesOnShelf(const std::filesystem::path& folder);

/// One asset on a shelf.
struct ShelfAsset {
    std::filesystem::path file;
    AssetAbout about;                           ///< its name is the file's where it has none of its own
    std::vector<std::string> controls, inputs;  ///< ids; names
    std::string problem;                        ///< why it can't be used, or empty
    bool pack = false;                          ///< published; else a loom that is worked on
};
/// Of a pack only its manifest is read.
ShelfAsset shelfAsset(const std::filesystem::path& file);
/// Its loom. Errors: those of readPack() and readLoom().
Result<Loom> loomOnShelf(const ShelfAsset& asset);
/// The PNG in a pack, or nothing.
std::string shelfPicture(const std::filesystem::path& pack);

/// Places in `assets` of those of one name, newest version first; a loom that is worked on comes before packs. Groups stand in the order of their names.
std::vector<std::vector<std::size_t>> versionsOf(const std::vector<ShelfAsset>& assets);

/// A pack's loom and files written as they are in it, into a new folder of that name: the loom is called after the folder. Returns the loom's path. Errors:
/// `shelf.taken` where the folder is there already, those of readPack(), `file.write`; then nothing is left behind.
Result<std::filesystem::path> unpacked(const std::filesystem::path& pack, const std::filesystem::path& folder);

}  // namespace seedloom
