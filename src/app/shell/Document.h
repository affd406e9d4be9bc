#pragma once
// The open loom with its history. Widgets ask for changes as edits; everything that is shown follows from changed().
#include "graph/Edit.h"

#include <QtCore/QObject>
#include <QtGui/QUndoStack>

#include <filesystem>

namespace seedloom::app {

class Document : public QObject {
    Q_OBJECT

public:
    explicit Document(QObject* parent = nullptr);

    const Loom& loom() const { return *loom_; }
    /// An immutable snapshot for other threads.
    std::shared_ptr<const Loom> snapshot() const { return loom_; }
    QUndoStack& history() { return history_; }

    /// Applies an edit as one step of the history. Edits of one gesture (same number, not 0) become one step. Empty edits do nothing.
    void apply(const Edit& edit, int gesture = 0);
    /// A number for a new gesture.
    int newGesture() { return ++lastGesture_; }

    void startNew();
    /// A loom without a file, such as the demo: saving asks where.
    void adopt(Loom loom);
    std::optional<Error> open(const std::filesystem::path& file);
    std::optional<Error> save(const std::filesystem::path& file);

    const std::filesystem::path& file() const { return file_; }
    bool modified() const { return !history_.isClean(); }
    QString title() const;

Q_SIGNALS:
    void changed();
    /// Another document is shown; choices and views start afresh.
    void replaced();

private:
    friend class EditCommand;
    void install(Loom loom);

    std::shared_ptr<const Loom> loom_;
    QUndoStack history_;
    std::filesystem::path file_;
    int lastGesture_ = 0;
};

}  // namespace seedloom::app
