// The edits for what people do in the weave and in the panels.
#include "graph/Draft.h"
#include "graph/NodeSpec.h"
#include "graph/OperatorSample.h"
#include "graph/Profile.h"
#include "operators/Flow.h"
#include "operators/flow/Containers.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace seedloom {

namespace {

Node newNode(const Loom& loom, const std::string& op, Cell cell) {
    Node node;
    node.op = op;
    node.id = loom.freeNodeId(op);
    node.cell = cell;
    if (isContainer(op) && op != kAsset) node.graph = newInnerGraph();
    return node;
}

/// Nothing where there is no such port.
std::optional<PortSpec> portOf(const Loom& loom, const Assets& assets, const Link& link) {
    const Node* to = loom.node(link.to);
    const auto spec = to ? specOf(*to, assets) : nullptr;
    if (!spec || spec->inputs.empty()) return {};
    const PortSpec* port = link.in.empty() ? &spec->inputs.front() : spec->input(link.in);
    return port ? std::optional<PortSpec>(*port) : std::nullopt;
}

bool samePort(const Loom& loom, const Assets& assets, const Link& a, const Link& b) {
    if (a.to != b.to) return false;
    const auto one = portOf(loom, assets, a), other = portOf(loom, assets, b);
    return one.has_value() == other.has_value() && (!one || one->id == other->id);
}

bool takesInput(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    return !spec || !spec->inputs.empty();
}

/// What comes into a node first takes its place for all that hangs on it; that link is returned, nothing where there is none.
std::optional<Link> passOn(Draft& draft, const std::string& node) {
    const auto& links = draft.loom().links;
    const auto it = std::find_if(links.begin(), links.end(), [&](const Link& l) { return l.to == node; });
    if (it == links.end()) return {};
    const Link feed = *it;
    for (std::size_t i = 0; i < draft.loom().links.size(); ++i) {
        Link follower = draft.loom().links[i];
        if (follower.from != node) continue;
        follower.from = feed.from;
        follower.out = feed.out;
        draft.replace(&Loom::links, i, std::move(follower));
    }
    return feed;
}

/// Puts a new link before `node` in the place where `link` ran, which then starts at the node.
void runThrough(Draft& draft, const std::string& node, const Link& link) {
    for (std::size_t i = 0; i < draft.loom().links.size(); ++i) {
        if (!(draft.loom().links[i] == link)) continue;
        Link rest = link;
        rest.from = node;
        rest.out.clear();
        draft.replace(&Loom::links, i, std::move(rest));
        break;
    }
    draft.add(&Loom::links, Link{link.from, link.out, node, "", Json::object()});
}

/// A weave reads from left to right: what hangs on these nodes and does not stand behind them moves there, pushing on what is in its way.
void keepReading(Draft& draft, std::vector<std::string> open) {
    // Nodes only move to the right, and not beyond the longest way through the graph; the bound is for looms with a ring from a file.
    std::size_t left = (draft.loom().nodes.size() + 1) * (draft.loom().links.size() + 1);
    while (!open.empty() && left > 0) {
        const std::string id = std::move(open.back());
        open.pop_back();
        for (std::size_t i = 0; i < draft.loom().links.size() && left > 0; ++i) {
            const Link& link = draft.loom().links[i];
            if (link.from != id) continue;
            --left;
            const Node *from = draft.loom().node(link.from), *to = draft.loom().node(link.to);
            if (!from || !to || to->cell.column > from->cell.column) continue;
            const std::string moved = to->id;
            const Cell cell{from->cell.column + 1, to->cell.row};
            for (std::string& pushed : draft.makeRoom(cell)) open.push_back(std::move(pushed));
            draft.changeNode(moved, [&](Node& n) { n.cell = cell; });
            open.push_back(moved);
        }
    }
}

const Link* feedOf(const Loom& loom, const std::string& node) {
    const auto it = std::find_if(loom.links.begin(), loom.links.end(), [&](const Link& l) { return l.to == node; });
    return it == loom.links.end() ? nullptr : &*it;
}

/// Makes something out of nothing.
bool startsStrands(const std::string& op) {
    const OperatorSpec* spec = findOperator(op);
    return spec && spec->family == Family::make && std::none_of(spec->inputs.begin(), spec->inputs.end(), [](const PortSpec& p) { return !p.optional; });
}
/// Its first input is needed, and nothing feeds it.
bool waitsForInput(const Loom& loom, const Node& node) {
    const OperatorSpec* spec = findOperator(node.op);
    return spec && !spec->inputs.empty() && !spec->inputs.front().optional && !feedOf(loom, node.id);
}

/// What `op` makes is of the kind that the node works on; where its sample does not tell, as that of a file, it may be.
bool suits(const std::string& op, const Node& node) {
    const Flow made = flowOf(operatorSample(op));
    return made == Flow::nothing || takes(*findOperator(node.op), made);
}

/// The last node that a node feeds, and what feeds that; itself where it feeds none.
std::string endOfStrand(const Loom& loom, std::string node) {
    for (std::size_t left = loom.nodes.size(); left > 0; --left) {
        const auto next = std::find_if(loom.links.begin(), loom.links.end(), [&](const Link& l) { return l.from == node; });
        if (next == loom.links.end() || !loom.node(next->to)) break;
        node = next->to;
    }
    return node;
}

/// The output stands behind all else, and is fed by the end of the strand that `made` is in where nothing feeds it yet.
void placeOutput(Draft& draft, const std::string& made) {
    const std::string output = draft.loom().output;
    const Node* out = draft.loom().node(output);
    if (!out || output == made) return;
    if (!feedOf(draft.loom(), output)) draft.add(&Loom::links, Link{endOfStrand(draft.loom(), made), "", output, "", Json::object()});
    int last = 0;
    for (const Node& n : draft.loom().nodes)
        if (n.id != output) last = std::max(last, n.cell.column);
    if (out->cell.column <= last) draft.changeNode(output, [&](Node& n) { n.cell.column = last + 1; });
}

/// What all edits that add a node end with.
Edit finishedWith(Draft& draft, const Node& node) {
    if (node.op == "output" && draft.loom().output.empty()) draft.setOutput(node.id);
    keepReading(draft, {node.id});
    placeOutput(draft, node.id);
    Edit edit = draft.finish();
    return Edit{edit.label, compacted(std::move(edit.changes))};
}

Cell freeCellNear(const Loom& loom, Cell cell) {
    while (loom.nodeAt(cell)) ++cell.row;
    return cell;
}

}  // namespace

bool reaches(const Loom& loom, const std::string& from, const std::string& to) {
    std::set<std::string> seen;
    std::vector<std::string> open{from};
    while (!open.empty()) {
        const std::string at = std::move(open.back());
        open.pop_back();
        if (at == to) return true;
        if (!seen.insert(at).second) continue;
        for (const Link& link : loom.links)
            if (link.from == at) open.push_back(link.to);
    }
    return false;
}

Edit setSetting(const Loom& loom, const std::string& node, const std::string& setting, const Json& value, const Assets& assets) {
    return setSettings(loom, {node}, setting, value, assets);
}

Edit setControlValue(const Loom& loom, const std::string& control, const Json& value) {
    const Control* found = loom.control(control);
    Draft draft(loom, fmt::format("Change {}", found && !found->label.empty() ? found->label : control));
    draft.setValue(control, found && value == found->fallback ? Json() : value);
    return draft.finish();
}

Edit setSettings(const Loom& loom, const std::vector<std::string>& nodes, const std::string& setting, const Json& value, const Assets& assets) {
    Draft draft(loom, {});
    std::string label;
    for (const std::string& id : nodes) {
        const Node* found = draft.loom().node(id);
        const auto spec = found ? specOf(*found, assets) : nullptr;
        const SettingSpec* declared = spec ? spec->setting(setting) : nullptr;
        if (label.empty()) label = fmt::format("Change {} of {}", declared ? declared->label : setting, namesOf(loom, nodes));
        draft.changeNode(id, [&](Node& n) {
            if (value.is_null() || (declared && value == declared->fallback)) n.settings.erase(setting);
            else n.settings[setting] = value;
        });
    }
    Edit edit = draft.finish();
    edit.label = label;
    return edit;
}

Edit setTint(const Loom& loom, const std::vector<std::string>& nodes, int tint) {
    Draft draft(loom, fmt::format("Tint {}", namesOf(loom, nodes)));
    for (const std::string& id : nodes) draft.changeNode(id, [&](Node& n) { n.tint = std::clamp(tint, 0, kTints); });
    return draft.finish();
}

Edit setSkipped(const Loom& loom, const std::vector<std::string>& nodes, bool skipped) {
    Draft draft(loom, fmt::format("{} {}", skipped ? "Skip" : "Use", namesOf(loom, nodes)));
    for (const std::string& id : nodes) draft.changeNode(id, [&](Node& n) { n.skipped = skipped; });
    return draft.finish();
}

Edit renameNode(const Loom& loom, const std::string& node, const std::string& label) {
    Draft draft(loom, fmt::format("Rename {}", nameOf(loom, node)));
    draft.changeNode(node, [&](Node& n) { n.label = label == labelOf(n.op) ? std::string() : label; });
    return draft.finish();
}

Edit moveNodes(const Loom& loom, const std::vector<std::string>& nodes, int columns, int rows) {
    Draft draft(loom, fmt::format("Move {}", namesOf(loom, nodes)));
    std::vector<std::pair<std::string, Cell>> moves;
    for (const std::string& id : nodes) {
        const Node* node = loom.node(id);
        if (!node) continue;
        const Cell to{node->cell.column + columns, node->cell.row + rows};
        if (to.column < 0 || to.row < 0) return draft.finish();
        moves.push_back({id, to});
    }
    if (columns == 0 && rows == 0) return draft.finish();
    // Aside first, so that they are not in their own way; then from left to right, each where it belongs.
    constexpr int kAside = 1 << 28;
    for (const auto& [id, to] : moves) draft.changeNode(id, [&](Node& n) { n.cell.row += kAside; });
    std::sort(moves.begin(), moves.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
    for (const auto& move : moves) {
        draft.makeRoom(move.second);
        draft.changeNode(move.first, [&](Node& n) { n.cell = move.second; });
    }
    Edit edit = draft.finish();
    return Edit{edit.label, compacted(std::move(edit.changes))};
}

Edit moveNode(const Loom& loom, const std::string& node, Cell to) {
    const Node* moved = loom.node(node);
    return moved ? moveNodes(loom, {node}, to.column - moved->cell.column, to.row - moved->cell.row) : Edit{};
}

Edit weaveIn(const Loom& loom, const std::string& node, const Link& link, const Assets& assets) {
    Draft draft(loom, fmt::format("Weave in {}", nameOf(loom, node)));
    const Node* moved = loom.node(node);
    const Node* from = loom.node(link.from);
    const Node* to = loom.node(link.to);
    if (!moved || !from || !to || link.from == node || link.to == node) return draft.finish();
    const auto spec = specOf(*moved, assets);
    if (!spec || spec->inputs.empty()) return draft.finish();
    // Out of where it was: what hung on it keeps its feed.
    const std::optional<Link> feed = passOn(draft, node);
    draft.removeLinksIf([&](const Link& l) { return feed && l == *feed; });
    if (reaches(draft.loom(), link.to, node) || reaches(draft.loom(), node, link.from)) return {};
    const Cell old = moved->cell;
    constexpr int kAside = 1 << 28;
    draft.changeNode(node, [&](Node& n) { n.cell.row += kAside; });
    draft.closeUp(old);
    const Cell cell{draft.loom().node(link.from)->cell.column + 1, draft.loom().node(link.from)->cell.row};
    draft.makeRoom(cell);
    draft.changeNode(node, [&](Node& n) { n.cell = cell; });
    runThrough(draft, node, link);
    keepReading(draft, {node});
    Edit edit = draft.finish();
    return Edit{edit.label, compacted(std::move(edit.changes))};
}

Edit renameLoom(const Loom& loom, const std::string& name) {
    Draft draft(loom, "Rename the loom");
    draft.setName(name);
    return draft.finish();
}

Edit setFacts(const Loom& loom, const Loom& like) {
    Draft draft(loom, "Change what is told of the loom");
    draft.setName(like.name);
    std::vector<std::string> gone;
    for (const auto& [key, value] : loom.extra.items())
        if (!like.extra.contains(key)) gone.push_back(key);
    for (const std::string& key : gone) draft.setFact(key, Json());
    for (const auto& [key, value] : like.extra.items()) draft.setFact(key, value);
    return draft.finish();
}

Edit addNode(const Loom& loom, const std::string& op, Cell cell, std::string* id) {
    Draft draft(loom, fmt::format("Add {}", labelOf(op)));
    const Node node = newNode(loom, op, freeCellNear(loom, cell));
    if (id) *id = node.id;
    draft.add(&Loom::nodes, node);
    return finishedWith(draft, node);
}

Edit addNodeFeeding(const Loom& loom, const std::string& op, const std::string& node, const std::string& port, std::string* id) {
    const Node* fed = loom.node(node);
    if (!fed) return {};
    Draft draft(loom, fmt::format("Add {}", labelOf(op)));
    // Before it in its strand; what feeds another input starts a strand below.
    const Cell before{std::max(fed->cell.column - 1, 0), fed->cell.row}, below{before.column, fed->cell.row + 1};
    const Cell cell = !port.empty() ? freeCellNear(loom, below) : loom.nodeAt(before) ? fed->cell : before;
    draft.makeRoom(cell);
    Node made = newNode(loom, op, cell);
    if (const auto start = profileStart(op, *fed); !start.empty()) made.settings = Json(start);
    if (id) *id = made.id;
    draft.add(&Loom::nodes, made);
    draft.add(&Loom::links, Link{made.id, "", node, port, Json::object()});
    return finishedWith(draft, made);
}

Edit addNodeAfter(const Loom& loom, const std::string& op, const std::string& after, std::string* id) {
    const Node* before = loom.node(after);
    if (!before) return addNode(loom, op, {0, 0}, id);
    if (before->op == "output") {
        const Link* feed = feedOf(loom, after);
        if (!feed) return addNodeFeeding(loom, op, after, "", id);
        return takesInput(op) ? insertOnLink(loom, op, *feed, id) : addNode(loom, op, {before->cell.column, before->cell.row + 1}, id);
    }
    // Nothing comes behind what waits for something to work on; that is made first.
    if (startsStrands(op) && waitsForInput(loom, *before) && suits(op, *before)) return addNodeFeeding(loom, op, after, "", id);
    // A node that makes something new does not belong behind another: it starts a strand of its own.
    if (!takesInput(op)) return addNode(loom, op, {before->cell.column, before->cell.row + 1}, id);
    Draft draft(loom, fmt::format("Add {}", labelOf(op)));
    const Cell cell{before->cell.column + 1, before->cell.row};
    draft.makeRoom(cell);
    const Node node = newNode(loom, op, cell);
    if (id) *id = node.id;
    draft.add(&Loom::nodes, node);
    for (std::size_t i = 0; i < draft.loom().links.size(); ++i) {
        Link link = draft.loom().links[i];
        if (link.from != after || !link.out.empty()) continue;
        link.from = node.id;
        draft.replace(&Loom::links, i, std::move(link));
    }
    draft.add(&Loom::links, Link{after, "", node.id, "", Json::object()});
    return finishedWith(draft, node);
}

Edit insertOnLink(const Loom& loom, const std::string& op, const Link& link, std::string* id) {
    const Node* from = loom.node(link.from);
    const Node* to = loom.node(link.to);
    if (!from || !to || !takesInput(op)) return addNode(loom, op, from ? from->cell : Cell{}, id);
    Draft draft(loom, fmt::format("Insert {}", labelOf(op)));
    const Cell cell{from->cell.column + 1, from->cell.row};
    draft.makeRoom(cell);
    const Node node = newNode(loom, op, cell);
    if (id) *id = node.id;
    draft.add(&Loom::nodes, node);
    runThrough(draft, node.id, link);
    return finishedWith(draft, node);
}

Edit removeNodes(const Loom& loom, const std::vector<std::string>& nodes) {
    Draft draft(loom, fmt::format("Delete {}", namesOf(loom, nodes)));
    for (const std::string& id : nodes) {
        const Node* node = draft.loom().node(id);
        if (!node) continue;
        const Cell cell = node->cell;
        passOn(draft, id);
        draft.removeLinksIf([&](const Link& link) { return link.to == id || link.from == id; });
        for (std::size_t i = draft.loom().nodes.size(); i-- > 0;)
            if (draft.loom().nodes[i].id == id) draft.remove(&Loom::nodes, i);
        draft.closeUp(cell);
        if (draft.loom().output == id) draft.setOutput("");
    }
    return draft.finish();
}

Edit addLink(const Loom& loom, const Link& link, const Assets& assets) {
    Draft draft(loom, fmt::format("Link {} to {}", nameOf(loom, link.from), nameOf(loom, link.to)));
    const auto port = portOf(loom, assets, link);
    if (!port || !loom.node(link.from) || reaches(loom, link.to, link.from)) return draft.finish();
    for (const Link& old : loom.links)
        if (old.from == link.from && old.out == link.out && samePort(loom, assets, old, link)) return draft.finish();
    if (!port->many) draft.removeLinksIf([&](const Link& old) { return samePort(loom, assets, old, link); });
    draft.add(&Loom::links, link);
    keepReading(draft, {link.from});
    Edit edit = draft.finish();
    return Edit{edit.label, compacted(std::move(edit.changes))};
}

Edit setCut(const Loom& loom, const Link& link, bool cut) {
    Draft draft(loom, fmt::format("{} the thread to {}", cut ? "Cut" : "Join", nameOf(loom, link.to)));
    const auto it = std::find(loom.links.begin(), loom.links.end(), link);
    if (it == loom.links.end()) return draft.finish();
    Link changed = link;
    changed.cut = cut;
    draft.replace(&Loom::links, std::size_t(it - loom.links.begin()), std::move(changed));
    return draft.finish();
}

Edit removeLink(const Loom& loom, const Link& link) {
    Draft draft(loom, fmt::format("Unlink {} from {}", nameOf(loom, link.to), nameOf(loom, link.from)));
    draft.removeLinksIf([&](const Link& old) { return old == link; });
    return draft.finish();
}

}  // namespace seedloom
