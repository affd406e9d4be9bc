#include "formats/Journal.h"

#include "formats/LoomFile.h"
#include "formats/LoomItems.h"
#include "meshes/FileIo.h"

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

/// What a change leaves behind; what was before is found in the document when it is read again.
struct Writer {
    template <class T> Json operator()(const ItemChange<T>& change) const {
        Json out{{"in", kListName<T>}, {"at", change.index}, {"act", !change.before ? "add" : !change.after ? "remove" : "replace"}};
        if (change.after) out["item"] = items::toJson(*change.after);
        return out;
    }
    Json operator()(const TextChange& change) const { return {{"in", change.field == TextField::name ? "name" : "output"}, {"text", change.after}}; }
    Json operator()(const ValueChange& change) const { return {{"in", "value"}, {"control", change.control}, {"value", change.after}}; }
};

template <class T> const std::vector<T>& listOf(const Loom& loom) {
    if constexpr (std::is_same_v<T, Node>) return loom.nodes;
    else if constexpr (std::is_same_v<T, Link>) return loom.links;
    else if constexpr (std::is_same_v<T, Control>) return loom.controls;
    else if constexpr (std::is_same_v<T, Preset>) return loom.presets;
    else return loom.notes;
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
    if (in == "name") return TextChange{TextField::name, loom.name, json.at("text")};
    if (in == "output") return TextChange{TextField::output, loom.output, json.at("text")};
    if (in != "value") throw items::Wrong{"in", "unknown"};
    const std::string control = json.at("control");
    return ValueChange{control, loom.values.contains(control) ? loom.values[control] : Json(), json.at("value")};
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

Json editToJson(const Edit& edit) {
    Json changes = Json::array();
    for (const Change& change : edit.changes) changes.push_back(std::visit(Writer{}, change));
    return {{"label", edit.label}, {"changes", std::move(changes)}};
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

std::optional<Error> JournalWriter::append(const Edit& edit) { return write(editToJson(edit)); }

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

Result<JournalContent> readJournal(const std::filesystem::path& journal) {
    const auto bytes = readFile(journal);
    if (!bytes) return bytes.error();
    JournalContent out;
    Loom now;
    bool based = false;
    for (std::size_t at = 0; at < bytes->size() && !out.torn;) {
        const std::size_t end = bytes->find('\n', at);
        const auto record = end == std::string::npos ? std::nullopt : recordOf(std::string_view(*bytes).substr(at, end - at));
        if (!record) {
            out.torn = true;
        } else if (!based) {
            auto loom = loomFromText(record->value("loom", std::string()));
            if (!loom) break;
            out.base = now = std::move(*loom);
            out.file = record->value("file", std::string());
            based = true;
        } else if (auto edit = takeEdit(*record, now)) {
            out.edits.push_back(std::move(*edit));
        } else {
            out.torn = true;
        }
        at = end == std::string::npos ? bytes->size() : end + 1;
    }
    if (!based) return Error{"journal.broken", fmt::format("The journal {} can't be read.", journal.string())};
    return out;
}

}  // namespace seedloom
