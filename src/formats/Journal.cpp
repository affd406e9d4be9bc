#include "formats/Journal.h"

#include "files/FileIo.h"
#include "formats/LoomFile.h"
#include "formats/LoomItems.h"

#include <fmt/format.h>
#include <xxhash.h>

#include <fcntl.h>
#include <unistd.h>
#include <cerrno>
#include <cstring>

namespace seedloom {

namespace {

template <class T> constexpr const char* kListName = nullptr;
template <> constexpr const char* kListName<Node> = "node";
template <> constexpr const char* kListName<Link> = "link";
template <> constexpr const char* kListName<Control> = "control";
template <> constexpr const char* kListName<Preset> = "preset";
template <> constexpr const char* kListName<Note> = "note";

/// Short, and enough to tell whether something is what it was.
std::string sumOf(const Json& value) {
    const std::string text = value.dump(-1, ' ', false, Json::error_handler_t::replace);
    return fmt::format("{:016x}", XXH3_64bits(text.data(), text.size()));
}

/// What a change leaves behind; what was before is found in the document when it is read again, and must have the same sum.
struct Writer {
    template <class T> Json operator()(const ItemChange<T>& change) const {
        Json out{{"in", kListName<T>}, {"at", change.index}, {"act", !change.before ? "add" : !change.after ? "remove" : "replace"}};
        if (change.before) out["was"] = sumOf(items::toJson(*change.before));
        if (change.after) out["item"] = items::toJson(*change.after);
        return out;
    }
    Json operator()(const TextChange& change) const {
        return {{"in", change.field == TextField::name ? "name" : "output"}, {"was", sumOf(change.before)}, {"text", change.after}};
    }
    Json operator()(const ValueChange& change) const {
        return {{"in", "value"}, {"control", change.control}, {"was", sumOf(change.before)}, {"value", change.after}};
    }
    Json operator()(const FactChange& change) const {
        return {{"in", "fact"}, {"key", change.key}, {"at", change.index}, {"was", sumOf(change.before)}, {"value", change.after}};
    }
};

template <class T> const std::vector<T>& listOf(const Loom& loom) {
    if constexpr (std::is_same_v<T, Node>) return loom.nodes;
    else if constexpr (std::is_same_v<T, Link>) return loom.links;
    else if constexpr (std::is_same_v<T, Control>) return loom.controls;
    else if constexpr (std::is_same_v<T, Preset>) return loom.presets;
    else return loom.notes;
}

/// Journals of older versions hold no sums.
void needSame(const Json& record, const Json& now) {
    if (const auto was = record.find("was"); was != record.end() && *was != sumOf(now)) throw items::Wrong{"was", "it was made for something else"};
}

template <class T> bool readItem(const Json& json, const Loom& loom, Change& out) {
    if (json.at("in") != kListName<T>) return false;
    ItemChange<T> change;
    change.index = json.at("at").template get<std::size_t>();
    const std::string act = json.at("act");
    const auto& list = listOf<T>(loom);
    if (act != "add") {
        if (change.index >= list.size()) throw items::Wrong{"at", "there is no such item"};
        change.before = list[change.index];
        needSame(json, items::toJson(*change.before));
    }
    if (act != "remove") change.after = items::read<T>(json.at("item"), "item");
    out = std::move(change);
    return true;
}

Change readChange(const Json& json, const Loom& loom) {
    Change out = TextChange{};
    if (readItem<Node>(json, loom, out) || readItem<Link>(json, loom, out) || readItem<Control>(json, loom, out) || readItem<Preset>(json, loom, out) ||
        readItem<Note>(json, loom, out))
        return out;
    const std::string in = json.at("in");
    if (in == "name" || in == "output") {
        const std::string& now = in == "name" ? loom.name : loom.output;
        needSame(json, now);
        return TextChange{in == "name" ? TextField::name : TextField::output, now, json.at("text")};
    }
    if (in == "fact") {
        const std::string key = json.at("key");
        const Json now = loom.fact(key);
        needSame(json, now);
        return FactChange{key, now, json.at("value"), json.at("at")};
    }
    if (in != "value") throw items::Wrong{"in", "unknown"};
    const std::string control = json.at("control");
    const Json now = loom.valueInUse(control);
    needSame(json, now);
    return ValueChange{control, now, json.at("value")};
}

std::string lineOf(const Json& record) {
    const std::string text = record.dump(-1, ' ', false, Json::error_handler_t::replace);
    return fmt::format("{:016x} {}\n", XXH3_64bits(text.data(), text.size()), text);
}

/// The record of a line, or nothing where it is torn or changed.
std::optional<Json> recordOf(std::string_view line) {
    constexpr std::size_t kSum = 16;
    if (line.size() < kSum + 2 || line[kSum] != ' ') return {};
    const std::string_view text = line.substr(kSum + 1);
    if (fmt::format("{:016x}", XXH3_64bits(text.data(), text.size())) != line.substr(0, kSum)) return {};
    Json json = Json::parse(text, nullptr, false);
    if (json.is_discarded()) return {};
    return json;
}

}  // namespace

Json editToJson(const Edit& edit, int gesture) {
    Json changes = Json::array();
    for (const Change& change : edit.changes) changes.push_back(std::visit(Writer{}, change));
    Json out{{"label", edit.label}, {"changes", std::move(changes)}};
    if (gesture > 0) out["gesture"] = gesture;
    return out;
}

/// Reads an edit and applies it to `now`; after an error `now` may hold a part of it.
static Result<Edit> takeEdit(const Json& json, Loom& now) {
    try {
        Edit edit{json.at("label"), {}};
        for (const Json& change : json.at("changes")) {
            edit.changes.push_back(readChange(change, now));
            if (!applyChange(now, edit.changes.back())) return Error{"journal.edit", "An edit of the journal does not fit the document."};
        }
        return edit;
    } catch (const items::Wrong& wrong) {
        return Error{"journal.edit", fmt::format("An edit of the journal can't be read: {}: {}.", wrong.where, wrong.text)};
    } catch (const Json::exception& error) {
        return Error{"journal.edit", fmt::format("An edit of the journal can't be read ({}).", error.what())};
    }
}

Result<Edit> editFromJson(const Json& json, const Loom& loom) {
    Loom now = loom;
    return takeEdit(json, now);
}

JournalWriter::JournalWriter(JournalWriter&& other) noexcept { *this = std::move(other); }

JournalWriter& JournalWriter::operator=(JournalWriter&& other) noexcept {
    if (this == &other) return *this;
    close();
    path_ = std::move(other.path_);
    descriptor_ = std::exchange(other.descriptor_, -1);
    bytes_ = other.bytes_;
    return *this;
}

JournalWriter::~JournalWriter() { close(); }

void JournalWriter::close() {
    if (descriptor_ >= 0) ::close(descriptor_);
    descriptor_ = -1;
}

Result<JournalWriter> JournalWriter::start(const std::filesystem::path& journal, const std::filesystem::path& file, const Loom& base) {
    const std::string first = lineOf({{"seedloom_journal", 1}, {"file", file.string()}, {"loom", loomToText(base)}});
    // Whole or not at all: the journal that was there is good until this one is.
    if (auto error = writeFileAtomically(journal, first)) return *error;
    JournalWriter out;
    out.path_ = journal;
    out.bytes_ = first.size();
    out.descriptor_ = ::open(journal.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC);
    if (out.descriptor_ < 0) return Error{"file.write", fmt::format("The journal {} can't be written: {}.", journal.string(), std::strerror(errno))};
    return out;
}

std::optional<Error> JournalWriter::append(const Edit& edit, int gesture) { return write(editToJson(edit, gesture)); }

std::optional<Error> JournalWriter::write(const Json& record) {
    if (descriptor_ < 0) return Error{"file.write", "The journal is not open."};
    const std::string line = lineOf(record);
    for (std::size_t done = 0; done < line.size();) {
        const ssize_t n = ::write(descriptor_, line.data() + done, line.size() - done);
        if (n < 0 && errno == EINTR) continue;
        if (n <= 0) {
            const std::string reason = std::strerror(n < 0 ? errno : ENOSPC);
            close();
            return Error{"file.write", fmt::format("The journal {} can't be written: {}.", path_.string(), reason)};
        }
        done += std::size_t(n);
    }
    bytes_ += line.size();
    return {};
}

namespace {

/// Puts the edits of a journal onto what they were made for, one after the other, until one does not fit.
class Replay {
public:
    explicit Replay(JournalContent& out) : out_(out), now_(out.base) {}

    /// False where the record does not fit; what it would have changed is as it was.
    bool take(const Json& record) {
        Loom next = now_;
        auto edit = takeEdit(record, next);
        if (!edit) {
            out_.problem = edit.error().text;
            return false;
        }
        now_ = std::move(next);
        const Json given = record.value("gesture", Json());
        const int gesture = given.is_number_integer() ? given.get<int>() : 0;
        if (gesture > 0 && gesture == gesture_ && !out_.edits.empty()) out_.edits.back() = joined(out_.edits.back(), *edit);
        else out_.edits.push_back(std::move(*edit));
        gesture_ = gesture;
        return true;
    }

private:
    JournalContent& out_;
    Loom now_;
    int gesture_ = 0;
};

}  // namespace

Result<JournalContent> readJournal(const std::filesystem::path& journal) {
    const auto bytes = readFile(journal);
    if (!bytes) return bytes.error();
    JournalContent out;
    std::optional<Replay> replay;
    for (std::size_t at = 0; at < bytes->size();) {
        const std::size_t end = std::min(bytes->find('\n', at), bytes->size());
        const std::string_view line = std::string_view(*bytes).substr(at, end - at);
        const auto record = end < bytes->size() ? recordOf(line) : std::nullopt;
        at = end + 1;
        if (out.unfit > 0) {
            out.rest += std::string(line) + "\n";
            ++out.unfit;
        } else if (!record) {
            // The program ended while it wrote its last line. Whole lines behind a damaged one are kept, but what they build on is missing.
            out.torn = true;
            if (at < bytes->size()) out.unfit = 1, out.rest = std::string(line) + "\n", out.problem = "A record of the journal is damaged.";
        } else if (!replay) {
            auto loom = loomFromText(record->value("loom", std::string()));
            if (!loom) break;
            out.base = std::move(*loom);
            out.file = record->value("file", std::string());
            replay.emplace(out);
        } else if (!replay->take(*record)) {
            out.unfit = 1;
            out.rest = std::string(line) + "\n";
        }
    }
    if (!replay) return Error{"journal.broken", fmt::format("The journal {} can't be read.", journal.string())};
    return out;
}

}  // namespace seedloom
