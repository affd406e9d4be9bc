#pragma once
// Every change of a loom is a value that says what was before and what is after; it can be applied, and turned round to undo.
#include "geometry/Result.h"
#include "graph/Assets.h"

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

/// What is told of the loom under a key of its own at the top of the file, such as author; null is nothing.
struct FactChange {
    std::string key;
    Json before, after;
    std::size_t index = 0;  ///< its place among the facts, which stay in the order of the file
    bool operator==(const FactChange&) const = default;
};

using Change = std::variant<ItemChange<Node>, ItemChange<Link>, ItemChange<Control>, ItemChange<Preset>, ItemChange<Note>, TextChange, ValueChange, FactChange>;

struct Edit {
    std::string label;  ///< what people read in the menu behind Undo
    std::vector<Change> changes;
    bool empty() const { return changes.empty(); }
};

/// Applies all changes in order, or none: an edit that does not fit the loom gives an error (code `edit.conflict`).
Result<Loom> applied(const Loom& loom, const Edit& edit);
/// Applies one change in place; false, and nothing changed, where it does not fit.
bool applyChange(Loom& loom, const Change& change);
/// The same effect with as few changes as can be told cheaply: items that are replaced more than once are replaced once.
std::vector<Change> compacted(std::vector<Change> changes);
/// The edit that takes `edit` back.
Edit inverse(const Edit& edit);
/// `first`, then `second`, as one edit; values that are changed twice appear once.
Edit joined(const Edit& first, const Edit& second);

// Edits for what people do. Each gives an empty edit where nothing would change.
// Those that need to know what an asset node asks for look it up in `assets`.
/// Null resets.
Edit setSetting(const Loom& loom, const std::string& node, const std::string& setting, const Json& value, const Assets& assets = {});
/// The same for several nodes.
Edit setSettings(const Loom& loom, const std::vector<std::string>& nodes, const std::string& setting, const Json& value, const Assets& assets = {});
Edit setControlValue(const Loom& loom, const std::string& control, const Json& value);
Edit applyPreset(const Loom& loom, const Preset& preset);
Edit setSkipped(const Loom& loom, const std::vector<std::string>& nodes, bool skipped);
Edit renameNode(const Loom& loom, const std::string& node, const std::string& label);
/// Moves nodes by whole cells; what is in their way is pushed on in its strand. Nothing where one would leave the grid.
Edit moveNodes(const Loom& loom, const std::vector<std::string>& nodes, int columns, int rows);
Edit moveNode(const Loom& loom, const std::string& node, Cell to);
/// Takes a node out of where it is and puts it into a link; empty where that would close a ring, and for what takes no geometry.
Edit weaveIn(const Loom& loom, const std::string& node, const Link& link, const Assets& assets = {});
Edit setTint(const Loom& loom, const std::vector<std::string>& nodes, int tint);
Edit renameLoom(const Loom& loom, const std::string& name);
/// Name and facts as `like` has them.
Edit setFacts(const Loom& loom, const Loom& like);

// A new node feeds the loom's output where nothing does yet, and the output stands behind all others. What hangs on a new node or link and would stand
// before what feeds it moves behind that, so that a weave reads from left to right.
/// A new node at a free cell near `cell`, unlinked otherwise. Its id is returned through `id`.
Edit addNode(const Loom& loom, const std::string& op, Cell cell, std::string* id);
/// A new node behind `after` in its strand: what hung on `after` hangs on the new node, and followers in the way move one column on. Before
/// an output goes what is added at one, and before a node that waits for its input what is made from nothing and is of the kind it waits for.
Edit addNodeAfter(const Loom& loom, const std::string& op, const std::string& after, std::string* id);
/// A new node that feeds an input into which nothing is linked; an empty port is the first.
Edit addNodeFeeding(const Loom& loom, const std::string& op, const std::string& node, const std::string& port, std::string* id);
/// A new node between the ends of a link.
Edit insertOnLink(const Loom& loom, const std::string& op, const Link& link, std::string* id);
/// Takes nodes out; the strand closes up, and what hung behind hangs on what was before.
Edit removeNodes(const Loom& loom, const std::vector<std::string>& nodes);
/// A link, replacing what was plugged into a port that takes one. Refused (empty) where it would close a cycle.
Edit addLink(const Loom& loom, const Link& link, const Assets& assets = {});
Edit removeLink(const Loom& loom, const Link& link);
/// Draws a link as two named ends, or as a thread again.
Edit setCut(const Loom& loom, const Link& link, bool cut);

Edit addNote(const Loom& loom, Cell cell, const std::string& text, std::string* id);
/// Replaces text, place or width of the note with the same id.
Edit changeNote(const Loom& loom, const Note& note);
Edit removeNote(const Loom& loom, const std::string& id);

/// A control made from a setting's fixed value, with the setting linked to it. Its id is `control.id`, or with a number behind it. `path` leads to the
/// container around the node; empty outside.
Edit makeControl(const Loom& loom, const std::vector<std::string>& path, const std::string& node, const std::string& setting, Control control);
/// Replaces the control with the same id; its values, in use and in presets, become what comes nearest to them of the new type and range.
Edit changeControl(const Loom& loom, const Control& control);
/// Why a control can't have another id, or nothing: no word that formulas can name, taken, or hidden where it is read.
std::optional<Error> renameProblem(const Loom& loom, const std::string& from, const std::string& to);
/// Gives a control another id; settings, formulas, conditions, presets and values follow. Empty where renameProblem() says so.
Edit renameControl(const Loom& loom, const std::string& from, const std::string& to);
/// What keeps a control from being as written, or nothing: its id, ends in the wrong order, no choices, a default or a condition that can't be computed.
/// `id` is the one that it has now; empty for a new one.
std::optional<Error> controlProblem(const Loom& loom, const std::string& id, const Control& control);
/// changeControl(), and renameControl() where its id is another; as one step.
Edit editControl(const Loom& loom, const std::string& id, const Control& control);
/// Takes a control away; settings, formulas and conditions that read it keep its value.
Edit removeControl(const Loom& loom, const std::string& id);
/// Puts a control at a place in the order, into a section.
Edit moveControl(const Loom& loom, const std::string& id, std::size_t to, const std::string& section);
/// Keeps the values in use under a name, in the place of a preset that has it.
Edit savePreset(const Loom& loom, const std::string& name);
/// Keeps these values under the preset's name, in the place of one that has it.
Edit keepPreset(const Loom& loom, Preset preset);
/// Empty where another preset has that name, or it is none.
Edit renamePreset(const Loom& loom, const std::string& from, const std::string& to);
Edit movePreset(const Loom& loom, const std::string& name, std::size_t to);
/// Values in use that lie between two presets, at `part` from 0 (the first) to 1. See blendedValues().
Edit blendPresets(const Loom& loom, const Preset& from, const Preset& to, double part);
Edit removePreset(const Loom& loom, const std::string& name);

/// Chosen nodes and notes as a loom of their own, with the links between them: what the clipboard carries.
Loom fragmentOf(const Loom& loom, const std::vector<std::string>& nodes, const std::vector<std::string>& notes = {});
/// Puts the nodes and notes of `fragment` in with free ids, its upper left at `at`, or lower where cells are taken. The ids are returned
/// through `ids`, in the fragment's order. With `keepFeeds`, nodes that had the same ids here keep what fed the originals.
Edit pasteFragment(const Loom& loom, const Loom& fragment, Cell at, bool keepFeeds, std::vector<std::string>* ids);

/// True where a geometry can flow from `from` to `to` along links.
bool reaches(const Loom& loom, const std::string& from, const std::string& to);

}  // namespace seedloom
