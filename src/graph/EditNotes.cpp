// Edits of notes, and of nodes that are copied.
#include "graph/Draft.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace seedloom {

namespace {

std::size_t noteIndex(const Loom& loom, const std::string& id) {
    return std::size_t(std::find_if(loom.notes.begin(), loom.notes.end(), [&](const Note& n) { return n.id == id; }) - loom.notes.begin());
}

/// The upper left cell of all that a fragment holds.
Cell cornerOf(const Loom& fragment) {
    Cell corner{1 << 28, 1 << 28};
    const auto add = [&](Cell c) { corner = {std::min(corner.column, c.column), std::min(corner.row, c.row)}; };
    for (const Node& node : fragment.nodes) add(node.cell);
    for (const Note& note : fragment.notes) add(note.cell);
    return corner;
}

}  // namespace

Edit addNote(const Loom& loom, Cell cell, const std::string& text, std::string* id) {
    Draft draft(loom, "Add a note");
    Note note;
    note.id = loom.freeNoteId();
    note.text = text;
    note.cell = {std::max(cell.column, 0), std::max(cell.row, 0)};
    if (id) *id = note.id;
    draft.add(&Loom::notes, std::move(note));
    return draft.finish();
}

Edit changeNote(const Loom& loom, const Note& note) {
    Draft draft(loom, "Change a note");
    const std::size_t i = noteIndex(loom, note.id);
    if (i < loom.notes.size() && note.cell.column >= 0 && note.cell.row >= 0 && note.columns >= 1) draft.replace(&Loom::notes, i, note);
    return draft.finish();
}

Edit removeNote(const Loom& loom, const std::string& id) {
    Draft draft(loom, "Delete a note");
    const std::size_t i = noteIndex(loom, id);
    if (i < loom.notes.size()) draft.remove(&Loom::notes, i);
    return draft.finish();
}

Loom fragmentOf(const Loom& loom, const std::vector<std::string>& nodes, const std::vector<std::string>& notes) {
    const std::set<std::string> wanted(nodes.begin(), nodes.end()), wantedNotes(notes.begin(), notes.end());
    Loom out;
    out.name = loom.name;
    for (const Node& node : loom.nodes)
        if (wanted.count(node.id)) out.nodes.push_back(node);
    for (const Link& link : loom.links)
        if (wanted.count(link.from) && wanted.count(link.to)) out.links.push_back(link);
    for (const Note& note : loom.notes)
        if (wantedNotes.count(note.id)) out.notes.push_back(note);
    return out;
}

Edit pasteFragment(const Loom& loom, const Loom& fragment, Cell at, bool keepFeeds, std::vector<std::string>* ids) {
    Draft draft(loom,
                fragment.nodes.size() == 1 ? fmt::format("Paste {}", displayName(fragment.nodes[0])) : fmt::format("Paste {} nodes", fragment.nodes.size()));
    const Cell corner = cornerOf(fragment);
    // Lower, row by row, until all cells are free.
    const auto placed = [&](Cell c) { return Cell{c.column - corner.column + std::max(at.column, 0), c.row - corner.row + std::max(at.row, 0)}; };
    std::set<Cell> taken;
    for (const Node& node : loom.nodes) taken.insert(node.cell);
    const auto blocked = [&] {
        return std::any_of(fragment.nodes.begin(), fragment.nodes.end(), [&](const Node& n) { return taken.count(placed(n.cell)) > 0; });
    };
    while (blocked()) ++at.row;
    std::map<std::string, std::string> renamed;
    for (Node node : fragment.nodes) {
        const std::string old = node.id;
        node.id = draft.loom().freeNodeId(old);
        node.cell = placed(node.cell);
        renamed[old] = node.id;
        if (ids) ids->push_back(node.id);
        if (node.op == "output" && loom.output.empty()) draft.setOutput(node.id);
        draft.add(&Loom::nodes, std::move(node));
    }
    for (const Link& link : loom.links)
        if (keepFeeds && renamed.count(link.to) && !renamed.count(link.from))
            draft.add(&Loom::links, Link{link.from, link.out, renamed[link.to], link.in, link.extra});
    for (Link link : fragment.links) {
        if (!renamed.count(link.from) || !renamed.count(link.to)) continue;
        link.from = renamed[link.from];
        link.to = renamed[link.to];
        draft.add(&Loom::links, std::move(link));
    }
    for (Note note : fragment.notes) {
        note.id = draft.loom().freeNoteId();
        note.cell = placed(note.cell);
        draft.add(&Loom::notes, std::move(note));
    }
    return draft.finish();
}

}  // namespace seedloom
