#pragma once
// Where files that a loom names come from: the disk, a pack, or memory. Every reader asks here for bytes and stamps, so one place decides what may be reached.
#include "files/FileIo.h"

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <string>

namespace seedloom {

/// Tells one state of a file from another.
struct FileStamp {
    std::uint64_t time = 0;  ///< of the last change, or a digest of what is in it
    std::uint64_t size = 0;  ///< bytes
    bool operator==(const FileStamp&) const = default;
};

/// Safe to ask from several threads.
class FileSource {
public:
    virtual ~FileSource() = default;
    /// All bytes of a file. Errors: `file.read`, `file.outside` where this source must not reach it.
    virtual Result<std::string> read(const std::filesystem::path& path, std::size_t most = kMostFileBytes) const = 0;
    /// Nothing where there is no such file, or it may not be reached. Quick: a step asks for each of its files whenever it may be stale.
    virtual std::optional<FileStamp> stamp(const std::filesystem::path& path) const = 0;
};
using Files = std::shared_ptr<const FileSource>;

/// The disk. With `within`, only what lies in that folder once links are followed.
class DiskFiles : public FileSource {
public:
    explicit DiskFiles(std::filesystem::path within = {});
    Result<std::string> read(const std::filesystem::path& path, std::size_t most = kMostFileBytes) const override;
    std::optional<FileStamp> stamp(const std::filesystem::path& path) const override;

private:
    bool reaches(const std::filesystem::path& path) const;
    std::filesystem::path within_;
};
/// All of the disk.
const Files& diskFiles();

/// Files that are held in memory, by their paths.
class MemoryFiles : public FileSource {
public:
    explicit MemoryFiles(std::map<std::string, std::string> files);
    Result<std::string> read(const std::filesystem::path& path, std::size_t most = kMostFileBytes) const override;
    std::optional<FileStamp> stamp(const std::filesystem::path& path) const override;

private:
    struct File {
        std::string bytes;
        FileStamp stamp;
    };
    const File* find(const std::filesystem::path& path) const;
    std::map<std::string, File> files_;
};

}  // namespace seedloom
