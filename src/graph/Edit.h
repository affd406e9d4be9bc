#pragma once
// Every change of a loom is a value that says what was before and what is after; it can be applied, and turned round to undo.
#include "geometry/Result.h"
#include "graph/Loom.h"

#include <variant>

namespace seedloom {

/// Adds (no `before`), removes (no `after`) or replaces one item of a list; `index` is its place in the list.
template <class T> struct ItemChange {
    std::size_t index = 0;
    std::optional<T> before, after;
    bool operator==(const ItemChange&) const = default;
};

enum class TextField : unsigned char { name, output };
struct TextChange {
    TextField field;
    std::string before, after;
    bool operator==(const TextChange&) const = default;
};
/// A control's value in use; null means the default.
struct ValueChange {
    std::string control;
    Json before, after;
    bool operator==(const ValueChange&) const = default;
};

using Change = std::variant<ItemChange<Node>, ItemChange<Link>, ItemChange<Control>, ItemChange<Preset>, ItemChange<Note>, TextChange, ValueChange>;

struct Edit {
    std::string label;  ///< what people read in the menu behind Undo
    std::vector<Change> changes;
    bool empty() const { return changes.empty(); }
};

/// Applies all changes in order, or none: an edit that does not fit the loom gives an error (code `edit.conflict`).
Result<Loom> applied(const Loom& loom, const Edit& edit);
/// The edit that takes `edit` back.
Edit inverse(const Edit& edit);
/// `first`, then `second`, as one edit; values that are changed twice appear once.
Edit joined(const Edit& first, const Edit& second);

// Edits for what people do. Each gives an empty edit where nothing would change.
Edit setSetting(const Loom& loom, const std::string& node, const std::string& setting, const Json& value);  ///< null resets
Edit setControlValue(const Loom& loom, const std::string& control, const Json& value);
Edit applyPreset(const Loom& loom, const Preset& preset);
Edit setSkipped(const Loom& loom, const std::vector<std::string>& nodes, bool skipped);
Edit renameNode(const Loom& loom, const std::string& node, const std::string& label);
Edit moveNode(const Loom& loom, const std::string& node, Cell to);  ///< swaps with a node that is there
Edit renameLoom(const Loom& loom, const std::string& name);

/// A new node at a free cell near `cell`, unlinked. Its id is returned through `id`.
Edit addNode(const Loom& loom, const std::string& op, Cell cell, std::string* id);
/// A new node behind `after` in its strand: what hung on `after` hangs on the new node, and followers in the way move one column on.
Edit addNodeAfter(const Loom& loom, const std::string& op, const std::string& after, std::string* id);
/// A new node between the ends of a link.
Edit insertOnLink(const Loom& loom, const std::string& op, const Link& link, std::string* id);
/// Takes nodes out; the strand closes up, and what hung behind hangs on what was before.
Edit removeNodes(const Loom& loom, const std::vector<std::string>& nodes);
/// A link, replacing what was plugged into a port that takes one. Refused (empty) where it would close a cycle.
Edit addLink(const Loom& loom, const Link& link);
Edit removeLink(const Loom& loom, const Link& link);

/// True where a geometry can flow from `from` to `to` along links.
bool reaches(const Loom& loom, const std::string& from, const std::string& to);

}  // namespace seedloom
