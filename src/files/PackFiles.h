#pragma once
// Files inside of a pack.
#include "files/FileSource.h"
#include "geometry/Digest.h"

#include <mutex>
#include <vector>

namespace seedloom {

/// What is in a pack: a zip file that is read once (PKWARE APPNOTE 6.3; library: libzip). Paths are those inside of it; none leads out.
class PackFiles : public FileSource {
public:
    ~PackFiles() override;
    /// Errors: `file.read`, `pack.format`, also where it holds more than a hundred thousand files.
    static Result<std::shared_ptr<const PackFiles>> open(const std::filesystem::path& pack, const FileSource& from = *diskFiles());
    /// The same from its bytes; `name` stands in messages.
    static Result<std::shared_ptr<const PackFiles>> fromBytes(std::string bytes, const std::string& name);
    /// A pack on disk of which only a little is wanted: what is not asked for is not read. The file must stay as it is for as long.
    static Result<std::shared_ptr<const PackFiles>> peek(const std::filesystem::path& pack);
    Result<std::string> read(const std::filesystem::path& path, std::size_t most = kMostFileBytes) const override;
    std::optional<FileStamp> stamp(const std::filesystem::path& path) const override;
    /// Of all paths, sizes and checksums.
    Digest digest() const;
    /// All paths in the pack, sorted.
    std::vector<std::string> paths() const;

private:
    struct Entry {
        std::uint64_t index = 0, packed = 0;  ///< place in the pack, bytes there
        FileStamp stamp;
    };
    struct Archive;
    PackFiles(std::string bytes, std::string name);
    std::optional<Error> list(const std::filesystem::path& onDisk = {});
    const Entry* find(const std::filesystem::path& path) const;

    std::string bytes_, name_;
    std::uint64_t size_ = 0;            ///< of the whole pack
    std::unique_ptr<Archive> archive_;  ///< of the bytes, or of a file; used by one thread at a time
    mutable std::mutex mutex_;
    std::map<std::string, Entry> entries_;
};

}  // namespace seedloom
