#pragma once
// The open loom with its history and its journal. Widgets ask for changes as edits; everything that is shown follows from changed().
#include "formats/AssetShelf.h"
#include "formats/Journal.h"
#include "graph/Edit.h"
#include "graph/NodeReport.h"

#include <QtCore/QLockFile>
#include <QtCore/QObject>
#include <QtGui/QUndoStack>

#include <filesystem>

namespace seedloom::app {

class Document : public QObject {
    Q_OBJECT

public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override;

    const Loom& loom() const { return *loom_; }
    /// An immutable snapshot for other threads.
    std::shared_ptr<const Loom> snapshot() const { return loom_; }
    QUndoStack& history() { return history_; }
    const QUndoStack& history() const { return history_; }

    /// The graph that is worked on: the document's own, or the one inside of the container that was entered.
    const Loom& shown() const { return *shown_; }
    std::shared_ptr<const Loom> shownSnapshot() const { return shown_; }
    /// Where that is, and which part of each container is looked at.
    const Watch& place() const { return place_; }
    bool inside() const { return !place_.path.empty(); }
    /// Goes into a container of the shown graph; nothing happens where it is none.
    void enter(const std::string& container);
    /// Goes out of the innermost containers.
    void leave(std::size_t levels = 1);
    /// Another part of the innermost container.
    void setPart(int part);
    /// The settings of containers around, from the inside out, then the document's controls: what a setting here can read.
    std::vector<Control> visibleControls() const;

    /// An edit of the shown graph.
    void applyShown(const Edit& edit, int gesture = 0);
    /// Applies an edit as one step of the history. Edits of one gesture (same number, not 0) become one step. Empty edits do nothing.
    void apply(const Edit& edit, int gesture = 0);
    /// A number for a new gesture, such as the drag of a slider; it runs until endGesture.
    int newGesture();
    void endGesture();
    bool inGesture() const { return gestureRuns_; }

    void startNew();
    /// A loom without a file, such as the demo: saving asks where.
    void adopt(Loom loom);
    /// What a journal kept: the document as it was, with its edits as history, unsaved.
    void adopt(const JournalContent& journal);
    std::optional<Error> open(const std::filesystem::path& file);
    std::optional<Error> save(const std::filesystem::path& file);

    /// How the document is looked at (camera, chosen node, frames): written with it, but no edit of it.
    void setView(Json view) { view_ = std::move(view); }
    Json view() const;

    const std::filesystem::path& file() const { return file_; }
    bool modified() const { return !history_.isClean() || recovered_; }
    QString title() const;
    /// The file is no longer what was read or written here.
    bool changedOnDisk() const;
    /// Keeps what is open, and does not ask again until the file changes once more.
    void acceptDisk();
    /// Files of assets that the document uses, and of those that they use.
    const std::set<std::filesystem::path>& assetFiles() const { return assets_.files(); }
    /// Takes over what changed in them; no edit, and nothing to undo.
    void rereadAssets();

    /// Keeps a journal in `folder` from now on. Without one, nothing is journalled.
    void keepJournalIn(const std::filesystem::path& folder);
    const std::filesystem::path& journalFile() const { return journalFile_; }

Q_SIGNALS:
    void changed();
    /// Another document is shown; choices and views start afresh.
    void replaced();
    void gestureEnded();
    /// Another graph, or another part, is looked at.
    void placeChanged();
    /// The journal could not be written; the document itself is untouched.
    void journalFailed(const QString& reason);

private:
    friend class EditCommand;
    void install(Loom loom);
    void replaceBy(Loom loom, const std::filesystem::path& file);
    void run(const Edit& edit);
    void moveTo(Watch place);
    void startJournal();
    void dropJournal();

    AssetShelf assets_;
    std::shared_ptr<const Loom> loom_, shown_;  ///< shown_ lies within loom_ and keeps it alive
    Watch place_;
    QUndoStack history_;
    std::filesystem::path file_;
    std::optional<std::filesystem::file_time_type> fileTime_;
    Json view_;
    int lastGesture_ = 0;
    bool gestureRuns_ = false, recovered_ = false;
    std::filesystem::path journalFolder_, journalFile_;
    std::unique_ptr<QLockFile> journalLock_;
    JournalWriter journal_;
};

/// Journals in `folder` that no running program holds and that have edits: what a start can offer to bring back.
std::vector<std::filesystem::path> leftJournals(const std::filesystem::path& folder);
void removeJournal(const std::filesystem::path& journal);

}  // namespace seedloom::app
