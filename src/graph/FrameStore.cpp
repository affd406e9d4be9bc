#include "graph/FrameStore.h"

#include "files/FileIo.h"

#include <unistd.h>

#include <algorithm>
#include <cstring>
#include <fstream>
#include <vector>

namespace seedloom {

namespace {

namespace fs = std::filesystem;

constexpr std::string_view kMark = "seedloom frame 1\n";
constexpr const char* kEnding = ".frame";

Digest digestOfBytes(std::string_view bytes) {
    Digester digester;
    digester.add(bytes);
    return digester.finish();
}

std::optional<Digest> keyOf(const fs::path& file) {
    const std::string name = file.stem().string();
    if (file.extension() != kEnding || name.size() != 32 || name.find_first_not_of("0123456789abcdef") != std::string::npos) return {};
    return Digest{std::stoull(name.substr(0, 16), nullptr, 16), std::stoull(name.substr(16), nullptr, 16)};
}

}  // namespace

FrameStore::FrameStore(fs::path folder, std::uintmax_t budgetBytes, const std::string& madeBy) : folder_(std::move(folder)), budget_(budgetBytes) {
    list();
    const fs::path mark = folder_ / "made-by";
    const auto known = readFile(mark);
    if (known && *known == madeBy) return;
    while (!entries_.empty()) forget(entries_.begin()->first);
    std::error_code ignored;
    fs::create_directories(folder_, ignored);
    std::ofstream(mark, std::ios::binary) << madeBy;
}

void FrameStore::list() {
    struct Found {
        Digest key;
        std::uintmax_t size;
        fs::file_time_type used;
    };
    std::vector<Found> found;
    std::error_code error;
    for (fs::directory_iterator at(folder_, error), end; !error && at != end; at.increment(error)) {
        const auto key = keyOf(at->path());
        std::error_code gone;
        const std::uintmax_t size = key ? at->file_size(gone) : 0;
        const auto used = key && !gone ? at->last_write_time(gone) : fs::file_time_type{};
        if (key && !gone) found.push_back({*key, size, used});
    }
    std::sort(found.begin(), found.end(), [](const Found& a, const Found& b) { return std::pair(a.used, a.key) < std::pair(b.used, b.key); });
    for (const Found& file : found) entries_[file.key] = {file.size, ++uses_}, bytes_ += file.size;
}

fs::path FrameStore::fileOf(const Digest& key) const { return folder_ / (key.hex() + kEnding); }

bool FrameStore::has(const Digest& key) const {
    const std::lock_guard lock(mutex_);
    return entries_.count(key) > 0;
}

std::optional<std::string> FrameStore::load(const Digest& key) {
    if (!has(key)) return {};
    auto read = readFile(fileOf(key));
    const std::size_t head = kMark.size() + sizeof(Digest);
    Digest wanted;
    const bool whole = read && read->size() >= head && read->starts_with(kMark);
    if (whole) std::memcpy(&wanted, read->data() + kMark.size(), sizeof wanted);
    const std::string_view bytes = whole ? std::string_view(*read).substr(head) : std::string_view();
    const std::lock_guard lock(mutex_);
    if (!whole || digestOfBytes(bytes) != wanted) {
        forget(key);
        return {};
    }
    std::error_code ignored;
    fs::last_write_time(fileOf(key), fs::file_time_type::clock::now(), ignored);
    if (const auto entry = entries_.find(key); entry != entries_.end()) entry->second.used = ++uses_;
    return std::string(bytes);
}

void FrameStore::store(const Digest& key, const std::string& bytes) {
    if (has(key)) return;
    std::error_code error;
    fs::create_directories(folder_, error);
    const fs::path file = fileOf(key);
    // Not flushed to the disk: what a power cut damages is noticed when it is read.
    const fs::path beside = folder_ / (key.hex() + ".part" + std::to_string(::getpid()));
    const Digest digest = digestOfBytes(bytes);
    std::ofstream out(beside, std::ios::binary);
    out << kMark;
    out.write(reinterpret_cast<const char*>(&digest), sizeof digest);
    out.write(bytes.data(), std::streamsize(bytes.size()));
    out.close();
    if (out) fs::rename(beside, file, error);
    if (!out || error) {
        fs::remove(beside, error);
        return;
    }
    const std::lock_guard lock(mutex_);
    const std::uintmax_t size = kMark.size() + sizeof digest + bytes.size();
    if (entries_.emplace(key, Entry{size, ++uses_}).second) bytes_ += size;
    makeRoom();
}

void FrameStore::drop(const Digest& key) {
    const std::lock_guard lock(mutex_);
    forget(key);
}

void FrameStore::forget(Digest key) {
    const auto entry = entries_.find(key);
    if (entry == entries_.end()) return;
    bytes_ -= entry->second.size;
    entries_.erase(entry);
    std::error_code ignored;
    fs::remove(fileOf(key), ignored);
}

/// A tenth more than needed, so that not every frame that is written looks for one to drop.
void FrameStore::makeRoom() {
    if (bytes_ <= budget_) return;
    std::vector<std::pair<std::uint64_t, Digest>> order;
    for (const auto& [key, entry] : entries_) order.emplace_back(entry.used, key);
    std::sort(order.begin(), order.end());
    for (std::size_t i = 0; i + 1 < order.size() && bytes_ > budget_ - budget_ / 10; ++i) forget(order[i].second);
}

std::uintmax_t FrameStore::bytes() const {
    const std::lock_guard lock(mutex_);
    return bytes_;
}

std::size_t FrameStore::entries() const {
    const std::lock_guard lock(mutex_);
    return entries_.size();
}

}  // namespace seedloom
