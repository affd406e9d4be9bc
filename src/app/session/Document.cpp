#include "app/session/Document.h"

#include "app/session/WrittenPath.h"
#include "formats/LoomFile.h"
#include "graph/InnerEdits.h"

#include <QtCore/QUuid>

namespace seedloom::app {

namespace {

constexpr const char* kJournalEnding = ".journal";

std::optional<std::filesystem::file_time_type> timeOf(const std::filesystem::path& file) {
    std::error_code failed;
    const auto time = std::filesystem::last_write_time(file, failed);
    return failed ? std::nullopt : std::optional(time);
}

QString labelOf(const Edit* edit) { return edit ? QString::fromStdString(edit->label) : QString(); }

}  // namespace

Document::Document(QObject* parent) : QObject(parent), shown_(open_.snapshot()) { startNew(); }

Document::~Document() { dropJournal(); }

/// Everything that follows from the document as it is now.
void Document::show() {
    // An undo may have taken away the container that is looked into.
    const std::size_t depth = place_.path.size();
    place_.path = validPath(loom(), std::move(place_.path));
    place_.parts.resize(place_.path.size());
    shown_ = {open_.snapshot(), loomAt(loom(), place_.path)};
    Q_EMIT changed();
    if (place_.path.size() != depth) Q_EMIT placeChanged();
    if (const auto error = open_.takeJournalError()) Q_EMIT journalFailed(QString::fromStdString(error->text));
}

void Document::moveTo(Watch place) {
    if (place == place_) return;
    place_ = std::move(place);
    shown_ = {open_.snapshot(), loomAt(loom(), place_.path)};
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
    for (std::vector<std::string> path = place_.path; !path.empty(); path.pop_back()) add(loomAt(loom(), path)->controls);
    add(loom().controls);
    return out;
}

void Document::take(const std::optional<Error>& error) {
    if (error) Q_EMIT conflict(QString::fromStdString(error->text));
    else show();
}

void Document::applyShown(const Edit& edit, int gesture) { apply(lifted(loom(), place_.path, edit), gesture); }

void Document::apply(const Edit& edit, int gesture) {
    // A row that went away in the middle of its drag can't end the gesture; the next edit of another kind does.
    if (gesture == 0) gestureRuns_ = false;
    if (!edit.empty()) take(open_.apply(edit, gesture));
}

void Document::undo() {
    if (history().undoable()) take(open_.undo());
}

void Document::redo() {
    if (history().redoable()) take(open_.redo());
}

QString Document::undoText() const { return labelOf(history().undoable()); }

QString Document::redoText() const { return labelOf(history().redoable()); }

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
    out.cell = {1, 0};
    loom.nodes = {out};
    loom.output = "output";
    adopt(std::move(loom));
}

/// Another document comes in: what belongs to the old one goes first.
void Document::begin(const std::function<void()>& replace) {
    dropJournal();
    gestureRuns_ = false;
    view_ = Json();
    place_ = {};
    startJournal();  // first: what is brought back must be kept while it is
    replace();
    fileTime_ = timeOf(file());
    show();
    Q_EMIT replaced();
}

void Document::adopt(Loom loom) {
    begin([&] { open_.replace(std::move(loom), {}); });
}

std::optional<std::filesystem::path> Document::adopt(const JournalContent& content, const std::filesystem::path& journal) {
    std::optional<std::filesystem::path> rest;
    begin([&] { rest = open_.recover(content, journal); });
    return rest;
}

std::optional<Error> Document::open(const std::filesystem::path& file) {
    auto loom = readLoom(file);
    if (!loom) return loom.error();
    begin([&] { open_.replace(std::move(*loom), file); });
    return {};
}

std::optional<Error> Document::save(const std::filesystem::path& file) {
    if (auto error = open_.save(file, view_)) return error;
    fileTime_ = timeOf(file);
    show();
    return {};
}

Json Document::view() const {
    if (!view_.is_null()) return view_;
    const auto it = loom().extra.find("view");
    return it == loom().extra.end() ? Json() : *it;
}

std::string Document::writtenPath(const QString& file) const {
    return seedloom::app::writtenPath(file, QString::fromStdString(open_.folder().string())).toStdString();
}

QString Document::title() const {
    const QString name = QString::fromStdString(loom().name);
    return name.isEmpty() ? file().empty() ? tr("Untitled") : QString::fromStdString(file().stem().string()) : name;
}

bool Document::changedOnDisk() const { return !file().empty() && fileTime_ && timeOf(file()) != fileTime_; }

void Document::acceptDisk() { fileTime_ = timeOf(file()); }

void Document::rereadAssets() {
    if (open_.rereadAssets()) show();
}

void Document::keepJournalIn(const std::filesystem::path& folder) {
    dropJournal();
    journalFolder_ = folder;
    startJournal();
}

void Document::startJournal() {
    if (journalFolder_.empty()) return;
    std::error_code ignored;
    std::filesystem::create_directories(journalFolder_, ignored);
    const std::string name = QUuid::createUuid().toString(QUuid::WithoutBraces).toStdString();
    const std::filesystem::path journal = journalFolder_ / (name + kJournalEnding);
    journalLock_ = std::make_unique<QLockFile>(QString::fromStdString(journal.string() + ".lock"));
    journalLock_->setStaleLockTime(0);
    journalLock_->tryLock(0);
    open_.keepJournal(journal);
    if (const auto error = open_.takeJournalError()) Q_EMIT journalFailed(QString::fromStdString(error->text));
}

void Document::dropJournal() {
    open_.dropJournal();
    journalLock_.reset();
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
        // One whose edits do not fit is offered as well: it is all that is left of them.
        if (content && (!content->edits.empty() || content->unfit > 0)) out.push_back(entry.path());
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
