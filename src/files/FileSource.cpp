#include "files/FileSource.h"

#include <fmt/format.h>
#include <xxhash.h>

#include <sys/stat.h>
#include <algorithm>

namespace seedloom {

DiskFiles::DiskFiles(std::filesystem::path within) : within_(within.empty() ? within : std::filesystem::weakly_canonical(within)) {}

bool DiskFiles::reaches(const std::filesystem::path& path) const {
    if (within_.empty()) return true;
    std::error_code failed;
    const std::filesystem::path real = std::filesystem::weakly_canonical(path, failed);
    return !failed && std::mismatch(within_.begin(), within_.end(), real.begin(), real.end()).first == within_.end();
}

Result<std::string> DiskFiles::read(const std::filesystem::path& path, std::size_t most) const {
    if (!reaches(path))
        return Error{"file.outside",
                     fmt::format("'{}' lies outside of '{}', the folder that may be read here. Copy it there.", path.string(), within_.string())};
    return readFile(path, most);
}

std::optional<FileStamp> DiskFiles::stamp(const std::filesystem::path& path) const {
    struct stat info {};
    if (!reaches(path) || ::stat(path.c_str(), &info) != 0) return {};
    return FileStamp{std::uint64_t(info.st_mtim.tv_sec) * 1'000'000'000 + std::uint64_t(info.st_mtim.tv_nsec), std::uint64_t(info.st_size)};
}

const Files& diskFiles() {
    static const Files disk = std::make_shared<DiskFiles>();
    return disk;
}

MemoryFiles::MemoryFiles(std::map<std::string, std::string> files) {
    for (auto& [path, bytes] : files) {
        const FileStamp stamp{XXH3_64bits(bytes.data(), bytes.size()), bytes.size()};
        files_[std::filesystem::path(path).lexically_normal().string()] = {std::move(bytes), stamp};
    }
}

const MemoryFiles::File* MemoryFiles::find(const std::filesystem::path& path) const {
    const auto it = files_.find(path.lexically_normal().string());
    return it == files_.end() ? nullptr : &it->second;
}

Result<std::string> MemoryFiles::read(const std::filesystem::path& path, std::size_t most) const {
    const File* file = find(path);
    if (!file) return Error{"file.read", fmt::format("There is no '{}'.", path.string())};
    if (file->bytes.size() > most) return tooLarge(path, most);
    return file->bytes;
}

std::optional<FileStamp> MemoryFiles::stamp(const std::filesystem::path& path) const {
    const File* file = find(path);
    return file ? std::optional(file->stamp) : std::nullopt;
}

}  // namespace seedloom
