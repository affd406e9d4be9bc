#include "files/PackWriter.h"

#include <fmt/format.h>
#include <zip.h>

namespace seedloom {

namespace {

constexpr zip_uint16_t kNoon = 0x6000, kFirstDay = 0x0021;  // 12:00 on 1 January 1980, as MS-DOS wrote it: packs hold no time of their own

Error problem(const char* why) { return {"pack.write", fmt::format("The pack can't be put together ({}).", why)}; }

/// What a zip library writes into, kept until it has been read back.
struct Buffer {
    zip_source_t* source = nullptr;
    ~Buffer() {
        if (source) zip_source_free(source);
    }
};

std::optional<Error> addFile(zip_t* zip, const std::string& path, const std::string& bytes) {
    zip_source_t* source = zip_source_buffer(zip, bytes.data(), bytes.size(), 0);
    const zip_int64_t index = source ? zip_file_add(zip, path.c_str(), source, ZIP_FL_ENC_UTF_8) : -1;
    if (index >= 0 && zip_file_set_dostime(zip, zip_uint64_t(index), kNoon, kFirstDay, 0) == 0) return {};
    if (source && index < 0) zip_source_free(source);
    return problem(zip_strerror(zip));
}

}  // namespace

Result<std::string> packedBytes(const std::map<std::string, std::string>& files) {
    zip_error_t error;
    zip_error_init(&error);
    Buffer buffer{zip_source_buffer_create(nullptr, 0, 0, &error)};
    if (!buffer.source) return problem("no memory");
    zip_source_keep(buffer.source);  // the archive gives its own hold back when it is closed
    zip_t* zip = zip_open_from_source(buffer.source, ZIP_TRUNCATE, &error);
    if (!zip) {
        zip_source_free(buffer.source);
        return problem(zip_error_strerror(&error));
    }
    for (const auto& [path, bytes] : files)
        if (auto failed = addFile(zip, path, bytes)) {
            zip_discard(zip);
            return *failed;
        }
    if (zip_close(zip) != 0) {
        const Error failed = problem(zip_strerror(zip));
        zip_discard(zip);
        return failed;
    }
    zip_stat_t info;
    if (zip_source_stat(buffer.source, &info) != 0 || zip_source_open(buffer.source) != 0) return problem("it can't be read back");
    std::string out(info.size, '\0');
    const bool whole = zip_source_read(buffer.source, out.data(), out.size()) == zip_int64_t(out.size());
    zip_source_close(buffer.source);
    if (!whole) return problem("it can't be read back");
    return out;
}

}  // namespace seedloom
