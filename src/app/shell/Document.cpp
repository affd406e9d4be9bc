#include "app/shell/Document.h"

#include "formats/LoomFile.h"

namespace seedloom::app {

/// Holds the edit as a value, never pointers into the document.
class EditCommand : public QUndoCommand {
public:
    EditCommand(Document& document, Edit edit, int gesture) : document_(document), edit_(std::move(edit)), gesture_(gesture) {
        setText(QString::fromStdString(edit_.label));
    }
    void redo() override { run(edit_); }
    void undo() override { run(inverse(edit_)); }
    int id() const override { return gesture_ > 0 ? gesture_ : -1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* later = static_cast<const EditCommand*>(other);
        if (later->gesture_ != gesture_) return false;
        edit_ = joined(edit_, later->edit_);
        setObsolete(edit_.empty());
        return true;
    }

private:
    void run(const Edit& edit) {
        if (auto next = applied(document_.loom(), edit)) document_.install(std::move(*next));
    }
    Document& document_;
    Edit edit_;
    int gesture_;
};

Document::Document(QObject* parent) : QObject(parent), loom_(std::make_shared<const Loom>()) { startNew(); }

void Document::install(Loom loom) {
    loom_ = std::make_shared<const Loom>(std::move(loom));
    Q_EMIT changed();
}

void Document::apply(const Edit& edit, int gesture) {
    if (!edit.empty()) history_.push(new EditCommand(*this, edit, gesture));
}

void Document::startNew() {
    Loom loom;
    loom.name = tr("Untitled").toStdString();
    Node out;
    out.id = out.op = "output";
    out.cell = {3, 0};
    loom.nodes = {out};
    loom.output = "output";
    adopt(std::move(loom));
}

void Document::adopt(Loom loom) {
    file_.clear();
    history_.clear();
    install(std::move(loom));
    Q_EMIT replaced();
}

std::optional<Error> Document::open(const std::filesystem::path& file) {
    auto loom = readLoom(file);
    if (!loom) return loom.error();
    adopt(std::move(*loom));
    file_ = file;
    Q_EMIT changed();
    return {};
}

std::optional<Error> Document::save(const std::filesystem::path& file) {
    if (auto error = writeLoom(loom(), file)) return error;
    file_ = file;
    history_.setClean();
    Q_EMIT changed();
    return {};
}

QString Document::title() const {
    const QString name = QString::fromStdString(loom_->name);
    return name.isEmpty() ? file_.empty() ? tr("Untitled") : QString::fromStdString(file_.stem().string()) : name;
}

}  // namespace seedloom::app
