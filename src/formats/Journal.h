#pragma once
// The journal of a running document: what it was when it was opened or saved, and every edit since, so that nothing that was finished
// is lost when the program ends without warning. One record a line, each with a check sum and a digest of what it found before it, so that no edit is
// ever applied where it does not belong; a torn last line is left out.
#include "geometry/Result.h"
#include "graph/Edit.h"

#include <filesystem>

namespace seedloom {

/// `gesture` tells edits of one gesture, which are one step; 0 for none.
Json editToJson(const Edit& edit, int gesture = 0);
/// An edit as it was written, with its `before` values taken from `loom`, which it must fit: what is there must be what was there (error `journal.edit`).
Result<Edit> editFromJson(const Json& json, const Loom& loom);

class JournalWriter {
public:
    JournalWriter() = default;
    JournalWriter(JournalWriter&& other) noexcept;
    JournalWriter& operator=(JournalWriter&& other) noexcept;
    ~JournalWriter();

    /// Begins the journal anew with `base`; `file` is where the document lives (may be empty). Errors `file.write`.
    static Result<JournalWriter> start(const std::filesystem::path& journal, const std::filesystem::path& file, const Loom& base);
    /// Appends one finished edit. It is with the operating system when this returns, so it outlives the program. Errors `file.write`;
    /// after one the journal takes no more until it is started anew.
    std::optional<Error> append(const Edit& edit, int gesture = 0);
    std::uint64_t bytes() const { return bytes_; }
    bool open() const { return descriptor_ >= 0; }

private:
    std::optional<Error> write(const Json& record);
    void close();

    std::filesystem::path path_;
    int descriptor_ = -1;
    std::uint64_t bytes_ = 0;
};

struct JournalContent {
    std::filesystem::path file;  ///< where the document lives; empty where it was never saved
    Loom base;
    std::vector<Edit> edits;  ///< since then, in order; each fits the loom that the ones before it give. Those of one gesture are one
    bool torn = false;        ///< the end of the file could not be read
    std::size_t unfit = 0;    ///< records behind the first one that does not fit; none of them was applied
    std::string problem;      ///< why that one does not fit
    std::string rest;         ///< those records as they were written
};

/// Reads up to the last whole edit, or up to the first that does not fit. Errors: `file.read`, `journal.broken` where not even the base can be read.
Result<JournalContent> readJournal(const std::filesystem::path& journal);

}  // namespace seedloom
