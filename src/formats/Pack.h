#pragma once
// Published assets: a loom with the files that it reads, its pictures and what is told of it, in one `.loompack`.
#include "files/PackFiles.h"
#include "graph/Loom.h"

namespace seedloom {

inline constexpr const char* kPackEnding = ".loompack";
inline constexpr const char* kPackedLoom = "asset.loom";
inline constexpr const char* kPackedPicture = "picture.png";
inline constexpr const char* kPackedSheet = "sheet/";
inline constexpr const char* kPackedManifest = "manifest.json";
inline constexpr int kPackFormat = 1;
inline constexpr std::size_t kLargestManifest = std::size_t(1) << 20;

/// By its ending.
bool isPack(const std::filesystem::path& file);

/// What is told of an asset. A loom that is to be published holds all of it at its top level, under these names.
struct AssetAbout {
    std::string name, version, summary, author, licence;
    std::vector<std::string> tags;
    bool operator==(const AssetAbout&) const = default;
};
/// What the manifest of a pack, or the top of a loom file, tells.
AssetAbout aboutIn(const Json& told);
AssetAbout aboutOf(const Loom& loom);
/// The same loom with `about` in it; what is empty is left out.
Loom withAbout(Loom loom, const AssetAbout& about);
/// Whether a version is three whole numbers, as in 1.0.2 (Semantic Versioning 2.0.0, without its labels).
bool isVersion(const std::string& text);
/// Below 0 where the first is older, above 0 where it is newer; versions that are none are older than all that are.
int compareVersions(const std::string& a, const std::string& b);

struct Packed {
    Loom loom;
    AssetAbout about;
    std::shared_ptr<const PackFiles> files;  ///< of the whole pack; paths in the loom start at its top
};
/// Why a pack with this manifest can't be read, or nothing; `name` stands in the message.
std::optional<Error> manifestProblem(const Json& manifest, const std::string& name);
/// Errors: those of PackFiles::open() and loomFromText(), `pack.format` where a pack is of a later format or holds no loom.
Result<Packed> readPack(const std::filesystem::path& file, const FileSource& from = *diskFiles());
/// The same from its bytes; `name` stands in messages.
Result<Packed> packFromBytes(std::string bytes, const std::string& name);

}  // namespace seedloom
