#pragma once
// Frames on disk, so that they need not be computed again after a document was closed. The folder may be deleted at any time.
#include "geometry/Digest.h"

#include <filesystem>
#include <mutex>
#include <optional>
#include <string>
#include <unordered_map>

namespace seedloom {

/// Bytes by key, one file each, under a budget: those that were not used for longest go first. Never throws for what is wrong with the disk: what can't be
/// written or read, or was damaged, is not there. Thread-safe; several programs may share a folder.
class FrameStore {
public:
    static constexpr std::size_t kMostFiles = 50'000;
    /// Looks at the folder when something is asked for the first time. `madeBy`: which build of the program writes; what another one wrote is wiped, as it
    /// may compute otherwise.
    FrameStore(std::filesystem::path folder, std::uintmax_t budgetBytes, std::string madeBy);

    bool has(const Digest& key);
    std::optional<std::string> load(const Digest& key);
    void store(const Digest& key, const std::string& bytes);
    /// What turned out to be of no use.
    void drop(const Digest& key);
    std::uintmax_t bytes();
    std::size_t entries();

private:
    struct Entry {
        std::uintmax_t size = 0;
        std::uint64_t used = 0;  ///< rises with each use
    };
    void open();
    void list();
    std::filesystem::path fileOf(const Digest& key) const;
    void forget(Digest key);
    void makeRoom();

    const std::filesystem::path folder_;
    const std::uintmax_t budget_;
    const std::string madeBy_;
    std::mutex mutex_;
    bool open_ = false;
    std::unordered_map<Digest, Entry, DigestHash> entries_;
    std::uintmax_t bytes_ = 0;
    std::uint64_t uses_ = 0, writes_ = 0;
};

}  // namespace seedloom
