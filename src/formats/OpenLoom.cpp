#include "formats/OpenLoom.h"

#include "files/FileIo.h"
#include "formats/FilePaths.h"
#include "formats/LoomFile.h"

namespace seedloom {

namespace {

/// Beyond this a journal begins anew with the document as it is.
constexpr std::uint64_t kLongestJournal = std::uint64_t(32) << 20;

}  // namespace

void OpenLoom::install(std::shared_ptr<const Loom> loom) {
    loom_ = std::move(loom);
    assets_ = shelf_.assetsOf(*loom_, folder());
}

bool OpenLoom::rereadAssets() {
    const Assets before = assets_;
    assets_ = shelf_.assetsOf(*loom_, folder());
    return before != assets_;
}

std::optional<Error> OpenLoom::run(const Edit& edit, int gesture) {
    auto next = applied(*loom_, edit);
    if (!next) return next.error();
    // First what can fail: an edit is kept before it is shown.
    auto shared = std::make_shared<const Loom>(std::move(*next));
    if (journal_.open())
        if (auto error = journal_.append(edit, gesture)) journalError_ = std::move(error);
    install(std::move(shared));
    return {};
}

std::optional<Error> OpenLoom::apply(const Edit& edit, int gesture) {
    if (edit.empty()) return {};
    if (auto error = run(edit, gesture)) return error;
    history_.push(edit, gesture);
    if (journal_.bytes() > kLongestJournal) startJournal();
    return {};
}

std::optional<Error> OpenLoom::undo() {
    const Edit* edit = history_.undoable();
    if (!edit) return {};
    if (auto error = run(inverse(*edit), 0)) return error;
    history_.stepBack();
    return {};
}

std::optional<Error> OpenLoom::redo() {
    const Edit* edit = history_.redoable();
    if (!edit) return {};
    if (auto error = run(*edit, 0)) return error;
    history_.stepOn();
    return {};
}

void OpenLoom::replace(Loom loom, const std::filesystem::path& file) {
    file_ = file;
    recovered_ = false;
    history_.clear();
    install(std::make_shared<const Loom>(std::move(loom)));
    startJournal();
}

std::optional<Error> OpenLoom::open(const std::filesystem::path& file) {
    auto loom = readLoom(file);
    if (!loom) return loom.error();
    replace(std::move(*loom), file);
    return {};
}

std::optional<Error> OpenLoom::save(const std::filesystem::path& file, const Json& view) {
    const auto from = file_.empty() ? std::filesystem::current_path() : std::filesystem::absolute(file_).parent_path(),
               to = std::filesystem::absolute(file).parent_path();
    const std::optional<PathMove> move = from != to ? std::optional<PathMove>(std::in_place, loom(), from, to) : std::nullopt;
    Loom moved = move ? (*move)(loom()) : loom();
    Loom written = withAssetsNoted(moved, assets_);
    if (!view.is_null()) written.extra["view"] = view;
    if (auto error = writeLoom(written, file)) return error;
    file_ = file;
    recovered_ = false;
    history_.setClean();
    if (move) {
        history_.rewrite([&](Edit& edit) { move->apply(edit); });
        install(std::make_shared<const Loom>(std::move(moved)));
    }
    startJournal();
    return {};
}

std::optional<std::filesystem::path> OpenLoom::recover(const JournalContent& content, const std::filesystem::path& journal) {
    replace(content.base, content.file);
    recovered_ = true;
    for (const Edit& edit : content.edits) apply(edit);
    if (content.rest.empty()) return {};
    const std::filesystem::path rest = journal.string() + ".rest";
    if (writeFileAtomically(rest, content.problem + "\n" + content.rest)) return {};
    return rest;
}

void OpenLoom::keepJournal(const std::filesystem::path& journal) {
    journalFile_ = journal;
    startJournal();
}

void OpenLoom::startJournal() {
    if (journalFile_.empty()) return;
    auto writer = JournalWriter::start(journalFile_, file_, loom());
    if (writer) journal_ = std::move(*writer);
    else journalError_ = writer.error();
}

void OpenLoom::dropJournal() {
    journal_ = {};
    if (journalFile_.empty()) return;
    std::error_code ignored;
    std::filesystem::remove(journalFile_, ignored);
    journalFile_.clear();
}

}  // namespace seedloom
