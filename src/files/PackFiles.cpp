#include "files/PackFiles.h"

#include <fmt/format.h>
#include <zip.h>

#include <algorithm>

namespace seedloom {

namespace {

constexpr zip_int64_t kMostEntries = 100'000;
constexpr std::uint64_t kMostPacking = 1100;  // deflate packs at most 1032 bytes into one

/// Whether the name of an entry stays inside of the pack.
bool staysInside(const std::filesystem::path& path) { return !path.empty() && path.is_relative() && std::find(path.begin(), path.end(), "..") == path.end(); }

}  // namespace

struct PackFiles::Archive {
    zip_t* zip = nullptr;
    ~Archive() {
        if (zip) zip_discard(zip);
    }
};

PackFiles::PackFiles(std::string bytes, std::string name)
    : bytes_(std::move(bytes)), name_(std::move(name)), size_(bytes_.size()), archive_(std::make_unique<Archive>()) {}
PackFiles::~PackFiles() = default;

Result<std::shared_ptr<const PackFiles>> PackFiles::open(const std::filesystem::path& pack, const FileSource& from) {
    auto bytes = from.read(pack);
    if (!bytes) return bytes.error();
    return fromBytes(std::move(*bytes), pack.filename().string());
}

Result<std::shared_ptr<const PackFiles>> PackFiles::fromBytes(std::string bytes, const std::string& name) {
    const std::shared_ptr<PackFiles> out(new PackFiles(std::move(bytes), name));
    if (auto error = out->list()) return *error;
    return std::shared_ptr<const PackFiles>(out);
}

Result<std::shared_ptr<const PackFiles>> PackFiles::peek(const std::filesystem::path& pack) {
    const std::shared_ptr<PackFiles> out(new PackFiles({}, pack.filename().string()));
    std::error_code error;
    out->size_ = std::filesystem::file_size(pack, error);
    if (error) return Error{"file.read", fmt::format("'{}' can't be read: {}.", pack.string(), error.message())};
    if (auto problem = out->list(pack)) return *problem;
    return std::shared_ptr<const PackFiles>(out);
}

std::optional<Error> PackFiles::list(const std::filesystem::path& onDisk) {
    zip_error_t problem;
    zip_error_init(&problem);
    zip_source_t* source =
        onDisk.empty() ? zip_source_buffer_create(bytes_.data(), bytes_.size(), 0, &problem) : zip_source_file_create(onDisk.c_str(), 0, -1, &problem);
    if (source) archive_->zip = zip_open_from_source(source, ZIP_RDONLY | ZIP_CHECKCONS, &problem);
    if (source && !archive_->zip) zip_source_free(source);
    // Nothing at all would pass for a zip file without entries.
    const std::string why = size_ == 0 ? "it is empty" : archive_->zip ? std::string() : zip_error_strerror(&problem);
    zip_error_fini(&problem);
    if (!why.empty()) return Error{"pack.format", fmt::format("'{}' is no pack that can be read ({}). Copy or publish it again.", name_, why)};
    const zip_int64_t count = zip_get_num_entries(archive_->zip, 0);
    if (count > kMostEntries) return Error{"pack.format", fmt::format("'{}' holds {} files; a pack may hold {}.", name_, count, kMostEntries)};
    for (zip_int64_t i = 0; i < count; ++i) {
        zip_stat_t info;
        if (zip_stat_index(archive_->zip, zip_uint64_t(i), 0, &info) != 0 || !(info.valid & ZIP_STAT_NAME)) continue;
        const std::filesystem::path path = std::filesystem::path(info.name).lexically_normal();
        if (!path.has_filename()) continue;  // a folder
        if (!staysInside(path)) return Error{"pack.format", fmt::format("'{}' names a file outside of itself: '{}'. It is not opened.", name_, info.name)};
        entries_.insert_or_assign(path.string(), Entry{zip_uint64_t(i), info.comp_size, {info.crc, info.size}});
    }
    return {};
}

const PackFiles::Entry* PackFiles::find(const std::filesystem::path& path) const {
    const auto it = entries_.find(path.lexically_normal().string());
    return it == entries_.end() ? nullptr : &it->second;
}

Result<std::string> PackFiles::read(const std::filesystem::path& path, std::size_t most) const {
    if (!staysInside(path.lexically_normal()))
        return Error{"file.outside", fmt::format("'{}' lies outside of the pack '{}'. A pack can only use what is in it.", path.string(), name_)};
    const Entry* entry = find(path);
    if (!entry) return Error{"file.read", fmt::format("There is no '{}' in the pack '{}'.", path.string(), name_)};
    if (entry->stamp.size > most) return tooLarge(path, most);
    const Error damaged{"pack.format", fmt::format("'{}' in the pack '{}' is damaged. Copy or publish the pack again.", path.string(), name_)};
    // What says that it is larger than it can be must not cost the memory for it.
    if (entry->packed > size_ || entry->stamp.size > entry->packed * kMostPacking + 64) return damaged;
    std::string out(entry->stamp.size, '\0');
    const std::lock_guard lock(mutex_);
    zip_file_t* file = zip_fopen_index(archive_->zip, entry->index, 0);
    // One byte more is asked for, so that what is longer than it says is noticed; the checksum is looked at with the end.
    char more = 0;
    const bool whole = file && zip_fread(file, out.data(), out.size()) == zip_int64_t(out.size()) && zip_fread(file, &more, 1) == 0;
    if (file) zip_fclose(file);
    if (!whole) return damaged;
    return out;
}

std::optional<FileStamp> PackFiles::stamp(const std::filesystem::path& path) const {
    const Entry* entry = find(path);
    return entry ? std::optional(entry->stamp) : std::nullopt;
}

Digest PackFiles::digest() const {
    Digester digester;
    for (const auto& [path, entry] : entries_) {
        digester.add(std::string_view(path));
        digester.add(entry.stamp.time);
        digester.add(entry.stamp.size);
    }
    return digester.finish();
}

std::vector<std::string> PackFiles::paths() const {
    std::vector<std::string> out;
    for (const auto& [path, entry] : entries_) out.push_back(path);
    return out;
}

}  // namespace seedloom
