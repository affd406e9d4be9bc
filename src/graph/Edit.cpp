#include "graph/Edit.h"

#include <fmt/format.h>

namespace seedloom {

namespace {

std::vector<Node>& listOf(Loom& loom, const Node*) { return loom.nodes; }
std::vector<Link>& listOf(Loom& loom, const Link*) { return loom.links; }
std::vector<Control>& listOf(Loom& loom, const Control*) { return loom.controls; }
std::vector<Preset>& listOf(Loom& loom, const Preset*) { return loom.presets; }
std::vector<Note>& listOf(Loom& loom, const Note*) { return loom.notes; }

struct Applier {
    Loom& loom;

    template <class T> bool operator()(const ItemChange<T>& change) const {
        auto& list = listOf(loom, static_cast<const T*>(nullptr));
        if (!change.before) {
            if (change.index > list.size()) return false;
            list.insert(list.begin() + std::ptrdiff_t(change.index), *change.after);
            return true;
        }
        if (change.index >= list.size() || !(list[change.index] == *change.before)) return false;
        if (change.after) list[change.index] = *change.after;
        else list.erase(list.begin() + std::ptrdiff_t(change.index));
        return true;
    }
    bool operator()(const TextChange& change) const {
        std::string& text = change.field == TextField::name ? loom.name : loom.output;
        if (text != change.before) return false;
        text = change.after;
        return true;
    }
    bool operator()(const ValueChange& change) const {
        if (loom.valueInUse(change.control) != change.before) return false;
        if (change.after.is_null()) loom.values.erase(change.control);
        else loom.values[change.control] = change.after;
        return true;
    }
    bool operator()(const FactChange& change) const {
        if (loom.fact(change.key) != change.before) return false;
        if (!change.before.is_null()) {
            if (change.after.is_null()) loom.extra.erase(change.key);
            else loom.extra[change.key] = change.after;
            return true;
        }
        Json with = Json::object();
        std::size_t at = 0;
        for (const auto& [key, value] : loom.extra.items()) {
            if (at++ == change.index) with[change.key] = change.after;
            with[key] = value;
        }
        with[change.key] = change.after;
        loom.extra = std::move(with);
        return true;
    }
};

struct Inverter {
    template <class C> Change operator()(C change) const {
        std::swap(change.before, change.after);
        return change;
    }
};

/// Where `later` changes just what `earlier` changed, and both replace, one change from the first to the last value.
template <class C> bool absorb(C& earlier, const C& later) {
    if constexpr (std::is_same_v<C, TextChange>) {
        if (earlier.field != later.field) return false;
    } else if constexpr (std::is_same_v<C, ValueChange>) {
        if (earlier.control != later.control) return false;
    } else if constexpr (std::is_same_v<C, FactChange>) {
        if (earlier.key != later.key) return false;
    } else {
        if (earlier.index != later.index || !earlier.before || !earlier.after || !later.before || !later.after) return false;
    }
    if (!(earlier.after == later.before)) return false;
    earlier.after = later.after;
    return true;
}

}  // namespace

bool applyChange(Loom& loom, const Change& change) { return std::visit(Applier{loom}, change); }

std::vector<Change> compacted(std::vector<Change> changes) {
    // Lists that only have items replaced keep their indices, so later replacements can be joined to the first one.
    std::vector<Change> out;
    std::map<std::pair<std::size_t, std::size_t>, std::size_t> replaced;  // kind and index → place in out
    for (Change& change : changes) {
        const std::size_t kind = change.index();
        std::optional<std::size_t> index;
        bool moves = false;
        std::visit(
            [&](const auto& c) {
                if constexpr (requires { c.index; }) (c.before && c.after) ? index = c.index : (moves = true, index);
            },
            change);
        if (moves) std::erase_if(replaced, [&](const auto& r) { return r.first.first == kind; });
        if (index) {
            const auto it = replaced.find({kind, *index});
            if (it != replaced.end() && std::visit(
                                            [](auto& earlier, const auto& later) {
                                                if constexpr (std::is_same_v<std::decay_t<decltype(earlier)>, std::decay_t<decltype(later)>>)
                                                    return absorb(earlier, later);
                                                return false;
                                            },
                                            out[it->second], change))
                continue;
            replaced[{kind, *index}] = out.size();
        }
        out.push_back(std::move(change));
    }
    std::erase_if(out, [](const Change& change) { return std::visit([](const auto& c) { return c.before == c.after; }, change); });
    return out;
}

Result<Loom> applied(const Loom& loom, const Edit& edit) {
    Loom out = loom;
    for (const Change& change : edit.changes)
        if (!applyChange(out, change))
            return Error{"edit.conflict", fmt::format("'{}' does not fit the document any more, so nothing was changed.", edit.label)};
    return out;
}

Edit inverse(const Edit& edit) {
    Edit out{edit.label, {}};
    for (auto it = edit.changes.rbegin(); it != edit.changes.rend(); ++it) out.changes.push_back(std::visit(Inverter{}, *it));
    return out;
}

Edit joined(const Edit& first, const Edit& second) {
    Edit out = first;
    for (const Change& change : second.changes) {
        const bool taken = !out.changes.empty() && std::visit(
                                                       [](auto& earlier, const auto& later) {
                                                           if constexpr (std::is_same_v<std::decay_t<decltype(earlier)>, std::decay_t<decltype(later)>>)
                                                               return absorb(earlier, later);
                                                           return false;
                                                       },
                                                       out.changes.back(), change);
        if (!taken) out.changes.push_back(change);
    }
    std::erase_if(out.changes, [](const Change& change) { return std::visit([](const auto& c) { return c.before == c.after; }, change); });
    return out;
}

}  // namespace seedloom
