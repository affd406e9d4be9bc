#include "files/FileIo.h"

#include <fmt/format.h>

#include <fcntl.h>
#include <sys/stat.h>
#include <unistd.h>
#include <cerrno>
#include <cstring>

namespace seedloom {

namespace {

/// Closes the descriptor on every way out.
struct Descriptor {
    int fd = -1;
    ~Descriptor() {
        if (fd >= 0) ::close(fd);
    }
};

Error failure(const char* code, const char* what, const std::filesystem::path& path) {
    return {code, fmt::format("{} '{}': {}.", what, path.string(), std::strerror(errno))};
}

bool writeAll(int fd, std::string_view bytes) {
    while (!bytes.empty()) {
        const ssize_t done = ::write(fd, bytes.data(), std::min<std::size_t>(bytes.size(), std::size_t(1) << 30));
        if (done < 0 && errno == EINTR) continue;
        if (done <= 0) return false;
        bytes.remove_prefix(static_cast<std::size_t>(done));
    }
    return true;
}

}  // namespace

Error tooLarge(const std::filesystem::path& path, std::size_t most) {
    return {"file.read", fmt::format("'{}' is larger than {} MiB, the most that is read.", path.string(), most >> 20)};
}

Result<std::string> readFile(const std::filesystem::path& path, std::size_t most) {
    const Descriptor file{::open(path.c_str(), O_RDONLY | O_CLOEXEC)};
    struct stat info {};
    if (file.fd < 0 || ::fstat(file.fd, &info) != 0) return failure("file.read", "Can't open", path);
    if (!S_ISREG(info.st_mode)) return Error{"file.read", fmt::format("'{}' is not a file.", path.string())};
    if (std::size_t(info.st_size) > most) return tooLarge(path, most);
    std::string bytes(static_cast<std::size_t>(info.st_size), '\0');
    std::size_t at = 0;
    while (at < bytes.size()) {
        const ssize_t got = ::read(file.fd, bytes.data() + at, bytes.size() - at);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) return failure("file.read", "Can't read", path);
        if (got == 0) break;
        at += static_cast<std::size_t>(got);
    }
    bytes.resize(at);
    return bytes;
}

std::optional<Error> writeFileAtomically(const std::filesystem::path& path, std::string_view bytes, bool keepLast) {
    const std::filesystem::path beside = path.string() + fmt::format(".{}.part", ::getpid());
    {
        const Descriptor file{::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644)};
        if (file.fd < 0) return failure("file.write", "Can't write", path);
        if (!writeAll(file.fd, bytes) || ::fsync(file.fd) != 0) {
            const Error error = failure("file.write", "Can't write", path);
            ::unlink(beside.c_str());
            return error;
        }
    }
    if (keepLast) {
        // A second name for the old file, so that there is never a moment without it.
        const std::string last = path.string() + "~";
        ::unlink(last.c_str());
        if (::link(path.c_str(), last.c_str()) != 0) errno = 0;  // Not every file system has links; saving matters more.
    }
    if (::rename(beside.c_str(), path.c_str()) != 0) {
        const Error error = failure("file.write", "Can't write", path);
        ::unlink(beside.c_str());
        return error;
    }
    std::filesystem::path folder = path.parent_path();
    if (folder.empty()) folder = ".";
    const Descriptor directory{::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC)};
    if (directory.fd >= 0) ::fsync(directory.fd);
    return {};
}

}  // namespace seedloom
