#pragma once
// A zip archive without compression, for test files of formats that are packages.
#include <zlib.h>

#include <cstdint>
#include <string>
#include <utility>
#include <vector>

namespace seedloom::test {

inline std::string storedZip(const std::vector<std::pair<std::string, std::string>>& files) {
    std::string out, directory;
    const auto put = [](std::string& to, std::uint32_t value, int bytes) {
        for (int i = 0; i < bytes; ++i) to += static_cast<char>(value >> (8 * i));
    };
    for (const auto& [name, text] : files) {
        const auto crc = std::uint32_t(crc32(0, reinterpret_cast<const Bytef*>(text.data()), uInt(text.size())));
        const auto common = [&](std::string& to) {
            for (std::uint32_t word : {20u, 0u, 0u, 0u, 0x21u}) put(to, word, 2);  // version, flags, method "stored", time, date
            for (std::uint32_t word : {crc, std::uint32_t(text.size()), std::uint32_t(text.size())}) put(to, word, 4);
            put(to, std::uint32_t(name.size()), 2), put(to, 0, 2);
        };
        const auto at = std::uint32_t(out.size());
        put(out, 0x04034b50, 4);
        common(out);
        out += name + text;
        put(directory, 0x02014b50, 4), put(directory, 20, 2);
        common(directory);
        for (int i = 0; i < 3; ++i) put(directory, 0, 2);  // comment, disk, inner attributes
        put(directory, 0, 4), put(directory, at, 4);
        directory += name;
    }
    const auto start = std::uint32_t(out.size()), count = std::uint32_t(files.size());
    out += directory;
    put(out, 0x06054b50, 4);
    for (std::uint32_t word : {0u, 0u, count, count}) put(out, word, 2);
    put(out, std::uint32_t(directory.size()), 4), put(out, start, 4), put(out, 0, 2);
    return out;
}

}  // namespace seedloom::test
