#pragma once
// The open loom as widgets see it: they ask for changes as edits; everything that is shown follows from changed().
#include "formats/OpenLoom.h"
#include "graph/NodeReport.h"
#include "graph/NodeSpec.h"

#include <QtCore/QLockFile>
#include <QtCore/QObject>

#include <filesystem>
#include <functional>

namespace seedloom::app {

class Document : public QObject {
    Q_OBJECT

public:
    explicit Document(QObject* parent = nullptr);
    ~Document() override;

    const Loom& loom() const { return open_.loom(); }
    /// An immutable snapshot for other threads.
    std::shared_ptr<const Loom> snapshot() const { return open_.snapshot(); }
    const History& history() const { return open_.history(); }
    /// Takes the newest step back, or does it again; conflict() tells where that can't be.
    void undo();
    void redo();
    QString undoText() const;
    QString redoText() const;

    /// What the asset nodes stand for.
    const Assets& assets() const { return open_.assets(); }
    /// A node's declaration, with what its graph or its asset adds.
    std::shared_ptr<const OperatorSpec> specOf(const Node& node) const { return seedloom::specOf(node, assets()); }

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
    /// What a journal kept: the document as it was, with its edits as history, unsaved. Where edits did not fit, the file that keeps them is returned.
    std::optional<std::filesystem::path> adopt(const JournalContent& content, const std::filesystem::path& journal);
    std::optional<Error> open(const std::filesystem::path& file);
    std::optional<Error> save(const std::filesystem::path& file);

    /// How the document is looked at (camera, chosen node, frames): written with it, but no edit of it.
    void setView(Json view) { view_ = std::move(view); }
    Json view() const;

    const std::filesystem::path& file() const { return open_.file(); }
    /// A path as it is written in the document: from its folder on for what lies in there, or deeper; else whole.
    std::string writtenPath(const QString& file) const;
    bool modified() const { return open_.modified(); }
    QString title() const;
    /// The file is no longer what was read or written here.
    bool changedOnDisk() const;
    /// Keeps what is open, and does not ask again until the file changes once more.
    void acceptDisk();
    /// Files of assets that the document uses, and of those that they use.
    const std::set<std::filesystem::path>& assetFiles() const { return open_.assetFiles(); }
    /// Takes over what changed in them; no edit, and nothing to undo. changed() only where something did.
    void rereadAssets();

    /// Keeps a journal in `folder` from now on. Without one, nothing is journalled.
    void keepJournalIn(const std::filesystem::path& folder);
    const std::filesystem::path& journalFile() const { return open_.journalFile(); }

Q_SIGNALS:
    void changed();
    /// Another document is shown; choices and views start afresh.
    void replaced();
    void gestureEnded();
    /// Another graph, or another part, is looked at.
    void placeChanged();
    /// The journal could not be written; the document itself is untouched.
    void journalFailed(const QString& reason);
    /// A change, or taking one back, does not fit the document, so nothing was changed.
    void conflict(const QString& reason);

private:
    void show();
    void moveTo(Watch place);
    void take(const std::optional<Error>& error);
    void begin(const std::function<void()>& replace);
    void startJournal();
    void dropJournal();

    OpenLoom open_;
    std::shared_ptr<const Loom> shown_;  ///< lies within the document and keeps it alive
    Watch place_;
    std::optional<std::filesystem::file_time_type> fileTime_;
    Json view_;
    int lastGesture_ = 0;
    bool gestureRuns_ = false;
    std::filesystem::path journalFolder_;
    std::unique_ptr<QLockFile> journalLock_;
};

/// Journals in `folder` that no running program holds and that have edits: what a start can offer to bring back.
std::vector<std::filesystem::path> leftJournals(const std::filesystem::path& folder);
void removeJournal(const std::filesystem::path& journal);

}  // namespace seedloom::app
