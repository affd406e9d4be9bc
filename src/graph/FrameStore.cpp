#include "graph/FrameStore.h"

#include "files/FileIo.h"

#include <fmt/format.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <cstring>
#include <fstream>
#include <utility>
#include <vector>

namespace seedloom {

namespace {

namespace fs = std::filesystem;

constexpr std::string_view kMark = "seedloom frame 1\n";
constexpr const char *kEnding = ".frame", *kUnfinished = ".part";

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

/// Whoever wrote it is gone.
bool isOld(const fs::path& file) {
    std::error_code gone;
    const auto written = fs::last_write_time(file, gone);
    return !gone && fs::file_time_type::clock::now() - written > std::chrono::hours(1);
}

}  // namespace

FrameStore::FrameStore(fs::path folder, std::uintmax_t budgetBytes, std::string madeBy)
    : folder_(std::move(folder)), budget_(budgetBytes), madeBy_(std::move(madeBy)) {}

/// Under the mutex.
void FrameStore::open() {
    if (std::exchange(open_, true)) return;
    list();
    const fs::path mark = folder_ / "made-by";
    const auto known = readFile(mark);
    if (known && *known == madeBy_) return;
    while (!entries_.empty()) forget(entries_.begin()->first);
    std::error_code ignored;
    fs::create_directories(folder_, ignored);
    std::ofstream(mark, std::ios::binary) << madeBy_;
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
        if (at->path().extension().string().starts_with(kUnfinished) && isOld(at->path())) fs::remove(at->path(), gone);
        const std::uintmax_t size = key ? at->file_size(gone) : 0;
        const auto used = key && !gone ? at->last_write_time(gone) : fs::file_time_type{};
        if (key && !gone) found.push_back({*key, size, used});
    }
    std::sort(found.begin(), found.end(), [](const Found& a, const Found& b) { return std::pair(a.used, a.key) < std::pair(b.used, b.key); });
    for (const Found& file : found) entries_[file.key] = {file.size, ++uses_}, bytes_ += file.size;
}

fs::path FrameStore::fileOf(const Digest& key) const { return folder_ / (key.hex() + kEnding); }

bool FrameStore::has(const Digest& key) {
    const std::lock_guard lock(mutex_);
    open();
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
    std::uint64_t write = 0;
    {
        const std::lock_guard lock(mutex_);
        open();
        if (entries_.count(key) > 0) return;
        write = ++writes_;
    }
    std::error_code error;
    fs::create_directories(folder_, error);
    const fs::path file = fileOf(key);
    // Not flushed to the disk: what a power cut damages is noticed when it is read. Two threads may write the same frame.
    const fs::path beside = folder_ / fmt::format("{}{}{}-{}", key.hex(), kUnfinished, ::getpid(), write);
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
    open();
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
    if (bytes_ <= budget_ && entries_.size() <= kMostFiles) return;
    std::vector<std::pair<std::uint64_t, Digest>> order;
    for (const auto& [key, entry] : entries_) order.emplace_back(entry.used, key);
    std::sort(order.begin(), order.end());
    const auto full = [&] { return bytes_ > budget_ - budget_ / 10 || entries_.size() > kMostFiles - kMostFiles / 10; };
    for (std::size_t i = 0; i + 1 < order.size() && full(); ++i) forget(order[i].second);
}

std::uintmax_t FrameStore::bytes() {
    const std::lock_guard lock(mutex_);
    open();
    return bytes_;
}

std::size_t FrameStore::entries() {
    const std::lock_guard lock(mutex_);
    open();
    return entries_.size();
}

}  // namespace seedloom
