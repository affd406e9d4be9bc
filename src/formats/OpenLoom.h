#pragma once
// A loom that is worked on: the document with its history, its journal, its file, and the assets that it uses. Knows no window, so that scripts and
// tests do what windows do. Nothing is ever changed half, and whatever can't be done is said.
#include "formats/AssetShelf.h"
#include "formats/Journal.h"
#include "graph/History.h"

namespace seedloom {

class OpenLoom {
public:
    const Loom& loom() const { return *loom_; }
    /// An immutable snapshot for other threads.
    const std::shared_ptr<const Loom>& snapshot() const { return loom_; }
    const History& history() const { return history_; }
    const std::filesystem::path& file() const { return file_; }
    /// The folder that paths in the document start from; empty where it was never saved.
    std::filesystem::path folder() const { return file_.parent_path(); }
    bool modified() const { return !history_.clean() || recovered_; }

    /// What the asset nodes stand for, as their files were when they were looked at last: with every change of the document, and by rereadAssets.
    const Assets& assets() const { return assets_; }
    const std::set<std::filesystem::path>& assetFiles() const { return shelf_.files(); }
    /// True where a file has changed what an asset is.
    bool rereadAssets();

    /// Applies an edit as a step of the history; edits of one gesture (a number over 0) are one step. An empty edit does nothing. Error
    /// `edit.conflict` where it does not fit: then nothing has changed.
    std::optional<Error> apply(const Edit& edit, int gesture = 0);
    /// Nothing where there is nothing to take back or to do again. Errors as apply(); what can't be undone stays in the history.
    std::optional<Error> undo();
    std::optional<Error> redo();

    /// Another document, saved as it is where `file` is not empty.
    void replace(Loom loom, const std::filesystem::path& file);
    std::optional<Error> open(const std::filesystem::path& file);
    /// Writes the document, with `view` beside it where it is not null. In another folder its files are still found: their paths are written anew, in
    /// the history as well.
    std::optional<Error> save(const std::filesystem::path& file, const Json& view);
    /// The document of a journal with its edits as history, unsaved. What did not fit is written to a file beside the journal, which is returned.
    std::optional<std::filesystem::path> recover(const JournalContent& content, const std::filesystem::path& journal);

    /// Keeps a journal there from now on; it is begun anew with each save and when it has become long.
    void keepJournal(const std::filesystem::path& journal);
    void dropJournal();
    const std::filesystem::path& journalFile() const { return journalFile_; }
    /// What went wrong with the journal since this was asked for last; the document itself is untouched by it.
    std::optional<Error> takeJournalError() { return std::exchange(journalError_, std::nullopt); }

private:
    std::optional<Error> run(const Edit& edit, int gesture);
    void install(std::shared_ptr<const Loom> loom);
    void startJournal();

    std::shared_ptr<const Loom> loom_ = std::make_shared<const Loom>();
    AssetShelf shelf_;
    Assets assets_;
    History history_;
    std::filesystem::path file_, journalFile_;
    bool recovered_ = false;
    JournalWriter journal_;
    std::optional<Error> journalError_;
};

}  // namespace seedloom
