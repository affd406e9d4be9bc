#include "app/shell/Document.h"

#include "formats/FilePaths.h"
#include "formats/LoomFile.h"
#include "graph/InnerEdits.h"
#include "graph/NodeSpec.h"

#include <QtCore/QUuid>

namespace seedloom::app {

namespace {

/// Beyond this a journal begins anew with the document as it is.
constexpr std::uint64_t kLongestJournal = std::uint64_t(32) << 20;
constexpr const char* kJournalEnding = ".journal";

std::optional<std::filesystem::file_time_type> timeOf(const std::filesystem::path& file) {
    std::error_code failed;
    const auto time = std::filesystem::last_write_time(file, failed);
    return failed ? std::nullopt : std::optional(time);
}

}  // namespace

/// Holds the edit as a value, never pointers into the document.
class EditCommand : public QUndoCommand {
public:
    EditCommand(Document& document, Edit edit, int gesture) : document_(document), edit_(std::move(edit)), gesture_(gesture) {
        setText(QString::fromStdString(edit_.label));
    }
    void redo() override { document_.run(edit_); }
    void undo() override { document_.run(inverse(edit_)); }
    int id() const override { return gesture_ > 0 ? gesture_ : -1; }
    bool mergeWith(const QUndoCommand* other) override {
        const auto* later = static_cast<const EditCommand*>(other);
        if (later->gesture_ != gesture_) return false;
        edit_ = joined(edit_, later->edit_);
        setObsolete(edit_.empty());
        return true;
    }

private:
    Document& document_;
    Edit edit_;
    int gesture_;
};

Document::Document(QObject* parent) : QObject(parent), loom_(std::make_shared<const Loom>()), shown_(loom_) {
    // Far more than a person goes back, and no growth without end.
    history_.setUndoLimit(2000);
    startNew();
}

Document::~Document() { dropJournal(); }

void Document::install(Loom loom) {
    loom_ = std::make_shared<const Loom>(assets_.filled(std::move(loom), file_.parent_path()));
    // An undo may have taken away the container that is looked into.
    const std::size_t depth = place_.path.size();
    place_.path = validPath(*loom_, std::move(place_.path));
    place_.parts.resize(place_.path.size());
    shown_ = {loom_, loomAt(*loom_, place_.path)};
    Q_EMIT changed();
    if (place_.path.size() != depth) Q_EMIT placeChanged();
}

void Document::moveTo(Watch place) {
    if (place == place_) return;
    place_ = std::move(place);
    shown_ = {loom_, loomAt(*loom_, place_.path)};
    Q_EMIT placeChanged();
}

void Document::enter(const std::string& container) {
    const Node* node = shown().node(container);
    if (!node || !canBeEntered(*node)) return;
    Watch place = place_;
    place.path.push_back(container);
    place.parts.push_back(0);
    moveTo(std::move(place));
}

void Document::leave(std::size_t levels) {
    Watch place = place_;
    place.path.resize(place.path.size() - std::min(levels, place.path.size()));
    place.parts.resize(place.path.size());
    moveTo(std::move(place));
}

void Document::setPart(int part) {
    if (!inside()) return;
    Watch place = place_;
    place.parts.back() = std::max(part, 0);
    moveTo(std::move(place));
}

std::vector<Control> Document::visibleControls() const {
    std::vector<Control> out;
    const auto add = [&](const std::vector<Control>& controls) {
        for (const Control& control : controls)
            if (std::none_of(out.begin(), out.end(), [&](const Control& c) { return c.id == control.id; })) out.push_back(control);
    };
    for (std::vector<std::string> path = place_.path; !path.empty(); path.pop_back()) add(loomAt(*loom_, path)->controls);
    add(loom_->controls);
    return out;
}

void Document::applyShown(const Edit& edit, int gesture) { apply(lifted(loom(), place_.path, edit), gesture); }

void Document::run(const Edit& edit) {
    auto next = applied(loom(), edit);
    if (!next) return;
    if (journal_.open()) {
        if (const auto error = journal_.append(edit)) Q_EMIT journalFailed(QString::fromStdString(error->text));
    }
    install(std::move(*next));
    if (journal_.bytes() > kLongestJournal) startJournal();
}

void Document::apply(const Edit& edit, int gesture) {
    // A row that went away in the middle of its drag can't end the gesture; the next edit of another kind does.
    if (gesture == 0) gestureRuns_ = false;
    if (!edit.empty()) history_.push(new EditCommand(*this, edit, gesture));
}

int Document::newGesture() {
    gestureRuns_ = true;
    return ++lastGesture_;
}

void Document::endGesture() {
    if (!gestureRuns_) return;
    gestureRuns_ = false;
    Q_EMIT gestureEnded();
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

void Document::adopt(Loom loom) { replaceBy(std::move(loom), {}); }

void Document::replaceBy(Loom loom, const std::filesystem::path& file) {
    dropJournal();
    file_ = file;
    fileTime_ = timeOf(file);
    recovered_ = gestureRuns_ = false;
    view_ = Json();
    place_ = {};
    history_.clear();
    install(std::move(loom));
    startJournal();
    Q_EMIT replaced();
}

void Document::adopt(const JournalContent& journal) {
    replaceBy(journal.base, journal.file);
    recovered_ = true;
    for (const Edit& edit : journal.edits) apply(edit);
    history_.setClean();  // The saved state is not among the steps; recovered_ keeps it marked as edited.
    Q_EMIT changed();
}

std::optional<Error> Document::open(const std::filesystem::path& file) {
    auto loom = readLoom(file);
    if (!loom) return loom.error();
    replaceBy(std::move(*loom), file);
    return {};
}

std::optional<Error> Document::save(const std::filesystem::path& file) {
    Loom written = loom();
    const auto from = file_.empty() ? std::filesystem::current_path() : std::filesystem::absolute(file_).parent_path(),
               to = std::filesystem::absolute(file).parent_path();
    const bool moves = from != to;
    if (moves) written = withPathsMoved(std::move(written), from, to);
    if (!view_.is_null()) written.extra["view"] = view_;
    if (auto error = writeLoom(written, file)) return error;
    file_ = file;
    fileTime_ = timeOf(file);
    recovered_ = false;
    history_.setClean();
    // Now everything is found from the new folder. No edit of its own: what it shows is the same.
    if (moves) install(withPathsMoved(loom(), from, to));
    startJournal();
    Q_EMIT changed();
    return {};
}

Json Document::view() const {
    if (!view_.is_null()) return view_;
    const auto it = loom().extra.find("view");
    return it == loom().extra.end() ? Json() : *it;
}

QString Document::title() const {
    const QString name = QString::fromStdString(loom_->name);
    return name.isEmpty() ? file_.empty() ? tr("Untitled") : QString::fromStdString(file_.stem().string()) : name;
}

bool Document::changedOnDisk() const { return !file_.empty() && fileTime_ && timeOf(file_) != fileTime_; }

void Document::acceptDisk() { fileTime_ = timeOf(file_); }

void Document::rereadAssets() {
    if (!assets_.files().empty()) install(loom());
}

void Document::keepJournalIn(const std::filesystem::path& folder) {
    journalFolder_ = folder;
    startJournal();
}

void Document::startJournal() {
    if (journalFolder_.empty()) return;
    std::error_code ignored;
    std::filesystem::create_directories(journalFolder_, ignored);
    if (journalFile_.empty()) {
        const std::string name = QUuid::createUuid().toString(QUuid::WithoutBraces).toStdString();
        journalFile_ = journalFolder_ / (name + kJournalEnding);
        journalLock_ = std::make_unique<QLockFile>(QString::fromStdString(journalFile_.string() + ".lock"));
        journalLock_->setStaleLockTime(0);
        journalLock_->tryLock(0);
    }
    auto writer = JournalWriter::start(journalFile_, file_, loom());
    if (writer) journal_ = std::move(*writer);
    else Q_EMIT journalFailed(QString::fromStdString(writer.error().text));
}

void Document::dropJournal() {
    journal_ = {};
    if (journalFile_.empty()) return;
    std::error_code ignored;
    std::filesystem::remove(journalFile_, ignored);
    journalLock_.reset();
    journalFile_.clear();
}

std::vector<std::filesystem::path> leftJournals(const std::filesystem::path& folder) {
    std::vector<std::filesystem::path> out;
    std::error_code failed;
    for (const auto& entry : std::filesystem::directory_iterator(folder, failed)) {
        if (entry.path().extension() != kJournalEnding) continue;
        // Whoever writes a journal holds its lock; one left by a program that died is taken over.
        QLockFile lock(QString::fromStdString(entry.path().string() + ".lock"));
        lock.setStaleLockTime(0);
        if (!lock.tryLock(0)) continue;
        const auto content = readJournal(entry.path());
        if (content && !content->edits.empty()) out.push_back(entry.path());
        else std::filesystem::remove(entry.path(), failed);
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return timeOf(a) > timeOf(b); });
    return out;
}

void removeJournal(const std::filesystem::path& journal) {
    std::error_code ignored;
    std::filesystem::remove(journal, ignored);
}

}  // namespace seedloom::app
